"""Stage 5: the safety checks."""
