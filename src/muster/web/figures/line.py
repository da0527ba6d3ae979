"""Droop and regulation: the points, the line with its band, the nominal, the window."""

from __future__ import annotations

from dataclasses import dataclass

from muster.core.findings.lines import LoadLine
from muster.core.quantities import plain

from .scales import Scale, Tick, ticks

WIDTH, HEIGHT = 440, 250
LEFT, RIGHT, TOP, BOTTOM = 52, 428, 16, 208
BAND_STEPS = 24


@dataclass(frozen=True)
class LineFigure:
    """Geometry of a quantity against load."""

    width: int
    height: int
    left: int
    right: int
    top: int
    bottom: int
    points: tuple[tuple[float, float], ...]
    line: tuple[float, float, float, float]
    band: str
    nominal_y: float
    window_y: float
    window_height: float
    x_ticks: tuple[Tick, ...]
    y_ticks: tuple[Tick, ...]
    y_label: str
    title: str
    rows: tuple[tuple[str, str], ...]


def draw_line(fit: LoadLine, window_pct: float) -> LineFigure:
    """Lay out a load line; the window is ``window_pct`` either side of nominal."""
    low, high = (fit.nominal * (1 + sign * window_pct / 100) for sign in (-1, 1))
    most_w = fit.line.x_high * 1.08 or 1.0
    values = [point.y for point in fit.points]
    pad = (high - low) * 0.12
    x = Scale(0, most_w, LEFT, RIGHT)
    y = Scale(min([*values, low]) - pad, max([*values, high]) + pad, BOTTOM, TOP)
    ends = (x(0), y(fit.line.at(0)), x(fit.line.x_high), y(fit.line.at(fit.line.x_high)))
    rows = tuple((plain(p.w, "w"), plain(p.y, fit.unit)) for p in sorted(fit.points, key=lambda p: p.w))
    return LineFigure(
        width=WIDTH,
        height=HEIGHT,
        left=LEFT,
        right=RIGHT,
        top=TOP,
        bottom=BOTTOM,
        points=tuple((x(point.w), y(point.y)) for point in fit.points),
        line=ends,
        band=_band(fit, x, y),
        nominal_y=y(fit.nominal),
        window_y=y(high),
        window_height=round(y(low) - y(high), 1),
        x_ticks=ticks(x, 5, 1000),
        y_ticks=ticks(y, 5),
        y_label={"v": "V", "hz": "Hz"}[fit.unit],
        title=fit.finding.title,
        rows=rows,
    )


def _band(fit: LoadLine, x: Scale, y: Scale) -> str:
    """The 95 % band of the line as one closed path."""
    at = [fit.line.x_high * i / BAND_STEPS for i in range(BAND_STEPS + 1)]
    upper = [(x(w), y(fit.line.at(w) + fit.band(w))) for w in at]
    lower = [(x(w), y(fit.line.at(w) - fit.band(w))) for w in reversed(at)]
    return "M" + "L".join(f"{px} {py}" for px, py in (*upper, *lower)) + "Z"
