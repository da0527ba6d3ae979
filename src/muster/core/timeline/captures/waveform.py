"""A waveform taken apart: hertz, RMS, crest, harmonics to the 40th, distortion, and what kind of wave it is."""

from __future__ import annotations

import math
from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from ...errors import OutOfRange
from ...loads import THD_LIMIT_PCT, Wave
from ...trade.waves import HIGHEST
from ..traces.trace import Floats

LEAST_CYCLES = 3
"""Fewer whole cycles are refused: their distortion would be guessed."""
CYCLES_WANTED = {50: 10, 60: 12}
"""Cycles of a window, 200 ms (IEC 61000-4-7, 5.1)."""
LEAST_PER_CYCLE = 2 * HIGHEST + 2
"""Samples a cycle of the capture, for its 40th harmonic to be seen at all."""
ROUNDS = 4
CLIPPED_RUN, CLIPPED_SHARE, SHOULDER = 4, 0.05, 0.7
"""So many like samples, and so much of a cycle (a peak of eight bits stands still for less), in a row at both extremes, reached over a slope, are the end of a scope's range, not of the wave."""
NEAR_ZERO, ON_PLATEAU = 0.15, 0.85
"""Shares of the plateau within which a sample of a stepped wave stands at zero, and above which on its plateau."""
STEPPED_ZERO = (0.10, 0.60)
"""A three-level wave stands at zero for such a share of its time."""
SQUARE_PLATEAU = 0.92
"""A square wave stands on its plateaus for more than such a share."""


RINGS_PCT = 3.0
"""More than this of the fundamental above the 40th harmonic is high-frequency ringing (physics §11)."""


class Shape(StrEnum):
    """What kind of wave it is."""

    SINE = "sine"
    ROUGH = "rough sine"
    DISTORTED = "distorted"
    RINGING = "ringing"
    STEPPED = "stepped"
    SQUARE = "square"

    @property
    def label(self) -> str:
        """The kind and what that means, in words."""
        return {
            "sine": "a clean sine",
            "rough sine": "a rough sine, within what a public supply may be (EN 50160)",
            "distorted": "distorted: more than a public supply may be",
            "ringing": "no clean sine: high-frequency ringing lies on it",
            "stepped": "stepped: plateau, zero, plateau",
            "square": "square",
        }[self.value]


@dataclass(frozen=True)
class Harmonic:
    """A harmonic: its order, and its share of the fundamental [%]."""

    order: int
    pct: float


@dataclass(frozen=True)
class Waveform:
    """What a stretch of so many whole cycles is made of; ``thd_pct`` against the fundamental, to the 40th.

    ``residual_pct`` is what is left above that: of neither the fundamental nor a harmonic to the 40th, a share of the
    fundamental [%].
    """

    hz: float
    cycles: int
    rms: float
    dc: float
    peak: float
    fundamental_rms: float
    thd_pct: float
    harmonics: tuple[Harmonic, ...]
    shape: Shape
    residual_pct: float = 0.0

    @property
    def rings(self) -> bool:
        """Whether high-frequency ringing lies on what would otherwise be a sine."""
        return self.shape is Shape.RINGING

    @property
    def distortion_pct(self) -> float:
        """All that is not the fundamental where that ringing counts: harmonics and what lies above them [%]."""
        return math.hypot(self.thd_pct, self.residual_pct) if self.rings else self.thd_pct

    @property
    def crest(self) -> float:
        """Peak over RMS: 1.414 for a sine."""
        return self.peak / self.rms if self.rms else 0.0

    @property
    def largest(self) -> tuple[Harmonic, ...]:
        """The five largest harmonics."""
        return tuple(sorted(self.harmonics, key=lambda item: -item.pct)[:5])


def waveform_of(samples: Floats, step_s: float, nominal_hz: float) -> Waveform:
    """Take a waveform apart over a whole number of its own cycles.

    ``samples`` is (n,), the first cycles of which are used: 10 at 50 Hz, 12 at
    60 Hz, or as many as there are. The harmonics are fitted at its own
    fundamental, so that none leaks into another however its hertz stand to
    the sampling.

    Raises
    ------
    OutOfRange
        If it is flat, clipped, sampled too slowly, or shorter than three cycles.

    References
    ----------
    IEC 61000-4-7: ten or twelve cycles in synchronism, harmonics to the 40th; THD_F of IEC 61000-4-7, 3.3.1.
    """
    mean, level = float(np.mean(samples)), float(np.std(samples))
    if not level > 0:
        raise OutOfRange("nothing but a level", where="samples", want="a wave")
    if 1 / (step_s * nominal_hz) < LEAST_PER_CYCLE:
        raise OutOfRange(
            f"{1 / (step_s * nominal_hz):.0f} samples a cycle", where="samples", want=f"{LEAST_PER_CYCLE} or more"
        )
    if is_clipped(samples - mean, 1 / (step_s * nominal_hz)):
        raise OutOfRange("the scope's range cuts the wave off", where="samples", want="a wider range on the scope")
    hz = fundamental_hz(samples - mean, step_s, nominal_hz)
    whole = int((samples.size - 1) * step_s * hz)
    if whole < LEAST_CYCLES:
        raise OutOfRange(f"{whole} whole cycles", where="samples", want=f"{LEAST_CYCLES} or more")
    cycles = min(whole, CYCLES_WANTED.get(round(nominal_hz), 10))
    wave = samples[: round(cycles / hz / step_s)]
    dc, heights, residual_rms = _heights(wave, step_s, hz)
    first = float(heights[0])
    harmonics = tuple(Harmonic(order, float(h / first * 100)) for order, h in enumerate(heights[1:], 2))
    thd_pct = math.sqrt(sum(harmonic.pct**2 for harmonic in harmonics))
    return Waveform(
        hz=hz,
        cycles=cycles,
        rms=float(np.sqrt(np.mean(wave**2))),
        dc=dc,
        peak=float(np.abs(wave - dc).max()),
        fundamental_rms=first / math.sqrt(2),
        thd_pct=thd_pct,
        harmonics=harmonics,
        shape=shape_of(wave - dc, thd_pct, residual_pct := residual_rms * math.sqrt(2) / first * 100),
        residual_pct=residual_pct,
    )


