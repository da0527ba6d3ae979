"""Long sessions: when to look in next, and how long it will go on, by what was read so far."""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from ..loads import Load
from ..quantities import duration, number, plain
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
    """How long it will go on by one way of reckoning [s], how far that may be out, and what it rests on.

    ``from_s`` is the look that it counts from [s after the session began]; ``put_in`` how it was reached, in seconds.
    """

    left_s: float
    by: str
    u_s: float = 0.0
    from_s: float = 0.0
    put_in: str = ""

    @property
    def label(self) -> str:
        """What is said of it."""
        return f"{duration(self.left_s)} {self.by}"

    @property
    def until_s(self) -> tuple[float, float, float]:
        """When it ends: most likely, at the earliest and at the latest. [s after the session began]"""
        likely = self.from_s + self.left_s
        return likely, max(self.from_s, likely - self.u_s), likely + self.u_s


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


def energy_read(record: BenchRecord, waiting: frozenset[int] = frozenset()) -> tuple[tuple[float, float], ...]:
    """The energy counted at each look: seconds run, and watt-hours; entries that wait to be confirmed left out."""
    return tuple(
        (record.ran_s(t_s), reading.value)
        for segment in record.segments
        for seq, t_s, reading in segment.readings
        if seq not in waiting
        and reading.quantity == "wh"
        and reading.place is not Place.DC
        and reading.stat is Stat.STEADY
    )


def fuel_read(record: BenchRecord) -> tuple[tuple[float, float], ...]:
    """The fuel in the tank at each look: seconds run, and litres."""
    return tuple(
        (record.ran_s(t_s), reading.value)
        for segment in record.segments
        for _, t_s, reading in segment.readings
        if reading.quantity == "fuel_l"
    )


PCT_U, FUEL_U_L = 0.5, 0.1
"""Half of what a gauge or a measuring jug shows last: percent, litres."""
USABLE_U, LOAD_U = 0.2, 0.1
"""How far a nameplate's usable energy, and a planned load, may be out: a share (docs/method/verdict.md)."""


def projections(
    session: Session,
    record: BenchRecord,
    claims: Claims,
    logged: Iterable[tuple[float, float]] = (),
    loads: Mapping[str, Load] | None = None,
    waiting: frozenset[int] = frozenset(),
) -> tuple[Projection, ...]:
    """How long it goes on yet, by every way there is: by the last two looks, by the whole run, by the energy, by the loads on.

    Parameters
    ----------
    session, record
        The session and its record.
    claims
        What the nameplate says of energy and idle draw.
    logged
        Percents of charge that a recorded log shows, with their times [s after the session began]; they count beside those typed.
    loads
        Of the home, by key, for what those that are on come to by their duty.
    waiting
        Entries flagged as misread that nobody confirmed.

    Returns
    -------
    tuple of Projection
        An endurance runs down to nothing, a recharge up to full. Straight lines through what was read: a display's
        percent is not energy, so they may differ, and their spread is part of the answer.

    References
    ----------
    physics §6: the last slope, the slope of the whole run, and a model, each as until-when with a band.
    """
    to_pct = FULL_PCT if session.protocol == "recharge" else 0.0
    shown = tuple(sorted([*charge_read(record), *((record.ran_s(t_s), pct) for t_s, pct in logged)]))
    ways = _slopes(record, shown, to_pct, PCT_U, "by the charge shown")
    if session.protocol == "endurance":
        ways += _slopes(record, fuel_read(record), 0.0, FUEL_U_L, "by the fuel")
    if session.protocol == "endurance" and claims.battery_wh:
        usable_wh = claims.battery_wh * (claims.usable_pct or 100.0) / 100
        ways += _by_energy(record, usable_wh, waiting) + _by_loads(
            record, usable_wh, claims.idle_w or 0.0, shown, loads or {}
        )
    return tuple(ways)


def _slopes(
    record: BenchRecord, read: tuple[tuple[float, float], ...], to: float, u: float, by: str
) -> list[Projection]:
    """Straight on to an end by the last two looks and by the whole run; ``u`` is how far one look may be out."""
    ways = []
    for (t0, first), (t1, last), over in _stretches(read):
        rate = (last - first) / (t1 - t0)
        if rate * (to - last) > 0:
            left_s = (to - last) / rate
            u_s = left_s * math.hypot(math.sqrt(2) * u / abs(last - first), u / abs(to - last))
            put_in = f"({number(to)} − {number(last)}) ÷ ({number(last)} − {number(first)}) × {t1 - t0:.0f}"
            ways.append(Projection(left_s, f"{by}, {over}", u_s, _look_s(record, t1), put_in))
    return ways


def _look_s(record: BenchRecord, ran_s: float) -> float:
    """When a look was, pauses counted in. [s after the session began]"""
    paused = 0.0
    for from_s, to_s in record.pauses:
        if to_s is not None and from_s - paused < ran_s:
            paused += to_s - from_s
    return ran_s + paused


def _stretches(read: tuple[tuple[float, float], ...]) -> list[tuple[tuple[float, float], tuple[float, float], str]]:
    """The last two looks and the whole run; one of them where there are but two."""
    if len(read) < 2 or read[-1][0] - read[0][0] < LEAST_APART_S:
        return []
    whole = (read[0], read[-1], "over the whole run")
    before = next((item for item in reversed(read[:-1]) if read[-1][0] - item[0] >= LEAST_APART_S), read[0])
    return [whole] if before == read[0] else [(before, read[-1], "since the last look"), whole]


def _by_energy(record: BenchRecord, usable_wh: float, waiting: frozenset[int]) -> list[Projection]:
    read = energy_read(record, waiting)
    if len(read) < 2 or read[-1][0] - read[0][0] < LEAST_APART_S:
        return []
    (t0, first), (t1, last) = read[0], read[-1]
    per_s, left_wh = (last - first) / (t1 - t0), usable_wh - (last - first)
    if per_s <= 0 or left_wh <= 0:
        return []
    by = f"by the energy counted, of {plain(usable_wh, 'wh')} usable on the nameplate"
    given = number(last - first)
    put_in = f"({number(usable_wh)} − {given}) ÷ {given} × {t1 - t0:.0f}"
    return [Projection(left_wh / per_s, by, USABLE_U * usable_wh / per_s, _look_s(record, t1), put_in)]


def _by_loads(
    record: BenchRecord,
    usable_wh: float,
    idle_w: float,
    shown: tuple[tuple[float, float], ...],
    loads: Mapping[str, Load],
) -> list[Projection]:
    """What is left by the gauge over what the loads that are on come to by their duty, else over the watts last read."""
    if not shown:
        return []
    on = [loads[key] for key in record.on if key in loads]
    read = record.latest.get(("w", Place.TOTAL)) or record.latest.get(("w", Place.LEG1))
    w = sum(load.run_w * load.duty.share for load in on) if on else read.value if read is not None else 0.0
    t1, pct = shown[-1]
    if w <= 0 or pct <= 0:
        return []
    left_s = usable_wh * pct / 100 / (w + idle_w) * 3600
    by = f"by the {plain(w, 'w')} {'that the loads on come to' if on else 'last read'}, of what the gauge leaves"
    put_in = f"{number(usable_wh)} × {number(pct)} ÷ 100 ÷ ({number(w)} + {number(idle_w)}) × 3600"
    return [Projection(left_s, by, left_s * math.hypot(USABLE_U, LOAD_U), _look_s(record, t1), put_in)]
