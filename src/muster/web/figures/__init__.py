"""Drawings: pure functions from data to geometry; the templates draw."""
