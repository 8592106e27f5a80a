"""The job itself: numpy in, numpy out. No files, no web, no database, no clock."""

# Part of every render's hash: raise it when the same recipe gives other samples.
ENGINE_VERSION = 5
# The rate at which everything is rendered and mixed.
RATE = 48_000
