"""A motor started cold against started hot, and eased against straight on: what it makes of dip and amps."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from ..loads import short_name
from ..quantities import Grade, Value, number, plain
from ..working import Working
from .finding import Finding
from .starts import StartSeen

LIKE_BASE_W = 150.0
"""Starts on bases this near to each other can be held against each other."""
SAME_PT = 1.0
"""Dips within a point of each other are alike."""


@dataclass(frozen=True)
class Restart:
    """A load's starts cold and hot on like bases: the mean dip of each, percent of what stood before."""

    load: str
    cold_pct: float
    hot_pct: float
    finding: Finding


def restarts(starts: Sequence[StartSeen]) -> tuple[Restart, ...]:
    """Each load that was started both cold and hot on a like base, with the volts before and lowest read."""
    found = []
    for key in dict.fromkeys(start.run.load for start in starts):
        seen = [s for s in starts if s.run.load == key and _dip(s) is not None]
        hot = [s for s in seen if s.run.hot]
        cold = [s for s in seen if not s.run.hot and any(abs(s.base_w - h.base_w) <= LIKE_BASE_W for h in hot)]
        if hot and cold:
            found.append(_tell(key, cold, hot))
    return tuple(found)


def _dip(start: StartSeen) -> float | None:
    if start.lowest is None or not start.before_v:
        return None
    return (start.before_v - start.lowest.value) / start.before_v * 100


def _mean(starts: Sequence[StartSeen]) -> float:
    dips = [dip for start in starts if (dip := _dip(start)) is not None]
    return sum(dips) / len(dips)


def _tell(key: str, cold: Sequence[StartSeen], hot: Sequence[StartSeen]) -> Restart:
    one, other = _mean(cold), _mean(hot)
    name = short_name(cold[0].load)
    stalled = [s for s in hot if s.outcome in ("stalled", "tripped")]
    if stalled:
        said = f"Started hot the {name} does not come up every time: {len(stalled)} of {len(hot)} failed."
    elif abs(one - other) <= SAME_PT:
        said = f"Hot or cold the {name} starts alike: a dip of about {plain((one + other) / 2, 'pct')}."
    else:
        said = f"Started hot the {name} dips {'deeper' if other > one else 'less'}: {plain(other, 'pct')} against {plain(one, 'pct')} cold."
    working = Working(
        "mean dip hot − mean dip cold, on like bases", f"{number(other)} % of {len(hot)} − {number(one)} % of {len(cold)}",
        f"{number(other - one)} points",
    )  # fmt: skip
    bounded = any(s.lowest is not None and s.lowest.bound for s in (*cold, *hot))
    finding = Finding(
        f"restart-{key}", "starts", f"The {name}, hot against cold", said, Value(other - one, "pt", None, None, Grade.B if bounded else Grade.A),
        (working,), tuple(s.run.seq for s in (*cold, *hot)),
    )  # fmt: skip
    return Restart(key, one, other, finding)
