"""The set-point: the droop line as it is and as it would be, nominal, window, and the loads that matter."""

from __future__ import annotations

from dataclasses import dataclass

from muster.core.advice.set_point import Advice, Droop, OutageLoads
from muster.core.quantities import plain
from muster.core.trade.motors import WINDOW_PCT

from .scales import Scale, Tick, ticks

WIDTH, HEIGHT = 640, 300
LEFT, RIGHT, TOP, BOTTOM = 56, 628, 16, 250


@dataclass(frozen=True)
class At:
    """A load that matters, on the moved line."""

    x: float
    y: float
    label: str
    label_x: float
    label_y: float
    anchor: str


@dataclass(frozen=True)
class SetPointFigure:
    """Geometry of the set-point drawing."""

    width: int
    height: int
    left: int
    right: int
    top: int
    bottom: int
    now: tuple[float, float, float, float]
    moved: tuple[float, float, float, float]
    nominal_y: float
    window_y: float
    window_height: float
    day_x: float
    day_width: float
    x_ticks: tuple[Tick, ...]
    y_ticks: tuple[Tick, ...]
    marks: tuple[At, ...]


def draw_setpoint(droop: Droop, moved: Advice, loads: OutageLoads) -> SetPointFigure:
    """Lay out both lines over the home's day."""
    hz, full = droop.nominal_hz, loads.full_w
    line = droop.set_to(moved.no_load_hz)
    low, high = (hz * (1 + sign * WINDOW_PCT / 100) for sign in (-1, 1))
    ends = [droop.at(0), droop.at(full), line.at(0), line.at(full), low, high]
    pad = 0.01 * hz
    x, y = Scale(0, full * 1.05, LEFT, RIGHT), Scale(min(ends) - pad, max(ends) + pad, BOTTOM, TOP)

    def drawn(droop: Droop) -> tuple[float, float, float, float]:
        return x(0), y(droop.at(0)), x(full), y(droop.at(full))

    marks = tuple(
        At(
            x=x(w),
            y=y(line.at(w)),
            label=f"{words} {plain(line.at(w), 'hz')}",
            label_x=x(w) + 6 - 12 * last,
            label_y=y(line.at(w)) - 8,
            anchor="end" if last else "start",
        )
        for words, w, last in (("no load", 0.0, False), ("most used", loads.used_w, False), ("full", full, True))
    )
    return SetPointFigure(
        width=WIDTH,
        height=HEIGHT,
        left=LEFT,
        right=RIGHT,
        top=TOP,
        bottom=BOTTOM,
        now=drawn(droop),
        moved=drawn(line),
        nominal_y=y(hz),
        window_y=y(high),
        window_height=round(y(low) - y(high), 1),
        day_x=x(loads.low_w),
        day_width=round(x(loads.high_w) - x(loads.low_w), 1),
        x_ticks=ticks(x, 6, 1000),
        y_ticks=ticks(y, 5),
        marks=marks,
    )
