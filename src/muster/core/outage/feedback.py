"""The outage played through with the source acting back on the loads, compiled: from change to change, with state.

Everything here works on the plain arrays of ``layout``; ``play.py`` says what
they mean. Between two changes every power stands still, so that charge, fuel
and damage are exact; what could happen in between (a hold time used up, a
battery or a tank empty) is reckoned beforehand and is a change of its own.
"""

from __future__ import annotations

import math

import numpy as np

from .acting_back import (
    AT_AGAIN,
    AT_FLOOR,
    AT_FULL,
    AT_LIMIT,
    NOTHING,
    count_unserved,
    edge_at,
    go_live,
    hour_at,
    refuel,
    run_out,
    source_event,
    trip,
    wants_fuel,
    weigh,
)
from .compiled import compiled, inlined, outermost
from .layout import (
    DAMAGE,
    PLACES,
    RATE,
    ROWS,
    SCALARS,
    Edge,
    Fixed,
    Floats,
    Happening,
    HomeTables,
    KeptDraws,
    OutcomeColumn,
    PlayState,
    Scalar,
    Setting,
)
from .layout import LoadColumn as L
from .layout import LoadNow as N
from .layout import PartNow as Q
from .layout import SourceColumn as U
from .switching import begin, cut_off, end, is_shed, note, part_turns, write_level
from .wishing import GOLDEN, loads_of, mixed_bits, roll, schedule

CLOUD_H = 2
"""A mixed sky changes so often. [h]"""
TINY_S = 1e-9
SPENT = 1e-6
"""Less of a limit used up than this is none."""
SHED, FULL = int(Happening.SHED), int(Happening.FULL)
LOAD_COLUMNS, PART_COLUMNS = len(N), len(Q)


@inlined
def pass_time(unit: Floats, setting: Setting, s: PlayState, kept: KeptDraws, hour: int, dt: float) -> None:
    """Let so much time pass with every level at rest."""
    out = kept.outcomes[0]
    cooled_x = -1.0
    for row in range(DAMAGE, RATE):
        rate_row = row + RATE - DAMAGE
        for p in range(PLACES):
            if s.place[rate_row, p] > 0:
                s.place[row, p] += s.place[rate_row, p] * dt
            elif s.place[row, p] > 0:
                if cooled_x < 0:
                    cooled_x = math.exp(-dt / unit[U.COOLS_S])
                s.place[row, p] = s.place[row, p] * cooled_x if s.place[row, p] > SPENT else 0.0
    for p in range(PLACES):
        kept.by_hour[0, p, hour] += (s.place[0, p] + s.place[2, p]) * dt
    if setting.fixed[Fixed.HAS_BATTERY] > 0:
        gone = s.scalars[Scalar.DRAIN_W] * dt / 3600
        s.scalars[Scalar.BATTERY_WH] = min(unit[U.BATTERY_WH], s.scalars[Scalar.BATTERY_WH] - gone)
        out[OutcomeColumn.SUN_WH] += s.scalars[Scalar.SUN_W] * dt / 3600
    if setting.fixed[Fixed.HAS_TANK] > 0:
        burnt = s.scalars[Scalar.LPH] * dt / 3600
        s.scalars[Scalar.TANK_L] -= burnt
        out[OutcomeColumn.BURNT_L] += burnt
    if s.scalars[Scalar.OUT] > 0:
        out[OutcomeColumn.OUT_S] += dt
    s.scalars[Scalar.NOW] += dt


@inlined
def at_edge(unit: Floats, home: HomeTables, setting: Setting, s: PlayState, kept: KeptDraws, log: Floats) -> None:
    """Something outside changes: the hour, the sun, who is about; charge and fuel are written down at each hour."""
    hour = hour_at(setting, s)
    s.scalars[Scalar.EDGE] += 1
    e = edge_at(s)
    if e >= setting.edges.shape[1] - 1:
        return
    new = hour_at(setting, s)
    if new != hour:
        kept.charge_wh[0, new] = s.scalars[Scalar.BATTERY_WH]
        kept.fuel_l[0, new] = s.scalars[Scalar.TANK_L] + s.scalars[Scalar.STORE_L]
        if setting.fixed[Fixed.MIXED] > 0 and new % CLOUD_H == 0:
            s.scalars[Scalar.CLEARNESS] = roll(s, loads_of(s))
    planned = wants_fuel(unit, setting, s)
    if planned:
        refuel(unit, home, setting, s, kept, log, planned)
    shed_or_bring_back(unit, home, setting, s, kept, log)


