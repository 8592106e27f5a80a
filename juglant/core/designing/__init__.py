"""A sound designed for the one it has to share the low end with."""
