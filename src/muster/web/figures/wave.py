"""The waveform drawing: two cycles with their fundamental ghosted, and the harmonics as a comb below."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from muster.core.quantities import THIN, plain
from muster.core.timeline.captures.waveform import Waveform, fundamental_wave
from muster.core.timeline.traces.trace import Floats

from .scales import Scale, Tick, ticks

WIDTH, HEIGHT = 460, 270
LEFT, RIGHT, TOP, MIDDLE, COMB, BOTTOM = 48, 452, 12, 138, 166, 244
SHOWN_CYCLES = 2
MOST_POINTS = 500
LEAST_PCT = 5.0
"""A comb reaches at least so high, so that a clean wave looks clean."""
NUMBERED = (3, 5, 7, 9, 11, 13, 15, 19, 25, 31, 39)


@dataclass(frozen=True)
class Tooth:
    """A harmonic in the comb."""

    x: float
    y: float
    order: int
    label: str


@dataclass(frozen=True)
class WaveDrawing:
    """Geometry of a waveform drawing."""

    width: int
    height: int
    left: int
    right: int
    wave: str
    ghost: str
    zero_y: float
    y_ticks: tuple[Tick, ...]
    comb_ticks: tuple[Tick, ...]
    teeth: tuple[Tooth, ...]
    numbers: tuple[Tick, ...]
    comb: int
    bottom: int
    middle: int


def draw_wave(samples: Floats, step_s: float, waveform: Waveform) -> WaveDrawing:
    """Lay out two cycles and the comb of a waveform."""
    count = min(samples.size, round(SHOWN_CYCLES / waveform.hz / step_s) + 1)
    shown = samples[:count]
    judged = samples[: round(waveform.cycles / waveform.hz / step_s)]
    ghost = fundamental_wave(judged, step_s, waveform.hz)[:count]
    most = float(max(np.abs(shown).max(), np.abs(ghost).max())) * 1.05
    x, y = Scale(0, count - 1, LEFT, RIGHT), Scale(-most, most, MIDDLE, TOP)
    highest = max(LEAST_PCT, *(harmonic.pct for harmonic in waveform.harmonics)) * 1.08
    across, up = Scale(1, len(waveform.harmonics) + 2, LEFT, RIGHT), Scale(0, highest, BOTTOM, COMB)
    teeth = tuple(
        Tooth(
            across(each_harmonic.order),
            up(each_harmonic.pct),
            each_harmonic.order,
            f"harmonic {each_harmonic.order}: {each_harmonic.pct:.2f}{THIN}%",
        )
        for each_harmonic in waveform.harmonics
    )
    return WaveDrawing(
        width=WIDTH,
        height=HEIGHT,
        left=LEFT,
        right=RIGHT,
        wave=_line(shown, x, y),
        ghost=_line(ghost, x, y),
        zero_y=y(0),
        y_ticks=ticks(y, 4),
        comb_ticks=ticks(up, 3),
        teeth=teeth,
        numbers=tuple(Tick(across(order), str(order)) for order in NUMBERED),
        comb=COMB,
        bottom=BOTTOM,
        middle=MIDDLE,
    )


def _line(values: Floats, x: Scale, y: Scale) -> str:
    step = max(1, values.size // MOST_POINTS)
    return "M" + "L".join(f"{x(i)} {y(value)}" for i, value in list(enumerate(values.tolist()))[::step])


def describe(waveform: Waveform, unit: str) -> str:
    """A waveform in a sentence: the drawing's text twin."""
    return (
        f"{waveform.cycles} cycles of {waveform.hz:.2f}{THIN}Hz: {plain(waveform.rms, unit)} RMS, crest factor {waveform.crest:.2f}, "
        f"THD {waveform.thd_pct:.1f}{THIN}%; {waveform.shape.label}."
    )
