"""Stage 6: the bench."""
