"""What limits a source: its nameplate and its wiring, with what it held and where it tripped; and what it was seen to start."""

from __future__ import annotations

import math
from collections.abc import Iterable

from ..findings.holds import Held, best_held, lowest_trip
from ..findings.starts import StartSeen
from ..findings.trips import by_leg
from ..quantities import Grade, duration
from ..sessions import Place
from ..sessions.replay import Outcome
from ..sources.limits import Limit, limits_of
from ..supply import Leg
from .given import Given
from .set_since import SetSince


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
        The nameplate's and the wiring's, then what was held (grade B: no limit to what it can do) and
        where it tripped (grade A).
    """
    since = since or SetSince(given.sessions)
    holds = [
        (dated, held)
        for index, (dated, own) in enumerate(zip(given.sessions, given.holds, strict=True))
        for held in own
        if not since.is_outdated(index, "held_w")
    ]
    measured = []
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
        if trip is not None:
            basis = f"after {duration(trip.held_s)}" if trip.held_s else "measured"
            measured.append(_measured("trip", "tripped", trip, leg, basis))
    return (*limits_of(given.source, given.system, given.site), *measured)


def _measured(key: str, name: str, held: Held, leg: Leg | None, basis: str) -> Limit:
    return Limit(
        key=key,
        name=name,
        w=held.w,
        leg=leg,
        basis=basis,
        grade=Grade.A if held.tripped else Grade.B,
        seen_s=held.held_s,
        finding=held.finding.key,
    )


def started_on(starts: Iterable[StartSeen]) -> dict[str, float]:
    """On how much each load was seen to start, by its key: the most that held, below any on which it failed. [W]"""
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
    below = {key: [w for w in bases if w < failed.get(key, math.inf)] for key, bases in held.items()}
    return {key: max(bases) for key, bases in below.items() if bases}
