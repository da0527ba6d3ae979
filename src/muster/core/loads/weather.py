"""Duty on another day than the one it was seen on."""

from __future__ import annotations

from dataclasses import replace

from ..trade.heat import LEAST_K, duty_at
from .load import Load

LEAST_SHARE = 0.001
"""Below this share a thermostatic load does not call at all."""
DAY_MIN = 24.0 * 60


COLD_STORE_C = 10.0
"""What is kept at this or colder is a cold store, and works against the room that it stands in (physics §1)."""


def in_weather(load: Load, outside_c: float, room_c: float | None = None) -> Load | None:
    """The load as it runs with ``outside_c`` outdoors; None if it would not call at all.

    A cold store goes by ``room_c``, where that is known, whatever the weather.

    On-times stay and the pauses change, until it runs throughout:
    ``duty₂ = min(1, duty₁ · ΔT₂ / ΔT₁)``. A load with no weather set, no
    rhythm, or one seen at hardly any difference, is as it was.

    References
    ----------
    Heat flow in proportion to the difference of temperature; docs/method/loads.md#duty-and-weather.
    """
    if load.weather is None or not load.duty.cycles or abs(load.weather.kept_c - load.weather.seen_c) < LEAST_K:
        return load
    around_c = room_c if room_c is not None and load.weather.kept_c <= COLD_STORE_C else outside_c
    share = duty_at(load.duty.share, load.weather.kept_c, load.weather.seen_c, around_c)
    if share < LEAST_SHARE:
        return None
    off_min = load.duty.on_min * (1 / share - 1)
    if off_min > DAY_MIN:
        return None
    return replace(load, duty=replace(load.duty, off_min=off_min))
