"""A track against records that work: what is different, and what would bring it nearer."""
