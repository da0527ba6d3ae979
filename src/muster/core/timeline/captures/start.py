"""A start as a fast record shows it: volts before, lowest and settled, amps at their highest, how soon it was back."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ...kit import Instrument
from ...quantities import Bound
from ..traces.trace import Floats

SETTLED_S = 0.5
"""What a start settled to is the median of the last so long."""
BACK_PCT = 2.0
"""Recovered once the volts stay within so much of where they settle, percent of those before."""
STEP_SHARE, STEP_A = 0.02, 0.3
"""A start is found where the amps first rise by so many amps, and by such a share of what just stood: a small load on a
large base is a start too."""
EARLY_S, QUIET_S = 1.0, 0.5
"""It is looked for from so long before the switching was logged, against the median of so long before each moment."""


BACK_SHOWN_X = 4
"""So many samples are shown after volts were back."""


@dataclass(frozen=True, eq=False)
class CapturedStart:
    """One start: RMS volts and amps on one time axis, and what is read off them.

    ``t_s`` (n,) are seconds after the session began; ``at_s`` is when the
    amps stepped up. ``back_s`` is how long after it the volts were back, None
    if they were not. ``bound`` says which way the lowest errs where the
    instrument is slower than the start.
    """

    t_s: Floats
    v: Floats
    a: Floats
    at_s: float
    before_v: float
    lowest_v: float
    settled_v: float
    before_a: float
    highest_a: float
    settled_a: float
    back_s: float | None
    step_s: float
    bound: Bound | None = None

    @property
    def back_rows(self) -> tuple[tuple[float, float], ...]:
        """Milliseconds after the step and the volts then, until just after they were back: what that time is re-done from."""
        after = (self.t_s >= self.at_s) & (self.t_s <= self.at_s + (self.back_s or 0.0) + BACK_SHOWN_X * self.step_s)
        pairs = zip(((self.t_s[after] - self.at_s) * 1000).tolist(), self.v[after].tolist(), strict=True)
        return tuple(pairs) if self.back_s is not None else ()

    @property
    def dip_pct(self) -> float:
        """How deep the volts fell, percent of what stood before."""
        return (self.before_v - self.lowest_v) / self.before_v * 100 if self.before_v else 0.0

    @property
    def inrush_x(self) -> float | None:
        """The highest amps of the start against what it settled to, the base left out; None where nothing was added."""
        added = self.settled_a - self.before_a
        return (self.highest_a - self.before_a) / added if added > STEP_A else None


def start_in(t_s: Floats, v: Floats, a: Floats, near_s: float, bound: Bound | None = None) -> CapturedStart | None:
    """Read a start off RMS volts and amps around the time at which it was switched; None where there is none to see.

    All three are (n,) and of one length; times rise. What is NaN was not read.
    """
    read = ~(np.isnan(v) | np.isnan(a))
    t_s, v, a = t_s[read], v[read], a[read]
    if t_s.size < 5:
        return None
    at = _stepped(t_s, a, near_s)
    if at is None:
        return None
    before = (t_s < t_s[at]) & (t_s >= t_s[at] - QUIET_S)
    after = t_s >= t_s[at]
    if not before.any() or after.sum() < 3:
        return None
    settled = t_s >= t_s[-1] - SETTLED_S
    before_v, before_a = float(np.median(v[before])), float(np.median(a[before]))
    settled_v, settled_a = float(np.median(v[settled])), float(np.median(a[settled]))
    return CapturedStart(
        t_s=t_s,
        v=v,
        a=a,
        at_s=float(t_s[at]),
        before_v=before_v,
        lowest_v=float(v[after].min()),
        settled_v=settled_v,
        before_a=before_a,
        highest_a=float(a[after].max()),
        settled_a=settled_a,
        back_s=_back_s(t_s, v, at, settled_v, BACK_PCT / 100 * before_v),
        step_s=float(np.median(np.diff(t_s))),
        bound=bound,
    )


def _stepped(t_s: Floats, a: Floats, near_s: float) -> int | None:
    """Where the amps first step up past what just stood, near a time; None where they do not."""
    for i in np.flatnonzero(t_s >= near_s - EARLY_S).tolist():
        just = a[(t_s >= t_s[i] - QUIET_S) & (t_s < t_s[i])]
        if just.size and a[i] > float(np.median(just)) * (1 + STEP_SHARE) + STEP_A:
            return int(i)
    return None


def _back_s(t_s: Floats, v: Floats, at: int, settled_v: float, within_v: float) -> float | None:
    """How long after the step the volts stay within a band of where they settle."""
    away = np.flatnonzero(np.abs(v[at:] - settled_v) > within_v)
    if not away.size:
        return 0.0
    last = at + int(away[-1]) + 1
    return float(t_s[last] - t_s[at]) if last < t_s.size else None


def bound_by(instrument: Instrument, step_s: float, start_s: float) -> Bound | None:
    """Whether a record of this step could have missed a start of so many seconds: its lowest is then a bound."""
    window = max(instrument.window_s, step_s)
    return None if start_s >= window + step_s else Bound.AT_MOST
