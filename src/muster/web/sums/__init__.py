"""The sums of the trade, still to come."""
