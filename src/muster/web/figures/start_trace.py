"""The start trace: volts and amps around one start, with before, lowest, settled and recovery marked."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from muster.core.quantities import THIN, plain
from muster.core.timeline.captures import CapturedStart
from muster.core.timeline.traces.trace import Floats
from muster.core.trade.ride_through import DIPS

from .scales import Scale, Tick, ticks

WIDTH, HEIGHT = 380, 150
LEFT, RIGHT, TOP, MIDDLE, BOTTOM = 44, 374, 10, 78, 132
GAP = 12
MOST_POINTS = 600
ENVELOPE = tuple((begin, end, pct) for (begin, _), (end, pct) in pairwise(DIPS))
"""The lower edge of what equipment rides through: from, to [s], percent of nominal."""


@dataclass(frozen=True)
class TraceMark:
    """A figure read off: where it stands, and what it says."""

    x: float
    y: float
    label: str
    anchor: str


@dataclass(frozen=True)
class StartTrace:
    """Geometry of a start trace: volts above, amps below, on one time axis counted from the start."""

    width: int
    height: int
    left: int
    right: int
    volts: str
    amps: str
    envelope: str
    at_x: float
    back_x: float | None
    nominal_y: float
    v_ticks: tuple[Tick, ...]
    a_ticks: tuple[Tick, ...]
    t_ticks: tuple[Tick, ...]
    marks: tuple[TraceMark, ...]
    top: int
    middle: int
    bottom: int


def draw_start_trace(seen: CapturedStart, nominal_v: float) -> StartTrace:
    """Lay out a start; time runs from the moment the amps stepped up."""
    t = seen.t_s - seen.at_s
    x = Scale(float(t[0]), float(t[-1]), LEFT, RIGHT)
    low_v = min(seen.lowest_v, 0.8 * nominal_v) - 0.02 * nominal_v
    y_v = Scale(low_v, max(float(seen.v.max()), nominal_v) + 0.02 * nominal_v, MIDDLE, TOP)
    y_a = Scale(0, max(seen.highest_a * 1.08, 1.0), BOTTOM, MIDDLE + GAP)
    begun = int(np.argmax(seen.t_s >= seen.at_s))
    lowest_at, highest_at = begun + int(np.argmin(seen.v[begun:])), begun + int(np.argmax(seen.a[begun:]))
    return StartTrace(
        width=WIDTH,
        height=HEIGHT,
        left=LEFT,
        right=RIGHT,
        volts=_line(t, seen.v, x, y_v),
        amps=_line(t, seen.a, x, y_a),
        envelope=_envelope(nominal_v, x, y_v),
        at_x=x(0),
        back_x=x(seen.back_s) if seen.back_s else None,
        nominal_y=y_v(nominal_v),
        v_ticks=ticks(y_v, 4),
        a_ticks=ticks(y_a, 3),
        t_ticks=ticks(x, 5),
        marks=(
            TraceMark(
                x(float(t[lowest_at])), y_v(seen.lowest_v), plain(seen.lowest_v, "v"), _side(x(float(t[lowest_at])))
            ),
            TraceMark(
                x(float(t[highest_at])), y_a(seen.highest_a), plain(seen.highest_a, "a"), _side(x(float(t[highest_at])))
            ),
        ),
        top=TOP,
        middle=MIDDLE,
        bottom=BOTTOM,
    )


def _side(x: float) -> str:
    """A mark's words stand to its right while there is room."""
    return "start" if x < RIGHT - 80 else "end"


def _line(t: Floats, values: Floats, x: Scale, y: Scale) -> str:
    step = max(1, t.size // MOST_POINTS)
    points = zip(t[::step].tolist(), values[::step].tolist(), strict=True)
    return "M" + "L".join(f"{x(at)} {y(value)}" for at, value in points)


def _envelope(nominal_v: float, x: Scale, y: Scale) -> str:
    """The area below what equipment rides through, within the drawing."""
    parts = []
    for from_s, to_s, pct in ENVELOPE:
        left, right = max(from_s, x.low), min(to_s, x.high)
        if right > left and pct / 100 * nominal_v > y.low:
            parts.append(f"M{x(left)} {y(pct / 100 * nominal_v)}H{x(right)}V{y.start}H{x(left)}Z")
    return "".join(parts)


def describe(seen: CapturedStart) -> str:
    """A start in a sentence: the drawing's text twin."""
    least = "at most " if seen.bound else ""
    said = f"Lowest {least}{plain(seen.lowest_v, 'v')} of {plain(seen.before_v, 'v')}, {round(seen.dip_pct, 1):g}{THIN}% down; highest {plain(seen.highest_a, 'a')}"
    if seen.inrush_x is not None:
        said += f", {round(seen.inrush_x, 1):g}{THIN}× what it settled to"
    if seen.back_s is None:
        return f"{said}; not back."
    back = f"back after {plain(round(seen.back_s, 2), 's')}" if seen.back_s else "never out of its band"
    return f"{said}; settled at {plain(seen.settled_v, 'v')}, {back}."
