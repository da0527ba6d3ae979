"""The tally: each requirement's margin as a bar either side of a zero line."""

from __future__ import annotations

import math
from dataclasses import dataclass

from muster.core.verdict.requirement import SHARE, Requirement, Status

WIDTH, HEIGHT = 220, 26
ZERO = 84
RIGHT, LEFT = 208, 6
BAR_TOP, BAR = 4, 18
OPEN_WIDTH = 58
FULL = {SHARE: 1.0, "v": 25.0, "hz": 3.0, "dba": 15.0, "pt": 5.0, "s": 3600.0}
"""A margin that fills the bar, by unit; bars of one unit share this scale."""
LEAST = 5.0
TOOTH = 5.0


@dataclass(frozen=True)
class TallyBar:
    """A row's bar: its outline, how it is filled (``css``), and where its figure goes."""

    path: str
    css: str
    gap: str
    figure_x: float
    figure: str
    anchor: str


@dataclass(frozen=True)
class TallyRow:
    """A requirement with its bar."""

    requirement: Requirement
    bar: TallyBar


def _length(row: Requirement) -> float:
    if row.margin is None or not math.isfinite(row.margin.value):
        return OPEN_WIDTH
    share = min(1.0, abs(row.margin.value) / FULL.get(row.margin.unit, 1.0))
    room = RIGHT - 50 - ZERO if row.margin.value >= 0 else ZERO - LEFT
    return max(LEAST, round(share * room, 1))


def draw_bar(row: Requirement) -> TallyBar:
    """The bar of one requirement. What it says does not rest on colour.

    carries: solid, flat cap; with rules: a notch at its end; tight: hatched;
    falls short: broken short of the line; not proven: dotted outline, empty;
    not asked: a dash.
    """
    y0, y1, middle = BAR_TOP, BAR_TOP + BAR, BAR_TOP + BAR / 2
    figure = str(row.passed or "")
    if row.margin is not None and math.isfinite(row.margin.value):
        figure = str(row.margin)
    css = row.status.value.replace("_", "-")
    if row.status is Status.NOT_REQUIRED:
        return TallyBar(
            path=f"M{ZERO - 7} {middle}H{ZERO + 7}", css=css, gap="", figure_x=ZERO + 14, figure="", anchor="start"
        )
    length = _length(row)
    if row.status is Status.FALLS_SHORT:
        return _short(length, figure, css)
    short = row.margin is not None and row.margin.value < 0
    end = ZERO - length if short else ZERO + length
    if row.status is Status.WITH_RULES:
        path = f"M{ZERO} {y0}H{end}L{end - 7} {middle}L{end} {y1}H{ZERO}Z"
    else:
        path = f"M{ZERO} {y0}H{end}V{y1}H{ZERO}Z"
    return TallyBar(path=path, css=css, gap="", figure_x=(ZERO if short else end) + 8, figure=figure, anchor="start")


def _short(length: float, figure: str, css: str) -> TallyBar:
    """A solid bar to the left, its end torn before it reaches the line."""
    start, end = max(LEFT, ZERO - length - 14), ZERO - 14
    if end - start < 8:
        start = end - 8
    y0, step = BAR_TOP, BAR / 4
    teeth = "".join(f"L{end - TOOTH if i % 2 else end} {y0 + step * i}" for i in range(1, 5))
    path = f"M{start} {y0}H{end}{teeth}H{start}Z"
    gap = "M" + "L".join(f"{end + 8 - (TOOTH if i % 2 else 0)} {y0 + step * i}" for i in range(5))
    return TallyBar(
        path=path, css=css, gap=f"{gap}H{ZERO}V{y0}H{end + 8}", figure_x=ZERO + 8, figure=figure, anchor="start"
    )


def draw_tally(rows: tuple[Requirement, ...]) -> tuple[TallyRow, ...]:
    """Each requirement with its bar."""
    return tuple(TallyRow(row, draw_bar(row)) for row in rows)
