"""What electronics ride through: the tolerance envelope of information technology equipment."""

from __future__ import annotations

from enum import StrEnum


class VoltEventKind(StrEnum):
    """What volts may do outside their steady band (IEC 61000-4-30)."""

    DIP = "dip"
    RISE = "rise"
    INTERRUPTION = "interruption"


STEADY_PCT = 10.0
"""Either side of nominal, for ever."""
DIPS = ((0.02, 0.0), (0.5, 70.0), (10.0, 80.0))
"""Dips that are stood: up to s seconds, not below pct of nominal."""
RISES = ((0.001, 200.0), (0.003, 140.0), (0.5, 120.0))
"""Rises that are stood: up to s seconds, not above pct of nominal."""


def dip_floor_pct(event_s: float) -> float:
    """Lowest share of nominal that electronics stand for a dip of this length, percent.

    References
    ----------
    ITIC (CBEMA) curve, 2000.
    """
    return next((pct for seconds, pct in DIPS if event_s <= seconds), 100 - STEADY_PCT)


def rise_ceiling_pct(event_s: float) -> float:
    """Highest share of nominal that electronics stand for a rise of this length, percent.

    References
    ----------
    ITIC (CBEMA) curve, 2000.
    """
    return next((pct for seconds, pct in RISES if event_s <= seconds), 100 + STEADY_PCT)


def rides_through(residual_pct: float, event_s: float) -> bool:
    """Whether an event of this extreme and length lies within the envelope."""
    return dip_floor_pct(event_s) <= residual_pct <= rise_ceiling_pct(event_s)
