"""The rehearsal bench, still to come."""
