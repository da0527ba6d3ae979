"""Workings that several lines of a verdict show."""

from __future__ import annotations

from ..quantities import number, plain
from ..working import Working


def margin_working(demand: float, capability: float, unit: str = "w") -> Working:
    """A margin as a share of its demand, with the figures in it."""
    return Working(
        "margin = (capability − demand) ÷ demand",
        f"({number(capability, unit)} − {number(demand, unit)}) ÷ {number(demand, unit)}",
        plain((capability - demand) / demand * 100 if demand else 0.0, "pct"),
    )
