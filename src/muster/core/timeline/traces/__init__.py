"""Recorded logs: sampled channels on one time axis.

What can be read off them stands in ``features``, which is imported by whoever reads.
"""

from __future__ import annotations

from .trace import Channel, Trace, channel_named

__all__ = ["Channel", "Trace", "channel_named"]
