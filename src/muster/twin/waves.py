"""Waveforms of the bench: sine, harmonics, flat top, steps, and a ragged end; sampled for a scope."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from muster.core.errors import OutOfRange, UnknownChoice

Floats = NDArray[np.float64]


@dataclass(frozen=True)
class Waveshape:
    """A waveform: its shape, and harmonics as shares of the fundamental (order → share).

    ``stepped`` conducts for ``conduction`` of each half wave; ``flat`` clips at ``flat_at`` of the peak.
    """

    shape: str = "sine"
    harmonics: tuple[tuple[int, float], ...] = ()
    conduction: float = 2 / 3
    flat_at: float = 0.8

    def __post_init__(self) -> None:
        if self.shape not in ("sine", "flat", "stepped", "square"):
            raise UnknownChoice(f"got “{self.shape}”", where="shape", want="sine, flat, stepped, square")


def samples(
    wave: Waveshape,
    rms_v: float,
    hz: float,
    rate_hz: float,
    seconds: float,
    rng: np.random.Generator,
    noise_v: float = 0.0,
    drift_hz_s: float = 0.0,
    dies_at_s: float | None = None,
) -> Floats:
    """Volts sampled at ``rate_hz``: scaled to ``rms_v``, its hertz drifting, with noise; ragged after ``dies_at_s``.

    Raises
    ------
    OutOfRange
        If the rate is less than twenty samples a cycle.
    """
    if rate_hz < 20 * hz:
        raise OutOfRange(f"got {rate_hz:g} Hz", where="rate_hz", want=f"{20 * hz:g} or more")
    t: Floats = np.arange(round(seconds * rate_hz)) / rate_hz
    cycles = hz * t + drift_hz_s * t**2 / 2
    volts = rms_v * _unit(wave, cycles)
    if dies_at_s is not None:
        dying = np.clip((t - dies_at_s) * 3, 0, 1)
        ragged = 1 + 0.5 * np.sin(2 * np.pi * 7 * t) * dying
        volts = volts * (1 - dying) * ragged
    return np.asarray(volts + rng.normal(0, noise_v, t.size) if noise_v else volts)


def _unit(wave: Waveshape, cycles: Floats) -> Floats:
    """The shape at RMS 1."""
    angle = 2 * np.pi * cycles
    if wave.shape == "square":
        base = np.sign(np.sin(angle))
    elif wave.shape == "stepped":
        base = np.where(np.abs(np.sin(angle)) > np.cos(np.pi / 2 * wave.conduction), np.sign(np.sin(angle)), 0.0)
        base = base / np.sqrt(wave.conduction)
    elif wave.shape == "flat":
        cut = np.clip(np.sin(angle), -wave.flat_at, wave.flat_at)
        base = cut / np.sqrt(
            np.mean(np.clip(np.sin(np.linspace(0, 2 * np.pi, 20001)[:-1]), -wave.flat_at, wave.flat_at) ** 2)
        )
    else:
        base = np.sqrt(2) * np.sin(angle)
    if not wave.harmonics:
        return np.asarray(base)
    added = sum(share * np.sqrt(2) * np.sin(order * angle) for order, share in wave.harmonics)
    return np.asarray((base + added) / np.sqrt(1 + sum(share**2 for _, share in wave.harmonics)))
