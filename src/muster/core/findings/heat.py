"""How warm it gets: the end temperature of each spot, and whether the test was long enough to know it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from ..errors import NotEnoughReadings
from ..quantities import Grade, Value, duration, plain
from ..sessions import Place
from ..timeline.power import highest_for
from ..trade.rise import Rise, fit_rise
from ..working import Method, Working, rows_of
from .context import SessionContext
from .finding import Finding, Topic
from .holds_told import COUNTS_AS_HELD_S

LEAST_RISE_K = 2.0
"""Less is no warming."""


@dataclass(frozen=True)
class HeatSeen:
    """A spot's temperatures under one load (``w`` [W], None where not read), and the rise fitted through them."""

    spot: str
    w: float | None
    points: tuple[tuple[float, float], ...]
    rise: Rise
    finding: Finding


def heats(context: SessionContext) -> tuple[HeatSeen, ...]:
    """Each spot that was read four times or more under one load, typed or logged."""
    heat_seens = []
    for spot, w, seqs, points, u_k, log in [*_typed(context), *_logged(context)]:
        try:
            rise = fit_rise([t for t, _ in points], [c for _, c in points], u_k)
        except NotEnoughReadings:
            continue
        if rise.rise_k > LEAST_RISE_K:
            heat_seens.append(_describe(spot, w, seqs, points, rise, log))
    return tuple(heat_seens)


Series = tuple[str, float | None, tuple[int, ...], tuple[tuple[float, float], ...], float, str]


def _typed(context: SessionContext) -> list[Series]:
    groups: dict[tuple[str, tuple[str, ...]], list[tuple[int, float, float, float]]] = {}
    watts: dict[tuple[str, ...], float | None] = {}
    for seq, t_s, segment, reading in context.readings("temp_c"):
        key = (reading.spot, segment.on)
        groups.setdefault(key, []).append((seq, t_s, reading.value, context.record.u(reading)))
        watts[segment.on] = segment.total_w(context.system.legs) or watts.get(segment.on)
    return [
        (
            spot,
            watts[on],
            tuple(seq for seq, *_ in read),
            tuple((t, c) for _, t, c, _ in read),
            max(u for *_, u in read),
            "",
        )
        for (spot, on), read in groups.items()
        if on
    ]


def _logged(context: SessionContext) -> list[Series]:
    serieses: list[Series] = []
    for log in context.logs:
        points = log.warmth
        level = highest_for(log.power.get(Place.TOTAL, ()), COUNTS_AS_HELD_S)
        if level is not None:
            points = tuple((t, c) for t, c in points if level.t0_s <= t <= level.t1_s)
        if points:
            w = level.w if level else None
            u_k = context.record.kit.u("temp_c", log.instrument, points[-1][1])
            serieses.append(("", w, (), points, u_k, log.name))
    return serieses


def _describe(
    spot: str, w: float | None, seqs: Sequence[int], points: tuple[tuple[float, float], ...], rise: Rise, log: str
) -> HeatSeen:
    what = spot.capitalize() if spot else "It"
    under = "" if w is None else f" under {plain(w, 'w')}"
    settled = rise.long_enough
    ends = "settles" if settled else "is on its way to"
    sentence = f"{what} {ends}{' at' if settled else ''} about {plain(round(rise.end_c), 'c')}{under}"
    sentence += (
        f"; watched for {duration(rise.seen_s)}, time constant {duration(rise.tau_s)}."
        if settled
        else f", give or take {plain(rise.u_end_k, 'k')}: watched for {duration(rise.seen_s)}, which is too short to be sure."
    )
    working = Working(
        "T = start + rise · (1 − e^(−t ÷ τ))",
        f"{plain(rise.start_c, 'c')} + {plain(rise.rise_k, 'k')}",
        f"{plain(rise.end_c, 'c')} in the end",
        f"first-order heating, τ {duration(rise.tau_s)} by {len(points)} readings; long enough is three time constants",
        rows_of(Method.RISE, ("min", "°C"), ((t_s / 60, c) for t_s, c in points)),
    )
    finding = Finding(
        key=f"heat-{spot or 'case'}-{round(points[0][0])}",
        topic=Topic.HEAT,
        title=f"Heat{', ' + spot if spot else ''}",
        sentence=sentence,
        value=Value(rise.end_c, "c", rise.u_end_k, None, Grade.A if settled else Grade.B),
        workings=(working,),
        seqs=tuple(seqs),
        needs="" if settled else f"a hold of {duration(3 * rise.tau_s)} or more (Endurance)",
        span=(points[0][0], points[-1][0]) if log else None,
        log=log,
    )
    return HeatSeen(spot, w, points, rise, finding)
