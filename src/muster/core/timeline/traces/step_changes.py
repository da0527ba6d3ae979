"""Steps of load as a log shows them: hertz and volts before, at their worst, settled, and how soon they were back."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ...sessions import Place
from .steady import edges
from .trace import Floats, Trace

LOOK_S, BEFORE_S = 12.0, 5.0
SETTLED_FROM_S = 8.0
LEAST_SHARE = 0.15
"""A step of less than this share of the log's most watts tells little of a governor."""
HZ_BANDS_PCT = (3.5, 2.0, 2.0)
V_BANDS_PCT = (5.0, 2.5, 1.0)
"""Bands around what it settles to that count as back, for classes G1, G2, G3 (ISO 8528-5, tolerance bands)."""


@dataclass(frozen=True)
class Swing:
    """A quantity through a step: ``back_s`` [s] into the bands of G1, G2 and G3, None where it did not come back in sight."""

    before: float
    extreme: float
    settled: float
    back_s: tuple[float | None, float | None, float | None]


@dataclass(frozen=True)
class LoadStep:
    """A step of load at ``t_s``; what was not logged is None."""

    t_s: float
    before_w: float
    after_w: float
    hz: Swing | None
    v: Swing | None

    @property
    def step_w(self) -> float:
        """How much was added (shed, negative)."""
        return self.after_w - self.before_w


def load_steps(trace: Trace, watts: Floats, legs: int) -> tuple[LoadStep, ...]:
    """Every large step of load up or down, with what hertz and volts did in the seconds after.

    Volts are of the first leg logged.
    """
    if np.isnan(watts).all():
        return ()
    least = LEAST_SHARE * float(np.nanmax(watts))
    hertz = trace.of("hz")
    volts = next(
        (v for place in (Place.LEG1, Place.LEG2, Place.TOTAL)[: legs + 1] if (v := trace.of("v", place)) is not None),
        None,
    )
    cuts = edges(trace, watts)
    load_steps_found: list[LoadStep] = []
    for index, at in enumerate(cuts):
        t_s = float(trace.t_s[at])
        following = float(trace.t_s[cuts[index + 1]]) if index + 1 < len(cuts) else float(trace.t_s[-1])
        if following - t_s < SETTLED_FROM_S or (load_steps_found and t_s - load_steps_found[-1].t_s < BEFORE_S):
            continue
        before, after = (
            _part(trace, t_s - BEFORE_S, t_s - trace.step_s),
            _part(trace, t_s + 2, min(following, t_s + LOOK_S)),
        )
        if not _read(watts[before]) or not _read(watts[after]):
            continue
        before_w, after_w = float(np.nanmedian(watts[before])), float(np.nanmedian(watts[after]))
        if abs(after_w - before_w) < least:
            continue
        up = after_w > before_w
        ends = min(following, t_s + LOOK_S)
        load_steps_found.append(
            LoadStep(
                t_s,
                before_w,
                after_w,
                _swing(trace, hertz, t_s, ends, HZ_BANDS_PCT, up=up),
                _swing(trace, volts, t_s, ends, V_BANDS_PCT, up=up),
            )
        )
    return tuple(load_steps_found)


def _part(trace: Trace, t0_s: float, t1_s: float) -> slice:
    return slice(int(np.searchsorted(trace.t_s, t0_s)), int(np.searchsorted(trace.t_s, t1_s, side="right")))


def _read(values: Floats) -> bool:
    return bool(values.size) and not np.isnan(values).all()


def _swing(
    trace: Trace, values: Floats | None, t_s: float, ends_s: float, bands: tuple[float, float, float], *, up: bool
) -> Swing | None:
    """A quantity from before a step to where it settles: at its lowest where load came on, its highest where it went."""
    if values is None:
        return None
    before = values[_part(trace, t_s - BEFORE_S, t_s - 2 * trace.step_s)]
    span = _part(trace, t_s - 2 * trace.step_s, ends_s)
    after = values[span]
    late = values[_part(trace, t_s + SETTLED_FROM_S * 0.75, ends_s)]
    if not _read(before) or not _read(after) or not _read(late):
        return None
    settled = float(np.nanmedian(late))
    times = trace.t_s[span] - t_s
    back = tuple(_back(times, after, settled, pct / 100 * settled) for pct in bands)
    extreme = float(np.nanmin(after) if up else np.nanmax(after))
    return Swing(float(np.nanmedian(before)), extreme, settled, (back[0], back[1], back[2]))


def _back(times: Floats, values: Floats, settled: float, within: float) -> float | None:
    """Seconds after the step until it stays within a band."""
    away = np.flatnonzero(np.abs(np.nan_to_num(values, nan=settled) - settled) > within)
    if not away.size:
        return 0.0
    last = int(away[-1]) + 1
    return max(0.0, float(times[last])) if last < times.size else None
