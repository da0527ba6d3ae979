"""Errors of the core as sentences on a page."""

from __future__ import annotations

from muster.core.errors import MusterError


def error_sentence(error: MusterError) -> str:
    """What is wrong, where, and what would be right, as one sentence."""
    place = f"{error.where}: " if error.where and error.where[0].isalpha() and " " in error.where else ""
    text = f"{place}{error.what}{f': {error.want}' if error.want else ''}."
    return text[0].upper() + text[1:]
