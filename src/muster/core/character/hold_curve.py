"""How long an overload is held: a straight line in logs above what is held for ever, with what never tripped counted in."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ..errors import NotEnoughReadings, require_above
from ..fits import student_t

POWER_U = 0.01
"""The band of the curve is what this much of power makes (docs/method/starts.md#hold-curve)."""
N_USUAL = 2.4
"""Steepness where only one point is known: planning figure, from the range 2 to 3 of electronic overload memories."""
ROUNDS = 60
LEAST_OVER = 0.005


@dataclass(frozen=True)
class HoldPoint:
    """A level [W] and how long it stood [s]; ``tripped`` or not (then it is a lower bound)."""

    w: float
    held_s: float
    tripped: bool


@dataclass(frozen=True)
class HoldCurve:
    """``t = k·(P/P∞ − 1)^−n`` through the points above ``held_w``.

    ``sigma`` is the scatter in natural logs (None where there are too few
    points to say); ``fitted`` how many tripped points made the line, ``low_x``
    and ``high_x`` the range of P/P∞ they span.
    """

    held_w: float
    k_s: float
    n: float
    sigma: float | None
    fitted: int
    low_x: float
    high_x: float
    points: tuple[HoldPoint, ...]

    def hold_s(self, w: float) -> float:
        """How long a level is held [s]; infinite at or below what is held for ever."""
        over = w / self.held_w - 1
        return math.inf if over <= 0 else float(self.k_s * over**-self.n)

    def band_s(self, w: float) -> tuple[float, float]:
        """Least and most that a level is held: what 1 % of power makes, and the scatter of the points."""
        spread = 1.0 if self.sigma is None else math.exp(student_t(max(1, self.fitted - 2)) * self.sigma)
        low, high = self.hold_s(w * (1 + POWER_U)), self.hold_s(w * (1 - POWER_U))
        return low / spread, high * spread

    def reaches(self, w: float) -> bool:
        """Whether a level lies between the points that were tripped."""
        return self.low_x * 0.995 <= w / self.held_w <= self.high_x * 1.005


def fit_hold(points: Sequence[HoldPoint], held_w: float) -> HoldCurve:
    """Fit the hold-time curve in logs above ``held_w``; a level that never tripped counts as a lower bound.

    Tripped points alone give the first line; then each level that did not
    trip stands at what is to be expected of it beyond its time, and the line
    is drawn again, until it rests (expectation and maximisation). With one
    point the steepness is a planning figure. Points at or below ``held_w``
    say nothing of the curve.

    Raises
    ------
    OutOfRange
        If ``held_w`` is not above zero.
    NotEnoughReadings
        If no level above it was tripped.

    References
    ----------
    Inverse-time characteristic (IEC 60255-151 has the form); censored normal regression, Schmee and Hahn 1979.
    """
    require_above(held_w, 0, "held_w")
    above = [p for p in points if p.w / held_w - 1 > LEAST_OVER and p.held_s > 0]
    tripped = [p for p in above if p.tripped]
    if not tripped:
        raise NotEnoughReadings(
            "nothing above the held level tripped", where="holds", want="a level that trips (Overload)"
        )
    over = [p.w / held_w for p in tripped]
    x = np.log([p.w / held_w - 1 for p in above])
    y = np.log([p.held_s for p in above])
    has_tripped = np.array([p.tripped for p in above])
    apart = len({round(p.w / held_w, 3) for p in tripped}) >= 2
    if not apart:
        a = float(np.mean(y[has_tripped] + N_USUAL * x[has_tripped]))
        return HoldCurve(
            held_w=held_w,
            k_s=math.exp(a),
            n=N_USUAL,
            sigma=None,
            fitted=len(tripped),
            low_x=min(over),
            high_x=max(over),
            points=tuple(above),
        )
    a, n, sigma = _censored(x, y, has_tripped)
    known = sigma if int(has_tripped.sum()) > 2 else None
    return HoldCurve(
        held_w=held_w,
        k_s=math.exp(a),
        n=n,
        sigma=known,
        fitted=len(tripped),
        low_x=min(over),
        high_x=max(over),
        points=tuple(above),
    )


def _censored(x: np.ndarray, y: np.ndarray, tripped: np.ndarray) -> tuple[float, float, float]:
    """Intercept, steepness and scatter of ``y = a − n·x`` with the points that did not trip above their ``y``."""
    a, n, sigma = _line(x[tripped], y[tripped])
    if tripped.all():
        return a, n, sigma
    for _ in range(ROUNDS):
        scatter = max(sigma, 0.02)
        expected = a - n * x
        z = (y - expected) / scatter
        filled = np.where(tripped, y, expected + scatter * np.array([_hazard(value) for value in z]))
        a, n, sigma = _line(x, np.maximum(filled, np.where(tripped, -np.inf, y)))
    return a, n, sigma


def _line(x: np.ndarray, y: np.ndarray) -> tuple[float, float, float]:
    slope, level = np.polyfit(x, y, 1)
    rest = y - (level + slope * x)
    sigma = math.sqrt(float((rest**2).sum()) / (x.size - 2)) if x.size > 2 else 0.0
    return float(level), max(0.2, -float(slope)), sigma


def _hazard(z: float) -> float:
    """Mean of a standard normal beyond ``z``."""
    tail = math.erfc(z / math.sqrt(2)) / 2
    return z + 1 / z if tail < 1e-12 else math.exp(-z * z / 2) / math.sqrt(2 * math.pi) / tail


def used(curve: HoldCurve, levels: Sequence[tuple[float, float]], cools_x: float = 3.0) -> float:
    """How much of its patience a changing load has used: ``∫dt/t(P)``, at 1 it trips.

    ``levels`` are (watts, seconds) in order. Below what is held for ever the
    memory clears, ``cools_x`` times more slowly than the curve's own ``k``
    fills it.

    References
    ----------
    docs/method/starts.md#hold-curve; thermal memory of an inverse-time relay (IEC 60255-149).
    """
    share = 0.0
    for w, seconds in levels:
        held = curve.hold_s(w)
        if math.isfinite(held):
            share += seconds / held
        else:
            share = max(0.0, share - seconds / (cools_x * max(1.0, curve.k_s)))
        if share >= 1:
            return share
    return share
