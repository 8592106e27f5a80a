"""Samples become samples."""
