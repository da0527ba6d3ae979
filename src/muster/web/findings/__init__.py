"""Stage 7: the findings."""
