"""Whole records in the manner of the trade, typed from an empty folder."""
