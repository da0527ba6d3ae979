"""Waveforms known from their shape: distortion from the series, not from samples."""

from __future__ import annotations

import math

from ..errors import require_above, require_between

HIGHEST = 40
"""Harmonics are counted to the 40th (IEC 61000-4-7)."""


def stepped_harmonic(order: int, conduction: float) -> float:
    """Amplitude of a harmonic of a three-level wave of height 1: ``4/(nπ) · sin(n·π·d/2)`` for odd n, else 0.

    ``conduction`` d is the share of each half wave that stands; 1 is a square wave.

    References
    ----------
    Fourier series of a symmetric quasi-square wave.
    """
    require_above(conduction, 0, "conduction")
    require_between(conduction, 0, 1, "conduction")
    if order % 2 == 0:
        return 0.0
    return 4 / (order * math.pi) * math.sin(order * math.pi * conduction / 2)


def stepped_thd_pct(conduction: float, highest: int = HIGHEST) -> float:
    """Total distortion of a three-level wave against its fundamental [%], to a harmonic."""
    first = stepped_harmonic(1, conduction)
    rest = sum(stepped_harmonic(n, conduction) ** 2 for n in range(2, highest + 1))
    return math.sqrt(rest) / first * 100


def stepped_rms(conduction: float) -> float:
    """RMS of a three-level wave of height 1: ``√d``."""
    return math.sqrt(require_between(conduction, 0, 1, "conduction"))
