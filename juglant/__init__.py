"""Juglant: build the low end of a track by measurement."""

import os

__version__ = "0.1.0"

# Sums and products here are short: threads for linear algebra gain nothing, and while they wait for
# work they spin, which takes a second core from whoever else renders. Read when numpy is loaded.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
