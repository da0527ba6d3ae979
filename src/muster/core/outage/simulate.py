"""The home's day: loads switching by duty and hours, drawn many times, counted from change to change.

The first form: demand alone. The source does not yet act back on the loads.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import cache
from itertools import combinations

import numpy as np
from numpy.typing import NDArray

from ..brief import Brief, BringUp
from ..errors import OutOfRange
from ..loads import COLD_PICKUP_X, Load, Part, in_weather
from ..loads.parts import level_at
from ..quantities import Grade, worst_grade
from ..stacking.order import by_school
from .demand import DRAWS, RARE_SHARE, SEED, HighestDraws, OutageDemand, Simulate, StartDemand, StartsTogether, wilson
from .kernel import CHANGES_A_RUN, outages
from .rhythm import BRING_UP_GAP_S, HOUR_S, JITTER, apart_of, start_extra_va, windows_of
from .rules import NO_RULES, Rules

DEMAND_PERCENTILE = 99.0
PEAK_MEAN_S = 60.0
STRETCH_SHARE = 0.8
"""A long stretch is time at or above this share of the peak."""

Floats = NDArray[np.float64]


def _most_cycles(load: Load, horizon_s: float) -> int:
    """How many cycles of a load an outage can hold at most."""
    if load.duty.once:
        return int(np.ceil(horizon_s / 3600)) + 1
    if not load.duty.cycles:
        return 1
    shortest_s = (load.duty.on_min + load.duty.off_min) * 60 * (1 - JITTER)
    return int(np.ceil(horizon_s / shortest_s)) + 2


def _shares(load: Load, brief: Brief) -> list[float]:
    """Share of a load on each place: the whole source, then each leg of two."""
    legs = brief.system.leg_names if brief.system.legs == 2 else ()
    return [1.0, *(load.share_on(leg) for leg in legs)]


def _first_times(loads: Sequence[Load], brief: Brief, first: Sequence[str]) -> list[float]:
    """When each load is first switched on: at once, or one after another by the start order."""
    if brief.bring_up is BringUp.AT_ONCE:
        return [0.0] * len(loads)
    place = {load.key: index for index, load in enumerate(by_school(loads, brief.schools.motor_order, first))}
    return [BRING_UP_GAP_S * place[load.key] for load in loads]


def _rngs(loads: Sequence[Load], seed: int) -> list[np.random.Generator]:
    """A generator for each load, by its key: the order of the loads changes nothing."""
    return [np.random.default_rng([seed, *load.key.encode()]) for load in loads]


def _percentile(values: Sequence[float] | Floats, share: float = DEMAND_PERCENTILE) -> float:
    return float(np.percentile(np.asarray(values), share)) if len(values) else 0.0


def _tail(values: Floats) -> HighestDraws:
    """The highest draws down to the first below the percentile."""
    if not len(values):
        return HighestDraws()
    at = DEMAND_PERCENTILE / 100 * (len(values) - 1)
    highest = np.sort(np.asarray(values))[::-1][: len(values) - int(at)]
    return HighestDraws(tuple(float(f"{value:.8g}") for value in highest), len(values))


def simulate(
    loads: Sequence[Load],
    brief: Brief,
    draws: int = DRAWS,
    seed: int = SEED,
    seen: Callable[[int, int], None] | None = None,
    rules: Rules = NO_RULES,
) -> OutageDemand:
    """Simulate an outage ``draws`` times and say what the home needs of a source.

    ``seen`` is told after every batch how many draws are done, of how many. Of the household's ``rules`` those count
    that need no source: what is kept apart, and what is brought up first.

    Each load runs by its duty (random phase, ±20 % a cycle) within its hours;
    a load with its weather set, as its duty is at the site's temperature; loads
    that run by themselves call at once at the beginning, the thermostatic
    ones for three times their usual first on-time. Between changes nothing moves, so sums are
    exact. Apparent powers are added as plain numbers, never less than their
    phasor sum. The same seed gives the same result, whatever the order of the
    loads.

    Raises
    ------
    OutOfRange
        If the loads switch so often over the outage that it cannot be played through.

    References
    ----------
    docs/method.md; cold pick-up and jitter are trade figures.
    """
    sited = (in_weather(load, brief.site.temp_c, brief.room_c) for load in loads)
    loads = sorted((load for load in sited if load is not None), key=lambda load: load.key)
    _require_playable(loads, brief)
    if not loads:
        return _gathered(loads, brief, _nothing(brief), draws, seed)
    rngs, parts, done = _rngs(loads, seed), [], 0
    for count in _batches(loads, brief, draws):
        parts.append(_outages(loads, brief, count, rngs, rules))
        done += count
        if seen is not None:
            seen(done, draws)
    return _gathered(loads, brief, tuple(np.concatenate(part) for part in zip(*parts, strict=True)), draws, seed)


MOST_CHANGES = 10_000_000
"""Changes of one outage at most, about 400 MB: a load that cycles every six seconds for two weeks makes 0.8 million."""


def _require_playable(loads: Sequence[Load], brief: Brief) -> None:
    """Refuse, before anything is made ready, what memory would not hold."""
    horizon_s = brief.outage_h * 3600
    for load in loads:
        most = (_most_cycles(load, horizon_s) + brief.outage_h) * len(load.running_parts) * CHANGES_A_RUN
        if most > MOST_CHANGES / max(1, len(loads)):
            raise OutOfRange(
                f"{load.name} switches up to {most:.0f} times in {brief.outage_h:g} h",
                where="duty",
                want="longer times on and off, or a shorter outage",
            )


Gathered = tuple[Floats, ...]
RANDOM_AT_ONCE = 3_000_000
"""Random numbers drawn at a time, to keep memory small."""
DRAWS_AT_ONCE = 100
"""Draws between two words of how far it is."""


def _batches(loads: Sequence[Load], brief: Brief, draws: int) -> list[int]:
    """Draws cut into batches; the batches change nothing in the result."""
    each = sum(_most_cycles(load, brief.outage_h * 3600) for load in loads) * 2
    size = max(1, min(DRAWS_AT_ONCE, RANDOM_AT_ONCE // each))
    return [min(size, draws - first) for first in range(0, draws, size)]


def _edges_s(brief: Brief) -> Floats:
    """Where the hours of the outage begin and end [s]."""
    edges: Floats = np.minimum(np.arange(int(np.ceil(brief.outage_h)) + 1) * 3600.0, brief.outage_h * 3600)
    return edges


def _outages(
    loads: Sequence[Load], brief: Brief, draws: int, rngs: Sequence[np.random.Generator], rules: Rules
) -> Gathered:
    """Draw so many outages and step through them."""
    horizon_s = brief.outage_h * 3600
    windows = [windows_of(load, brief) for load in loads]
    counts = [_most_cycles(load, horizon_s) for load in loads]
    rolled = [rng.uniform(-1, 1, (draws, 2 * count + 1)) for rng, count in zip(rngs, counts, strict=True)]
    random_draws = np.concatenate([part[:, 1:].reshape(draws, -1, 2) for part in rolled], axis=1)
    phase = np.stack([(part[:, 0] + 1) / 2 for part in rolled], axis=1)
    called = [load.calls_at_once and bool(own) and own[0][0] == 0 for load, own in zip(loads, windows, strict=True)]
    once_x = [
        (COLD_PICKUP_X if load.duty.cycles else 1.0) if call else 0.0 for load, call in zip(loads, called, strict=True)
    ]
    parts = [load.running_parts for load in loads]
    flat = [(load, part) for load, own in zip(loads, parts, strict=True) for part in own]
    gathered: Gathered = outages(
        np.array([_powers(load, part, brief) for load, part in flat]),
        np.array([[part.from_s, np.inf if part.for_s is None else part.for_s, part.start_s] for _, part in flat]),
        np.array([_shares(load, brief) for load, _ in flat]),
        np.cumsum([0, *(len(own) for own in parts)]),
        np.array([load.duty.on_min * 60.0 for load in loads]),
        np.array([-1.0 if load.duty.once else load.duty.off_min * 60.0 for load in loads]),
        np.array(once_x),
        np.array(_first_times(loads, brief, rules.first)),
        np.array([opens for own in windows for opens, _ in own], dtype=np.float64),
        np.array([closes for own in windows for _, closes in own], dtype=np.float64),
        np.cumsum([0, *(len(own) for own in windows)]),
        phase,
        random_draws,
        np.cumsum([0, *counts]),
        JITTER,
        apart_of(loads, rules.apart),
        _edges_s(brief),
        np.array([PEAK_MEAN_S, HOUR_S]),
        STRETCH_SHARE,
    )
    return gathered


def _powers(load: Load, part: Part, brief: Brief) -> list[float]:
    """A part's watts, volt-amperes and start, and what its load's own parts draw when it starts: that is no base."""
    own = [level_at(load.running_parts, part.from_s, what) for what in ("run_w", "run_va")]
    return [part.run_w, part.run_va, start_extra_va(load, part, brief), *own]


def _nothing(brief: Brief) -> Gathered:
    """What no load asks."""
    places, hours = 1 if brief.system.legs == 1 else 3, _edges_s(brief).size - 1
    return (
        np.zeros((1, places, 3)),
        np.zeros(1),
        np.zeros(1),
        np.zeros((1, places, hours)),
        np.zeros((1, 0)),
        np.zeros((1, 0, 7)),
    )


def _gathered(loads: Sequence[Load], brief: Brief, gathered: Gathered, draws: int, seed: int) -> OutageDemand:
    """The demand over all draws: percentiles of peaks and moments, means of energies."""
    peaks, neutral_va, stretches_s, by_hour, stood_s, worst_start = gathered
    hours = by_hour / 3600
    legs = range(1, 3) if brief.system.legs == 2 else range(1)
    whole = hours[:, 0]
    on_s = stood_s.mean(axis=0)
    first = brief.outage_from_hour
    return OutageDemand(
        draws=draws,
        seed=seed,
        hours=tuple((first + i) % 24 for i in range(hours.shape[2])),
        peak_w=_percentile(peaks[:, 0, 0]),
        peak_p50_w=_percentile(peaks[:, 0, 0], 50),
        peak_va=_percentile(peaks[:, 0, 2]),
        longest_hour_w=_percentile(peaks[:, 0, 1]),
        leg_w=tuple(_percentile(peaks[:, leg, 0]) for leg in legs),
        leg_va=tuple(_percentile(peaks[:, leg, 2]) for leg in legs),
        leg_hour_w=tuple(_percentile(peaks[:, leg, 1]) for leg in legs),
        neutral_a=_percentile(neutral_va / brief.system.v_nominal),
        stretch_s=_percentile(stretches_s),
        total_wh=float(whole.sum(axis=1).mean()),
        hour_wh=tuple(whole.mean(axis=0).tolist()),
        hour_p50_wh=tuple(np.percentile(whole, 50, axis=0).tolist()),
        hour_p90_wh=tuple(np.percentile(whole, 90, axis=0).tolist()),
        leg_hour_wh=tuple(tuple(hours[:, leg].mean(axis=0).tolist()) for leg in legs),
        load_wh=_wh_by_load(loads, on_s),
        starts=tuple(
            _start_demand(load, worst_start[:, i]) for i, load in enumerate(loads) if (worst_start[:, i, 2] >= 0).any()
        ),
        together=_together(loads, worst_start),
        peak_tail_w=_tail(peaks[:, 0, 0]),
        peak_tail_va=_tail(peaks[:, 0, 2]),
        leg_tail_w=tuple(_tail(peaks[:, leg, 0]) for leg in legs),
        leg_tail_va=tuple(_tail(peaks[:, leg, 2]) for leg in legs),
        neutral_tail_a=_tail(neutral_va / brief.system.v_nominal),
        all_at_once_va=sum(
            load.moment_va(brief.system.hz) for load in loads if first in load.hours and load.calls_at_once
        ),
        grade=worst_grade(*(load.run_grade for load in loads)) if loads else Grade.D,
    )


def _wh_by_load(loads: Sequence[Load], on_s: Floats) -> dict[str, float]:
    """Mean energy by load: each part's watts for the time it stood."""
    owners = [(load.key, part.run_w) for load in loads for part in load.running_parts]
    result = dict.fromkeys((load.key for load in loads), 0.0)
    for (key, run_w), seconds in zip(owners, on_s, strict=True):
        result[key] += run_w * float(seconds) / 3600
    return result


