"""The calculators."""
