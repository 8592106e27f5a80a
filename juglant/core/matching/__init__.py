"""A sound taken apart and made again: analysis by synthesis."""
