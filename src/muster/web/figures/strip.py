"""The strip as geometry for paper and for a browser without script: a panel a quantity, low to high in each stretch."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from muster.core.kit import QUANTITIES
from muster.core.quantities import UNIT_WORDS
from muster.core.sessions import Place
from muster.core.timeline.traces import Channel
from muster.core.timeline.traces.trace import Samples
from muster.core.timeline.traces.view import Buckets

from .scales import Scale, Tick, ticks

WIDTH, PANEL, GAP, LEFT, TOP = 960, 110, 22, 56, 26
LEG_CSS = {Place.LEG1: "leg1", Place.LEG2: "leg2"}
PANELS = ("v", "a", "w", "va", "pf", "hz", "wh", "dba", "dc_v", "dc_a", "dc_w", "soc_pct", "temp_c", "fuel_l", "rpm")
"""Panels from top to bottom, by what is measured."""


@dataclass(frozen=True)
class Track:
    """A channel's area from its lowest to its highest, and what it is called."""

    name: str
    css: str
    path: str


@dataclass(frozen=True)
class StripPanel:
    """Channels of one quantity on one axis."""

    measured: str
    title: str
    top: int
    bottom: int
    ticks: tuple[Tick, ...]
    tracks: tuple[Track, ...]


@dataclass(frozen=True)
class StripFigure:
    """All panels and the flags above them."""

    width: int
    height: int
    left: int
    panels: tuple[StripPanel, ...]
    flags: tuple[tuple[float, str], ...]


def panels_of(channels: tuple[Channel, ...]) -> list[tuple[str, list[int]]]:
    """Which channels share a panel, from top to bottom."""
    groups = {measured: [i for i, c in enumerate(channels) if c.measured == measured] for measured in PANELS}
    return [(measured, places) for measured, places in groups.items() if places]


def panel_title(measured: str) -> str:
    """What a panel shows, with its unit."""
    words, unit = QUANTITIES[measured]
    symbol = UNIT_WORDS.get(unit, unit)
    return f"{words}, {symbol}" if symbol else words


def draw_strip(
    view: Buckets, channels: tuple[Channel, ...], span: tuple[float, float], flags: list[tuple[float, str]]
) -> StripFigure:
    """Draw what a trace did between two times."""
    t0_s, t1_s = span
    scale = (WIDTH - LEFT) / max(t1_s - t0_s, 1e-9)
    x = LEFT + (view.t_s - t0_s) * scale
    panels = []
    for number, (measured, places) in enumerate(panels_of(channels)):
        top = TOP + number * (PANEL + GAP)
        panels.append(_panel(measured, places, channels, view, x, top))
    kept = tuple((round(LEFT + (t - t0_s) * scale, 1), name) for t, name in flags if t0_s <= t <= t1_s)
    return StripFigure(WIDTH, TOP + len(panels) * (PANEL + GAP), LEFT, tuple(panels), kept)


def _panel(
    measured: str, places: list[int], channels: tuple[Channel, ...], view: Buckets, x: Samples, top: int
) -> StripPanel:
    low, high = view.low[places], view.high[places]
    read = ~np.isnan(low)
    least, most = (float(low[read].min()), float(high[read].max())) if read.any() else (0.0, 1.0)
    room = (most - least) * 0.08 or max(abs(most) * 0.02, 0.5)
    least, most = least - room, most + room
    y = Scale(least, most, top + PANEL, top)
    per = PANEL / (most - least)
    tracks = tuple(
        Track(
            channels[place].label,
            LEG_CSS.get(channels[place].place, "legboth"),
            _area(x, top + PANEL - (view.low[place] - least) * per, top + PANEL - (view.high[place] - least) * per),
        )
        for place in places
    )
    return StripPanel(
        measured=measured, title=panel_title(measured), top=top, bottom=top + PANEL, ticks=ticks(y, 4), tracks=tracks
    )


def _area(x: Samples, low_y: Samples, high_y: Samples) -> str:
    """A stroke from low to high in each stretch, broken where nothing was read."""
    read = np.flatnonzero(~np.isnan(low_y))
    if not read.size:
        return ""
    breaks = np.diff(read, prepend=read[0] - 1) > 1
    parts = []
    for at, new in zip(read.tolist(), breaks.tolist(), strict=True):
        move = "M" if new or not parts else "L"
        parts.append(f"{move}{x[at]:.1f} {high_y[at]:.1f}L{x[at]:.1f} {low_y[at]:.1f}")
    return "".join(parts)
