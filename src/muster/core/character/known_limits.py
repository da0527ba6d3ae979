"""What limits a source: its nameplate and its wiring, with what it held and where it tripped; and what it was seen to start."""

from __future__ import annotations

import math
from collections.abc import Iterable

from ..findings.holds import Held, best_held, lowest_trip
from ..findings.starts import StartSeen
from ..findings.trips import by_leg
from ..quantities import Grade, duration, plain
from ..sessions import Place
from ..sessions.replay import Outcome
from ..sources.limits import Limit, limits_of
from ..supply import Leg
from .given import Given
from .set_since import SetSince

RECKONED = "held_here"
"""The key of what was held, as it would be under conditions that are kinder than those of the test."""


def known_limits(given: Given, since: SetSince | None = None) -> tuple[Limit, ...]:
    """Every limit that is known, whole and per leg, under the conditions of the brief.

    Parameters
    ----------
    given
        The source and what its sessions found.
    since
        Which sessions were before a service; worked out where it is not given.

    Returns
    -------
    tuple of Limit
        The nameplate's and the wiring's, then what was held (grade B: no limit to what it can do; beside it
        what that would be under kinder conditions, grade C) and where it tripped (grade A).
    """
    since = since or SetSince(given.sessions)
    holds = [
        (dated, held)
        for index, (dated, own) in enumerate(zip(given.sessions, given.holds, strict=True))
        for held in own
        if not since.is_outdated(index, "held_w")
    ]
    measured: list[Limit] = []
    named = limits_of(given.source, given.system, given.site)
    for place in (Place.TOTAL,) if given.system.legs == 1 else (Place.TOTAL, Place.LEG1, Place.LEG2):
        leg = None if place is Place.TOTAL else Leg(place.value)
        here = tuple(
            held
            for dated, held in holds
            if leg is not None or not held.tripped or not by_leg(dated.findings.trips, held)
        )
        held, trip = best_held(here, place), lowest_trip(here, place)
        if held is not None:
            basis = f"for {duration(held.held_s)}"
            measured.append(_measured("held", "held", held, leg, basis))
            measured += _reckoned(held, leg, named, trip)
        if trip is not None:
            basis = f"after {duration(trip.held_s)}" if trip.held_s else "measured"
            measured.append(_measured("trip", "tripped", trip, leg, basis))
    return (*named, *measured)


def _reckoned(held: Held, leg: Leg | None, named: Iterable[Limit], trip: Held | None) -> list[Limit]:
    """What was held as it would be under the brief's kinder conditions, grade C: never past nameplate, wiring or a trip (physics §10)."""
    if held.here_w is None:
        return []
    lasting = [limit.w for limit in named if limit.hold_s is None and limit.leg in (leg, None)]
    w = min([held.here_w, *lasting, *([trip.w] if trip else [])])
    if w <= held.w:
        return []
    basis = f"reckoned from {plain(held.w, 'w')} under harder conditions"
    return [
        Limit(key=RECKONED, name="held, reckoned", w=w, leg=leg, basis=basis, grade=Grade.C, finding=held.finding.key)
    ]


def _measured(key: str, name: str, held: Held, leg: Leg | None, basis: str) -> Limit:
    return Limit(
        key=key,
        name=name,
        w=held.w,
        leg=leg,
        basis=basis,
        grade=Grade.A if key == "trip" else Grade.B,
        seen_s=held.held_s,
        finding=held.finding.key,
    )


def started_on(starts: Iterable[StartSeen]) -> dict[str, float]:
    """On how much each load was seen to start, by its key: the most that held, below any on which it failed. [W]"""
    held, failed = _bases(starts)
    below = {key: [w for w in bases if w < failed.get(key, math.inf)] for key, bases in held.items()}
    return {key: max(bases) for key, bases in below.items() if bases}


def failed_on(starts: Iterable[StartSeen]) -> dict[str, float]:
    """On how little each load was seen not to start, by its key: it stalled, or took the source down. [W]"""
    return _bases(starts)[1]


def _bases(starts: Iterable[StartSeen]) -> tuple[dict[str, list[float]], dict[str, float]]:
    """What ran beneath each load's starts, bare and alone: of those that held all, of those that failed the least. [W]"""
    held: dict[str, list[float]] = {}
    failed: dict[str, float] = {}
    for seen in starts:
        key = seen.load.key
        if seen.run.together or seen.run.eased:
            continue
        if seen.outcome is Outcome.HELD:
            held.setdefault(key, []).append(seen.base_w)
        elif seen.outcome.failed:
            failed[key] = min(seen.base_w, failed.get(key, math.inf))
    return held, failed
