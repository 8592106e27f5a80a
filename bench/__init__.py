"""Benchmarks against general-purpose peers, printed as ratios; nothing here fails a build."""
