"""Stage 9: the verdict."""
