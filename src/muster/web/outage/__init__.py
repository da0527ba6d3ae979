"""Stage 8: the day."""
