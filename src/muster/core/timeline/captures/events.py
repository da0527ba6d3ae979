"""Dips, rises and breaks in a capture: how deep, when, and how long, to the half cycle."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ...quantities import Bound
from ...sessions import Place
from ...trade.ride_through import VoltEventKind
from ..traces.events import DIP_ENDS_PCT, DIP_STARTS_PCT, OFF_PCT, RISE_ENDS_PCT, RISE_STARTS_PCT, spans
from ..traces.trace import Floats
from .cycles import Cycles, cycles_of, half_cycle_rms, urms_half

SURE_CYCLES = 1.5
"""An event shorter than this holds no whole cycle for certain: its depth is then a bound."""
LEAST_CYCLES = 0.25
"""Less than this is a notch of the wave, no event."""
BEFORE_S = 0.5


@dataclass(frozen=True)
class CaptureEvent:
    """A dip, rise or break (``kind`` dip, rise, interruption) in volts at a place.

    ``extreme_v`` is the lowest or highest cycle; ``before_v`` what stood
    before it; ``t0_s`` and ``t1_s`` are seconds after the session began.
    """

    kind: VoltEventKind
    place: Place
    t0_s: float
    t1_s: float
    extreme_v: float
    before_v: float | None
    nominal_v: float
    bound: Bound | None = None

    @property
    def duration_s(self) -> float:
        """How long it lasted [s]."""
        return self.t1_s - self.t0_s

    @property
    def residual_pct(self) -> float:
        """The extreme as a share of nominal."""
        return self.extreme_v / self.nominal_v * 100


def volt_events(
    samples: Floats, step_s: float, t0_s: float, place: Place, nominal_v: float, hz: float, cycles: Cycles | None = None
) -> tuple[CaptureEvent, ...]:
    """Every dip, rise and break of sampled volts.

    Depth by whole cycles, each from a zero crossing of the fundamental, renewed
    each half cycle. Beginning and end by the RMS of half a cycle around each
    sample, which blurs an edge half as much; thresholds and hysteresis as the
    standard has them.

    Raises
    ------
    OutOfRange
        If the samples are too few a cycle, or shorter than two cycles.

    References
    ----------
    IEC 61000-4-30, 5.4: dips from 90 to 92 % and rises from 110 to 108 % of the reference, interruptions below 10 %.
    Beginning and end by half cycles are ours.
    """
    cycles = cycles or cycles_of(samples, step_s, hz)
    fine = half_cycle_rms(samples, step_s, cycles.hz) / nominal_v * 100
    track = urms_half(samples, step_s, cycles)
    capture_events = []
    for low in (True, False):
        beyond = fine < DIP_STARTS_PCT if low else fine > RISE_STARTS_PCT
        within = fine > DIP_ENDS_PCT if low else fine < RISE_ENDS_PCT
        for first, last in spans(beyond, within).tolist():
            if (last - first) * step_s * cycles.hz < LEAST_CYCLES:
                continue
            capture_events.append(
                _event(
                    track.t_s, track.rms, (first * step_s, last * step_s), t0_s, place, nominal_v, cycles.hz, low=low
                )
            )
    return tuple(sorted(capture_events, key=lambda event: event.t0_s))


def _event(
    t_s: Floats,
    rms: Floats,
    span: tuple[float, float],
    t0_s: float,
    place: Place,
    nominal_v: float,
    hz: float,
    *,
    low: bool,
) -> CaptureEvent:
    begin, end = span
    half = 0.5 / hz
    inside = rms[(t_s >= begin - half / 2) & (t_s <= end + half / 2)]
    if not inside.size:
        inside = rms[[int(np.argmin(np.abs(t_s - (begin + end) / 2)))]]
    extreme = float(inside.min() if low else inside.max())
    ahead = rms[(t_s < begin - 2 * half) & (t_s >= begin - BEFORE_S)]
    off = low and extreme / nominal_v * 100 < OFF_PCT
    brief = (end - begin) * hz < SURE_CYCLES
    bound = (Bound.AT_MOST if low else Bound.AT_LEAST) if brief else None
    return CaptureEvent(
        kind=VoltEventKind.INTERRUPTION if off else VoltEventKind.DIP if low else VoltEventKind.RISE,
        place=place,
        t0_s=t0_s + begin,
        t1_s=t0_s + end,
        extreme_v=extreme,
        before_v=float(np.median(ahead)) if ahead.size else None,
        nominal_v=nominal_v,
        bound=bound,
    )


@dataclass(frozen=True)
class Ending:
    """How volts ended: when they left, how long they took to die, and what they did meanwhile.

    ``rises_pct`` is how far they came back up on the way down, ``highest_pct``
    the highest half cycle on the way, both percent of what stood before.
    """

    t_s: float
    dying_s: float
    rises_pct: float
    highest_pct: float
    hz: float

    @property
    def ragged(self) -> bool:
        """Whether they flickered, overshot, or lingered for more than five cycles."""
        return self.rises_pct > RAGGED_RISE_PCT or self.highest_pct > RISE_STARTS_PCT or self.lingers

    @property
    def lingers(self) -> bool:
        """Whether they hung between 90 and 10 % for more than five cycles."""
        return self.dying_s * self.hz > LINGERS_CYCLES


RAGGED_RISE_PCT = 8.0
LINGERS_CYCLES = 5.0


def ending(samples: Floats, step_s: float, t0_s: float, hz: float) -> Ending | None:
    """How the volts of a capture ended; None where they stand to its end, or never stood."""
    fine = half_cycle_rms(samples, step_s, hz)
    level = float(np.median(fine[: max(1, fine.size // 4)]))
    if level <= 0 or fine[-1] > OFF_PCT / 100 * level:
        return None
    share = fine / level * 100
    gone = int(np.flatnonzero(share > OFF_PCT)[-1]) + 1
    full = np.flatnonzero(share[:gone] > DIP_STARTS_PCT)
    leaves = _last_full(share[:gone], int(full[-1]) if full.size else 0)
    dying = share[leaves:gone]
    rises = float((dying - np.minimum.accumulate(dying)).max()) if dying.size else 0.0
    # The half cycle in which it is cut is blurred over its window, which is not dying.
    took_s = max(0.0, (gone - leaves) * step_s - 0.5 / hz)
    highest = float(share[leaves:gone].max()) if dying.size else 100.0
    return Ending(t0_s + leaves * step_s, took_s, rises, highest, hz)


def _last_full(share: Floats, last: int) -> int:
    """Where volts first left 90 % for the end: the fall that the end belongs to, flickers and all."""
    below = np.flatnonzero(share[: last + 1] < DIP_STARTS_PCT)
    return last if not below.size else int(below[0])
