"""Benchmarks against general-purpose peers; `make bench` prints them as ratios."""
