"""The shelf of planning figures."""
