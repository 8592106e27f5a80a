"""The invented scenario: an EP that nobody recorded."""