@compiled
def shed_or_bring_back(
    unit: Floats, home: HomeTables, setting: Setting, s: PlayState, kept: KeptDraws, log: Floats
) -> None:
    """By the household's rule: off what runs below its share of charge, on again what went without above it."""
    if setting.fixed[Fixed.HAS_BATTERY] == 0 or s.scalars[Scalar.LIVE] == 0:
        return
    now = s.scalars[Scalar.NOW]
    for i in range(loads_of(s)):
        if home.loads[i, L.SHED_BELOW] <= 0:
            continue
        shed = is_shed(unit, home, setting, s, i)
        if shed and s.load[i, N.RUN] > 0:
            cut_off(home, s, i)
            note(s, kept, log, SHED, i, 0.0)
        elif not shed and s.load[i, N.WANTS] > 0 and s.next_s[i] == math.inf:
            s.load[i, N.UNSERVED_S] += now - s.load[i, N.CUT_S]
            s.next_s[i] = now


@inlined
def next_load(s: PlayState) -> int:
    """Which load or part changes next; the parts are looked through only where one may be due before every load."""
    n = loads_of(s)
    best, at = 0, s.next_s[0]
    for j in range(1, n):
        if s.next_s[j] < at:
            best, at = j, s.next_s[j]
    if s.scalars[Scalar.PART_S] < at:
        soonest = math.inf
        for j in range(n, s.next_s.size):
            soonest = min(soonest, s.next_s[j])
            if s.next_s[j] < at:
                best, at = j, s.next_s[j]
        s.scalars[Scalar.PART_S] = soonest
    return best


@compiled
def clear(unit: Floats, home: HomeTables, setting: Setting, s: PlayState, draw: int) -> None:
    """The beginning of an outage: full, cold, everything off, thermostats calling."""
    n = loads_of(s)
    s.next_s[:] = math.inf
    s.load[:], s.part[:], s.place[:], s.scalars[:] = 0, 0, 0, 0
    s.scalars[Scalar.LIVE], s.scalars[Scalar.LAST_ON] = 1, -1
    s.scalars[Scalar.BACK_S] = s.scalars[Scalar.PART_S] = math.inf
    s.scalars[Scalar.BATTERY_WH], s.scalars[Scalar.TANK_L] = unit[U.BATTERY_WH], unit[U.TANK_L]
    s.scalars[Scalar.STORE_L] = unit[U.STORE_L]
    for i in range(n + 1):
        s.seeds[i] = mixed_bits(home.seeds[i] + GOLDEN * np.uint64(draw + 1))
    s.scalars[Scalar.CLEARNESS] = roll(s, n) if setting.fixed[Fixed.MIXED] > 0 else 1.0
    for i in range(n):
        s.load[i, N.PICKUP_X] = 1.0
        phase = roll(s, i)
        w0 = home.window_of[i]
        opens_now = w0 < home.window_of[i + 1] and home.opens[w0] == 0.0
        if home.loads[i, L.PROGRAM] > 0:
            s.load[i, N.CYCLE_S] = w0
        elif home.loads[i, L.CYCLES] > 0:
            if home.loads[i, L.CALLS] > 0 and opens_now:
                s.load[i, N.CYCLE_S], s.load[i, N.PICKUP_X] = home.loads[i, L.FIRST_S], home.loads[i, L.CYCLES]
            else:
                off = home.off_s[i, 0]
                s.load[i, N.CYCLE_S] = -phase * (home.on_s[i, 0] + (off if off < math.inf else 0.0))
        schedule(home, setting, s, i)


