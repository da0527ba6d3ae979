"""The order of starts that keeps the highest moment lowest, and the proof of the peak it reaches."""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..loads.load import Load
from ..supply import Leg, System
from ..trade.schools import MotorOrder

SLOWEST_HZ = 50.0
"""The longest cycle of any supply here is that of 50 Hz."""
EXACT_TO = 12
"""Loads of which every order is weighed, by the sets they pass through; more are searched from the plain rule."""
ROUNDS = 40
EVEN_A = 1e-9
"""Peaks nearer to one another than this are even."""

Floats = NDArray[np.float64]
Amps = NDArray[np.complex128]


def start_order(loads: Iterable[Load]) -> tuple[Load, ...]:
    """Order of starts that keeps the highest moment lowest: by (start − run), largest first.

    Optimal for one scalar quantity, by exchange of neighbours: swapping two
    neighbours that stand the other way round never raises the peak. An
    inrush shorter than a cycle is no start.
    """
    return tuple(sorted(loads, key=lambda load: (load.run_va - load.moment_va(SLOWEST_HZ), load.key)))


def by_school(loads: Iterable[Load], school: MotorOrder, first: Sequence[str] = ()) -> tuple[Load, ...]:
    """The order in which a job's school brings loads up: largest first, or creeping up to the largest.

    Before all others those whose keys are ``first``, by the household's rule; what is medical waits for none of them.
    """
    ordered = start_order(loads)
    by_job = ordered if school is MotorOrder.LARGEST_FIRST else ordered[::-1]
    if not first:
        return by_job
    return tuple(sorted(by_job, key=lambda load: load.key not in first and not load.kind_figures.medical))


@dataclass(frozen=True)
class Moment:
    """One start of an order: what runs beneath it and what stands at its moment, on each leg [A]."""

    load: Load
    beneath_a: tuple[float, ...]
    moment_a: tuple[float, ...]

    @property
    def highest_a(self) -> float:
        """The fuller leg at the moment of this start [A]."""
        return max(self.moment_a)


@dataclass(frozen=True)
class Order:
    """An order of starts with each of its moments; ``gap_a`` is how far its peak may lie above the best there is."""

    moments: tuple[Moment, ...]
    exact: bool
    gap_a: float

    @property
    def loads(self) -> tuple[Load, ...]:
        """The loads in their order."""
        return tuple(moment.load for moment in self.moments)

    @property
    def peak(self) -> Moment | None:
        """The highest moment."""
        return max(self.moments, key=lambda moment: moment.highest_a, default=None)

    @property
    def peak_a(self) -> float:
        """The highest amps on a leg."""
        return self.peak.highest_a if self.peak else 0.0


def phasors(loads: Sequence[Load], system: System) -> tuple[Amps, Amps]:
    """Amps of each load on each leg, running and at its start: (n, legs) each, lagging power factors.

    A load across both legs draws the same amps on either.
    """
    shares = np.array(
        [[1.0 if system.legs == 1 else load.share_on(leg) for leg in _legs(system)] for load in loads]
    ).reshape(len(loads), system.legs)
    run = np.array([_phasor(load.run_va, load.pf) for load in loads], dtype=np.complex128)
    start = np.array([_moment(load, system.hz) for load in loads], dtype=np.complex128)
    return shares * run[:, None] / system.v_nominal, shares * start[:, None] / system.v_nominal


def _legs(system: System) -> tuple[Leg, ...]:
    return system.leg_names if system.legs == 2 else (Leg.ONE,)


def _moment(load: Load, hz: float) -> complex:
    """The start where there is one of a cycle or more, else the running load."""
    return _phasor(load.start_total_va, load.start_pf) if load.start_lasts(hz) else _phasor(load.run_va, load.pf)


def _phasor(va: float, pf: float) -> complex:
    return complex(va * pf, va * math.sqrt(max(0.0, 1 - pf * pf)))


