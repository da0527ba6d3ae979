"""Least squares lines with their confidence band."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.special import stdtrit

from .errors import NotEnoughReadings

CONFIDENCE = 0.95


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
        quantile = float(stdtrit(self.n - 2, 0.5 + CONFIDENCE / 2))
        return quantile * self.s * math.sqrt(1 / self.n + (x - self.x_mean) ** 2 / self.sxx)

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
    return Line(a, b, int(xs.size), s, x_mean, sxx, float(xs.min()), float(xs.max()))


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
        found = np.linalg.lstsq(columns[:, kept], y)[0]
        rest = float(np.linalg.norm(y - columns[:, kept] @ found))
        if (found >= 0).all() and rest < left:
            best, left = np.zeros(count), rest
            best[kept] = found
    return tuple(best.tolist()), left
