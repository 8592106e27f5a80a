"""What holds for all tests."""

from hypothesis import settings

# The same examples every time, and no failure for being slow on a busy machine.
settings.register_profile("juglant", derandomize=True, deadline=None)
settings.load_profile("juglant")
