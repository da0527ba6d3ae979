"""Fuel against load: litres an hour between two looks at the tank."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

from ..fits import Line, fit_line
from ..quantities import Grade, Value, duration, plain
from ..working import Working
from .context import SessionContext
from .finding import Finding, Topic

LEAST_S, LEAST_L = 600.0, 0.05
"""A shorter stretch, or less fuel, says nothing of an hour's use."""


@dataclass(frozen=True)
class FuelPoint:
    """Litres an hour at a load [W], between two looks at the tank."""

    w: float
    lph: float
    u_lph: float
    seqs: tuple[int, int]


@dataclass(frozen=True)
class FuelSeen:
    """The points, and the line ``a + b·P`` through them where there are two loads or more."""

    points: tuple[FuelPoint, ...]
    line: Line | None
    findings: tuple[Finding, ...]


def fuel(context: SessionContext) -> FuelSeen | None:
    """Litres an hour from the tank's readings, each over the mean of what was read meanwhile; None where no two fit together."""
    looks = [(seq, t_s, r) for seq, t_s, _, r in context.readings("fuel_l")]
    filled = [entry.t_s for entry, _ in context.events("refill")]
    points = []
    for (seq0, t0, first), (seq1, t1, last) in pairwise(looks):
        used = first.value - last.value
        if t1 - t0 < LEAST_S or used < LEAST_L or any(t0 < at <= t1 for at in filled):
            continue
        w = _mean_w(context, t0, t1)
        if w is None:
            continue
        hours = (context.record.ran_s(t1) - context.record.ran_s(t0)) / 3600
        u_l = (context.record.u(first) + context.record.u(last)) / 2
        points.append(FuelPoint(w, used / hours, u_l / hours, (seq0, seq1)))
    if not points:
        return None
    apart = len({round(p.w / 50) for p in points}) >= 2
    line = fit_line([p.w for p in points], [p.lph for p in points]) if apart else None
    return FuelSeen(tuple(points), line, _describe(context, points, line))


def _mean_w(context: SessionContext, t0_s: float, t1_s: float) -> float | None:
    """Mean load between two times, each stretch by its own reading; None where none was read."""
    total = covered = 0.0
    for segment in context.record.segments:
        span = min(t1_s, segment.t1_s) - max(t0_s, segment.t0_s)
        read = segment.total_w(context.system.legs)
        w = 0.0 if read is None and not segment.on else read
        if span > 0 and w is not None:
            total, covered = total + w * span, covered + span
    return total / covered if covered > 0.8 * (t1_s - t0_s) else None


def _describe(context: SessionContext, points: Sequence[FuelPoint], line: Line | None) -> tuple[Finding, ...]:
    seqs = tuple(dict.fromkeys(seq for point in points for seq in point.seqs))
    tank = context.source.claims.tank_l if context.source else None
    most = max(points, key=lambda point: point.w)
    said = ", ".join(f"{plain(p.lph, 'lph')} at {plain(p.w, 'w')}" for p in sorted(points, key=lambda p: p.w))
    hours = (
        f"; a tank of {plain(tank, 'l')} lasts {duration(tank / most.lph * 3600)} at {plain(most.w, 'w')}"
        if tank
        else ""
    )
    workings = [Working("litres an hour = (first look − last look) ÷ hours", said, plain(most.lph, "lph"))]
    if line is not None:
        workings.append(
            Working(
                "use = a + b · load",
                f"{line.n} stretches",
                f"{line.a:.2f} L/h + {line.b * 1000:.2f} L/h for each kW",
                "least squares, Willans line",
            )
        )
    return (
        Finding(
            key="fuel",
            topic=Topic.FUEL,
            title="Fuel",
            sentence=f"It uses {said}{hours}.",
            value=Value(most.lph, "lph", most.u_lph, None, Grade.A),
            workings=tuple(workings),
            seqs=seqs,
            needs="" if line is not None else "the use at another load, to draw the line (Endurance)",
        ),
    )
