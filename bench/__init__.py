"""Benchmarks against general-purpose peers, printed as ratios; nothing here fails a build."""

# Before numpy: what is measured runs as it does in the application.
import juglant  # noqa: F401
