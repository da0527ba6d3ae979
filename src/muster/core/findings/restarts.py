"""A motor started cold against started hot, and eased against straight on: what it makes of dip and amps."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from ..loads import short_name
from ..quantities import Grade, Value, plain
from ..working import Working
from .finding import Finding, Topic
from .starts import StartSeen

LIKE_BASE_W = 150.0
"""Starts on bases this near to each other can be held against each other."""
SAME_PT = 1.0
"""Dips within a point of each other are alike."""


@dataclass(frozen=True)
class Restart:
    """A load's starts in two ways on like bases: the mean dip of each, percent of what stood before.

    ``way`` is ``hot`` (against cold) or ``eased`` (against straight on).
    """

    load: str
    way: str
    plain_pct: float
    other_pct: float
    finding: Finding


def restarts(starts: Sequence[StartSeen]) -> tuple[Restart, ...]:
    """Each load that was started cold and hot, or straight on and eased, on a like base, with the volts before and lowest read."""
    restarts_found = []
    for key in dict.fromkeys(start.run.load for start in starts):
        seen = [s for s in starts if s.run.load == key and _dip(s) is not None]
        straight = [s for s in seen if not s.run.eased]
        for way, plainly, other in (
            ("hot", [s for s in straight if not s.run.hot], [s for s in straight if s.run.hot]),
            ("eased", straight, [s for s in seen if s.run.eased]),
        ):
            alike = [s for s in plainly if any(abs(s.base_w - o.base_w) <= LIKE_BASE_W for o in other)]
            if alike and other:
                restarts_found.append(_describe(key, way, alike, other))
    return tuple(restarts_found)


def _dip(start: StartSeen) -> float | None:
    if start.lowest is None or not start.before_v:
        return None
    return (start.before_v - start.lowest.value) / start.before_v * 100


def _mean(starts: Sequence[StartSeen]) -> float:
    dips = [dip for start in starts if (dip := _dip(start)) is not None]
    return sum(dips) / len(dips)


def _said(name: str, way: str, plain_pct: float, other_pct: float, failed: int, count: int) -> str:
    against = "cold" if way == "hot" else "straight on"
    if failed:
        return f"Started {way} the {name} does not come up every time: {failed} of {count} failed."
    if abs(plain_pct - other_pct) <= SAME_PT:
        return f"{way.capitalize()} or {against} the {name} starts alike: a dip of about {plain((plain_pct + other_pct) / 2, 'pct')}."
    deeper = "deeper" if other_pct > plain_pct else "less"
    return f"Started {way} the {name} dips {deeper}: {plain(other_pct, 'pct')} against {plain(plain_pct, 'pct')} {against}."


def _describe(key: str, way: str, plainly: Sequence[StartSeen], other: Sequence[StartSeen]) -> Restart:
    item, two = _mean(plainly), _mean(other)
    name, against = short_name(plainly[0].load), "cold" if way == "hot" else "straight on"
    failed = sum(s.outcome.failed for s in other)
    working = Working(
        f"mean dip {way} − mean dip {against}, on like bases",
        f"{two:.2f} − {item:.2f}",
        f"{two - item:.2f} points, of {len(other)} against {len(plainly)}",
    )
    bounded = any(s.lowest is not None and s.lowest.bound for s in (*plainly, *other))
    finding = Finding(
        key=f"restart-{way}-{key}",
        topic=Topic.STARTS,
        title=f"The {name}, {way} against {against}",
        sentence=_said(name, way, item, two, failed, len(other)),
        value=Value(two - item, "pt", None, None, Grade.B if bounded else Grade.A),
        workings=(working,),
        seqs=tuple(s.run.seq for s in (*plainly, *other)),
    )
    return Restart(key, way, item, two, finding)
