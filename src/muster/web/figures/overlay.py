"""Two waveforms on one another: two cycles each, in step, as shares of their own peak-to-RMS."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from muster.core.timeline.captures.waveform import Waveform, fundamental_wave
from muster.core.timeline.traces.trace import Floats

from .scales import Scale, Tick, ticks

WIDTH, HEIGHT = 640, 260
LEFT, RIGHT, TOP, BOTTOM = 48, 628, 12, 226
CYCLES = 2


@dataclass(frozen=True)
class OverlayWave:
    """One wave to overlay: its samples, step, and what it was found to be."""

    name: str
    samples: Floats
    step_s: float
    wave: Waveform


@dataclass(frozen=True)
class Overlay:
    """Geometry of waves in step: a path each, degrees along the bottom, volts at the left."""

    width: int
    height: int
    left: int
    right: int
    paths: tuple[tuple[str, str], ...]
    zero_y: float
    y_ticks: tuple[Tick, ...]
    x_ticks: tuple[Tick, ...]
    bottom: int


def draw_overlay(shown: tuple[OverlayWave, ...]) -> Overlay:
    """Lay out waves from the rising zero of each one's fundamental."""
    cut = [_in_step(item) for item in shown]
    most = max(float(np.abs(volts).max()) for _, volts in cut) * 1.05
    x, y = Scale(0, 360 * CYCLES, LEFT, RIGHT), Scale(-most, most, BOTTOM, TOP)
    paths = []
    for i, (degrees, volts) in enumerate(cut):
        every = max(1, degrees.size // 600)
        points = zip(degrees[::every].tolist(), volts[::every].tolist(), strict=True)
        paths.append((f"leg{i + 1}", "M" + "L".join(f"{x(d)} {y(v)}" for d, v in points)))
    return Overlay(
        width=WIDTH,
        height=HEIGHT,
        left=LEFT,
        right=RIGHT,
        paths=tuple(paths),
        zero_y=y(0),
        y_ticks=ticks(y, 5),
        x_ticks=tuple(Tick(x(d), f"{d}°") for d in range(0, 360 * CYCLES + 1, 90)),
        bottom=BOTTOM,
    )


def _in_step(overlay_wave: OverlayWave) -> tuple[Floats, Floats]:
    """Degrees from the fundamental's first rising zero, and the volts there."""
    step = 360 * overlay_wave.wave.hz * overlay_wave.step_s
    count = min(overlay_wave.samples.size, round((CYCLES + 1) * 360 / step) + 2)
    ghost = fundamental_wave(overlay_wave.samples[:count], overlay_wave.step_s, overlay_wave.wave.hz)
    rising = np.flatnonzero((ghost[:-1] <= 0) & (ghost[1:] > 0))
    first = int(rising[0]) if rising.size else 0
    volts = overlay_wave.samples[first : first + round(CYCLES * 360 / step) + 1]
    return np.arange(volts.size) * step, volts
