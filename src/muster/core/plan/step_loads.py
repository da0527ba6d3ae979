"""Steps: the house's own loads combined to come nearest to the watts wanted."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from ..errors import NotEnoughReadings
from ..loads import Load
from ..sessions import Step
from ..supply import Leg

Floats = NDArray[np.float64]

STEPS_PCT = (25, 50, 75, 100)
HOLD_STEP_S = 120.0
HOLD_RATING_S = 600.0
"""Hold at the rating: at least 10 min (docs/method/verdict.md#held-levels)."""
ALL_TRIED = 14
"""Loads whose combinations are all tried; longer lists are searched by sums in steps, then mended load by load."""
READ_ALL = "Read volts, watts and hertz on each leg."
IMBALANCE_WEIGHT = 0.15
"""How much a watt between the legs counts against a watt off the step."""
SWITCH_SHARE = 0.002
"""What one switching costs, as a share of the claim: so that a step keeps on what is on."""
SUM_BINS, TILT_BINS = 400, 21
"""How finely sums and leanings are told apart in a long list of loads."""


@dataclass(frozen=True)
class Wanted:
    """What a set of steps is planned within.

    ``claim_w`` scales the cost of a switching; ``leg_va`` is the most that may
    stand on one leg (its claim, a circuit, a meter; None: no limit) and
    ``whole_va`` on the whole source (its battery, DC fuse and lead); ``locked``
    loads are on in every step, ``dropped`` ones in none.
    """

    claim_w: float
    legs: int = 1
    leg_va: float | None = None
    locked: Collection[str] = ()
    dropped: Collection[str] = ()
    whole_va: float | None = None

    def scaled(self, share: float) -> Wanted:
        """The same with its limits at a share of what they are."""
        leg, whole = (None if va is None else va * share for va in (self.leg_va, self.whole_va))
        return replace(self, leg_va=leg, whole_va=whole)

    @property
    def limited(self) -> bool:
        """Whether there is any limit."""
        return self.leg_va is not None or self.whole_va is not None


_LEAN = {Leg.ONE: 1.0, Leg.TWO: -1.0, Leg.BOTH: 0.0}


@dataclass(frozen=True)
class _Loads:
    """The loads to choose from, as arrays: watts, watts leaning to leg 1, the same in VA, and which must be on."""

    loads: tuple[Load, ...]
    watts: Floats
    tilt: Floats
    va: Floats
    va_tilt: Floats
    locked: NDArray[np.bool_]


def ladder_plan(
    loads: Sequence[Load], targets: Sequence[tuple[str, float, float]], wanted: Wanted, ask: str = READ_ALL
) -> tuple[Step, ...]:
    """A step for each target (label, watts, seconds to hold), each the nearest sum of loads.

    A step minimises watts off target plus a share of the imbalance between
    legs, prefers keeping on what is on, and keeps every leg and the whole within their limits.
    All combinations are tried of up to ``ALL_TRIED`` loads; of more, sums in
    steps find a combination that is then mended load by load.

    Raises
    ------
    NotEnoughReadings
        If no load is left to plan with, or those locked are over a limit by themselves.
    """
    chosen = _chosen(loads, wanted)
    on = np.zeros(len(chosen.loads), dtype=bool)
    steps = []
    for label, target, hold_s in targets:
        on = nearest(chosen, target, on, wanted)
        keys = tuple(load.key for load, pick in zip(chosen.loads, on, strict=True) if pick)
        steps.append(
            Step(
                label=label,
                loads=keys,
                target_w=target,
                planned_w=float(chosen.watts[on].sum()),
                hold_s=hold_s,
                ask=ask,
            )
        )
    return tuple(steps)


def _chosen(loads: Sequence[Load], wanted: Wanted) -> _Loads:
    kept = tuple(sorted((x for x in loads if x.key not in wanted.dropped), key=lambda load: (-load.run_w, load.key)))
    if not kept:
        raise NotEnoughReadings("no loads yet", where="loads", want="add a load first")
    watts, va = np.array([load.run_w for load in kept]), np.array([load.run_va for load in kept])
    lean = np.array([_LEAN[load.leg] for load in kept]) if wanted.legs == 2 else np.zeros(len(kept))
    locked = np.array([load.key in wanted.locked for load in kept])
    loads_found = _Loads(loads=kept, watts=watts, tilt=lean * watts, va=va, va_tilt=lean * va, locked=locked)
    if over_limits(loads_found, loads_found.locked, wanted) > 0:
        raise NotEnoughReadings("what is locked on is over a limit by itself", where="loads", want="unlock a load")
    return loads_found


def over_limits(loads: _Loads, on: NDArray[np.bool_], wanted: Wanted) -> float:
    """Volt-amperes by which the fuller leg, or the whole, is over its limit."""
    over = 0.0
    if wanted.leg_va is not None:
        over = max(over, float(_fullest(loads, on[None, :], wanted.legs)[0]) - wanted.leg_va)
    if wanted.whole_va is not None:
        over = max(over, float(loads.va[on].sum()) - wanted.whole_va)
    return over


def _fullest(loads: _Loads, picks: NDArray[np.bool_], legs: int) -> Floats:
    """Volt-amperes on the fuller leg of each combination."""
    sums: Floats = picks @ loads.va
    return sums if legs == 1 else (sums + np.abs(picks @ loads.va_tilt)) / 2


def cost(loads: _Loads, on: NDArray[np.bool_], target: float, was: NDArray[np.bool_], wanted: Wanted) -> float:
    """What a step costs: watts off its target, leaning, switchings; infinite over a leg's limit."""
    return float(_costs(loads, on[None, :], target, was, wanted)[0])


def _costs(loads: _Loads, picks: NDArray[np.bool_], target: float, was: NDArray[np.bool_], wanted: Wanted) -> Floats:
    """The cost of each combination, one a row."""
    costs: Floats = np.abs(picks @ loads.watts - target) + IMBALANCE_WEIGHT * np.abs(picks @ loads.tilt)
    costs += SWITCH_SHARE * wanted.claim_w * (picks != was).sum(axis=1)
    costs[(loads.locked & ~picks).any(axis=1)] = np.inf
    if wanted.leg_va is not None:
        costs[_fullest(loads, picks, wanted.legs) > wanted.leg_va] = np.inf
    if wanted.whole_va is not None:
        costs[picks @ loads.va > wanted.whole_va] = np.inf
    return costs


def nearest(choices: _Loads, target: float, was: NDArray[np.bool_], wanted: Wanted) -> NDArray[np.bool_]:
    """The combination of least cost for a target, ``was`` being what is on now."""
    if len(choices.loads) <= ALL_TRIED:
        return _of_all(choices, target, was, wanted)
    return searched(choices, target, was, wanted)


def searched(choices: _Loads, target: float, was: NDArray[np.bool_], wanted: Wanted) -> NDArray[np.bool_]:
    """The better of a few searches of a long list of loads.

    Sums are counted in watts, a leg's limit is in volt-amperes: the limit is
    taken as it is, and as the watts it leaves at the loads' own power factor and
    at its poorest.
    """
    shares = [1.0]
    if wanted.limited:
        factors = choices.watts / choices.va
        shares += sorted({float(choices.watts.sum() / choices.va.sum()), float(factors.min())})
    begun = [by_sums(choices, target, was, wanted.scaled(share)) for share in shares]
    # A crowd of small loads where one large one would do cannot be mended a few at a time: begin with the one, too.
    begun.append(choices.locked | (np.arange(len(choices.loads)) == int(np.argmin(np.abs(choices.watts - target)))))
    result = [mended(choices, on, target, was, wanted) for on in begun]
    return min(result, key=lambda on: cost(choices, on, target, was, wanted))


def _of_all(choices: _Loads, target: float, was: NDArray[np.bool_], wanted: Wanted) -> NDArray[np.bool_]:
    picks = ((np.arange(2 ** len(choices.loads))[:, None] >> np.arange(len(choices.loads))) & 1).astype(bool)
    costs = _costs(choices, picks, target, was, wanted)
    result: NDArray[np.bool_] = picks[int(np.argmin(costs))]
    return result


def by_sums(choices: _Loads, target: float, was: NDArray[np.bool_], wanted: Wanted) -> NDArray[np.bool_]:
    """A good combination of a long list of loads: the fewest switchings to each sum and leaning, told apart in steps.

    Loads are taken one after another; for each sum (in steps) and leaning the
    cheapest way there is kept, and the decisions are read back from the best end.
    """
    reach = max(target, float(choices.watts[choices.locked].sum())) + float(choices.watts.max())
    step = reach / (SUM_BINS - 1)
    lean_step = max(float(np.abs(choices.tilt).sum()), 1.0) / (TILT_BINS // 2)
    best = np.full((SUM_BINS, TILT_BINS), np.inf)
    best[0, TILT_BINS // 2] = 0.0
    taken = np.zeros((len(choices.loads), SUM_BINS, TILT_BINS), dtype=bool)
    moves = [(round(w / step), round(t / lean_step)) for w, t in zip(choices.watts, choices.tilt, strict=True)]
    for i, (up, lean) in enumerate(moves):
        without = np.full_like(best, np.inf) if choices.locked[i] else best + (1.0 if was[i] else 0.0)
        with_it = _shifted(best, up, lean) + (0.0 if was[i] else 1.0)
        taken[i] = with_it < without
        best = np.minimum(with_it, without)
    sums = np.arange(SUM_BINS)[:, None] * step
    leans = np.abs(np.arange(TILT_BINS) - TILT_BINS // 2)[None, :] * lean_step
    costs = np.abs(sums - target) + IMBALANCE_WEIGHT * leans + SWITCH_SHARE * wanted.claim_w * best
    if wanted.leg_va is not None:
        costs[(sums + leans) / wanted.legs > wanted.leg_va] = np.inf
    if wanted.whole_va is not None:
        costs[np.broadcast_to(sums > wanted.whole_va, costs.shape)] = np.inf
    at, lean_at = (int(x) for x in np.unravel_index(int(np.argmin(costs)), costs.shape))
    on = np.zeros(len(choices.loads), dtype=bool)
    for i in range(len(choices.loads) - 1, -1, -1):
        if taken[i, at, lean_at]:
            on[i] = True
            at, lean_at = at - moves[i][0], lean_at - moves[i][1]
    return on | choices.locked


def _shifted(best: Floats, up: int, lean: int) -> Floats:
    """What is reached by taking a load: moved up by its sum, aside by its leaning; off the edge is lost."""
    moved = np.full_like(best, np.inf)
    if up >= SUM_BINS:
        return moved
    low, high = max(0, lean), min(TILT_BINS, TILT_BINS + lean)
    moved[up:, low:high] = best[: SUM_BINS - up, low - lean : high - lean]
    return moved


def mended(
    loads: _Loads, on: NDArray[np.bool_], target: float, was: NDArray[np.bool_], wanted: Wanted
) -> NDArray[np.bool_]:
    """A combination made better a few loads at a time: the best switch or exchange (one or two for one or two), until none helps.

    One that is over a limit is first emptied: of the loads that would bring it
    within by themselves, the one that costs least; else the one that helps most.
    """
    on = on.copy()
    while over_limits(loads, on, wanted) > 0 and (on & ~loads.locked).any():
        less = [on ^ item for item in np.eye(len(on), dtype=bool)[on & ~loads.locked]]
        on = min(less, key=lambda other: (over_limits(loads, other, wanted), cost(loads, other, target, was, wanted)))
    here = cost(loads, on, target, was, wanted)
    for _ in range(4 * len(on)):
        tries = on ^ _exchanges(on)
        costs = _costs(loads, tries, target, was, wanted)
        best = int(np.argmin(costs))
        if costs[best] >= here - 1e-9:
            break
        on, here = tries[best], float(costs[best])
    return on


def _exchanges(on: NDArray[np.bool_]) -> NDArray[np.bool_]:
    """Which loads to switch in each try: each alone, each pair, and with each pair of unlike state a third."""
    n = len(on)
    item = np.eye(n, dtype=bool)
    first, second = np.triu_indices(n, 1)
    pairs = item[first] | item[second]
    unlike = pairs[on[first] != on[second]]
    threes = (unlike[:, None, :] ^ item[None, :, :]).reshape(-1, n)
    return np.concatenate([item, pairs, threes])


def ladder_steps(loads: Sequence[Load], wanted: Wanted) -> tuple[Step, ...]:
    """Steps at no load, 25, 50, 75 and 100 % of a claim, the last held 10 min.

    Raises
    ------
    NotEnoughReadings
        If the loads is empty.
    """
    targets = [
        (f"{r} %", wanted.claim_w * r / 100, HOLD_RATING_S if r == STEPS_PCT[-1] else HOLD_STEP_S) for r in STEPS_PCT
    ]
    return (no_load(), *ladder_plan(loads, targets, wanted))


def no_load() -> Step:
    """Everything off, and read."""
    return Step(
        label="no load",
        loads=(),
        target_w=0.0,
        planned_w=0.0,
        hold_s=60.0,
        ask="Read volts and hertz with everything off.",
    )


def within(loads: Sequence[Load], wanted: Wanted) -> tuple[Load, ...]:
    """The loads that may be on together: the largest are left off until every leg and the whole are within their limits."""
    if not loads:
        return ()
    subject = _chosen(loads, wanted)
    on = np.ones(len(subject.loads), dtype=bool)
    for i in range(len(subject.loads)):
        if over_limits(subject, on, wanted) > 0 and not subject.locked[i]:
            on[i] = False
    kept = {load.key for load, pick in zip(subject.loads, on, strict=True) if pick}
    return tuple(load for load in loads if load.key in kept)
