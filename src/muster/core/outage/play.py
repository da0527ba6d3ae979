"""An outage played through on what is known of a source: many draws, on both cores, seeded."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace

import numpy as np

from ..brief import Brief
from ..character import Character
from ..character.impedance import START_U
from ..errors import OutOfRange
from ..loads import TIERS, Load, Tier, short_name
from ..quantities import Grade
from ..sources.panels import Location
from ..supply import Leg
from .capability import STARTS_UNREAD, Capability, capability_of
from .demand import RARE_SHARE, SEED, UPPER_X
from .feedback import play_all
from .layout import (
    LEVEL,
    LEVEL_BITS,
    LOG_COLUMNS,
    OUTCOMES,
    PLACES,
    Edge,
    Floats,
    Happening,
    Ints,
    KeptDraws,
    OutcomeColumn,
)
from .nights import Night, OutageEvent, told_of
from .played import DRAWS, CausedBy, Chance, Failure, HourBand, OutagePlayed, Spread
from .ready import Play
from .rhythm import HOUR_S
from .row_chances import rows_played
from .rules import Rules
from .spread import spread_of
from .sun import harvest_w
from .tables import capacity_by_hour, edges_of, home_of, setting_of
from .unsure import Z_90

CORES = 2
DRAWS_AT_ONCE = 250
"""Draws between two words of how far it is."""
MOST_REFUELS = 64
MOST_EVENTS = 1 << 18
"""Happenings and levels of one draw at most: two weeks of twenty loads that start four times an hour make half as many."""
NIGHT_STEPS, LEAST_STEP_S = 360, 60.0
"""An outage that is told is cut into so many steps at most, none shorter than a minute."""
TINY_S = 1e-6
WORST_OF = 0.99
TRIPPED = [OutcomeColumn.TRIPS, OutcomeColumn.START_TRIPS, OutcomeColumn.BREAKS]
MOST_SWITCHES = 2_000_000
"""Changes of one outage at most: beyond, it would not be played through in any time worth waiting."""


def ready(
    loads: Sequence[Load], brief: Brief, character: Character, rules: Rules | None = None, seed: int = SEED
) -> Play:
    """Make an outage ready to be played.

    Parameters
    ----------
    loads
        Those of the home that are on the source.
    brief
        The outage, the air, the sun and the people about.
    character
        All that is known of the source.
    rules
        What the household does; nothing where not given.
    seed
        Of all random numbers.

    Returns
    -------
    Play
        ``missing`` says what nobody said and what is left out for it.

    Raises
    ------
    OutOfRange
        If the loads switch so often that it cannot be played through.
    """
    loads = tuple(sorted(loads, key=lambda load: load.key))
    _require_playable(loads, brief)
    rules = rules or Rules()
    capability = capability_of(character, brief)
    sun, without = _sun(character, brief, capability)
    starting = any(load.has_start(brief.system.hz) for load in loads)
    return Play(
        loads=loads,
        brief=brief,
        character=character,
        capability=capability,
        home=home_of(loads, brief, rules, character, seed),
        setting=setting_of(brief, capability, rules, sun, capacity_by_hour(character, brief)),
        missing=(*(item for item in capability.missing if item != STARTS_UNREAD or starting), *without),
        seed=seed,
    )


def _require_playable(loads: Sequence[Load], brief: Brief) -> None:
    switches = sum(
        brief.outage_h * 60 / (load.duty.on_min + load.duty.off_min) * 4 * len(load.running_parts)
        for load in loads
        if load.duty.cycles
    )
    if switches > MOST_SWITCHES:
        raise OutOfRange(
            f"the loads switch about {switches:.0f} times in {brief.outage_h:g} h",
            where="duty",
            want="longer times on and off, or a shorter outage",
        )


def _sun(
    character: Character, brief: Brief, capability: Capability
) -> tuple[tuple[Floats, Floats] | None, tuple[str, ...]]:
    """What the panels give by the edges of the outage; None, and why, where that cannot be told."""
    if not character.panels or not capability.has_battery:
        return None, ()
    if brief.place is None or brief.month is None:
        what = "the place" if brief.place is None else "the month"
        return None, (f"{what} on the brief: its panels are left out",)
    most = character.best("pv_most_w")
    place: Location = brief.place
    edges = edges_of(brief, sun=True)
    middle_s = edges + np.append(np.diff(edges) / 2, 0.0)
    return harvest_w(character.panels, place, brief, brief.month, middle_s, most.value.value if most else None), ()


# Playing


def _hours(play: Play) -> int:
    return math.ceil(play.brief.outage_h)


def kept_for(draws: int, loads: int, hours: int) -> KeptDraws:
    """Empty arrays for so many draws."""
    return KeptDraws(
        outcomes=np.zeros((draws, OUTCOMES)),
        by_hour=np.zeros((draws, PLACES, hours)),
        charge_wh=np.zeros((draws, hours + 1)),
        fuel_l=np.zeros((draws, hours + 1)),
        unserved_s=np.zeros((draws, loads)),
        causes=np.zeros((loads + 1, len(Happening)), dtype=np.int64),
        pairs=np.zeros((loads, loads), dtype=np.int64),
        refuel_s=np.full((draws, MOST_REFUELS), np.inf),
        failed=np.zeros((draws, loads)),
        failed_with=np.zeros((draws, loads), dtype=np.int64),
    )


def log_for(events: int) -> Floats:
    """Room for the happenings of one draw; none where no draw is told."""
    return np.zeros((events, LOG_COLUMNS))


def played(
    play: Play, units: Floats, run_x: Floats, start_x: Floats, first: int = 0, seen: Callable[[int], None] | None = None
) -> KeptDraws:
    """Play every row of ``units`` through, on both cores.

    Parameters
    ----------
    play
        What was made ready.
    units
        Rows of the source. (draws, columns)
    run_x, start_x
        What each load's running and start are of their figures. (draws, loads)
    first
        The number of the first draw.
    seen
        Told after every batch how many are done.

    Returns
    -------
    KeptDraws
        The same whatever the batches and the cores.
    """
    draws, n, hours = units.shape[0], len(play.loads), _hours(play)
    whole = kept_for(draws, n, int(hours))
    spans = [(at, min(at + DRAWS_AT_ONCE, draws)) for at in range(0, draws, DRAWS_AT_ONCE)]
    if len(spans) == 1 and draws > 1:
        spans = [(0, draws // 2), (draws // 2, draws)]

    def part(span: tuple[int, int]) -> tuple[Ints, Ints]:
        low, high = span
        mine = KeptDraws(
            outcomes=whole.outcomes[low:high],
            by_hour=whole.by_hour[low:high],
            charge_wh=whole.charge_wh[low:high],
            fuel_l=whole.fuel_l[low:high],
            unserved_s=whole.unserved_s[low:high],
            causes=np.zeros_like(whole.causes),
            pairs=np.zeros_like(whole.pairs),
            refuel_s=whole.refuel_s[low:high],
            failed=whole.failed[low:high],
            failed_with=whole.failed_with[low:high],
        )
        play_all(
            units[low:high], run_x[low:high], start_x[low:high], play.home, play.setting, first + low, mine, log_for(0)
        )
        return mine.causes, mine.pairs

    done = 0
    with ThreadPoolExecutor(CORES) as cores:
        for (low, high), (causes, pairs) in zip(spans, cores.map(part, spans), strict=True):
            whole.causes[:] += causes
            whole.pairs[:] += pairs
            done += high - low
            if seen is not None:
                seen(done)
    return whole


def scales(loads: Sequence[Load], draws: int, seed: int) -> tuple[Floats, Floats]:
    """What of its stated watts each load draws, and of its stated start, in each draw: drawn where nobody measured it."""
    run_x, start_x = np.ones((draws, len(loads))), np.ones((draws, len(loads)))
    for i, load in enumerate(loads):
        rng = np.random.default_rng([seed, 7, *load.key.encode()])
        if not load.run_grade.is_measured:
            run_x[:, i] = np.exp(rng.normal(0.0, math.log(UPPER_X) / Z_90, draws))
        start_x[:, i] = run_x[:, i] * np.exp(rng.normal(0.0, math.log(1 + START_U[load.grade_of_start]) / Z_90, draws))
    return run_x, start_x


def play_outage(
    play: Play, draws: int = DRAWS, seen: Callable[[int, int], None] | None = None, *, events: bool = True
) -> OutagePlayed:
    """Play an outage through and say what comes of it.

    Parameters
    ----------
    play
        What was made ready.
    draws
        How many outages with doubt, and as many at the stated values.
    seen
        Told after every batch how many are done, of how many.
    events
        Whether the middle and the worst draw are told.

    Returns
    -------
    OutagePlayed
        Repeatable: the same play and draws give the same.

    References
    ----------
    physics §9 and §12; docs/method/outage.md.
    """
    units = play.capability.drawn(draws, play.seed)
    run_x, start_x = scales(play.loads, draws, play.seed)
    ones = np.ones_like(run_x)

    def told(before: int) -> Callable[[int], None] | None:
        return None if seen is None else lambda done: seen(before + done, 2 * draws)

    with_doubt = played(play, units, run_x, start_x, seen=told(0))
    stated = played(play, play.capability.stated(draws), ones, ones, seen=told(draws))
    result = _gathered(play, with_doubt, stated, units, run_x, start_x)
    if not events:
        return result
    typical, worst = (
        night_of(play, log_of(play, draw, units[draw], run_x[draw], start_x[draw]))
        for draw in (result.typical, result.worst)
    )
    return replace(result, typical_night=typical, worst_night=worst)


def play_with_doubt(play: Play, draws: int) -> OutagePlayed:
    """So many outages with doubt alone, for a comparison on the same dice: nothing told, nothing as stated beside them."""
    units = play.capability.drawn(draws, play.seed)
    run_x, start_x = scales(play.loads, draws, play.seed)
    kept = played(play, units, run_x, start_x)
    return _gathered(play, kept, kept, units, run_x, start_x, spreads=False)


def log_of(play: Play, draw: int, unit: Floats, run_x: Floats, start_x: Floats) -> Floats:
    """All that happened in one draw, and every level of it.

    Parameters
    ----------
    play
        What was made ready.
    draw
        Its number.
    unit, run_x, start_x
        Its source and the scales of its loads.

    Returns
    -------
    ndarray
        In order of time, by the columns of a log. (rows, ``LOG_COLUMNS``)
    """
    log = log_for(MOST_EVENTS)
    kept = kept_for(1, len(play.loads), _hours(play))
    play_all(unit[None], run_x[None], start_x[None], play.home, play.setting, draw, kept, log)
    return log[log.any(axis=1)]


def events_of(play: Play, log: Floats) -> list[OutageEvent]:
    """What happened in one draw, in order of time, starts that held among it.

    Parameters
    ----------
    play
        What was made ready.
    log
        Of the draw, as ``log_of``.

    Returns
    -------
    list of OutageEvent
        Each with the heaviest of what else ran at its moment.
    """
    names, running, events = [*(short_name(load) for load in play.loads), ""], 0, []
    for at_s, kind, load, value, _ in log:
        if kind == LEVEL:
            running = int(load)
            continue
        events.append(
            OutageEvent(
                at_s=float(at_s),
                kind=Happening(int(kind)),
                load=names[int(load)],
                value=float(value),
                on=_heaviest(play, running, int(load)),
                volts=float(value) * _nominal(play, int(load)),
            )
        )
    return events


def _heaviest(play: Play, running: int, but: int) -> str:
    """The heaviest load of those whose bits are set, one left out; empty where nothing else runs."""
    on = [load for i, load in enumerate(play.loads[:LEVEL_BITS]) if running >> i & 1 and i != but]
    return short_name(max(on, key=lambda load: load.run_w)) if on else ""


def _nominal(play: Play, load: int) -> float:
    """Nominal volts between the two wires of a load."""
    system = play.brief.system
    across = load >= 0 and system.legs == 2 and play.loads[load].leg is Leg.BOTH
    return system.v_nominal * (2 if across else 1)


def night_of(play: Play, log: Floats) -> Night:
    """One outage told: what happened worth telling, what ran when, what it drew and what was left.

    Parameters
    ----------
    play
        What was made ready.
    log
        Of the draw, as ``log_of``.

    Returns
    -------
    Night
        Its figures in ``NIGHT_STEPS`` steps at most.
    """
    levels = log[log[:, 1] == LEVEL]
    horizon_s = play.brief.outage_h * HOUR_S
    step_s = max(LEAST_STEP_S, math.ceil(horizon_s / NIGHT_STEPS / LEAST_STEP_S) * LEAST_STEP_S)
    steps = math.ceil(horizon_s / step_s)
    until = np.append(levels[1:, 0], horizon_s)
    watts, left = np.zeros(steps), np.zeros(steps)
    first = np.minimum((levels[:, 0] / step_s).astype(np.int64), steps - 1)
    last = np.minimum(((until - TINY_S) / step_s).astype(np.int64), steps - 1)
    for i in range(levels.shape[0]):
        if until[i] > levels[i, 0]:
            watts[first[i] : last[i] + 1] = np.maximum(watts[first[i] : last[i] + 1], levels[i, 3])
            left[first[i] : last[i] + 1] = levels[i, 4]
    in_unit = "wh" if play.capability.has_battery else "l" if play.capability.has_tank else ""
    return Night(
        events=told_of(events_of(play, log)),
        step_s=step_s,
        watts=tuple(watts.tolist()),
        left=tuple(left.tolist()) if in_unit else (),
        left_unit=in_unit,
        runs=tuple(
            (short_name(load), _spans(levels[:, 0], until, (levels[:, 2].astype(np.int64) >> i & 1) > 0, step_s))
            for i, load in enumerate(play.loads[:LEVEL_BITS])
        ),
    )


def _spans(begin: Floats, until: Floats, on: np.ndarray, step_s: float) -> tuple[tuple[float, float], ...]:
    """When something was on, pauses shorter than a step left out. [s]"""
    spans: list[tuple[float, float]] = []
    for first, last, is_on in zip(begin, until, on, strict=True):
        if not is_on or last <= first:
            continue
        if spans and first - spans[-1][1] < step_s:
            spans[-1] = (spans[-1][0], float(last))
        else:
            spans.append((float(first), float(last)))
    return tuple(spans)


# Gathering


def failures(outcomes: Floats) -> dict[Failure, np.ndarray]:
    """Which of the draws each failure befell. (draws,) of bool"""
    trips = outcomes[:, TRIPPED].sum(axis=1)
    return {
        Failure.TRIP: trips > 0,
        Failure.START: (outcomes[:, OutcomeColumn.STALLS] > 0) | (outcomes[:, OutcomeColumn.START_TRIPS] > 0),
        Failure.RUN_OUT: np.isfinite(outcomes[:, OutcomeColumn.RAN_OUT_S]),
        Failure.OUT_OF_TOLERANCE: outcomes[:, OutcomeColumn.OUT_S] > 0,
        Failure.DIP: outcomes[:, OutcomeColumn.DIPS] > 0,
    }


def _bands(rows: Floats) -> tuple[HourBand, ...]:
    """P10, P50 and P90 of each column."""
    low, middle, high = np.percentile(rows, (10, 50, 90), axis=0)
    return tuple(HourBand(float(a), float(b), float(c)) for a, b, c in zip(low, middle, high, strict=True))


def _band(values: Floats) -> HourBand:
    finite = values[np.isfinite(values)]
    return _bands(finite[:, None])[0] if finite.size else HourBand(math.inf, math.inf, math.inf)


def _gathered(
    play: Play,
    kept: KeptDraws,
    stated: KeptDraws,
    units: Floats,
    run_x: Floats,
    start_x: Floats,
    *,
    spreads: bool = True,
) -> OutagePlayed:
    brief, draws = play.brief, units.shape[0]
    befell, as_stated = failures(kept.outcomes), failures(stated.outcomes)
    hours = kept.by_hour.shape[2]
    in_hour_s = np.diff(np.minimum(np.arange(hours + 1) * HOUR_S, brief.outage_h * HOUR_S))
    watts = kept.by_hour / in_hour_s
    places = range(1, PLACES) if brief.system.legs == 2 else range(0)
    dead_s = kept.unserved_s.sum(axis=1)
    order = np.argsort(dead_s + 1e-6 * kept.outcomes[:, OutcomeColumn.DEAD_S], kind="stable")
    ran_out = kept.outcomes[:, OutcomeColumn.RAN_OUT_S]
    served = _served(play, kept)

    def spreads_of(hit: np.ndarray) -> tuple[Spread, ...]:
        return _spreads(play, hit.astype(np.float64), units, run_x, start_x) if spreads else ()

    return OutagePlayed(
        draws=draws,
        seed=play.seed,
        hours=tuple((brief.outage_from_hour + i) % 24 for i in range(hours)),
        chances={failure: Chance(int(hit.sum()), draws) for failure, hit in befell.items()},
        stated_chances={failure: Chance(int(hit.sum()), draws) for failure, hit in as_stated.items()},
        served=served,
        served_h={tier: share * brief.outage_h for tier, share in served.items()},
        lowest_v=_band(kept.outcomes[:, OutcomeColumn.LOWEST_V_X] * brief.system.v_nominal),
        lowest_hz=_band(kept.outcomes[:, OutcomeColumn.LOWEST_HZ]),
        charge_wh=_bands(kept.charge_wh) if play.capability.has_battery else (),
        fuel_l=_bands(kept.fuel_l) if play.capability.has_tank else (),
        hour_w=_bands(watts[:, 0]),
        leg_hour_w=tuple(_bands(watts[:, place]) for place in places),
        neighbour_dba=_noise(play, watts[:, 0]),
        run_out_h=_band(ran_out / HOUR_S) if np.isfinite(ran_out).any() else None,
        refuels=_band(kept.outcomes[:, OutcomeColumn.REFUELS]),
        refuel_by_hour=_refuel_by_hour(kept.refuel_s, hours),
        burnt_l=_band(kept.outcomes[:, OutcomeColumn.BURNT_L]),
        sun_w=_sun_by_hour(play, hours),
        without_h=_band(kept.outcomes[:, OutcomeColumn.DEAD_S] / HOUR_S),
        trips=_band(kept.outcomes[:, TRIPPED].sum(axis=1)),
        sun_wh=_band(kept.outcomes[:, OutcomeColumn.SUN_WH]),
        causes=_causes(play, kept.causes, draws),
        together=_together(play, kept.pairs, draws),
        spreads={failure: spreads_of(hit) for failure, hit in befell.items()},
        rows=rows_played(play, kept, stated, spreads_of),
        missing=play.missing,
        clean=Chance(draws - int(np.logical_or.reduce(list(befell.values())).sum()), draws),
        typical=int(order[draws // 2]),
        worst=int(order[min(draws - 1, int(WORST_OF * draws))]),
    )


def _served(play: Play, kept: KeptDraws) -> dict[str, float]:
    """Of the hours in which the loads of each tier may run, the share in which they had power; tiers without loads left out."""
    home = play.home
    asked_s = np.array(
        [
            sum(home.closes[w] - home.opens[w] for w in range(home.window_of[i], home.window_of[i + 1]))
            for i in range(len(play.loads))
        ]
    )
    result = {}
    for tier in TIERS:
        mine = [i for i, load in enumerate(play.loads) if load.tier is tier and asked_s[i] > 0]
        if mine:
            share = 1 - np.minimum(1.0, kept.unserved_s[:, mine] / asked_s[mine])
            result[tier.value] = float(share.mean())
    return result


def _noise(play: Play, hour_w: Floats) -> tuple[HourBand, ...]:
    """Level at the neighbour in each hour, under the mean load of that hour; empty where nobody listened."""
    sound = play.character.sound
    if sound is None:
        return ()
    loads_w, levels = zip(*sound.levels_1m, strict=True)
    lost_db = sound.decay_db * math.log10(max(1.0, play.brief.neighbour_m))
    return _bands(np.interp(hour_w, loads_w, levels) - lost_db)


def _sun_by_hour(play: Play, hours: int) -> tuple[float, ...]:
    """What the panels give, on average over each hour and over the skies drawn; empty without sun. [W]"""
    edges = play.setting.edges
    given = (edges[Edge.CLEAR_W, :-1] + edges[Edge.GREY_W, :-1]) / 2
    if not given.any():
        return ()
    last_s = np.diff(edges[Edge.AT_S])
    hour = edges[Edge.HOUR, :-1].astype(np.int64)
    wh = np.bincount(hour, given * last_s, hours)
    return tuple((wh / np.bincount(hour, last_s, hours)).tolist())


def _refuel_by_hour(refuel_s: Floats, hours: int) -> tuple[float, ...]:
    """In what share of the outages the tank is filled in each hour."""
    at = refuel_s[np.isfinite(refuel_s)] / HOUR_S
    counts = np.bincount(np.minimum(at.astype(np.int64), hours - 1), minlength=hours) if at.size else np.zeros(hours)
    return tuple((counts / refuel_s.shape[0]).tolist())


FAULTS = (
    Happening.TRIP,
    Happening.TRIP_AT_START,
    Happening.BREAKER,
    Happening.STALL,
    Happening.SLOW_START,
    Happening.CUT_OFF,
    Happening.OUT_OF_TOLERANCE,
    Happening.DIP,
)


def _causes(play: Play, causes: Ints, draws: int) -> tuple[CausedBy, ...]:
    """Which load caused what, the most frequent first."""
    result = [
        CausedBy(kind, short_name(load), 100.0 * int(causes[i, kind]) / draws)
        for i, load in enumerate(play.loads)
        for kind in FAULTS
        if causes[i, kind]
    ]
    return tuple(sorted(result, key=lambda cause: (-cause.in_hundred, cause.load)))


def _together(play: Play, pairs: Ints, draws: int) -> tuple[tuple[str, str, float], ...]:
    """Which two start at one moment, how often an outage, the most frequent first; what befalls fewer than one in a hundred is left out."""
    both = pairs + pairs.T
    rows = [
        (short_name(play.loads[i]), short_name(play.loads[j]), float(both[i, j]) / draws)
        for i in range(len(play.loads))
        for j in range(i + 1, len(play.loads))
        if both[i, j] / draws > RARE_SHARE
    ]
    return tuple(sorted(rows, key=lambda row: -row[2]))


def _spreads(play: Play, hit: Floats, units: Floats, run_x: Floats, start_x: Floats) -> tuple[Spread, ...]:
    """How much of what is not sure of a failure each unknown makes, the most first."""
    if not 0 < hit.mean() < 1:
        return ()
    drawn = [
        Spread(unknown.name, spread_of(units[:, unknown.columns[0]], hit), unknown.settled_by, unknown.grade)
        for unknown in play.capability.unsure
    ]
    for i, load in enumerate(play.loads):
        if not load.run_grade.is_measured:
            drawn.append(
                Spread(f"the watts of the {short_name(load)}", spread_of(run_x[:, i], hit), "Loads", load.run_grade)
            )
        if load.has_start(play.brief.system.hz) and load.grade_of_start is not Grade.A:
            own = start_x[:, i] / run_x[:, i]
            drawn.append(
                Spread(f"the start of the {short_name(load)}", spread_of(own, hit), "Starts", load.grade_of_start)
            )
    return tuple(sorted((spread for spread in drawn if spread.share > 0), key=lambda spread: -spread.share))


def warm() -> None:
    """Compile the kernel, or read it from disk where it was compiled before."""
    load = Load(key="1", name="heater", kind="heater", run_w=1000.0, pf=1.0, tier=Tier.MUST)
    character = Character(source="", kind="open_frame", parameters=(), start_models={})
    play_outage(ready((load,), Brief(outage_h=1), character), draws=2)
