"""Heat delivered to water, and duty with the weather."""

from __future__ import annotations

from ..errors import OutOfRange, require_above, require_between

WATER_J_PER_KG_K = 4186.0
"""Specific heat of water about 25 °C."""


def heating_w(litres: float, from_c: float, to_c: float, seconds: float) -> float:
    """Power that went into water [W]: ``m · c · ΔT / t``, a litre weighing a kilogram.

    Raises
    ------
    OutOfRange
        If volume or time is not above zero, or the water did not get warmer.
    """
    require_above(litres, 0, "litres")
    require_above(seconds, 0, "seconds")
    if to_c <= from_c:
        raise OutOfRange(f"got {from_c:g} to {to_c:g}", where="to_c", want="warmer than it was")
    require_between(to_c, -1, 95, "to_c")
    return litres * WATER_J_PER_KG_K * (to_c - from_c) / seconds


LEAST_K = 5.0
"""Seen at a smaller difference a duty says nothing of another day (physics §1). [K]"""


def duty_at(duty: float, inside_c: float, seen_at_c: float, wanted_at_c: float) -> float:
    """Duty on another day: ``min(1, duty · ΔT₂ / ΔT₁)``, the difference inside to outside.

    0 where the other day is on the comfortable side.

    Raises
    ------
    OutOfRange
        If the duty is not 0 to 1, or was seen at a difference of less than ``LEAST_K``.
    """
    require_between(duty, 0, 1, "duty")
    first, second = seen_at_c - inside_c, wanted_at_c - inside_c
    if abs(first) < LEAST_K:
        raise OutOfRange("inside and outside were alike", where="seen_at_c", want=f"a day {LEAST_K:g} K apart or more")
    return min(1.0, max(0.0, duty * second / first))
