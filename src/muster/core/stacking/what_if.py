"""What stands on the source now, and what would happen if one more load were switched on."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from ..loads import Load, short_name
from ..quantities import plain
from ..sources.limits import Limit, binding
from ..supply import Leg, System, neutral_a
from .order import start_order


@dataclass(frozen=True)
class Crossing:
    """A limit gone over: by how many VA, on which leg (None: the whole source)."""

    limit: Limit
    over_va: float

    @property
    def leg_words(self) -> str:
        """Where, in words."""
        return f"on {self.limit.leg.label}" if self.limit.leg else "on the whole source"


@dataclass(frozen=True)
class WhatIf:
    """Whether a load can be switched on now.

    ``answer`` is ``fits``, ``after`` (once ``drop`` is off), ``never`` (not even alone), or
    ``unknown`` where nobody said how it starts, and the most that it may start with does not fit.
    """

    load: Load
    answer: str
    crossing: Crossing | None
    drop: tuple[Load, ...] = ()
    started_w: float | None = None
    """On how much it was seen to start on this source, where a limit says that it would not. [W]"""
    base_w: float = 0.0

    @property
    def short(self) -> str:
        """The reason in a few words, for the list of loads."""
        if self.answer == "fits":
            return ""
        if self.started_w is not None:
            return "tried on less"
        if self.answer == "never":
            return "not on this source"
        if self.answer == "unknown":
            return "kind not said"
        return f"after the {short_name(self.drop[0])}" if len(self.drop) == 1 else "after several are off"

    def _of_started(self, name: str, started_w: float) -> str:
        """What was seen of its start, and what a limit says of more."""
        on = f"on {plain(started_w, 'w')}" if started_w > 0 else "alone"
        if self.answer == "fits" or self.crossing is None:
            return f"The {name} was seen to start {on} here, which is no less than now."
        over = plain(round(self.crossing.over_va, -1) or self.crossing.over_va, "va")
        return (
            f"The {name} was seen to start {on} here; {plain(self.base_w, 'w')} are on now, "
            f"and by the {self.crossing.limit.name} it would go {over} over."
        )

    @property
    def sentence(self) -> str:
        """The answer as a person would say it."""
        name = short_name(self.load)
        if self.started_w is not None:
            return self._of_started(name, self.started_w)
        if self.crossing is None:
            return f"If the {name} starts now, it fits."
        over = plain(round(self.crossing.over_va, -1) or self.crossing.over_va, "va")
        if self.answer == "unknown":
            return f"What kind of load the {name} is was not said: it may start with up to {over} too much {self.crossing.leg_words}, or with nothing more than it runs at."
        first = f"If the {name} starts now, it goes {over} over {self.crossing.limit.name} {self.crossing.leg_words}."
        if self.answer == "never":
            return f"{first} It does not fit even alone."
        names = " and the ".join(short_name(load) for load in self.drop)
        return (
            f"{first} Fits once the {names} is off."
            if len(self.drop) == 1
            else (f"{first} Fits once the {names} are off.")
        )


def stack_va(loads: Sequence[Load], leg: Leg | None, system: System, starting: Load | None = None) -> float:
    """Apparent power on a leg (None: the whole source), a starting load at its start [VA].

    Apparent powers are added as plain numbers, which is never less than their phasor sum.
    """
    total = 0.0
    for load in loads:
        va = load.moment_va(system.hz) if load is starting else load.run_va
        total += va * (1.0 if leg is None or system.legs == 1 else load.share_on(leg))
    return total


def worst_crossing(
    on: Sequence[Load], limits: tuple[Limit, ...], system: System, starting: Load | None = None
) -> Crossing | None:
    """The limit gone over by most, steady or at the start; None when all hold."""
    places: tuple[Leg | None, ...] = (None, *system.leg_names) if system.legs == 2 else (None, Leg.ONE)
    crossing_found = []
    for place in places:
        for surge in (False, True) if starting else (False,):
            limit = binding(limits, place, surge=surge)
            if limit is None:
                continue
            va = stack_va(on, place, system, starting if surge else None)
            if va > limit.w:
                crossing_found.append(Crossing(limit, va - limit.w))
    return max(crossing_found, key=lambda crossing: crossing.over_va, default=None)


def _spared(load: Load) -> tuple[bool, int, float]:
    """How readily a load is asked to make room: what nobody's health hangs on, of the lowest tier, the smallest."""
    return load.kind_figures.medical, -load.tier.rank, load.run_va


def what_if(
    load: Load,
    on: Sequence[Load],
    limits: tuple[Limit, ...],
    system: System,
    started: Mapping[str, float] | None = None,
) -> WhatIf:
    """Whether a load that is off could be switched on now, and if not, after what.

    ``started`` says on how much each load was seen to start on this source:
    what was seen goes before what a nameplate's surge says of a planned start.
    """
    crossing = worst_crossing([*on, load], limits, system, load)
    if crossing is None:
        return WhatIf(load=load, answer="fits", crossing=None)
    starting: Load | None = load
    started_w = (started or {}).get(load.key)
    if started_w is not None:
        starting, steady = None, worst_crossing([*on, load], limits, system)
        if steady is None:
            base_w = sum(other.run_w for other in on)
            return WhatIf(
                load=load,
                answer="fits" if base_w <= started_w else "unknown",
                crossing=crossing,
                started_w=started_w,
                base_w=base_w,
            )
        crossing = steady  # it starts, and running it is too much
    if starting is not None and load.start_unknown and worst_crossing([*on, load], limits, system) is None:
        return WhatIf(load=load, answer="unknown", crossing=crossing)
    if worst_crossing([load], limits, system, starting) is not None:
        return WhatIf(load=load, answer="never", crossing=crossing)
    for other in sorted(on, key=_spared):
        rest = [x for x in on if x is not other]
        if worst_crossing([*rest, load], limits, system, starting) is None:
            return WhatIf(load=load, answer="after", crossing=crossing, drop=(other,))
    dropped: list[Load] = []
    for other in sorted(on, key=lambda item: (*_spared(item)[:2], -item.run_va)):
        dropped.append(other)
        rest = [x for x in on if x not in dropped]
        if worst_crossing([*rest, load], limits, system, starting) is None:
            break
    return WhatIf(load=load, answer="after", crossing=crossing, drop=tuple(dropped))


def whole_source(on: Sequence[Load], most: Limit, system: System) -> str:
    """What the whole source carries and, on two legs, what its neutral should read, in words."""
    said = f"{plain(stack_va(on, None, system), 'va')} of {plain(most.w, 'w')}, {most.basis}"
    if system.legs == 1:
        return said
    amps = {leg: stack_va(on, leg, system) / system.v_nominal for leg in system.leg_names}
    return f"{said}; neutral about {plain(neutral_a(*amps.values()), 'a')}"


def next_to_start(loads: Sequence[Load], on: Sequence[str]) -> Load | None:
    """The load to start next when nobody chose: the first of the start order that is off."""
    return next((load for load in start_order(loads) if load.key not in on), None)
