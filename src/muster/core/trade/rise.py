"""A temperature on its way to where it will end."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ..errors import NotEnoughReadings
from ..fits import student_t

TAU_LEAST_S, TAU_MOST_S, TAU_STEPS = 30.0, 4 * 3600.0, 241
BETWEEN_SHARE = 0.15
"""Readings of one thermometer err alike: between them so much of its accuracy is left."""
LONG_ENOUGH_X = 3.0
"""A test is long enough to know the end temperature after three time constants (docs/method/energy.md#temperatures)."""


@dataclass(frozen=True)
class Rise:
    """``T = start + rise·(1 − e^(−t/τ))``; ``u_end_k`` is the half-width of the end temperature, 95 %.

    ``seen_s`` is how long it was watched.
    """

    start_c: float
    rise_k: float
    tau_s: float
    u_end_k: float
    seen_s: float

    @property
    def end_c(self) -> float:
        """Where it ends."""
        return self.start_c + self.rise_k

    @property
    def long_enough(self) -> bool:
        """Whether it was watched for three time constants."""
        return self.seen_s >= LONG_ENOUGH_X * self.tau_s

    def at(self, t_s: float) -> float:
        """Temperature after so long."""
        return float(self.start_c + self.rise_k * (1 - np.exp(-t_s / self.tau_s)))


def fit_rise(t_s: Sequence[float], temp_c: Sequence[float], u_k: float = 0.5) -> Rise:
    """Fit a first-order rise to temperatures read at times since the load came on.

    For each of a ladder of time constants the two linear unknowns follow by
    least squares; the time constant with the least left is taken. The band of
    the end temperature spans every time constant whose rest is not
    significantly worse, ``u_k`` being the thermometer's accuracy, which
    moves the whole and is the least the end is known to.

    Raises
    ------
    NotEnoughReadings
        If there are fewer than four readings, or they span less than a minute.

    References
    ----------
    First-order heating of one body; variable projection and likelihood-ratio band of a non-linear least squares.
    """
    t, y = np.asarray(t_s, float), np.asarray(temp_c, float)
    if t.size < 4 or np.ptp(t) < 60:
        raise NotEnoughReadings(
            f"{t.size} temperatures over {np.ptp(t) if t.size else 0:.0f} s",
            where="temperatures",
            want="four or more over a minute or more",
        )
    t = t - t[0]
    result = []
    for tau in np.geomspace(TAU_LEAST_S, max(TAU_MOST_S, 2 * t[-1]), TAU_STEPS):
        basis = np.stack([np.ones_like(t), 1 - np.exp(-t / tau)], axis=1)
        (start, rise), *_ = np.linalg.lstsq(basis, y, rcond=None)
        rest = float(((y - basis @ (start, rise)) ** 2).sum())
        result.append((rest, float(tau), float(start), float(rise)))
    rest, tau, start, rise = min(result)
    free = max(1, t.size - 3)
    scatter = max(rest / free, (BETWEEN_SHARE * u_k) ** 2)
    worse = rest + scatter * student_t(free) ** 2
    ends = [first + more for left, _, first, more in result if left <= worse]
    end = start + rise
    return Rise(start, rise, tau, max(max(ends) - end, end - min(ends), u_k), float(t[-1]))
