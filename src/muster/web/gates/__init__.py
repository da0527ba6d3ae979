"""Stage 5: the gates, still to come."""
