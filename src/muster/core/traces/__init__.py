"""Recorded logs: sampled channels on one time axis, and what can be read off them."""

from __future__ import annotations

from .facts import TraceFacts, read_off
from .trace import Channel, Trace, channel_named

__all__ = ["Channel", "Trace", "TraceFacts", "channel_named", "read_off"]
