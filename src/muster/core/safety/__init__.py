"""The checks before a protocol."""
