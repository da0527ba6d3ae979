"""How well an outage was foreseen: what was predicted of it beside what happened."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from ..findings.lived import OutageLived
from ..outage.played import HourBand, OutagePlayed
from ..quantities import duration, number, plain

INSIDE_WANTED = 0.8
"""A band from one in ten to nine in ten holds eight of ten figures."""
NEAR_S = 60.0
"""Times are written down by the minute."""
NEAR_L, NEAR_PCT = 0.1, 1.0
"""Fuel is read to a tenth of a litre, charge to a percent."""


@dataclass(frozen=True)
class Foreseen:
    """One figure: what it is, its band as predicted, what happened, and whether it lay in the band; None where that cannot be said."""

    label: str
    predicted: str
    happened: str
    inside: bool | None
    remark: str = ""


def foresight(seen: OutageLived, played: OutagePlayed) -> tuple[Foreseen, ...]:
    """What was predicted of a real outage beside what happened.

    Parameters
    ----------
    seen
        As it was written down.
    played
        As it is played on what was known of the source before it, for as long, from the same hour.

    Returns
    -------
    tuple of Foreseen
        Bands hold eight of ten outages. The lowest volts are shown and not counted: what was read misses what lay
        between two readings.
    """
    rows = [
        _row("without power", played.without_h, seen.without_s / 3600, NEAR_S / 3600, lambda h: duration(h * 3600)),
        _row("times tripped", played.trips, float(seen.trips), 0.0, number),
    ]
    if played.fuel_l:
        rows.append(_row("fuel burnt", played.burnt_l, seen.burnt_l, NEAR_L, lambda litres: plain(litres, "l")))
    if played.charge_wh and played.charge_wh[0].p50 > 0:
        full = played.charge_wh[0].p50
        left = HourBand(*(100 * wh / full for wh in _ends(played.charge_wh[-1])))
        started_full = seen.from_pct is not None and seen.from_pct >= 100 - 5 * NEAR_PCT
        remark = "" if seen.from_pct is None or started_full else f"it began at {plain(seen.from_pct, 'pct')}, not full"
        row = _row("charge left", left, seen.left_pct, NEAR_PCT, lambda pct: plain(pct, "pct"))
        rows.append(row if started_full else _uncounted(row, remark))
    lowest = _row("lowest volts", played.lowest_v, seen.lowest_v, 0.0, lambda volts: plain(volts, "v"))
    rows.append(_uncounted(lowest, "as read; what lies between two readings is missed"))
    return tuple(rows)


def _ends(band: HourBand) -> tuple[float, float, float]:
    return band.p10, band.p50, band.p90


def _row(label: str, band: HourBand, value: float | None, near: float, told: Callable[[float], str]) -> Foreseen:
    """A figure within a band, by so much as it is read to."""
    low, high = told(band.p10), told(band.p90)
    return Foreseen(
        label=label,
        predicted=low if low == high else f"{low} to {high}",
        happened="not written down" if value is None else told(value),
        inside=None if value is None else band.p10 - near <= value <= band.p90 + near,
    )


def _uncounted(row: Foreseen, remark: str) -> Foreseen:
    return Foreseen(label=row.label, predicted=row.predicted, happened=row.happened, inside=None, remark=remark)


def told_over_all(rows: Sequence[Foreseen], outages: int) -> str:
    """How well Muster foresaw, over all that was written down, in a sentence; empty where nothing can be counted."""
    counted = [row for row in rows if row.inside is not None]
    if not counted:
        return ""
    inside = sum(1 for row in counted if row.inside)
    of = f"{outages} outages" if outages > 1 else "one outage"
    said = f"Of {len(counted)} figures of {of}, {inside} lay within what was predicted"
    return f"{said}; eight of ten should." if len(counted) > 1 else f"{said}."
