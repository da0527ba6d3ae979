"""How people jot, and what they mean."""
