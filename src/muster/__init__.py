"""Muster: planning, measuring and judging backup power for a home."""

__version__ = "0.1.0"
