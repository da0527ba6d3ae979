"""Long sessions: when to look in next, and how long it will go on, by what was read so far."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from ..quantities import duration, plain
from ..sources import Claims
from .model import Session
from .places import Place, Stat
from .replay import BenchRecord

"""Protocols that go on for hours or days."""
USUAL_S = 3600.0
"""An hour between two looks, as endurance tests are commonly run."""
LEAST_APART_S = 60.0
"""Two readings closer than this give no slope worth telling."""
FULL_PCT = 100.0


@dataclass(frozen=True)
class Projection:
    """How long it will go on from now by one way of reckoning [s], and what that rests on."""

    left_s: float
    by: str

    @property
    def label(self) -> str:
        """As it is said."""
        return f"{duration(self.left_s)} {self.by}"


def next_due_s(session: Session, record: BenchRecord) -> float | None:
    """When somebody is to look in next [s after the session began]; None where nobody is, or it is paused.

    From the last entry with a reading, else from the beginning, or from when it went on after a pause.
    """
    if not session.checkin_s or record.paused:
        return None
    read = [t_s for segment in record.segments for _, t_s, _ in segment.readings]
    resumed = [to_s for _, to_s in record.pauses if to_s is not None]
    return max([0.0, *read, *resumed]) + session.checkin_s


def charge_read(record: BenchRecord) -> tuple[tuple[float, float], ...]:
    """The charge shown at each look: seconds run, and percent."""
    return tuple(
        (record.ran_s(t_s), reading.value)
        for segment in record.segments
        for _, t_s, reading in segment.readings
        if reading.quantity == "soc_pct" and reading.stat is Stat.STEADY
    )


def energy_read(record: BenchRecord) -> tuple[tuple[float, float], ...]:
    """The energy counted at each look: seconds run, and watt-hours."""
    return tuple(
        (record.ran_s(t_s), reading.value)
        for segment in record.segments
        for _, t_s, reading in segment.readings
        if reading.quantity == "wh" and reading.place is not Place.DC and reading.stat is Stat.STEADY
    )


def projections(
    session: Session, record: BenchRecord, claims: Claims, logged: Iterable[tuple[float, float]] = ()
) -> tuple[Projection, ...]:
    """How long it goes on yet: by the last two looks, by the whole run, and by the energy left of what the nameplate promises.

    ``logged`` are percents of charge that a recorded log shows, with their
    times [s after the session began]; they count beside those typed. An endurance runs down to nothing, a recharge up to full. Straight lines
    through what was read: a display's percent is not energy, so they may
    differ, and their spread is part of the answer.
    """
    to_pct = FULL_PCT if session.protocol == "recharge" else 0.0
    shown = tuple(sorted([*charge_read(record), *((record.ran_s(t_s), pct) for t_s, pct in logged)]))
    projections_found = []
    for (t0, first), (t1, last), by in _stretches(shown):
        rate = (last - first) / (t1 - t0)
        if rate * (to_pct - last) > 0:
            projections_found.append(Projection((to_pct - last) / rate, f"by the charge shown, {by}"))
    if session.protocol == "endurance" and claims.battery_wh:
        projections_found += _by_energy(record, claims.battery_wh * (claims.usable_pct or 100.0) / 100)
    return tuple(projections_found)


def _stretches(read: tuple[tuple[float, float], ...]) -> list[tuple[tuple[float, float], tuple[float, float], str]]:
    """The last two looks and the whole run; one of them where there are but two."""
    if len(read) < 2 or read[-1][0] - read[0][0] < LEAST_APART_S:
        return []
    whole = (read[0], read[-1], "over the whole run")
    before = next((item for item in reversed(read[:-1]) if read[-1][0] - item[0] >= LEAST_APART_S), read[0])
    return [whole] if before == read[0] else [(before, read[-1], "since the last look"), whole]


def _by_energy(record: BenchRecord, usable_wh: float) -> list[Projection]:
    read = energy_read(record)
    if len(read) < 2 or read[-1][0] - read[0][0] < LEAST_APART_S:
        return []
    (t0, first), (t1, last) = read[0], read[-1]
    per_s, left_wh = (last - first) / (t1 - t0), usable_wh - (last - first)
    if per_s <= 0 or left_wh <= 0:
        return []
    return [Projection(left_wh / per_s, f"by the energy counted, of {plain(usable_wh, 'wh')} usable on the nameplate")]
