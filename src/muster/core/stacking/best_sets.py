"""What stacks: which loads can run together on a source, each started upon the others, and which must be left out."""

from __future__ import annotations

import heapq
import itertools
from collections.abc import Sequence
from dataclasses import dataclass

from ..loads import TIERS, Load
from ..sources.limits import Limit, binding
from ..supply import Leg, System
from .order import start_order
from .what_if import stack_va

BEST = 20
MOST_LOOKS = 40_000
"""Sets looked at before a search is called off; what was found by then is given, and said to be not all."""
TIER_WEIGHT = (10_000.0, 100.0, 1.0)
"""A must outweighs any number of shoulds that a home has, a should any number of coulds."""


@dataclass(frozen=True)
class StackSet:
    """Loads that fit together, in the order in which they start; what they draw on the whole source and each leg [VA]."""

    loads: tuple[Load, ...]
    va: float
    leg_va: tuple[float, ...]
    out: tuple[Load, ...]

    @property
    def tiers(self) -> tuple[int, ...]:
        """How many loads of each tier it holds."""
        return tuple(sum(1 for load in self.loads if load.tier is tier) for tier in TIERS)


@dataclass(frozen=True)
class Stacks:
    """The best sets, ranked by tier; ``whole`` when the search saw all there are."""

    sets: tuple[StackSet, ...]
    whole: bool


@dataclass(frozen=True)
class _Places:
    """Limits and loads by place (the whole source, each leg), in volt-amperes."""

    steady: tuple[float, ...]
    surge: tuple[float, ...]
    run: tuple[tuple[float, ...], ...]
    start: tuple[tuple[float, ...], ...]

    def takes(self, level: Sequence[float], i: int) -> bool:
        """Whether load ``i`` may be started upon a level and then run."""
        places = range(len(self.steady))
        return all(
            level[p] + self.start[i][p] <= self.surge[p] + 1e-9 and level[p] + self.run[i][p] <= self.steady[p] + 1e-9
            for p in places
            if self.run[i][p] > 0
        )


def _places(loads: Sequence[Load], limits: tuple[Limit, ...], system: System) -> _Places:
    where: tuple[Leg | None, ...] = (None, *system.leg_names) if system.legs == 2 else (None, Leg.ONE)

    def most(place: Leg | None, *, surge: bool) -> float:
        limit = binding(limits, place, surge=surge)
        return limit.w if limit else float("inf")

    def on(load: Load, place: Leg | None) -> float:
        return 1.0 if place is None or system.legs == 1 else load.share_on(place)

    return _Places(
        tuple(most(place, surge=False) for place in where),
        tuple(most(place, surge=True) for place in where),
        tuple(tuple(load.run_va * on(load, place) for place in where) for load in loads),
        tuple(tuple(load.moment_va(system.hz) * on(load, place) for place in where) for load in loads),
    )


def fits_together(loads: Sequence[Load], limits: tuple[Limit, ...], system: System) -> bool:
    """Whether loads can be started one upon the other, by the start order, and run together."""
    order = start_order(loads)
    places = _places(order, limits, system)
    level = [0.0] * len(places.steady)
    for i in range(len(order)):
        if not places.takes(level, i):
            return False
        level = [a + b for a, b in zip(level, places.run[i], strict=True)]
    return True


def _worth(load: Load, most_va: float) -> float:
    """What a load counts in ranking: its tier, then a little for what it draws."""
    return TIER_WEIGHT[TIERS.index(load.tier)] + 0.5 * load.run_va / most_va


def best_stacks(loads: Sequence[Load], limits: tuple[Limit, ...], system: System, count: int = BEST) -> Stacks:
    """The best maximal sets of loads that fit together, ranked by tier, then by what they draw.

    A set fits when its loads can be started one upon the other by the start
    order and then run, on the whole source and each leg. Branch and bound
    over the loads in that order: what a branch could still gain is bounded by
    all that is left, so that the first branches, which take what they can,
    cut most others off.
    """
    order = start_order(loads)
    if not order:
        return Stacks((), whole=True)
    places = _places(order, limits, system)
    most_va = max(load.run_va for load in order)
    worth = [_worth(load, most_va) for load in order]
    left = [sum(worth[i:]) for i in range(len(worth) + 1)]
    search = _Search(places, worth, left, count)
    whole = search.run()
    seen_there = sorted(search.best, key=lambda item: -item[0])
    return Stacks(tuple(_told(order, picks, system) for _, picks in seen_there), whole)


