"""Straight lines of several sources over one another: volts against load, each with its letter and its own stroke."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from muster.core.findings.lines import LoadLine
from muster.core.quantities import plain

from .scales import Scale, Tick, spread, ticks

WIDTH, HEIGHT = 560, 300
LEFT, RIGHT, TOP, BOTTOM = 54, 520, 14, 256
STROKES = ("", "7 3", "2 3", "9 3 2 3", "12 4", "4 2 1 2")
"""Each source has a stroke of its own beside its letter."""
LABEL_GAP = 13.0


@dataclass(frozen=True)
class OverlaidLine:
    """One source's line: its ends, its readings, its letter at its right end."""

    letter: str
    path: str
    points: tuple[tuple[float, float], ...]
    stroke: str
    label_x: float
    label_y: float


@dataclass(frozen=True)
class OverlaidLines:
    """Geometry of the drawing, and its rows for a reader: source, no load, at its highest load."""

    lines: tuple[OverlaidLine, ...]
    x_ticks: tuple[Tick, ...]
    y_ticks: tuple[Tick, ...]
    y_label: str
    low_y: float
    high_y: float
    rows: tuple[tuple[str, str, str, str], ...]
    width: int = WIDTH
    height: int = HEIGHT
    left: int = LEFT
    right: int = RIGHT
    top: int = TOP
    bottom: int = BOTTOM


def draw_overlaid(lines: Sequence[tuple[str, LoadLine]], window_pct: float) -> OverlaidLines | None:
    """Lay lines of several sources over one another.

    Parameters
    ----------
    lines
        A source's letter and its line against load; all of one quantity and one nominal.
    window_pct
        How far from nominal loads tolerate it: drawn as two lines.

    Returns
    -------
    OverlaidLines or None
        None where fewer than two sources have a line.
    """
    if len(lines) < 2:
        return None
    nominal = lines[0][1].nominal
    window = (nominal * (1 - window_pct / 100), nominal * (1 + window_pct / 100))
    most_w = max(line.line.x_high for _, line in lines) * 1.04 or 1.0
    values = [point.y for _, line in lines for point in line.points] + list(window)
    pad = (max(values) - min(values)) * 0.06 or 1.0
    x, y = Scale(0, most_w, LEFT, RIGHT), Scale(min(values) - pad, max(values) + pad, BOTTOM, TOP)
    ends = [(x(line.line.x_high), y(line.line.at(line.line.x_high))) for _, line in lines]
    label_ys = spread([end[1] for end in ends], LABEL_GAP, TOP)
    drawn = tuple(
        OverlaidLine(
            letter=letter,
            path=f"M{x(0):g} {y(line.line.at(0)):g}L{ends[at][0]:g} {ends[at][1]:g}",
            points=tuple((x(point.w), y(point.y)) for point in line.points),
            stroke=STROKES[at % len(STROKES)],
            label_x=ends[at][0] + 7,
            label_y=label_ys[at],
        )
        for at, (letter, line) in enumerate(lines)
    )
    rows = tuple(
        (
            letter,
            plain(line.line.at(0), line.unit),
            plain(line.line.at(line.line.x_high), line.unit),
            plain(line.line.x_high, "w"),
        )
        for letter, line in lines
    )
    return OverlaidLines(
        lines=drawn,
        x_ticks=ticks(x, 6, 1000),
        y_ticks=ticks(y, 5),
        y_label={"v": "V", "hz": "Hz"}.get(lines[0][1].unit, ""),
        low_y=y(window[0]),
        high_y=y(window[1]),
        rows=rows,
    )
