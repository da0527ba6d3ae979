"""The source acting back: limits used up, volts and hertz, battery and tank, and what follows when the volts are gone."""

from __future__ import annotations

import math

from .compiled import compiled, inlined
from .layout import (
    DAMAGE,
    PLACES,
    RATE,
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
from .layout import SourceColumn as U
from .switching import cut_off, is_starting, leg_volts, note, other_starting, start_failed
from .wishing import loads_of

BREAKER_FROM_X, BREAKER_K_S, BREAKER_N = 1.13, 40.0, 2.0
"""A breaker's thermal curve: never at 1.13 of its rating, 8 min at 1.45, 25 s at 2.55 (within IEC 60898-1, table 7)."""
CHARGE_KEPT = 0.95
"""Of what the sun gives a battery, what it gives again. Ours."""
AGAIN_SHARE = 0.10
"""An empty battery on the sun or a charger is switched on again at this share of what it gives. Ours."""
LOW_TANK_SHARE = 0.1
"""A tank is filled from here on, when somebody is about."""
TOPPED_SHARE = 0.9
"""A tank fuller than this is not topped up."""
COOL_S, FILL_S = 15 * 60.0, 5 * 60.0
"""An engine cools so long before anybody fills it, and filling takes so long."""
LOCKOUT_TRIPS, LOCKOUT_S = 5, 3600.0
"""After so many trips within the hour it no longer comes back by itself. Ours."""
RISES_S = 5.0
"""Unloaded a battery's volts rise to rest in so long. Ours."""
LEFT_SHARE = 0.02
"""A battery that stops with more than this left was cut off by its volts."""
TRIP, TRIP_AT_START, BREAKER, EMPTY, CUT_OFF, DRY, REFUEL, BACK, OUT_OF_TOLERANCE = (
    int(kind)
    for kind in (
        Happening.TRIP,
        Happening.TRIP_AT_START,
        Happening.BREAKER,
        Happening.EMPTY,
        Happening.CUT_OFF,
        Happening.DRY,
        Happening.REFUEL,
        Happening.BACK,
        Happening.OUT_OF_TOLERANCE,
    )
)
"""What can happen, as plain numbers: compiled code makes none of an enum."""
NOTHING, AT_LIMIT, AT_FLOOR, AT_FULL, AT_AGAIN, AT_TANK = 0, 1, 2, 3, 4, 5
"""What the source does by itself: a limit is used up, the battery is empty, full, or charged enough again, the tank is low or dry."""


@inlined
def edge_at(s: PlayState) -> int:
    """Between which moments it is."""
    return int(s.scalars[Scalar.EDGE])


@inlined
def hour_at(setting: Setting, s: PlayState) -> int:
    """The hour of the outage that it is."""
    return int(setting.edges[Edge.HOUR, edge_at(s)])


@inlined
def sun_now(unit: Floats, setting: Setting, s: PlayState) -> float:
    """What the panels give now."""
    e = edge_at(s)
    c = s.scalars[Scalar.CLEARNESS]
    return float((c * setting.edges[Edge.CLEAR_W, e] + (1 - c) * setting.edges[Edge.GREY_W, e]) * unit[U.SUN_X])


@inlined
def weigh(unit: Floats, home: HomeTables, setting: Setting, s: PlayState, kept: KeptDraws, log: Floats) -> None:
    """What the levels of the moment do to the source: how fast each limit is used up, charge and fuel go, and the volts."""
    e = edge_at(s)
    live = s.scalars[Scalar.LIVE] > 0
    sun_w = sun_now(unit, setting, s) if setting.fixed[Fixed.HAS_BATTERY] > 0 else 0.0
    s.scalars[Scalar.SUN_W] = sun_w
    for p in range(PLACES if setting.fixed[Fixed.LEGS] == 2 else 1):
        va = s.place[1, p] + s.place[3, p]
        load = va if setting.fixed[Fixed.BY_VA] > 0 else s.place[0, p] + s.place[2, p]
        held = unit[U.HELD_0 + p] * setting.edges[Edge.CAPACITY_X, e]
        if p == 0 and setting.fixed[Fixed.BATTERY_ALONE_W] > 0:
            held = min(held, setting.fixed[Fixed.BATTERY_ALONE_W] + sun_w)
        s.place[RATE, p] = 0.0
        if load > held:
            if live and (s.place[1, p] if setting.fixed[Fixed.BY_VA] > 0 else s.place[0, p]) > held:
                kept.outcomes[0, OutcomeColumn.OVER_0 + p] = 1
            s.place[RATE, p] = (load / held - 1) ** unit[U.HOLD_N] / unit[U.HOLD_K_S]
        carries = unit[U.BREAKER_0 + p] * BREAKER_FROM_X
        s.place[RATE + 1, p] = (va / carries - 1) ** BREAKER_N / BREAKER_K_S if va > carries else 0.0
    if setting.fixed[Fixed.HAS_BATTERY] > 0:
        drain(unit, setting, s, live, sun_w)
    if setting.fixed[Fixed.HAS_TANK] > 0:
        s.scalars[Scalar.LPH] = unit[U.IDLE_LPH] + unit[U.LPH_PER_W] * s.place[0, 0] if live else 0.0
    if live:
        tolerate(unit, home, setting, s, kept, log)
    else:
        s.scalars[Scalar.OUT] = 0


@inlined
def drain(unit: Floats, setting: Setting, s: PlayState, live: bool, sun_w: float) -> None:
    """What the battery gives or takes now, and the charge at which its volts would meet the cut-off."""
    e = edge_at(s)
    drawn = 0.0
    if live:
        w = s.place[0, 0] + s.place[2, 0]
        drawn = w * (1 + unit[U.LOSS_P1]) + unit[U.LOSS_P2_PER_W] * w * w + unit[U.IDLE_W]
    elif s.scalars[Scalar.WHY_DEAD] <= BREAKER:
        drawn = unit[U.IDLE_W]
    net = drawn - sun_w - setting.edges[Edge.CHARGER_W, e] * unit[U.CHARGE_SHARE]
    if net < 0:
        takes = (
            0.0
            if setting.edges[Edge.FREEZING, e] > 0 or s.scalars[Scalar.FULL] > 0
            else min(-net, unit[U.CHARGE_MOST_W])
        )
        s.scalars[Scalar.DRAIN_W] = -takes * (CHARGE_KEPT if sun_w > 0 else 1.0)
        s.scalars[Scalar.FLOOR_WH] = 0.0
        return
    faster = (net / unit[U.RATED_AT_W]) ** unit[U.PEUKERT] if net > unit[U.RATED_AT_W] else 1.0
    s.scalars[Scalar.DRAIN_W] = net * faster
    floor = 0.0
    if unit[U.CUT_V] > 0:
        sag_v = net / max(unit[U.CUT_V], 1.0) * unit[U.CELL_OHM]
        share = (unit[U.CUT_V] + sag_v - unit[U.EMPTY_V]) / (unit[U.FULL_V] - unit[U.EMPTY_V])
        floor = min(max(share, 0.0), 1.0) * unit[U.BATTERY_WH]
    s.scalars[Scalar.FLOOR_WH] = floor
    if s.scalars[Scalar.DRAIN_W] > 0:
        s.scalars[Scalar.FULL] = 0


@inlined
def tolerate(unit: Floats, home: HomeTables, setting: Setting, s: PlayState, kept: KeptDraws, log: Floats) -> None:
    """Steady volts and hertz against what the loads that are on stand."""
    out = kept.outcomes[0]
    hz_x = (unit[U.NO_LOAD_HZ] + unit[U.HZ_PER_W] * s.place[0, 0]) / setting.fixed[Fixed.HZ]
    v1 = leg_volts(unit, s, 0) / setting.fixed[Fixed.V_NOMINAL]
    v2 = leg_volts(unit, s, 1) / setting.fixed[Fixed.V_NOMINAL] if setting.fixed[Fixed.LEGS] == 2 else v1
    out[OutcomeColumn.LOWEST_V_X] = min(out[OutcomeColumn.LOWEST_V_X], min(v1, v2))
    out[OutcomeColumn.LOWEST_HZ] = min(out[OutcomeColumn.LOWEST_HZ], hz_x * setting.fixed[Fixed.HZ])
    n = loads_of(s)
    within_v = min(v1, v2) >= home.loads[n, L.V_LOW_X] and max(v1, v2) <= home.loads[n, L.V_HIGH_X]
    if within_v and abs(hz_x - 1) <= home.loads[n, L.HZ_OFF_X]:
        s.scalars[Scalar.OUT] = 0
        return
    suffers = -1
    for i in range(n):
        if s.load[i, N.RUN] > 0:
            low = min(v1, v2) if home.loads[i, L.ACROSS] > 0 else v2 if home.loads[i, L.LEG_2] > 0 else v1
            high = max(v1, v2) if home.loads[i, L.ACROSS] > 0 else low
            if (
                low < home.loads[i, L.V_LOW_X]
                or high > home.loads[i, L.V_HIGH_X]
                or abs(hz_x - 1) > home.loads[i, L.HZ_OFF_X]
            ):
                suffers = i
                break
    if suffers >= 0 and s.scalars[Scalar.OUT] == 0:
        note(s, kept, log, OUT_OF_TOLERANCE, suffers, min(v1, v2))
    s.scalars[Scalar.OUT] = 1 if suffers >= 0 else 0


@compiled
def go_dead(home: HomeTables, s: PlayState, why: int, back_s: float) -> None:
    """The volts are gone: everything that ran is off and wants to run again."""
    now = s.scalars[Scalar.NOW]
    s.scalars[Scalar.LIVE], s.scalars[Scalar.WHY_DEAD] = 0, why
    s.scalars[Scalar.BACK_S], s.scalars[Scalar.DEAD_SINCE_S] = back_s, now
    for i in range(loads_of(s)):
        if s.load[i, N.RUN] > 0:
            cut_off(home, s, i)
    s.scalars[Scalar.STARTING] = 0
    for row in range(DAMAGE):
        for p in range(PLACES):
            s.place[row, p] = 0.0


@compiled
def count_unserved(home: HomeTables, s: PlayState, since: float, until: float) -> None:
    """Add to each load's time without power what of it lay in its hours."""
    for i in range(loads_of(s)):
        for w in range(home.window_of[i], home.window_of[i + 1]):
            s.load[i, N.UNSERVED_S] += max(0.0, min(until, home.closes[w]) - max(since, home.opens[w]))


@compiled
def go_live(home: HomeTables, setting: Setting, s: PlayState, kept: KeptDraws, log: Floats) -> None:
    """The volts are back: what went without comes on, all at once where nobody is there to bring it up one by one."""
    now = s.scalars[Scalar.NOW]
    kept.outcomes[0, OutcomeColumn.DEAD_S] += now - s.scalars[Scalar.DEAD_SINCE_S]
    count_unserved(home, s, s.scalars[Scalar.DEAD_SINCE_S], now)
    s.scalars[Scalar.LIVE] = 1
    s.scalars[Scalar.BACK_S] = math.inf
    note(s, kept, log, BACK, -1, now - s.scalars[Scalar.DEAD_SINCE_S])
    one_by_one = setting.fixed[Fixed.ONE_BY_ONE] > 0 and s.scalars[Scalar.ALONE] == 0
    for i in range(loads_of(s)):
        if s.load[i, N.WANTS] > 0:
            s.next_s[i] = now + (setting.fixed[Fixed.GAP_S] * home.loads[i, L.ORDER] if one_by_one else 0.0)


@inlined
def by_hand_s(setting: Setting, s: PlayState) -> float:
    """When somebody has come and reset it."""
    asleep = setting.edges[Edge.ASLEEP, edge_at(s)] > 0
    return float(
        s.scalars[Scalar.NOW] + (setting.fixed[Fixed.RESET_NIGHT_S] if asleep else setting.fixed[Fixed.RESET_DAY_S])
    )


@inlined
def counts_on(s: PlayState) -> bool:
    """Count one more stop within the hour; whether it still comes back by itself after so many."""
    now = s.scalars[Scalar.NOW]
    if now - s.scalars[Scalar.LOCKED_SINCE_S] > LOCKOUT_S:
        s.scalars[Scalar.LOCKED_SINCE_S], s.scalars[Scalar.TRIPS_IN_HOUR] = now, 0
    s.scalars[Scalar.TRIPS_IN_HOUR] += 1
    return bool(s.scalars[Scalar.TRIPS_IN_HOUR] < LOCKOUT_TRIPS)


@compiled
def trip(
    unit: Floats, home: HomeTables, setting: Setting, s: PlayState, kept: KeptDraws, log: Floats, c: int, p: int
) -> None:
    """A limit is used up."""
    now, out = s.scalars[Scalar.NOW], kept.outcomes[0]
    last, starting = int(s.scalars[Scalar.LAST_ON]), s.scalars[Scalar.STARTING] > 0
    kind = BREAKER if c == 1 else TRIP_AT_START if starting else TRIP
    note(s, kept, log, kind, last, float(p))
    out[OutcomeColumn.BREAKS if c == 1 else OutcomeColumn.START_TRIPS if starting else OutcomeColumn.TRIPS] += 1
    if c == 1:
        out[OutcomeColumn.BREAKS_0 + p] += 1
    elif not starting:
        out[OutcomeColumn.TRIPS_0 + p] += 1
    else:
        starts = last if is_starting(home, s, last) else other_starting(home, s, -1)
        if starts >= 0:
            start_failed(kept, starts, other_starting(home, s, starts))
    again = counts_on(s)
    alone = c == 0 and setting.fixed[Fixed.RECOVERS_ALONE] > 0 and again
    s.scalars[Scalar.ALONE] = 1 if alone else 0
    go_dead(home, s, kind, now + unit[U.BACK_S] if alone else by_hand_s(setting, s))
    for row in range(DAMAGE, RATE):
        for place in range(PLACES):
            s.place[row, place] = min(s.place[row, place], 1.0)


@inlined
def back_wh(unit: Floats) -> float:
    """The charge at which a battery that stopped is live again: where its resting volts reach those read, else a tenth."""
    if unit[U.BACK_V] <= 0:
        return float(AGAIN_SHARE * unit[U.BATTERY_WH])
    share = (unit[U.BACK_V] - unit[U.EMPTY_V]) / (unit[U.FULL_V] - unit[U.EMPTY_V])
    return float(min(max(share, 0.0), 1.0) * unit[U.BATTERY_WH])


@compiled
def run_out(unit: Floats, home: HomeTables, setting: Setting, s: PlayState, kept: KeptDraws, log: Floats) -> None:
    """The battery is empty, or its volts are at the cut-off."""
    now, out = s.scalars[Scalar.NOW], kept.outcomes[0]
    sagged = s.scalars[Scalar.BATTERY_WH] > LEFT_SHARE * unit[U.BATTERY_WH]
    kind = CUT_OFF if sagged else EMPTY
    note(s, kept, log, kind, int(s.scalars[Scalar.LAST_ON]) if sagged else -1, s.scalars[Scalar.BATTERY_WH])
    out[OutcomeColumn.RAN_OUT_S] = min(out[OutcomeColumn.RAN_OUT_S], now)
    if not sagged:
        s.scalars[Scalar.BATTERY_WH] = 0.0
    # Unloaded its volts rise: where they reach those at which it comes back it does so, to sag again under the same load.
    alone = sagged and unit[U.BACK_V] > 0 and s.scalars[Scalar.BATTERY_WH] >= back_wh(unit) and counts_on(s)
    s.scalars[Scalar.ALONE] = 1 if alone else 0
    by_itself_s = now + max(unit[U.BACK_S], RISES_S)
    go_dead(home, s, kind, by_itself_s if alone else by_hand_s(setting, s) if sagged else math.inf)


@compiled
def refuel(
    unit: Floats, home: HomeTables, setting: Setting, s: PlayState, kept: KeptDraws, log: Floats, planned: bool
) -> None:
    """The tank is filled: after it cooled, at once where somebody planned it, else when somebody has come."""
    now, out = s.scalars[Scalar.NOW], kept.outcomes[0]
    s.scalars[Scalar.ALONE] = 0
    if not planned:
        s.scalars[Scalar.TANK_L] = 0.0
        note(s, kept, log, DRY, -1, s.scalars[Scalar.STORE_L])
        out[OutcomeColumn.RAN_OUT_S] = min(out[OutcomeColumn.RAN_OUT_S], now)
        if s.scalars[Scalar.STORE_L] <= 0:
            out[OutcomeColumn.OUT_OF_FUEL] = 1
            go_dead(home, s, DRY, math.inf)
            return
        out[OutcomeColumn.DRY_STOPS] += 1
    fills = min(unit[U.TANK_L] - s.scalars[Scalar.TANK_L], s.scalars[Scalar.STORE_L])
    s.scalars[Scalar.TANK_L] += fills
    s.scalars[Scalar.STORE_L] -= fills
    k = int(out[OutcomeColumn.REFUELS])
    if k < kept.refuel_s.shape[1]:
        kept.refuel_s[0, k] = now
    out[OutcomeColumn.REFUELS] += 1
    note(s, kept, log, REFUEL, -1, fills)
    back_s = now + COOL_S + FILL_S if planned else max(by_hand_s(setting, s), now + COOL_S) + FILL_S
    go_dead(home, s, REFUEL, back_s)


@inlined
def wants_fuel(unit: Floats, setting: Setting, s: PlayState) -> bool:
    """Whether somebody who is about fills the tank now."""
    if setting.fixed[Fixed.HAS_TANK] == 0 or s.scalars[Scalar.LIVE] == 0 or s.scalars[Scalar.STORE_L] <= 1e-6:
        return False
    e, tank = edge_at(s), s.scalars[Scalar.TANK_L]
    low = tank <= LOW_TANK_SHARE * unit[U.TANK_L] + 1e-9 and setting.edges[Edge.ASLEEP, e] == 0
    return bool(low or (setting.edges[Edge.REFUEL, e] > 0 and tank < TOPPED_SHARE * unit[U.TANK_L]))


@inlined
def source_event(unit: Floats, setting: Setting, s: PlayState) -> tuple[float, int, int]:
    """How long until the source does something by itself, what, and at which limit. [s]"""
    left, what, which = math.inf, NOTHING, 0
    live = s.scalars[Scalar.LIVE] > 0
    if live:
        for c in range(2):
            for p in range(PLACES):
                if s.place[RATE + c, p] > 0:
                    until = max(0.0, 1.0 - s.place[DAMAGE + c, p]) / s.place[RATE + c, p]
                    if until < left:
                        left, what, which = until, AT_LIMIT, c * PLACES + p
    if setting.fixed[Fixed.HAS_BATTERY] > 0:
        drain_w, wh = s.scalars[Scalar.DRAIN_W], s.scalars[Scalar.BATTERY_WH]
        if drain_w > 0 and live:
            until = max(0.0, wh - s.scalars[Scalar.FLOOR_WH]) / drain_w * 3600
            if until < left:
                left, what = until, AT_FLOOR
        elif drain_w < 0:
            if s.scalars[Scalar.WHY_DEAD] == EMPTY and not live:
                until = max(0.0, back_wh(unit) - wh) / -drain_w * 3600
                if until < left:
                    left, what = until, AT_AGAIN
            until = max(0.0, unit[U.BATTERY_WH] - wh) / -drain_w * 3600
            if until < left:
                left, what = until, AT_FULL
    if setting.fixed[Fixed.HAS_TANK] > 0 and s.scalars[Scalar.LPH] > 0:
        tank = s.scalars[Scalar.TANK_L]
        low = LOW_TANK_SHARE * unit[U.TANK_L]
        somebody = s.scalars[Scalar.STORE_L] > 1e-6 and setting.edges[Edge.ASLEEP, edge_at(s)] == 0
        if somebody and tank > low:
            tank -= low
        until = max(0.0, tank) / s.scalars[Scalar.LPH] * 3600
        if until < left:
            left, what = until, AT_TANK
    return left, what, which
