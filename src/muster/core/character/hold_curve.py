"""How long an overload is held: a straight line in logs above what is held for ever, with what never tripped counted in."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from statistics import NormalDist

import numpy as np

from ..errors import NotEnoughReadings, require_above
from ..fits import student_t
from ..quantities import plain

POWER_U = 0.01
"""The band of the curve is what this much of power makes (docs/method/starts.md#hold-curve)."""
N_USUAL = 2.4
"""Steepness where only one point is known: planning figure, from the range 2 to 3 of electronic overload memories."""
N_LEAST, N_MOST = 0.4, 6.0
"""No overload memory is flatter or steeper. Ours."""
Z_90, Z_95, TAIL = 1.645, 1.960, 0.05
"""Half-widths of 90 % and 95 % in standard deviations of a normal, and what lies beyond either end of a 90 % band."""
CURVES = 9
"""So many levels between the bounds stand for what may be held for ever."""
FITS_AS_WELL = 0.1
"""A curve of this share of the best one's weight fits as well, as it is told. Ours."""
ROUNDS = 60
AT_REST = 1e-6
HALVINGS = 40
LEAST_OVER = 0.005
LEAST_LEVELS = 2
"""Fewer levels tripped give no steepness."""


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
    ends: tuple[HoldCurve, ...] = ()
    """The same points above each of what may be held for ever, from the least to the most: empty where that is known."""
    weight: float = 1.0
    """How likely it is, of the curves that it is one of."""

    @property
    def next_w(self) -> float | None:
        """The level whose time would say most of what is held for ever, None where that is known. [W]

        Halfway between what stood longest below the least that tripped, or is taken to be held, and that.
        """
        tripped = [p.w for p in self.points if p.tripped]
        if not self.ends or not tripped:
            return None
        stood = [p.w for p in self.points if not p.tripped and p.w < min(tripped)]
        return (max([self.held_w, *stood]) + min(tripped)) / 2

    @property
    def sentence(self) -> str:
        """What it is, as a person would say it."""
        said = f"Above {plain(self.held_w, 'w')} it holds for {plain(self.k_s, 's')} · (P ÷ {plain(self.held_w, 'w')} − 1)^−{self.n:.2f}"
        if len({round(p.w) for p in self.points if p.tripped}) < LEAST_LEVELS:
            said += "; one level tripped: the steepness is a planning figure"
        if self.next_w is not None:
            likely = [end for end in self.ends if end.weight >= FITS_AS_WELL * max(other.weight for other in self.ends)]
            low, high = likely[0], likely[-1]
            steep = f", with exponents of {low.n:.1f} to {high.n:.1f}" if round(low.n, 1) != round(high.n, 1) else ""
            said += (
                f". What it holds for ever is not pinned, {plain(low.held_w, 'w')} to {plain(high.held_w, 'w')} fit as well{steep}: "
                f"the time at about {plain(round(self.next_w, -2), 'w')} would settle it"
            )
        return said + "."

    def hold_s(self, w: float) -> float:
        """How long a level is held [s]; infinite at or below what is held for ever."""
        over = w / self.held_w - 1
        return math.inf if over <= 0 else float(self.k_s * over**-self.n)

    def band_s(self, w: float) -> tuple[float, float]:
        """Least and most that a level is held, nine times in ten: over what may be held for ever, what 1 % of power makes, and the scatter of the points."""
        curves = self.ends or (self,)
        holding = [curve for curve in curves if w > curve.held_w]
        share = sum(curve.weight for curve in holding) / sum(curve.weight for curve in curves)
        if not holding:
            return math.inf, math.inf
        middle = np.array([math.log(curve.hold_s(w)) for curve in holding])
        spread = np.array([curve._spread(w) for curve in holding])
        weight = np.array([curve.weight for curve in holding]) / sum(curve.weight for curve in curves)

        def shorter(log_s: float) -> float:
            """How likely it is that it holds no longer."""
            return float(sum(w * normal.cdf((log_s - m) / s) for w, m, s in zip(weight, middle, spread, strict=True)))

        normal = NormalDist()
        least, most = float((middle - 8 * spread).min()), float((middle + 8 * spread).max())
        low, high = (
            math.exp(_where(shorter, tail, least, most)) if tail < share * 0.999 else math.inf
            for tail in (TAIL, 1 - TAIL)
        )
        return low, high

    def _spread(self, w: float) -> float:
        """Standard deviation of the time's logarithm, what is held for ever as it is taken."""
        over = w / self.held_w - 1
        by_power = self.n * POWER_U * (1 + over) / over / Z_90
        scatter = 0.0 if self.sigma is None else student_t(max(1, self.fitted - 2)) * self.sigma / Z_95
        return math.hypot(by_power, scatter)

    def reaches(self, w: float) -> bool:
        """Whether a level lies between the points that were tripped."""
        return self.low_x * 0.995 <= w / self.held_w <= self.high_x * 1.005


def _where(rising: Callable[[float], float], value: float, low: float, high: float) -> float:
    """Where a function that rises takes a value, by halving; kept here for what the library's own takes to load."""
    for _ in range(HALVINGS):
        middle = (low + high) / 2
        low, high = (middle, high) if rising(middle) < value else (low, middle)
    return (low + high) / 2


def fit_hold_within(points: Sequence[HoldPoint], held_w: float, low_w: float, high_w: float) -> HoldCurve:
    """The hold-time curve where what is held for ever is known only within bounds.

    Parameters
    ----------
    points
        Levels and how long they stood.
    held_w
        What is most likely held for ever, the nameplate within the bounds. [W]
    low_w, high_w
        The least and the most that may be: what stood for three thermal time constants, and the least that tripped. [W]

    Returns
    -------
    HoldCurve
        The likeliest, with those above every level between the bounds for its band.

    Raises
    ------
    OutOfRange
        If ``held_w`` is not above zero.
    NotEnoughReadings
        If no level above it was tripped.

    References
    ----------
    physics §4: *P∞ is known only within bounds; the nameplate is its prior inside them*.
    """
    if high_w - low_w <= LEAST_OVER * held_w:
        return fit_hold(points, held_w)
    levels = sorted({*(low_w + (high_w - low_w) * (i + 0.5) / CURVES for i in range(CURVES)), held_w})
    curves = [fit_hold(points, w) for w in levels]
    beyond = [max(low_w - w, w - high_w, 0.0) for w in levels]
    prior = np.array(
        [_triangle(w, low_w, held_w, high_w) if not off else 0.0 for w, off in zip(levels, beyond, strict=True)]
    )
    misfit = np.array([_misfit(curve) for curve in curves])
    weight = prior * np.exp(-(misfit - misfit.min()) / 2)
    ends = tuple(replace(curve, weight=float(w)) for curve, w in zip(curves, weight / weight.sum(), strict=True))
    likely = replace(max(ends, key=lambda curve: curve.weight), weight=1.0)
    return replace(likely, ends=ends)


def _triangle(w: float, low_w: float, top_w: float, high_w: float) -> float:
    """How likely a level is before any is tripped: most at ``top_w``, falling to nothing at both bounds."""
    if w == top_w:
        return 1.0
    return (w - low_w) / (top_w - low_w) if w < top_w else (high_w - w) / (high_w - top_w)


def _misfit(curve: HoldCurve) -> float:
    """How far the points that tripped lie off the curve, in squares of what 1 % of power makes of each."""
    off = 0.0
    for point in curve.points:
        if point.tripped:
            over = point.w / curve.held_w - 1
            by_power = curve.n * POWER_U * (1 + over) / over / Z_90
            off += (math.log(point.held_s / curve.hold_s(point.w)) / by_power) ** 2
    return off


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
        n = _usual_within(x, y, has_tripped)
        a = float(np.mean(y[has_tripped] + n * x[has_tripped]))
        return HoldCurve(
            held_w=held_w,
            k_s=math.exp(a),
            n=n,
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


def _usual_within(x: np.ndarray, y: np.ndarray, tripped: np.ndarray) -> float:
    """The usual steepness where one level tripped, or the nearest to it that no level which stood contradicts."""
    x_trip, y_trip = float(x[tripped].mean()), float(y[tripped].mean())
    least, most = N_LEAST, N_MOST
    for x_stood, y_stood in zip(x[~tripped], y[~tripped], strict=True):
        if x_stood < x_trip:
            least = max(least, (y_stood - y_trip) / (x_trip - x_stood))
        elif x_stood > x_trip and y_stood < y_trip:
            most = min(most, (y_trip - y_stood) / (x_stood - x_trip))
    return float(np.clip(N_USUAL, min(least, N_MOST), max(most, N_LEAST)))


def _censored(x: np.ndarray, y: np.ndarray, tripped: np.ndarray) -> tuple[float, float, float]:
    """Intercept, steepness and scatter of ``y = a − n·x`` with the points that did not trip above their ``y``."""
    a, n, sigma = _line(x[tripped], y[tripped])
    if tripped.all():
        return a, n, sigma
    for _ in range(ROUNDS):
        scatter = max(sigma, 0.02)
        expected = a - n * x
        z = (y - expected) / scatter
        before = (a, n, sigma)
        filled = np.where(tripped, y, expected + scatter * np.array([_hazard(value) for value in z]))
        a, n, sigma = _line(x, np.maximum(filled, np.where(tripped, -np.inf, y)))
        if math.dist(before, (a, n, sigma)) < AT_REST:
            break
    return a, n, sigma


def _line(x: np.ndarray, y: np.ndarray) -> tuple[float, float, float]:
    x_mean, y_mean = float(x.mean()), float(y.mean())
    slope = float((x - x_mean) @ (y - y_mean)) / float((x - x_mean) @ (x - x_mean))
    level = y_mean - slope * x_mean
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
