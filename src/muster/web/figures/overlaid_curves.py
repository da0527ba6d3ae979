"""Curves of several sources over one another on one pair of axes, straight or by tenfolds: each its letter and its own stroke."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass

from .scales import Scale, Tick, spread, ticks

WIDTH, HEIGHT = 560, 300
LEFT, RIGHT, TOP, BOTTOM = 58, 520, 14, 256
LABEL_GAP = 13.0
STROKES = ("", "7 3", "2 3", "9 3 2 3", "12 4", "4 2 1 2")
"""Each source has a stroke of its own beside its letter."""
Point = tuple[float, float]


@dataclass(frozen=True)
class SourceCurve:
    """What is drawn of a source: its letter, its curve, and what was read; all in the axes' own units."""

    letter: str
    points: tuple[Point, ...]
    read: tuple[Point, ...] = ()


@dataclass(frozen=True)
class Axis:
    """An axis: its label, whether it goes by tenfolds, and the places at which it is marked with their words.

    ``shown`` says a value of it in words. Without ``marks`` it is marked evenly, by its values over ``divide``.
    ``window`` are values between which all should lie.
    """

    label: str
    shown: Callable[[float], str]
    by_tenfold: bool = False
    marks: tuple[tuple[float, str], ...] = ()
    divide: float = 1.0
    window: tuple[float, ...] = ()


@dataclass(frozen=True)
class DrawnCurve:
    """Geometry of one curve."""

    letter: str
    path: str
    points: tuple[Point, ...]
    stroke: str
    label_x: float
    label_y: float


@dataclass(frozen=True)
class OverlaidCurves:
    """Geometry of the drawing."""

    lines: tuple[DrawnCurve, ...]
    x_ticks: tuple[Tick, ...]
    y_ticks: tuple[Tick, ...]
    x_label: str
    y_label: str
    window: tuple[float, ...] = ()
    """How high the window of the upright axis lies."""
    twin: tuple[tuple[str, str], ...] = ()
    """Each letter with what was read, for a reader."""
    width: int = WIDTH
    height: int = HEIGHT
    left: int = LEFT
    right: int = RIGHT
    top: int = TOP
    bottom: int = BOTTOM


def draw_curves(curves: Sequence[SourceCurve], x_axis: Axis, y_axis: Axis) -> OverlaidCurves | None:
    """Lay curves of several sources over one another.

    Parameters
    ----------
    curves
        Of two sources or more; a curve of one point is a reading alone.
    x_axis, y_axis
        How they are marked.

    Returns
    -------
    OverlaidCurves or None
        None where fewer than two sources have anything.
    """
    drawn = [curve for curve in curves if curve.points or curve.read]
    if len(drawn) < 2:
        return None
    every = [point for curve in drawn for point in (*curve.points, *curve.read)]
    x = _scale([*(p[0] for p in every), *x_axis.window], x_axis, LEFT, RIGHT)
    y = _scale([*(p[1] for p in every), *y_axis.window], y_axis, BOTTOM, TOP)

    def place(point: Point) -> Point:
        return x(_on(point[0], x_axis)), y(_on(point[1], y_axis))

    ends = [place((curve.points or curve.read)[-1]) for curve in drawn]
    label_ys = spread([end[1] for end in ends], LABEL_GAP, TOP)
    return OverlaidCurves(
        lines=tuple(
            DrawnCurve(
                letter=curve.letter,
                path="M" + "L".join(f"{px:.1f} {py:.1f}" for px, py in map(place, curve.points))
                if curve.points
                else "",
                points=tuple(map(place, curve.read)),
                stroke=STROKES[at % len(STROKES)],
                label_x=min(ends[at][0] + 7, RIGHT + 8),
                label_y=label_ys[at],
            )
            for at, curve in enumerate(drawn)
        ),
        x_ticks=_ticks(x, x_axis),
        y_ticks=_ticks(y, y_axis),
        x_label=x_axis.label,
        y_label=y_axis.label,
        window=tuple(y(_on(value, y_axis)) for value in y_axis.window),
        twin=tuple(
            (
                curve.letter,
                "; ".join(f"{x_axis.shown(px)}: {y_axis.shown(py)}" for px, py in curve.read or curve.points),
            )
            for curve in drawn
        ),
    )


def _on(value: float, axis: Axis) -> float:
    return math.log10(value) if axis.by_tenfold else value


def _scale(values: Sequence[float], axis: Axis, low_at: float, high_at: float) -> Scale:
    placed = [_on(value, axis) for value in values]
    pad = (max(placed) - min(placed)) * 0.06 or 0.5
    return Scale(min(placed) - pad, max(placed) + pad, low_at, high_at)


def _ticks(scale: Scale, axis: Axis) -> tuple[Tick, ...]:
    if not axis.marks:
        return ticks(scale, 6, axis.divide)
    placed = [(_on(value, axis), text) for value, text in axis.marks]
    return tuple(Tick(scale(at), text) for at, text in placed if scale.low <= at <= scale.high)
