"""What fits together, in which order to start, and what one more load would do."""
