"""Least squares lines with their confidence band."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from .errors import NotEnoughReadings

T_975 = (
    12.7062, 4.3027, 3.1824, 2.7764, 2.5706, 2.4469, 2.3646, 2.3060, 2.2622, 2.2281, 2.2010, 2.1788, 2.1604, 2.1448, 2.1314,
    2.1199, 2.1098, 2.1009, 2.0930, 2.0860,
)  # fmt: skip
"""Student's t at 0.975 for 1 to 20 degrees of freedom: the two-sided 95 % (any table; GUM, table G.2)."""
Z_975 = 1.959964


def student_t(freedom: int) -> float:
    """Student's t for a two-sided confidence of 95 %.

    By table to 20 degrees of freedom, by its expansion in 1/ν beyond. Kept
    here because the library's own takes as long to load as all the rest of a
    verdict; the tests hold it to the library's to four decimals.

    References
    ----------
    Abramowitz and Stegun, 26.7.5.
    """
    if freedom <= len(T_975):
        return T_975[freedom - 1]
    z = Z_975
    terms = ((z**3 + z) / 4, (5 * z**5 + 16 * z**3 + 3 * z) / 96, (3 * z**7 + 19 * z**5 + 17 * z**3 - 15 * z) / 384)
    return z + float(sum(term / freedom**power for power, term in enumerate(terms, 1)))


LEAST_LOADS, FARTHEST_X = 3, 1.5
"""From fewer loads, or beyond so many times the highest that was read, a line proves nothing (docs/method/verdict.md#steady-volts-and-hertz)."""


@dataclass(frozen=True)
class Line:
    """``y = a + b·x`` through ``n`` points.

    ``s`` is the residual standard deviation (None for two points), ``x_mean``
    and ``sxx`` place the band; ``x_low`` and ``x_high`` bound what was seen.
    """

    a: float
    b: float
    n: int
    s: float | None
    x_mean: float
    sxx: float
    x_low: float
    x_high: float

    def at(self, x: float) -> float:
        """The line's value at ``x``."""
        return self.a + self.b * x

    def band(self, x: float) -> float | None:
        """Half-width of the 95 % confidence band of the line at ``x``; None for two points.

        ``t(0.975, n-2) · s · sqrt(1/n + (x - mean)² / Sxx)``.

        References
        ----------
        Ordinary least squares, confidence of the mean response.
        """
        if self.s is None:
            return None
        return student_t(self.n - 2) * self.s * math.sqrt(1 / self.n + (x - self.x_mean) ** 2 / self.sxx)

    def bears(self, x: float) -> bool:
        """Whether the line may be drawn on to ``x``: read at three loads or more, and to two thirds of it at least."""
        return self.n >= LEAST_LOADS and x <= FARTHEST_X * self.x_high

    def reaches(self, x: float) -> bool:
        """Whether ``x`` lies within what was measured (5 % of the span allowed)."""
        slack = 0.05 * (self.x_high - self.x_low)
        return self.x_low - slack <= x <= self.x_high + slack


def fit_line(x: Sequence[float], y: Sequence[float]) -> Line:
    """Fit a straight line by least squares.

    Raises
    ------
    NotEnoughReadings
        If there are fewer than two points, or all at one ``x``.
    """
    xs, ys = np.asarray(x, float), np.asarray(y, float)
    if xs.size < 2 or np.ptp(xs) == 0:
        raise NotEnoughReadings("a line needs readings at two loads or more", where="readings")
    x_mean = float(xs.mean())
    sxx = float(((xs - x_mean) ** 2).sum())
    b = float(((xs - x_mean) * (ys - ys.mean())).sum() / sxx)
    a = float(ys.mean() - b * x_mean)
    rest = ys - (a + b * xs)
    s = math.sqrt(float((rest**2).sum()) / (xs.size - 2)) if xs.size > 2 else None
    return Line(a=a, b=b, n=int(xs.size), s=s, x_mean=x_mean, sxx=sxx, x_low=float(xs.min()), x_high=float(xs.max()))


def not_negative(columns: NDArray[np.float64], y: NDArray[np.float64]) -> tuple[tuple[float, ...], float]:
    """Least squares with no coefficient below zero, and the norm of what is left.

    ``columns`` is (n, few): every set of columns is tried, and of those whose
    coefficients are all 0 or more the best is taken; exact, and for three
    columns quicker than loading a general solver.
    """
    count = columns.shape[1]
    best, left = np.zeros(count), float(np.linalg.norm(y))
    for picks in range(1, 2**count):
        kept = [i for i in range(count) if picks >> i & 1]
        result = np.linalg.lstsq(columns[:, kept], y)[0]
        rest = float(np.linalg.norm(y - columns[:, kept] @ result))
        if (result >= 0).all() and rest < left:
            best, left = np.zeros(count), rest
            best[kept] = result
    return tuple(best.tolist()), left