def _heights(wave: Floats, step_s: float, hz: float) -> tuple[float, Floats, float]:
    """Level, peak of the fundamental and each harmonic to the 40th, and RMS of what lies above it, by least squares at the measured frequency.

    Over whole cycles the sines are as good as at right angles to each other,
    so that the normal equations are well conditioned; and no sample has to be
    moved into step, which would cost the high harmonics.
    """
    angle = 2 * np.pi * hz * step_s * np.arange(wave.size)[:, None] * np.arange(1, HIGHEST + 1)
    basis = np.concatenate([np.ones((wave.size, 1)), np.cos(angle), np.sin(angle)], axis=1)
    result = np.linalg.solve(basis.T @ basis, basis.T @ wave)
    heights = np.hypot(result[1 : HIGHEST + 1], result[HIGHEST + 1 :])
    return float(result[0]), heights, _above(wave - basis @ result, step_s, (HIGHEST + 0.5) * hz)


def _above(rest: Floats, step_s: float, hz: float) -> float:
    """RMS of what lies above a frequency: volts that rise or fall meanwhile are no ringing."""
    lines = np.fft.rfft(rest)
    lines[np.fft.rfftfreq(rest.size, step_s) < hz] = 0.0
    return float(np.sqrt(np.mean(np.fft.irfft(lines, rest.size) ** 2)))


def fundamental_hz(samples: Floats, step_s: float, near_hz: float) -> float:
    """Hertz of the fundamental, from how fast its phase runs against a guess; within a few millihertz on a clean wave.

    The phase of each cycle's first Fourier coefficient is followed through the
    capture and a straight line put through it; the slope corrects the guess.
    """
    hz = near_hz
    t = np.arange(samples.size) * step_s
    for _ in range(ROUNDS):
        per = max(2, round(1 / (hz * step_s)))
        count = samples.size // per
        if count < 2:
            return hz
        turned = (samples * np.exp(-2j * np.pi * hz * t))[: count * per].reshape(count, per).mean(axis=1)
        phase = np.unwrap(np.angle(turned))
        hz += float(np.polyfit((np.arange(count) + 0.5) * per * step_s, phase, 1)[0]) / (2 * np.pi)
    return hz


def is_clipped(samples: Floats, per_cycle: float) -> bool:
    """Whether the scope's range cuts the wave off: runs of like samples at both extremes, reached over a slope."""
    least = max(CLIPPED_RUN, CLIPPED_SHARE * per_cycle)
    return all(_flat_top(sign * samples, least) for sign in (1, -1))


def _flat_top(samples: Floats, least: float) -> bool:
    top = samples.max()
    at = samples >= top - 1e-6 * abs(top)
    edges = np.flatnonzero(np.diff(np.concatenate([[False], at, [False]]).astype(np.int8)))
    starts, ends = edges[::2], edges[1::2]
    runs = [(a, b) for a, b in zip(starts, ends, strict=True) if b - a >= least and a > 0 and b < samples.size]
    sloped = [run for run in runs if samples[run[0] - 1] > SHOULDER * top and samples[run[1]] > SHOULDER * top]
    return bool(runs) and len(sloped) > len(runs) / 2


def shape_of(wave: Floats, thd_pct: float, residual_pct: float = 0.0) -> Shape:
    """The kind of wave, from its distortion and from where its samples stand; what rings is no clean sine (physics §11)."""
    plateau = float(np.percentile(np.abs(wave), 95))
    size = np.abs(wave) / plateau
    at_zero, on_plateau = float(np.mean(size < NEAR_ZERO)), float(np.mean(size > ON_PLATEAU))
    if thd_pct <= THD_LIMIT_PCT[Wave.ROUGH] and residual_pct > RINGS_PCT:
        return Shape.RINGING
    if thd_pct <= THD_LIMIT_PCT[Wave.SINE]:
        return Shape.SINE
    if thd_pct <= THD_LIMIT_PCT[Wave.ROUGH]:
        return Shape.ROUGH
    if on_plateau > SQUARE_PLATEAU:
        return Shape.SQUARE
    if STEPPED_ZERO[0] < at_zero < STEPPED_ZERO[1] and at_zero + on_plateau > SQUARE_PLATEAU:
        return Shape.STEPPED
    return Shape.DISTORTED


def fundamental_wave(samples: Floats, step_s: float, hz: float) -> Floats:
    """The sine at a frequency that lies closest to the samples, its level with it: what the wave is drawn against."""
    angle = 2 * np.pi * hz * step_s * np.arange(samples.size)
    basis = np.stack([np.sin(angle), np.cos(angle), np.ones(samples.size)], axis=1)
    fit, *_ = np.linalg.lstsq(basis, samples, rcond=None)
    closest: Floats = basis @ fit
    return closest
