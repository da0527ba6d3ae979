"""What a soft starter would change for one motor, on the sources of the job."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from ..quantities import plain
from ..sources.limits import Limit
from ..stacking.what_if import WhatIf, what_if
from ..supply import Leg, System
from . import Load


@dataclass(frozen=True)
class StartWay:
    """A start one way: its apparent power, amps on its leg, length, power factor, and whether each source takes it."""

    label: str
    va: float
    amps: float
    seconds: float
    pf: float
    answers: tuple[WhatIf, ...]


def compare_soft(load: Load, limits: Sequence[tuple[Limit, ...]], system: System) -> tuple[StartWay, ...]:
    """The start without and with a soft starter, alone on each source; empty where no motor starts.

    ``limits`` are those of each source. Amps are at nominal volts.
    """
    if not load.kind_figures.turns:
        return ()
    volts = system.v_nominal * (2 if load.leg is Leg.BOTH else 1)
    ways = (("without", replace(load, soft_starter=False)), ("with a soft starter", replace(load, soft_starter=True)))
    return tuple(
        StartWay(
            label=words,
            va=item.start_total_va,
            amps=item.start_total_va / volts,
            seconds=item.start_s,
            pf=item.start_pf,
            answers=tuple(what_if(item, (), of_source, system) for of_source in limits),
        )
        for words, item in ways
    )


def describe_by_source(ways: Sequence[StartWay], names: Sequence[str]) -> tuple[str, ...]:
    """A sentence for each source: how the start stands there, alone, either way."""
    said = []
    for index, name in enumerate(names):
        parts = []
        for way in ways:
            crossing = way.answers[index].crossing
            over = "" if crossing is None else f"{plain(crossing.over_va, 'va')} over {crossing.limit.name}"
            parts.append(f"{way.label} {over or 'it fits'}")
        said.append(f"{name[0].upper()}{name[1:]}, alone: {'; '.join(parts)}.")
    return tuple(said)
