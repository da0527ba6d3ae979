"""Stage 1: whose home, what must it carry, for how long."""
