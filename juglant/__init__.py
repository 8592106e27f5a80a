"""Juglant: build the low end of a track by measurement."""

__version__ = "0.1.0"
