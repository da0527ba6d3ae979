"""Recorded logs as CSV files of any kind: looked at, mapped, read in chunks; and written as our own."""

from __future__ import annotations

from .layout import Layout, look_at
from .mapping import Column, Mapping, TimeForm, guess_mapping
from .reading import Chunk, read_chunks

__all__ = ["Chunk", "Column", "Layout", "Mapping", "TimeForm", "guess_mapping", "look_at", "read_chunks"]
