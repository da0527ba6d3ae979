"""Stage 10: comparing sources, still to come."""
