"""Hits: sources, chains and layers become one sound, and what is said about them."""
