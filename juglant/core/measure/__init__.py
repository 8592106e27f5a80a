"""Samples become numbers, as defined once for the whole product."""
