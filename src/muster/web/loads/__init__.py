"""Stage 2: the loads."""
