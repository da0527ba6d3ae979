"""Stage 10: sources side by side."""
