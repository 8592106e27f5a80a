"""Tests of the core, the files, the store, the server and the screen."""

# Before numpy: what is tested runs as it does in the application.
import juglant  # noqa: F401