def order_of_starts(loads: Sequence[Load], system: System, *, exact: bool = False, gap_a: float = 0.0) -> Order:
    """The moments of an order as it is now."""
    run, start = phasors(loads, system)
    beneath = np.zeros(system.legs, dtype=np.complex128)
    moments = []
    for i, load in enumerate(loads):
        at = np.abs(beneath + start[i])
        moments.append(Moment(load, tuple(np.abs(beneath).tolist()), tuple(at.tolist())))
        beneath = beneath + run[i]
    return Order(tuple(moments), exact, gap_a)


def best_order(loads: Sequence[Load], system: System) -> Order:
    """The order whose highest amps on a leg are lowest, in phasors.

    The moment of a start hangs only on the set that already runs, so to
    ``EXACT_TO`` loads every order is weighed by its sets (2ⁿ of them, each
    reached the best way). Of more loads the plain rule's order is bettered by
    moving one load at a time; ``gap_a`` is then the distance to a bound below
    which no order can come.

    References
    ----------
    Dynamic programming over subsets (Bellman; Held and Karp 1962), for a bottleneck.
    """
    ruled = start_order(loads)
    if not ruled:
        return Order((), exact=True, gap_a=0.0)
    if len(ruled) <= EXACT_TO:
        return order_of_starts([ruled[i] for i in _by_sets(ruled, system)], system, exact=True)
    run, start = phasors(ruled, system)
    plain = order_of_starts([ruled[i] for i in _bettered(run, start)], system)
    gap = max(0.0, plain.peak_a - _least_peak(run, start))
    return Order(plain.moments, exact=gap < EVEN_A, gap_a=gap)


def _by_sets(loads: Sequence[Load], system: System) -> list[int]:
    """The order of least peak, as places in ``loads``; of equal ones that which keeps to the plain rule."""
    run, start = phasors(loads, system)
    n = len(loads)
    members = ((np.arange(2**n)[:, None] >> np.arange(n)) & 1).astype(bool)
    running = members @ run
    best = np.full(2**n, np.inf)
    best[0] = 0.0
    last = np.zeros(2**n, dtype=np.int64)
    for size in range(1, n + 1):
        sets = np.flatnonzero(members.sum(axis=1) == size)
        for i in range(n - 1, -1, -1):
            with_i = sets[members[sets, i]]
            before = with_i ^ (1 << i)
            peak = np.maximum(best[before], np.abs(running[before] + start[i]).max(axis=1))
            better = peak < best[with_i] - 1e-12
            best[with_i[better]] = peak[better]
            last[with_i[better]] = i
    order: list[int] = []
    at = 2**n - 1
    while at:
        order.append(int(last[at]))
        at ^= 1 << order[-1]
    return order[::-1]


def _heights(order: Sequence[int], run: Amps, start: Amps) -> Floats:
    """The fuller leg at each moment of an order [A]."""
    runs = run[list(order)]
    beneath = np.cumsum(runs, axis=0) - runs
    heights: Floats = np.abs(beneath + start[list(order)]).max(axis=1)
    return heights


def _bettered(run: Amps, start: Amps) -> list[int]:
    """The order as it is now, made better by moving or exchanging the load at its peak, until no place is better."""
    order = list(range(len(run)))
    for _ in range(ROUNDS):
        heights = _heights(order, run, start)
        at = int(np.argmax(heights))
        rest = [*order[:at], *order[at + 1 :]]
        tries = [[*rest[:place], order[at], *rest[place:]] for place in range(len(order))]
        tries += [_exchanged(order, at, other) for other in range(len(order)) if other != at]
        peaks = [float(_heights(other, run, start).max()) for other in tries]
        best = int(np.argmin(peaks))
        if peaks[best] >= float(heights.max()) - EVEN_A:
            break
        order = tries[best]
    return order


def _exchanged(order: list[int], item: int, other: int) -> list[int]:
    changed = list(order)
    changed[item], changed[other] = changed[other], changed[item]
    return changed


def _least_peak(run: Amps, start: Amps) -> float:
    """A bound that no order comes below: every start alone, and the lightest last start upon all the others."""
    whole = run.sum(axis=0)
    alone = np.abs(start).max(axis=1).max()
    last = np.abs(whole - run + start).max(axis=1).min()
    return float(max(alone, last))
