"""What a plan loads a source with, and a check with its result."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace

from ..brief import Home
from ..loads import Load
from ..sessions import PROTOCOLS, Step
from ..sources import Source
from ..supply import Leg
from ..working import Working


@dataclass(frozen=True)
class SafetyCheck:
    """A check as it is now: passed or not, why, and what would make it pass."""

    slug: str
    title: str
    what: str
    why: str
    passed: bool
    reason: str
    passes_by: str
    computed: bool = False
    lasts: bool = False
    workings: tuple[Working, ...] = ()


@dataclass(frozen=True)
class Planned:
    """The most that a plan puts on a leg and in one load [A]: which step, and which load.

    ``source_loaded`` is False where the source itself carries none of it: an
    idle reading, a test on the mains.
    """

    leg_a: float
    step: str
    load_a: float
    load: str
    total_w: float
    source_loaded: bool = True


def planned(protocol: str, home: Home, source: Source, steps: Iterable[Step]) -> Planned:
    """The most amps of any step by the loads' running figures.

    A step that names no load counts by the watts it asks for; where it asks
    for none either, anything may be on, and the source's claim is taken.
    """
    system, steps = home.brief.system, tuple(steps)
    most = Planned(leg_a=0.0, step="", load_a=0.0, load="", total_w=0.0)
    for step in steps:
        on = [home.by_key[key] for key in step.loads if key in home.by_key]
        asked_w = (step.planned_w or step.target_w or 0.0) if not on else 0.0
        for leg in system.leg_names:
            va = sum(load.run_va * _share(load, leg, system.legs) for load in on) + asked_w / system.legs
            if va / system.v_nominal > most.leg_a:
                most = replace(most, leg_a=va / system.v_nominal, step=step.label)
        most = replace(most, total_w=max(most.total_w, asked_w, sum(load.run_w for load in on)))
    used = {key for step in steps for key in step.loads}
    for load in home.every:
        amps = load.run_va / (system.v_nominal * (2 if load.leg is Leg.BOTH and system.legs == 2 else 1))
        if load.key in used and amps > most.load_a:
            most = replace(most, load_a=amps, load=load.name)
    test = PROTOCOLS.get(protocol)
    if test is not None and test.reads_mains:
        return replace(most, source_loaded=False)
    if most.leg_a == 0 and steps and all(_asks_for_nothing(step) for step in steps):
        return replace(most, source_loaded=False)
    if most.leg_a == 0:
        per_leg = source.claims.cont_w / system.legs / system.v_nominal
        return replace(most, leg_a=per_leg, step="the claim", total_w=source.claims.cont_w)
    return most


def _asks_for_nothing(step: Step) -> bool:
    """Whether a step says that nothing is to be on."""
    return not step.loads and (step.planned_w == 0 or step.target_w == 0)


def _share(load: Load, leg: Leg, legs: int) -> float:
    return 1.0 if legs == 1 else load.share_on(leg)
