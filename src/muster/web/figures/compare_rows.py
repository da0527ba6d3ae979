"""A line of the verdict across sources: one scale, each source a letter with its band, what lies to the left is short."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from muster.core.compare import ComparedLine
from muster.core.quantities import signed
from muster.core.verdict.requirement import SHARE, Status

from .scales import Scale, Tick, ticks

WIDTH, LEFT, RIGHT = 360, 14, 346
LANE, TOP, AXIS = 17, 4, 16
MOST_SHARE = 2.0
"""A margin above so many times its demand is drawn at the edge: beyond it nothing is decided."""


@dataclass(frozen=True)
class CompareMark:
    """A source in a row: its letter, where its figure and its band lie, and whether either goes on beyond the drawing."""

    letter: str
    x: float
    y: float
    low_x: float
    high_x: float
    css: str
    goes_on: bool


@dataclass(frozen=True)
class CompareRow:
    """Geometry of one line; no mark for a source without a margin."""

    marks: tuple[CompareMark, ...]
    zero_x: float
    ticks: tuple[Tick, ...]
    height: float
    label: str
    width: int = WIDTH


def letter_of(at: int) -> str:
    """A source's own letter by its place: A to Z, then two."""
    return chr(65 + at % 26) if at < 26 else f"{chr(64 + at // 26)}{chr(65 + at % 26)}"


def draw_compare_row(line: ComparedLine, order: Sequence[int]) -> CompareRow:
    """Lay out a line of several sources on one scale.

    Parameters
    ----------
    line
        Across the sources.
    order
        Which sources are drawn, from the top down, by their places.

    Returns
    -------
    CompareRow
        The zero is where demand and capability meet: to its left a source falls short.
    """
    drawn = [(at, cell.margin, cell.status) for at in order if (cell := line.cells[at]) is not None and cell.margin]
    known = [(at, m, status) for at, m, status in drawn if m.unit == line.unit and math.isfinite(m.value)]
    most = MOST_SHARE if line.unit == SHARE else math.inf
    ends = [min(most, end) for _, m, _ in known for end in (m.value, m.low, m.high) if math.isfinite(end)]
    low, high = min([0.0, *ends]), max([0.0, *ends])
    pad = (high - low) * 0.06 or 1.0
    x = Scale(low - pad, high + pad, LEFT, RIGHT)
    marks = tuple(
        _mark(at, place, m.value, m.low, m.high, status, x, high + pad, low - pad)
        for place, (at, m, status) in enumerate(known)
    )
    height = TOP + LANE * len(marks) + AXIS
    label = "; ".join(f"{letter_of(at)} {_told(m.value, m.unit)}" for at, m, _ in known)
    return CompareRow(
        marks=marks,
        zero_x=x(0.0),
        ticks=ticks(x, 4, 0.01 if line.unit == SHARE else 1.0) if marks else (),
        height=height,
        label=label,
    )


def _told(value: float, unit: str) -> str:
    return signed(value * 100, "pct") if unit == SHARE else signed(value, unit)


def _mark(
    at: int, place: int, value: float, low: float, high: float, status: Status, x: Scale, most: float, least: float
) -> CompareMark:
    return CompareMark(
        letter=letter_of(at),
        x=x(min(most, max(least, value))),
        y=TOP + LANE * place + LANE / 2,
        low_x=x(min(most, max(least, low))),
        high_x=x(min(most, max(least, high))),
        css=status.value.replace("_", "-"),
        goes_on=value > most or high > most,
    )
