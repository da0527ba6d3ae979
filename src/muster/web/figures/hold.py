"""The hold curve: seconds against watts, both in logs; points, curve with its band, claims as crosses."""

from __future__ import annotations

import math
from dataclasses import dataclass

from muster.core.character.hold_curve import HoldCurve
from muster.core.quantities import duration, plain

from .scales import Scale, Tick

WIDTH, HEIGHT = 440, 270
LEFT, RIGHT, TOP, BOTTOM = 60, 428, 14, 226
STEPS = 40
SECONDS = (0.1, 0.3, 1, 3, 10, 30, 100, 300, 1000, 3600)


@dataclass(frozen=True)
class Dot:
    """A level: where, whether it tripped, and in words."""

    x: float
    y: float
    tripped: bool
    label: str


@dataclass(frozen=True)
class HoldFigure:
    """Geometry of a hold curve."""

    width: int
    height: int
    left: int
    right: int
    top: int
    bottom: int
    between: str
    outside: tuple[str, ...]
    band: str
    dots: tuple[Dot, ...]
    claim: tuple[float, float] | None
    held_x: float
    x_ticks: tuple[Tick, ...]
    y_ticks: tuple[Tick, ...]
    rows: tuple[tuple[str, str, str], ...]


def draw_hold(curve: HoldCurve, claim_w: float | None = None, claim_s: float | None = None) -> HoldFigure:
    """Lay out a hold curve: drawn between the points that tripped, dashed outside them."""
    top_x = max(curve.high_x * 1.15, (claim_w or 0) / curve.held_w * 1.05, 1.35)
    x = Scale(math.log(1.0), math.log(top_x), LEFT, RIGHT)
    times = [curve.hold_s(curve.held_w * s) for s in (curve.low_x, top_x)] + [p.held_s for p in curve.points]
    low = min([t for t in times if t > 0] + [claim_s or 1e9]) / 2
    high = max([t for t in times if math.isfinite(t)] + [60.0]) * 3
    y = Scale(math.log(low), math.log(high), BOTTOM, TOP)

    def point(share: float, seconds: float) -> str:
        return f"{x(math.log(share))} {y(math.log(min(max(seconds, low), high)))}"

    def line(first: float, last: float) -> str:
        shares = [first + (last - first) * i / STEPS for i in range(STEPS + 1)]
        return "M" + "L".join(point(s, curve.hold_s(curve.held_w * s)) for s in shares)

    start = 1 + (curve.low_x - 1) * 0.35
    upper = [start + (top_x - start) * i / STEPS for i in range(STEPS + 1)]
    bands = [(s, curve.band_s(curve.held_w * s)) for s in upper]
    band = "M" + "L".join([point(s, b[1]) for s, b in bands] + [point(s, b[0]) for s, b in reversed(bands)]) + "Z"
    dots = tuple(
        Dot(
            x(math.log(p.w / curve.held_w)),
            y(math.log(max(p.held_s, low))),
            p.tripped,
            f"{plain(p.w, 'w')}: {'tripped after' if p.tripped else 'still held after'} {duration(p.held_s)}",
        )
        for p in curve.points
    )
    apart = curve.high_x > curve.low_x * 1.003
    claim = (
        (x(math.log(claim_w / curve.held_w)), y(math.log(claim_s)))
        if claim_w and claim_s and claim_w > curve.held_w
        else None
    )
    step = 0.05 if top_x < 1.3 else 0.1 if top_x < 1.8 else 0.25
    marks = [1 + step * i for i in range(int((top_x - 1) / step) + 1)]
    every = max(1, round(len(marks) / 6))
    return HoldFigure(
        width=WIDTH,
        height=HEIGHT,
        left=LEFT,
        right=RIGHT,
        top=TOP,
        bottom=BOTTOM,
        between=line(curve.low_x, curve.high_x) if apart else "",
        outside=(line(start, curve.low_x), line(curve.high_x, top_x)),
        band=band,
        dots=dots,
        claim=claim,
        held_x=x(0.0),
        x_ticks=tuple(Tick(x(math.log(m)), f"{m * curve.held_w / 1000:.2f}") for m in marks[::every]),
        y_ticks=tuple(Tick(y(math.log(s)), duration(s)) for s in SECONDS if low <= s <= high),
        rows=tuple(
            (plain(p.w, "w"), "tripped" if p.tripped else "held", duration(p.held_s))
            for p in sorted(curve.points, key=lambda p: p.w)
        ),
    )
