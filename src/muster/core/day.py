"""The home's day: loads switching by duty and hours, drawn many times, counted from change to change.

The first form: demand alone. The source does not yet act back on the loads.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from .brief import Brief, BringUp
from .loads import COLD_PICKUP_X, Load, start_order
from .quantities import Grade, worst_grade

DRAWS = 400
SEED = 1911
JITTER = 0.20
"""Each on and off time varies by this share (physics.md section 9)."""
BRING_UP_GAP_S = 15.0
"""Between one load and the next when they are brought back one by one."""
DEMAND_PERCENTILE = 99.0
PEAK_MEAN_S = 60.0
SPELL_SHARE = 0.8
"""A long spell is time at or above this share of the peak."""
UPPER_X = 1.25
"""A demand at grade C or D enters the verdict at its upper figure, +25 % (physics.md section 10)."""

Floats = NDArray[np.float64]


@dataclass(frozen=True)
class StartDemand:
    """The worst moment at which a load starts, over all draws (99th percentile of each day's worst).

    ``base_w`` and ``base_va`` run beneath it on the whole source; ``moment_va``
    holds its own start; ``leg_moment_va`` is that on its worst leg.
    """

    load: str
    base_w: float
    base_va: float
    moment_va: float
    leg_moment_va: float


@dataclass(frozen=True)
class DayDemand:
    """What a home asks over an outage, over all draws.

    Powers are the 99th percentile over draws of each outage's highest 60 s
    mean; ``leg_w`` is by leg; ``hour_wh`` the mean energy of each hour from
    the start of the outage, with P50 and P90 beside it; ``load_wh`` the mean energy by load.
    """

    draws: int
    seed: int
    hours: tuple[int, ...]
    peak_w: float
    peak_p50_w: float
    peak_va: float
    longest_hour_w: float
    leg_w: tuple[float, ...]
    leg_va: tuple[float, ...]
    leg_hour_w: tuple[float, ...]
    neutral_a: float
    spell_s: float
    total_wh: float
    hour_wh: tuple[float, ...]
    hour_p50_wh: tuple[float, ...]
    hour_p90_wh: tuple[float, ...]
    leg_hour_wh: tuple[tuple[float, ...], ...]
    load_wh: dict[str, float]
    starts: tuple[StartDemand, ...]
    all_at_once_va: float
    grade: Grade

    @property
    def worst_start(self) -> StartDemand | None:
        """The start with the highest moment."""
        return max(self.starts, key=lambda start: start.moment_va, default=None)


@dataclass(frozen=True)
class _Windows:
    """When a load may run, in seconds of the outage."""

    starts: Floats
    ends: Floats


def _windows(load: Load, brief: Brief, horizon_s: float) -> _Windows:
    hours = set(load.hours)
    first = brief.outage_from_hour
    flags = [(first + i) % 24 in hours for i in range(int(np.ceil(horizon_s / 3600)))]
    edges = np.flatnonzero(np.diff(np.array([0, *flags, 0])))
    starts, ends = edges[::2] * 3600.0, np.minimum(edges[1::2] * 3600.0, horizon_s)
    return _Windows(starts.astype(float), ends.astype(float))


def _cycles(
    load: Load, first_on_s: float, horizon_s: float, rng: np.random.Generator, *, cold: bool
) -> tuple[Floats, Floats]:
    """On and off times of a thermostat over the whole outage, before its hours are applied."""
    on_s, off_s = load.duty.on_min * 60, load.duty.off_min * 60
    if off_s <= 0:
        return np.array([first_on_s]), np.array([horizon_s])
    count = int(np.ceil(horizon_s / ((on_s + off_s) * (1 - JITTER)))) + 2
    ons = on_s * (1 + JITTER * rng.uniform(-1, 1, count))
    offs = off_s * (1 + JITTER * rng.uniform(-1, 1, count))
    if cold:
        ons[0] *= COLD_PICKUP_X
        begin = first_on_s
    else:
        begin = -rng.uniform(0, on_s + off_s)
    starts = begin + np.concatenate([[0.0], np.cumsum(ons + offs)[:-1]])
    return starts, starts + ons


def _runs(
    load: Load, windows: _Windows, first_on_s: float, horizon_s: float, rng: np.random.Generator
) -> tuple[Floats, Floats]:
    """Stretches in which the load runs: its cycles cut to its hours.

    A thermostatic load that is wanted at the beginning calls at once and
    stays on longer (cold pick-up).
    """
    wanted_at_once = load.calls_at_once and bool(windows.starts.size) and windows.starts[0] == 0
    starts, ends = _cycles(load, first_on_s, horizon_s, rng, cold=wanted_at_once)
    low = np.maximum(starts[:, None], windows.starts[None, :])
    high = np.minimum(ends[:, None], windows.ends[None, :])
    low = np.maximum(low, first_on_s if wanted_at_once else 0.0)
    keep = high > low
    lows, highs = low[keep], high[keep]
    order = np.argsort(lows)
    return lows[order], highs[order]


def _energy(times: Floats, level: Floats) -> Floats:
    """Running integral of a level that is constant from each time to the next."""
    return np.concatenate([[0.0], np.cumsum(level[:-1] * np.diff(times))])


def _highest_mean(times: Floats, level: Floats, span_s: float) -> float:
    """Highest mean over any stretch of ``span_s`` of a level that is constant between ``times``.

    The mean over a sliding window is piecewise linear in its position, so its
    highest stands where one end of the window meets a change.
    """
    if times[-1] - times[0] <= span_s:
        return float((level[:-1] * np.diff(times)).sum() / span_s)
    highest = float(level[:-1].max())
    if _longest_spell(times, level, highest) >= span_s:
        return highest
    energy = _energy(times, level)
    begins = np.concatenate([times, times - span_s])
    begins = begins[(begins >= times[0]) & (begins <= times[-1] - span_s)]
    spans = np.interp(begins + span_s, times, energy) - np.interp(begins, times, energy)
    return float(spans.max() / span_s)


def _longest_spell(times: Floats, level: Floats, above: float) -> float:
    """Longest unbroken time at or above a level [s]."""
    flags = (level[:-1] >= above).astype(np.int8)
    edges = np.flatnonzero(np.diff(np.concatenate([[0], flags, [0]])))
    if not edges.size:
        return 0.0
    return float((times[edges[1::2]] - times[edges[::2]]).max())


RUN_W, RUN_VA, START_VA = 0, 1, 2
"""Rows of a draw's running sums: watts, volt-amperes, and what starts add on top."""


@dataclass(frozen=True)
class _Draw:
    """One outage drawn: change times, and the running sums that stand from each until the next.

    ``sums`` is (times, row, place): rows as above; place 0 is the whole source,
    then the legs of a two-leg supply.
    """

    times: Floats
    sums: Floats
    starts: tuple[tuple[int, Floats], ...]
    load_s: tuple[float, ...]

    def moment_va(self, place: int) -> Floats:
        """Running and starting volt-amperes together."""
        moment: Floats = self.sums[:, RUN_VA, place] + self.sums[:, START_VA, place]
        return moment


def _shares(load: Load, brief: Brief) -> Floats:
    """Share of a load on each place: the whole source, then each leg of two."""
    legs = brief.system.leg_names if brief.system.legs == 2 else ()
    return np.array([1.0, *(load.share_on(leg) for leg in legs)])


def _draw(
    loads: Sequence[Load],
    windows: Sequence[_Windows],
    firsts: Sequence[float],
    brief: Brief,
    rngs: Sequence[np.random.Generator],
) -> _Draw:
    horizon_s = brief.outage_h * 3600
    places = _shares(loads[0], brief).size
    times, changes = [np.array([0.0, horizon_s])], [np.zeros((2, 3 * places))]
    starts, load_s = [], []
    for index, (load, window, first, rng) in enumerate(zip(loads, windows, firsts, rngs, strict=True)):
        lows, highs = _runs(load, window, first, horizon_s, rng)
        load_s.append(float((highs - lows).sum()))
        shares = _shares(load, brief)
        running = np.outer([load.run_w, load.run_va, 0.0], shares).ravel()
        times += [lows, highs]
        changes += [np.tile(running, (lows.size, 1)), np.tile(-running, (lows.size, 1))]
        if load.has_start(brief.system.hz):
            extra_va = load.start_total_va - load.run_va
            surge = np.outer([0.0, 0.0, extra_va], shares).ravel()
            times += [lows, np.minimum(lows + load.start_s, horizon_s)]
            changes += [np.tile(surge, (lows.size, 1)), np.tile(-surge, (lows.size, 1))]
            starts.append((index, lows))
    at, change = np.concatenate(times), np.concatenate(changes)
    unique, where = np.unique(at, return_inverse=True)
    sums = np.stack([np.bincount(where, column, unique.size) for column in change.T], axis=1).cumsum(axis=0)
    return _Draw(unique, sums.reshape(-1, 3, places), tuple(starts), tuple(load_s))


def _first_times(loads: Sequence[Load], bring_up: BringUp) -> list[float]:
    """When each load is first switched on: at once, or one after another by the start order."""
    if bring_up is BringUp.AT_ONCE:
        return [0.0] * len(loads)
    place = {load.key: index for index, load in enumerate(start_order(loads))}
    return [BRING_UP_GAP_S * place[load.key] for load in loads]


def _rngs(loads: Sequence[Load], seed: int) -> list[np.random.Generator]:
    """A generator for each load, by its key: the order of the roll changes nothing."""
    return [np.random.default_rng([seed, *load.key.encode()]) for load in loads]


def upper(loads: Sequence[Load]) -> tuple[Load, ...]:
    """The loads at their upper figures: those not measured raised by 25 %."""
    return tuple(
        load
        if load.run_grade.is_measured
        else replace(
            load, run_w=load.run_w * UPPER_X, start_va=None if load.start_va is None else load.start_va * UPPER_X
        )
        for load in loads
    )


def _percentile(values: Sequence[float] | Floats, share: float = DEMAND_PERCENTILE) -> float:
    return float(np.percentile(np.asarray(values), share)) if len(values) else 0.0


def simulate(loads: Sequence[Load], brief: Brief, draws: int = DRAWS, seed: int = SEED) -> DayDemand:
    """Simulate an outage ``draws`` times and say what the home asks of a source.

    Each load runs by its duty (random phase, ±20 % a cycle) within its hours;
    loads that run by themselves call at once at the beginning, the thermostatic
    ones for three times their usual first on-time. Between changes nothing moves, so sums are
    exact. Apparent powers are added as plain numbers, never less than their
    phasor sum. The same seed gives the same result, whatever the order of the
    roll.

    References
    ----------
    docs/method.md; cold pick-up and jitter are trade figures.
    """
    loads = sorted(loads, key=lambda load: load.key)
    tally = _Tally(loads, brief)
    if loads:
        horizon_s = brief.outage_h * 3600
        windows = [_windows(load, brief, horizon_s) for load in loads]
        firsts = _first_times(loads, brief.bring_up)
        rngs = _rngs(loads, seed)
        for _ in range(draws):
            tally.add(_draw(loads, windows, firsts, brief, rngs))
    return tally.result(draws, seed)


class _Tally:
    """Gathers each draw's extremes and energies; place 0 is the whole source, then the legs."""

    def __init__(self, loads: Sequence[Load], brief: Brief) -> None:
        self.loads, self.brief = loads, brief
        self.places = 1 if brief.system.legs == 1 else 3
        self.hours = int(np.ceil(brief.outage_h))
        self.edges = np.minimum(np.arange(self.hours + 1) * 3600.0, brief.outage_h * 3600)
        self.peaks: list[list[tuple[float, float, float]]] = []
        self.apart_a: list[float] = []
        self.spells_s: list[float] = []
        self.hour_wh: list[Floats] = []
        self.load_s: list[tuple[float, ...]] = []
        self.starts: dict[int, list[tuple[float, float, float, float]]] = {}

    def add(self, draw: _Draw) -> None:
        times, w, va = draw.times, draw.sums[:, RUN_W], draw.sums[:, RUN_VA]
        peaks = [
            (
                _highest_mean(times, w[:, place], PEAK_MEAN_S),
                _highest_mean(times, va[:, place], PEAK_MEAN_S),
                _highest_mean(times, w[:, place], 3600.0),
            )
            for place in range(self.places)
        ]
        self.peaks.append(peaks)
        apart_va = np.abs(va[:, 1] - va[:, 2]).max() if self.places == 3 else 0.0
        self.apart_a.append(float(apart_va) / self.brief.system.v_nominal)
        self.spells_s.append(_longest_spell(times, w[:, 0], SPELL_SHARE * peaks[0][0]))
        self.hour_wh.append(np.stack([self._by_hour(times, w[:, place]) for place in range(self.places)]))
        self.load_s.append(draw.load_s)
        for index, lows in draw.starts:
            if lows.size:
                self.starts.setdefault(index, []).append(self._worst(draw, index, lows))

    def _by_hour(self, times: Floats, level: Floats) -> Floats:
        hours: Floats = np.diff(np.interp(self.edges, times, _energy(times, level))) / 3600
        return hours

    def _worst(self, draw: _Draw, index: int, lows: Floats) -> tuple[float, float, float, float]:
        load, at = self.loads[index], np.searchsorted(draw.times, lows)
        shares = _shares(load, self.brief)
        legs = [place for place in range(1, self.places) if shares[place] > 0] or [0]
        return (
            float((draw.sums[at, RUN_W, 0] - load.run_w).max()),
            float((draw.sums[at, RUN_VA, 0] - load.run_va).max()),
            float(draw.moment_va(0)[at].max()),
            max(float(draw.moment_va(place)[at].max()) for place in legs),
        )

    def result(self, draws: int, seed: int) -> DayDemand:
        peaks = np.array(self.peaks) if self.peaks else np.zeros((1, self.places, 3))
        hours = np.array(self.hour_wh) if self.hour_wh else np.zeros((1, self.places, self.hours))
        load_s = np.array(self.load_s).mean(axis=0) if self.load_s else np.zeros(0)
        legs = range(1, self.places) if self.places == 3 else range(1)
        whole = hours[:, 0]
        return DayDemand(
            draws=draws,
            seed=seed,
            hours=tuple((self.brief.outage_from_hour + i) % 24 for i in range(self.hours)),
            peak_w=_percentile(peaks[:, 0, 0]),
            peak_p50_w=_percentile(peaks[:, 0, 0], 50),
            peak_va=_percentile(peaks[:, 0, 1]),
            longest_hour_w=_percentile(peaks[:, 0, 2]),
            leg_w=tuple(_percentile(peaks[:, leg, 0]) for leg in legs),
            leg_va=tuple(_percentile(peaks[:, leg, 1]) for leg in legs),
            leg_hour_w=tuple(_percentile(peaks[:, leg, 2]) for leg in legs),
            neutral_a=_percentile(self.apart_a),
            spell_s=_percentile(self.spells_s),
            total_wh=float(whole.sum(axis=1).mean()),
            hour_wh=tuple(whole.mean(axis=0).tolist()),
            hour_p50_wh=tuple(np.percentile(whole, 50, axis=0).tolist()),
            hour_p90_wh=tuple(np.percentile(whole, 90, axis=0).tolist()),
            leg_hour_wh=tuple(tuple(hours[:, leg].mean(axis=0).tolist()) for leg in legs),
            load_wh={load.key: load.run_w * float(on_s) / 3600 for load, on_s in zip(self.loads, load_s, strict=True)},
            starts=tuple(
                StartDemand(self.loads[index].key, *(_percentile([row[i] for row in rows]) for i in range(4)))
                for index, rows in sorted(self.starts.items())
            ),
            all_at_once_va=sum(load.start_total_va for load in self._wanted_at_once()),
            grade=worst_grade(*(load.run_grade for load in self.loads)) if self.loads else Grade.D,
        )

    def _wanted_at_once(self) -> Iterator[Load]:
        first = self.brief.outage_from_hour
        return (load for load in self.loads if first in load.hours and load.calls_at_once)
