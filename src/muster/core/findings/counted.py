"""The energy of a run as it was counted, or as the watts that were read come to over its time."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

from ..quantities import duration, number, plain
from ..sessions import Place, Stat
from ..working import Method, Working, rows_of
from .context import SessionContext

FROM_ZERO_X, FROM_ZERO_WH = 1.6, 20.0
"""A first count up to so many times what the load made since the run began, and so much more, began at 0 there."""
BEGAN_S = 60.0
"""A count so soon after the run began is the one it began with."""
TAIL_SHARE = 0.2
"""What is not known of the power between the last look and the end, as a share of it."""


@dataclass(frozen=True)
class EnergyCount:
    """Energy given until each look [Wh], beginning with 0 where the run began; ``u_wh`` of the whole, and its working."""

    points: tuple[tuple[int, float, float], ...]
    u_wh: float
    working: Working
    no_counter: bool = False

    @property
    def wh(self) -> float:
        """Energy of the whole run. [Wh]"""
        return self.points[-1][2] - self.points[0][2]


def count_energy(context: SessionContext, end_s: float) -> EnergyCount | None:
    """The energy of a session's run: by the counter, else watts × time.

    Parameters
    ----------
    context
        The session with its record.
    end_s : float
        When the run ended. [s]

    Returns
    -------
    EnergyCount or None
        None where neither a count nor two looks at the watts tell of it.

    References
    ----------
    physics §6, *Energy as it is counted and shown*: the zero of a plug-in counter is where the run began, unless an
    earlier reading of it says otherwise, or what was drawn since cannot have made its first count.
    """
    typed, u_wh = _typed(context)
    watts = [
        (seq, t_s, r.value)
        for seq, t_s, _, r in context.readings("w")
        if r.stat is Stat.STEADY and r.place in (Place.LEG1, Place.TOTAL)
    ]
    if not typed:
        return _without_counter(context, watts, end_s)
    began_s = min([typed[0][1], *(t_s for _, t_s, _, r in context.readings("soc_pct", "w"))])
    first_s, first_wh = typed[0][1], typed[0][2]
    expected_wh = _expected_wh(typed, [w for _, t_s, w in watts if t_s <= first_s], first_s - began_s)
    from_zero = first_s - began_s > BEGAN_S and (
        expected_wh is None or first_wh <= FROM_ZERO_X * expected_wh + FROM_ZERO_WH
    )
    if from_zero:
        made = "" if expected_wh is None else f"; the load read makes it about {plain(expected_wh, 'wh')}"
        working = Working(
            "delivered = the last count − 0 where the run began",
            f"{number(typed[-1][2], 'wh')} − 0",
            plain(typed[-1][2], "wh"),
            "a plug-in counter is taken to stand at 0 where the run began; "
            f"first counted {plain(first_wh, 'wh')} after {duration(first_s - began_s)}{made}",
        )
        return EnergyCount(((0, began_s, 0.0), *typed), u_wh, working)
    if len(typed) < 2:
        return _without_counter(context, watts, end_s)
    working = Working(
        "delivered = the last count − the first",
        f"{plain(typed[-1][2], 'wh')} − {plain(first_wh, 'wh')}",
        plain(typed[-1][2] - first_wh, "wh"),
        "what stood on the counter before the run is left out",
    )
    return EnergyCount(tuple(typed), u_wh, working)


def _typed(context: SessionContext) -> tuple[list[tuple[int, float, float]], float]:
    read = [
        (seq, t_s, r) for seq, t_s, _, r in context.readings("wh") if r.place is not Place.DC and r.stat is Stat.STEADY
    ]
    u_wh = max((context.record.u(r) for _, _, r in read), default=0.0)
    # A count that runs backwards was misread, or begun again: the check says which; it is not used.
    kept: list[tuple[int, float, float]] = []
    for seq, t_s, r in read:
        if seq in context.waiting:
            continue
        if not kept or r.value >= kept[-1][2]:
            kept.append((seq, t_s, r.value))
    return kept, u_wh


def _expected_wh(typed: Sequence[tuple[int, float, float]], watts: Sequence[float], span_s: float) -> float | None:
    """What the load can have made before the first count: by the watts read until then, else at the rate of the counts after it."""
    if watts:
        return sum(watts) / len(watts) * span_s / 3600
    (_, t0_s, first), (_, t1_s, last) = typed[0], typed[-1]
    return (last - first) / (t1_s - t0_s) * span_s if t1_s > t0_s and last > first else None


def _without_counter(
    context: SessionContext, watts: Sequence[tuple[int, float, float]], end_s: float
) -> EnergyCount | None:
    """Watts × time between looks, each gap with the band between its neighbours; the last stands until the end."""
    if not watts or (len(watts) < 2 and end_s <= watts[0][1]):
        return None
    points = [(watts[0][0], watts[0][1], 0.0)]
    u_wh = 0.0
    stretches: list[tuple[float, float]] = []
    for (_, t0_s, w0), (seq, t1_s, w1) in pairwise(watts):
        hours = (context.record.ran_s(t1_s) - context.record.ran_s(t0_s)) / 3600
        points.append((seq, t1_s, points[-1][2] + (w0 + w1) / 2 * hours))
        u_wh += abs(w1 - w0) / 2 * hours
        stretches.append((hours, (w0 + w1) / 2))
    seq, t_s, w = watts[-1]
    tail_h = max(0.0, (context.record.ran_s(end_s) - context.record.ran_s(t_s)) / 3600)
    if tail_h > 0:
        points.append((seq, end_s, points[-1][2] + w * tail_h))
        u_wh += TAIL_SHARE * w * tail_h
        stretches.append((tail_h, w))
    wh = points[-1][2]
    u_wh += wh * max(context.record.kit.u("w", "", value) / value for _, _, value in watts if value > 0) if wh else 0.0
    working = Working(
        "delivered = the sum of watts × time between looks",
        f"{len(watts)} looks at the watts, {duration(points[-1][1] - points[0][1])}",
        plain(wh, "wh"),
        "no counter was read; what the load did between two looks is in the half-width",
        rows_of(Method.SUM_OF_PRODUCTS, ("h", "W on average"), stretches),
    )
    return EnergyCount(tuple(points), u_wh, working, no_counter=True)
