"""A log or a capture as lines over time, as small as a paper can bear: each channel in a lane of its own."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from muster.core.quantities import number
from muster.core.timeline.traces import Channel

from .scales import Scale, Tick, ticks

WIDTH, LEFT, RIGHT = 900, 92, 892
LANE, GAP, TOP = 64, 14, 6
POINTS = 320
"""So many columns are drawn, each from its least to its most: more are not seen on paper."""
MOST_LANES = 6


@dataclass(frozen=True)
class PlotLane:
    """A channel: its path, what it is called, and its least and most as they are written."""

    path: str
    label: str
    low: str
    high: str
    top: float
    bottom: float


@dataclass(frozen=True)
class RecordPlot:
    """Geometry of a log or a capture; ``left_out`` channels are not drawn."""

    lanes: tuple[PlotLane, ...]
    ticks: tuple[Tick, ...]
    unit: str
    height: float
    left_out: tuple[str, ...]
    width: int = WIDTH
    left: int = LEFT
    right: int = RIGHT


def draw_record(
    t_s: NDArray[np.float64], values: NDArray[np.float32], channels: Sequence[Channel], *, fine: bool = False
) -> RecordPlot:
    """Lay out what an instrument wrote.

    Parameters
    ----------
    t_s
        (n,) times. [s]
    values
        (channels, n), NaN where nothing was read.
    channels
        What each row is of.
    fine
        Times are told in milliseconds and not in minutes.

    Returns
    -------
    RecordPlot
        A lane a channel, the first ``MOST_LANES`` of those that hold a figure.
    """
    factor, unit = (1000.0, "ms") if fine else (1 / 60, "min")
    held = [at for at in range(len(channels)) if np.isfinite(values[at]).any()]
    times = (t_s - t_s[0]) * factor
    x = Scale(0.0, float(times[-1]) or 1.0, LEFT, RIGHT)
    lanes = tuple(
        _lane(times, values[at], channels[at].heading, TOP + place * (LANE + GAP), x)
        for place, at in enumerate(held[:MOST_LANES])
    )
    height = TOP + max(1, len(lanes)) * (LANE + GAP) + 16
    return RecordPlot(
        lanes=lanes,
        ticks=ticks(x, 8),
        unit=unit,
        height=height,
        left_out=tuple(channels[at].heading for at in held[MOST_LANES:]),
    )


def _lane(times: NDArray[np.float64], values: NDArray[np.float32], label: str, top: float, x: Scale) -> PlotLane:
    low, high = float(np.nanmin(values)), float(np.nanmax(values))
    y = Scale(low, high if high > low else low + 1.0, top + LANE, top)
    return PlotLane(
        path=_path(times, values, x, y), label=label, low=number(low), high=number(high), top=top, bottom=top + LANE
    )


def _path(times: NDArray[np.float64], values: NDArray[np.float32], x: Scale, y: Scale) -> str:
    """From least to most in each column; a column without a figure lifts the pen."""
    parts, pen = [], "M"
    edges = np.linspace(0, times.size, min(POINTS, times.size) + 1).astype(int)
    for first, last in pairwise(edges):
        here = values[first:last]
        here = here[np.isfinite(here)]
        if not here.size:
            pen = "M"
            continue
        at = x(float(times[first]))
        ends = (float(here.min()), float(here.max()))
        parts += [f"{pen}{at:g} {y(ends[0]):g}", *([f"V{y(ends[1]):g}"] if ends[1] > ends[0] else [])]
        pen = "L"
    return "".join(parts)
