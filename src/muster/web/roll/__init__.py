"""Stage 2: the roll call of loads."""