@compiled
def play_one(
    unit: Floats,
    scale: Floats,
    home: HomeTables,
    setting: Setting,
    s: PlayState,
    kept: KeptDraws,
    log: Floats,
    draw: int,
) -> None:
    """Play one outage through, into the first rows of ``kept``."""
    clear(unit, home, setting, s, draw)
    out, n = kept.outcomes[0], loads_of(s)
    out[:] = 0.0
    out[OutcomeColumn.RAN_OUT_S] = out[OutcomeColumn.LOWEST_V_X] = out[OutcomeColumn.LOWEST_HZ] = math.inf
    kept.charge_wh[0, 0], kept.fuel_l[0, 0] = unit[U.BATTERY_WH], unit[U.TANK_L] + unit[U.STORE_L]
    kept.refuel_s[0] = math.inf
    weigh(unit, home, setting, s, kept, log)
    write_level(s, log)
    while s.scalars[Scalar.NOW] < setting.fixed[Fixed.HORIZON_S] - TINY_S:
        now = s.scalars[Scalar.NOW]
        until, what, which = source_event(unit, setting, s)
        j = next_load(s)
        edge_s = setting.edges[Edge.AT_S, edge_at(s) + 1]
        soonest = min(s.next_s[j], edge_s, s.scalars[Scalar.BACK_S])
        dt = max(0.0, min(soonest, now + until) - now)
        pass_time(unit, setting, s, kept, hour_at(setting, s), dt)
        if what != NOTHING and now + until <= soonest:
            if what == AT_LIMIT:
                trip(unit, home, setting, s, kept, log, which // PLACES, which % PLACES)
            elif what == AT_FLOOR:
                run_out(unit, home, setting, s, kept, log)
            elif what == AT_FULL:
                s.scalars[Scalar.FULL] = 1
                note(s, kept, log, FULL, -1, 0.0)
            elif what == AT_AGAIN:
                go_live(home, setting, s, kept, log)
            else:
                refuel(unit, home, setting, s, kept, log, wants_fuel(unit, setting, s))
        elif s.scalars[Scalar.BACK_S] <= soonest:
            s.scalars[Scalar.NOW] = s.scalars[Scalar.BACK_S]
            go_live(home, setting, s, kept, log)
        elif edge_s <= soonest:
            s.scalars[Scalar.NOW] = edge_s
            at_edge(unit, home, setting, s, kept, log)
        elif j < n:
            s.scalars[Scalar.NOW] = max(s.next_s[j], now)
            if s.load[j, N.RUN] > 0:
                end(home, setting, s, j)
            else:
                begin(unit, scale, home, setting, s, kept, log, j)
        else:
            s.scalars[Scalar.NOW] = max(s.next_s[j], now)
            part_turns(unit, scale, home, setting, s, kept, log, home.load_of[j - n], j - n)
        weigh(unit, home, setting, s, kept, log)
        if log.shape[0] > 0:
            write_level(s, log)
    finish(setting, home, s, kept)


@compiled
def finish(setting: Setting, home: HomeTables, s: PlayState, kept: KeptDraws) -> None:
    """What is left at the end, and what went without to the last."""
    out, hours = kept.outcomes[0], kept.charge_wh.shape[1] - 1
    kept.charge_wh[0, hours] = s.scalars[Scalar.BATTERY_WH]
    kept.fuel_l[0, hours] = s.scalars[Scalar.TANK_L] + s.scalars[Scalar.STORE_L]
    if s.scalars[Scalar.LIVE] == 0:
        out[OutcomeColumn.DEAD_S] += setting.fixed[Fixed.HORIZON_S] - s.scalars[Scalar.DEAD_SINCE_S]
        count_unserved(home, s, s.scalars[Scalar.DEAD_SINCE_S], setting.fixed[Fixed.HORIZON_S])
    else:
        for i in range(loads_of(s)):
            if s.load[i, N.WANTS] > 0 and s.next_s[i] == math.inf:
                s.load[i, N.UNSERVED_S] += setting.fixed[Fixed.HORIZON_S] - s.load[i, N.CUT_S]
    for i in range(loads_of(s)):
        kept.unserved_s[0, i] = s.load[i, N.UNSERVED_S]


@outermost
def play_all(
    units: Floats,
    run_x: Floats,
    start_x: Floats,
    home: HomeTables,
    setting: Setting,
    first: int,
    kept: KeptDraws,
    log: Floats,
) -> None:
    """Play a row of ``units`` after the other through, from draw ``first`` on, each into its own row of ``kept``."""
    n, parts = run_x.shape[1], home.parts.shape[0]
    s = PlayState(
        np.empty(n + parts),
        np.zeros((n + 1, LOAD_COLUMNS)),
        np.zeros((parts, PART_COLUMNS)),
        np.zeros((ROWS, PLACES)),
        np.zeros(SCALARS),
        np.zeros(n + 1, np.uint64),
    )
    scale = np.empty((2, n))
    for d in range(units.shape[0]):
        scale[0], scale[1] = run_x[d], start_x[d]
        row = KeptDraws(
            kept.outcomes[d : d + 1],
            kept.by_hour[d : d + 1],
            kept.charge_wh[d : d + 1],
            kept.fuel_l[d : d + 1],
            kept.unserved_s[d : d + 1],
            kept.causes,
            kept.pairs,
            kept.refuel_s[d : d + 1],
            kept.failed[d : d + 1],
            kept.failed_with[d : d + 1],
        )
        play_one(units[d], scale, home, setting, s, row, log, first + d)
