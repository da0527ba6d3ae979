"""One night told, as a strip: what ran when in lanes, what it drew, what was left, and where something happened."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from muster.core.brief import Brief
from muster.core.outage.layout import Happening
from muster.core.outage.nights import Night, OutageEvent, clock, in_short
from muster.core.quantities import plain

from .scales import Scale, Tick, ticks

WIDTH, LEFT, RIGHT = 900, 150, 890
TOP, LANE, LANE_BAR = 26, 18, 10
WATTS_HIGH, LEFT_HIGH, GAP = 90, 60, 30
HOURS_HIGH = 26
LEAST_BAR = 1.5
"""A run is drawn at least so wide, that it is seen. [px]"""
NEAR = 15.0
"""Marks nearer to one another than this stand in two rows. [px]"""
MOST_MARKS = 24
POWERLESS = (
    Happening.TRIP,
    Happening.TRIP_AT_START,
    Happening.BREAKER,
    Happening.EMPTY,
    Happening.CUT_OFF,
    Happening.DRY,
    Happening.REFUEL,
)
"""From each of these on there is no power, until it is back."""


@dataclass(frozen=True)
class RunBar:
    """A stretch of a lane."""

    x: float
    width: float


@dataclass(frozen=True)
class LoadLane:
    """A load and when it ran."""

    name: str
    y: float
    bars: tuple[RunBar, ...]


@dataclass(frozen=True)
class EventMark:
    """A numbered mark: its number is that of its sentence."""

    x: float
    y: float
    number: int
    grave: bool


@dataclass(frozen=True)
class NightStrip:
    """Geometry of one night; ``left_path`` is empty where there is neither battery nor tank, ``dead`` are the stretches without power."""

    width: int
    height: float
    left: int
    right: int
    lanes: tuple[LoadLane, ...]
    lanes_bottom: float
    watts_path: str
    watts_bottom: float
    watts_ticks: tuple[Tick, ...]
    left_path: str
    left_label: str
    left_y: float
    dead: tuple[RunBar, ...]
    marks: tuple[EventMark, ...]
    hours: tuple[Tick, ...]
    rows: tuple[tuple[str, ...], ...]


def draw_night(night: Night, brief: Brief) -> NightStrip:
    """Lay out one night.

    Parameters
    ----------
    night
        What happened, ran, was drawn and left.
    brief
        How long the outage is and when it begins.

    Returns
    -------
    NightStrip
        Paths in the units of the drawing, and the rows of its text twin, an hour each.
    """
    horizon_s = brief.outage_h * 3600
    x = Scale(0, horizon_s, LEFT, RIGHT)
    lanes = tuple(
        LoadLane(name, TOP + LANE * i, tuple(_bar(first, last, x) for first, last in spans))
        for i, (name, spans) in enumerate(night.runs)
    )
    lanes_bottom = TOP + LANE * len(lanes) + 4
    watts_bottom = lanes_bottom + GAP + WATTS_HIGH
    y = Scale(0, max([1.0, *night.watts]) * 1.06, watts_bottom, watts_bottom - WATTS_HIGH)
    left_bottom = watts_bottom + (GAP + LEFT_HIGH if night.left else 0)
    left_y = Scale(0, max([1e-9, *night.left]) * 1.06, left_bottom, left_bottom - LEFT_HIGH)
    most = max(night.left, default=0.0)
    return NightStrip(
        width=WIDTH,
        height=left_bottom + HOURS_HIGH,
        left=LEFT,
        right=RIGHT,
        lanes=lanes,
        lanes_bottom=lanes_bottom,
        watts_path=_steps(night.watts, night.step_s, horizon_s, x, y),
        watts_bottom=watts_bottom,
        watts_ticks=ticks(y, 3, 1000),
        left_path=_steps(night.left, night.step_s, horizon_s, x, left_y) if night.left else "",
        left_label=f"left, {plain(most, night.left_unit)} at most" if night.left else "",
        left_y=left_bottom,
        dead=_dead(night.events, horizon_s, x),
        marks=_marks(in_short(night.events), x),
        hours=_hours(brief, x),
        rows=_rows(night, brief),
    )


def _bar(first: float, last: float, x: Scale) -> RunBar:
    return RunBar(x(first), max(LEAST_BAR, round(x(last) - x(first), 1)))


def _steps(values: Sequence[float], step_s: float, horizon_s: float, x: Scale, y: Scale) -> str:
    """A path of level steps."""
    points = [
        f"{x(i * step_s)} {y(value)}L{x(min((i + 1) * step_s, horizon_s))} {y(value)}" for i, value in enumerate(values)
    ]
    return "M" + "L".join(points) if points else ""


def _dead(events: Sequence[OutageEvent], horizon_s: float, x: Scale) -> tuple[RunBar, ...]:
    """When there was no power: from what took it to its return, else to the end."""
    spans, since = [], -1.0
    for event in events:
        if event.kind in POWERLESS and since < 0:
            since = event.at_s
        elif event.kind is Happening.BACK and since >= 0:
            spans.append((since, event.at_s))
            since = -1.0
    if since >= 0:
        spans.append((since, horizon_s))
    return tuple(_bar(first, last, x) for first, last in spans)


def _marks(events: Sequence[OutageEvent], x: Scale) -> tuple[EventMark, ...]:
    marks: list[EventMark] = []
    for i, event in enumerate(events[:MOST_MARKS]):
        at = x(event.at_s)
        near = marks and at - marks[-1].x < NEAR
        row = 1 if near and marks[-1].y < 10 else 0
        marks.append(EventMark(at, 8.0 + 10.0 * row - 3.0, i + 1, event.kind in POWERLESS))
    return tuple(marks)


def _hours(brief: Brief, x: Scale) -> tuple[Tick, ...]:
    count = int(brief.outage_h)
    every = 1 if count <= 24 else 3 if count <= 48 else 6 if count <= 120 else 24
    return tuple(Tick(x(i * 3600), f"{(brief.outage_from_hour + i) % 24:02d}") for i in range(0, count + 1, every))


def _rows(night: Night, brief: Brief) -> tuple[tuple[str, ...], ...]:
    """The text twin: each hour with its highest watts, what is left at its end, and what ran in it."""
    steps = max(1, round(3600 / night.step_s))
    rows = []
    for first in range(0, len(night.watts), steps):
        begin_s, end_s = first * night.step_s, (first + steps) * night.step_s
        ran = [name for name, spans in night.runs if any(a < end_s and b > begin_s for a, b in spans)]
        left = night.left[min(first + steps, len(night.left)) - 1] if night.left else None
        rows.append(
            (
                clock(begin_s, brief.outage_from_hour),
                plain(max(night.watts[first : first + steps]), "w"),
                "–" if left is None else plain(left, night.left_unit),
                ", ".join(ran) or "nothing",
            )
        )
    return tuple(rows)
