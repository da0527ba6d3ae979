"""Start traces: what a fast record shows around a load's being switched on."""

from __future__ import annotations

import numpy as np

from muster.core.kit import Kit
from muster.core.loads import Load
from muster.core.sessions import Place
from muster.core.supply import Leg, System
from muster.core.timeline.captures import Capture, CapturedStart, start_in, track_of
from muster.core.timeline.captures.start import bound_by
from muster.core.timeline.traces import Channel

from ..actions.captures import capture_of
from ..actions.traces import channels_of, read_trace
from ..models import SessionRow

BEFORE_S, AFTER_S = 1.5, 4.0
"""A trace shows from so long before the switching to so long after."""
RIPE_S = 3.5
"""A trace is drawn once so much of what followed has been recorded."""


def start_trace_of(session: SessionRow, load: Load, at_s: float, kit: Kit, system: System) -> CapturedStart | None:
    """A start as it was captured, else as the fastest log has it; None where nothing shows it.

    ``at_s`` is when the load was switched on [s after the session began].
    """
    place = Place.LEG2 if load.leg is Leg.TWO and system.legs == 2 else Place.LEG1
    volts, amps = Channel("v", place), Channel("a", place)
    return _captured(session, volts, amps, at_s, system) or _logged(session, load, volts, amps, at_s, kit)


def _captured(session: SessionRow, volts: Channel, amps: Channel, at_s: float, system: System) -> CapturedStart | None:
    rows = session.capture_rows.filter(removed_at=None, t0_s__lt=at_s, t1_s__gt=at_s + 1.0)
    for row in rows.order_by("step_s"):
        part = capture_of(row).between(at_s - BEFORE_S, at_s + AFTER_S)
        seen = _by_cycles(part, volts, amps, at_s, system.hz) if part is not None else None
        if seen is not None:
            return seen
    return None


def _by_cycles(part: Capture, volts: Channel, amps: Channel, at_s: float, hz: float) -> CapturedStart | None:
    v, a = part.of(volts), part.of(amps)
    if v is None or a is None:
        return None
    v_track, a_track = (track_of(samples, part.step_s, part.t_s, hz) for samples in (v, a))
    return start_in(v_track.t_s, v_track.rms, a_track.rms, at_s)


def _logged(
    session: SessionRow, load: Load, volts: Channel, amps: Channel, at_s: float, kit: Kit
) -> CapturedStart | None:
    candidates = []
    for row in session.trace_rows.filter(removed_at=None):
        if {volts, amps} <= set(channels_of(row)):
            trace = read_trace(row, at_s - BEFORE_S - 1, at_s + AFTER_S)
            near = (trace.t_s >= at_s - BEFORE_S) & (trace.t_s <= at_s + AFTER_S)
            v, a = trace.of(volts.quantity, volts.place), trace.of(amps.quantity, amps.place)
            if near.sum() < 5 or v is None or a is None:
                continue
            step_s = float(np.median(np.diff(trace.t_s[near])))
            bound = bound_by(kit.instrument_for("v", row.instrument), step_s, load.start_s)
            candidates.append((step_s, start_in(trace.t_s[near], v[near], a[near], at_s, bound)))
    return next((seen for _, seen in sorted(candidates, key=lambda item: item[0]) if seen is not None), None)