@dataclass
class _Search:
    places: _Places
    worth: list[float]
    left: list[float]
    count: int

    def run(self) -> bool:
        """Look through the sets; whether all were looked at or rightly passed over."""
        self.best: list[tuple[float, tuple[int, ...]]] = []
        self.looks = 0
        n, width = len(self.worth), len(self.places.steady)
        waiting: list[tuple[int, tuple[int, ...], float, tuple[float, ...]]] = [(0, (), 0.0, (0.0,) * width)]
        while waiting:
            at, picks, worth, level = waiting.pop()
            self.looks += 1
            if self.looks > MOST_LOOKS:
                return False
            if len(self.best) >= self.count and worth + self.left[at] <= self.best[0][0]:
                continue
            if at == n:
                self._keep(worth, picks)
                continue
            waiting.append((at + 1, picks, worth, level))
            if self.places.takes(level, at):
                run = self.places.run[at]
                raised = tuple(a + b for a, b in zip(level, run, strict=True))
                waiting.append((at + 1, (*picks, at), worth + self.worth[at], raised))
        return True

    def _keep(self, worth: float, picks: tuple[int, ...]) -> None:
        if not self._maximal(picks):
            return
        item = (worth, picks)
        if len(self.best) < self.count:
            heapq.heappush(self.best, item)
        else:
            heapq.heappushpop(self.best, item)

    def _maximal(self, picks: tuple[int, ...]) -> bool:
        """Whether no load left out would fit as well."""
        return not any(self._fits(tuple(sorted((*picks, i)))) for i in range(len(self.worth)) if i not in picks)

    def _fits(self, picks: tuple[int, ...]) -> bool:
        level: Sequence[float] = (0.0,) * len(self.places.steady)
        for i in picks:
            if not self.places.takes(level, i):
                return False
            level = tuple(a + b for a, b in zip(level, self.places.run[i], strict=True))
        return True


def _told(order: Sequence[Load], picks: Sequence[int], system: System) -> StackSet:
    loads = tuple(order[i] for i in picks)
    legs = system.leg_names if system.legs == 2 else ()
    return StackSet(
        loads,
        stack_va(loads, None, system),
        tuple(stack_va(loads, leg, system) for leg in legs),
        tuple(load for i, load in enumerate(order) if i not in picks),
    )


def leave_out(wished: Sequence[Load], limits: tuple[Limit, ...], system: System) -> tuple[Load, ...]:
    """The loads to leave out so that the rest of a wished set fits: as few as can be, then of the lowest tier, then the smallest.

    Up to three are found for certain; beyond, the lowest tier and the largest go first.
    """
    if fits_together(wished, limits, system):
        return ()
    by_price = sorted(wished, key=lambda load: (load.kind_figures.medical, -TIERS.index(load.tier), load.run_va))
    for size in (1, 2, 3):
        if _too_few(size, wished, limits, system):
            continue
        fitting = [
            out
            for out in itertools.combinations(by_price, size)
            if fits_together([load for load in wished if load not in out], limits, system)
        ]
        if fitting:
            return min(fitting, key=_price)
    dropped: list[Load] = []
    for load in sorted(
        wished, key=lambda load: (load.kind_figures.medical, -TIERS.index(load.tier), -load.start_total_va)
    ):
        dropped.append(load)
        if fits_together([item for item in wished if item not in dropped], limits, system):
            break
    return tuple(dropped)


def _too_few(size: int, wished: Sequence[Load], limits: tuple[Limit, ...], system: System) -> bool:
    """Whether even the largest so many left out would leave too much running somewhere."""
    places = _places(wished, limits, system)
    for p, most in enumerate(places.steady):
        drawn = sorted((run[p] for run in places.run), reverse=True)
        if sum(drawn[size:]) > most + 1e-9:
            return True
    return False


def _price(out: tuple[Load, ...]) -> tuple[int, float, float]:
    medical = sum(1 for load in out if load.kind_figures.medical)
    return medical, sum(TIER_WEIGHT[TIERS.index(load.tier)] for load in out), sum(load.run_va for load in out)