def _start_demand(load: Load, worst_start: Floats) -> StartDemand:
    """A load's worst moment over the draws in which it started."""
    seen = worst_start[worst_start[:, 2] >= 0]
    base_w, base_va, moment_va, leg_moment_va = (_percentile(seen[:, i]) for i in range(4))
    return StartDemand(
        load=load.key,
        base_w=base_w,
        base_va=base_va,
        moment_va=moment_va,
        leg_moment_va=leg_moment_va,
        base_tail_w=_tail(seen[:, 0]),
        moment_tail_va=_tail(seen[:, 2]),
    )


def _together(loads: Sequence[Load], worst_start: Floats) -> tuple[StartsTogether, ...]:
    """The pairs whose starts fall together in more outages than chance may allow, each once, the heaviest first."""
    draws = worst_start.shape[0]
    pairs = []
    for i, j in combinations(range(len(loads)), 2):
        first, second = worst_start[:, i, 6] == j, worst_start[:, j, 6] == i
        hits = int((first | second).sum())
        share_low, _ = wilson(hits, draws)
        if share_low <= RARE_SHARE:
            continue
        moments = np.concatenate([worst_start[first, i, 4:6], worst_start[second, j, 4:6]])
        pairs.append(
            StartsTogether(
                load=loads[i].key,
                other=loads[j].key,
                share=hits / draws,
                share_low=share_low,
                moment_va=_percentile(moments[:, 0]),
                leg_moment_va=_percentile(moments[:, 1]),
                moment_tail_va=_tail(moments[:, 0]),
            )
        )
    return tuple(sorted(pairs, key=lambda pair: (-pair.moment_va, pair.load)))


def draws_of(draws: int = DRAWS, seed: int = SEED) -> Simulate:
    """A simulation of so many draws with this seed; the same question is answered once."""

    @cache
    def simulated(loads: tuple[Load, ...], brief: Brief, rules: Rules = NO_RULES) -> OutageDemand:
        return simulate(loads, brief, draws, seed, rules=rules)

    return simulated


def warm() -> None:
    """Compile the kernel, or read it from disk where it was compiled before."""
    simulate([Load(key="1", name="heater", kind="heater", run_w=1000.0, pf=1.0)], Brief(outage_h=1), draws=1)
