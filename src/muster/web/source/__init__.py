"""Stage 3: the source, its claims and its limits."""
