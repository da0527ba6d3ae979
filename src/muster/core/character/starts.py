"""The starts whose volts and amps were read well enough, as they met the source, and what they met."""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import replace

from ..errors import NotEnoughReadings
from ..findings.starts import StartSeen
from ..loads import Load
from ..quantities import Grade, Value
from ..sessions import Place, Stat
from ..sessions.replay import Outcome
from ..supply import Leg, System
from .given import Dated, Given
from .impedance import START_U, Hit, StartModel, fit_start_model

LEG_PF = 1.0
"""Base loads are taken at unity power factor where none was read."""


def hits_of(system: System, starts: Iterable[StartSeen]) -> dict[str, list[tuple[StartSeen, Hit]]]:
    """The starts whose volts and amps were both read well enough, as they met the source, by leg."""
    result: dict[str, list[tuple[StartSeen, Hit]]] = {}
    for start in starts:
        hit = _hit(system, start)
        if hit is not None:
            leg = start.leg.value if start.leg and system.legs == 2 else "1"
            result.setdefault(leg, []).append((start, hit))
    return result


def _hit(system: System, start: StartSeen) -> Hit | None:
    lowest, highest = start.lowest, start.highest_a
    if lowest is None or highest is None or lowest.bound or highest.bound or not start.before_v or lowest.value <= 0:
        return None
    across = start.leg is Leg.BOTH and system.legs == 2
    nominal = system.v_nominal * (2 if across else 1)
    read = [r.value for r in start.run.readings if r.quantity == "a" and r.stat is Stat.BEFORE]
    share = 1.0 if across or system.legs == 1 else 0.5
    base_a = read[-1] if read else start.base_w * share / nominal
    # The dip is a difference of two readings of one meter: its scale error is in both, and in their difference by the dip's share.
    dip = start.before_v - lowest.value
    u_v = (lowest.u or 0.0) * max(0.1, dip / start.before_v)
    load = replace(start.load, soft_starter=True) if start.run.eased else start.load
    left = lowest.value / start.before_v
    at_lowest, u_share = _amps_at_lowest(load, base_a * left, highest, lowest.value / nominal, nominal)
    own_a = _own_a(at_lowest, base_a * left, load.start_pf)
    if own_a is None:
        return None
    pf = (base_a * left + own_a * load.start_pf) / at_lowest  # of all that ran then
    return Hit(
        v_before=start.before_v,
        v_min=lowest.value,
        i_before=base_a,
        i_max=at_lowest,
        pf_before=LEG_PF,
        pf_max=pf,
        nominal_v=nominal,
        u_v=u_v,
        i_high=highest.value,
        u_share=u_share,
    )


def _own_a(total_a: float, base_a: float, pf: float) -> float | None:
    """The amps of a start of a power factor that make a total beside a base at unity; None where the total is not above the base."""
    across = base_a * math.sqrt(1 - pf**2)
    if total_a <= base_a or total_a <= across:
        return None
    return math.sqrt(total_a**2 - across**2) - base_a * pf


def _amps_at_lowest(load: Load, base_a: float, highest: Value, v_share: float, nominal: float) -> tuple[float, float]:
    """Amps at the moment of the lowest volts, and how far they may be out, a share of themselves.

    The highest amps come a little later, as the volts recover. A motor at
    standstill is a constant impedance: where its standstill amps are known
    better than by its kind, what it draws at the lowest volts follows; it is
    never more than the highest that was read.
    """
    u_read = (highest.u or 0.0) / highest.value if highest.value else 0.0
    if load.grade_of_start is Grade.D or load.eased:
        return highest.value, u_read
    added = load.start_total_va / nominal * v_share
    sine = math.sqrt(1 - load.start_pf**2)
    total = math.hypot(base_a + added * load.start_pf, added * sine)
    return (total, START_U[load.grade_of_start]) if total < highest.value else (highest.value, u_read)


def carried_a(system: System, sessions: Iterable[Dated], leg: str) -> float:
    """The most amps that were carried steadily on a leg, from the watts held there."""
    place = Place.TOTAL if system.legs == 1 or leg == Leg.BOTH.value else Place(leg)
    volts = system.v_nominal * (system.legs if place is Place.TOTAL else 1)
    stood = [
        h.w for dated in sessions for h in dated.findings.holds if h.place is place and not h.tripped and not h.planned
    ]
    return max(stood, default=0.0) / volts


def start_models_of(given: Given) -> dict[str, StartModel]:
    """What starts meet, by leg, through every start that was read well enough."""
    starts = [
        start
        for dated in given.sessions
        for start in dated.findings.starts
        if start.outcome in (Outcome.HELD, Outcome.STALLED)
    ]
    start_models: dict[str, StartModel] = {}
    for leg, hits in hits_of(given.system, starts).items():
        try:
            start_models[leg] = fit_start_model([hit for _, hit in hits], carried_a(given.system, given.sessions, leg))
        except NotEnoughReadings:
            continue
    return start_models
