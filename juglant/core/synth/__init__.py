"""A recipe becomes samples; one file per kind of hit."""
