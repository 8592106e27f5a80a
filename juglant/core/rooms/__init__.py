"""Stand-ins for the places a low end is heard in, and what they do to it."""
