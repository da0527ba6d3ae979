"""Stage 4: the plan."""
