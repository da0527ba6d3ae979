"""Recorded logs as CSV files of any kind: looked at, mapped, read in chunks; and written as our own."""
