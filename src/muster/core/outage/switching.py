"""Loads coming on and going off: their parts, their starts, and what a start meets."""

from __future__ import annotations

import math

import numpy as np

from .compiled import compiled, inlined
from .layout import (
    LEVEL,
    LEVEL_BITS,
    MOST_BITS,
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
from .layout import PartColumn as P
from .layout import PartNow as Q
from .layout import SourceColumn as U
from .wishing import HOUR_S, called, loads_of, schedule

IDLE, WAITING, STARTING, RUNNING, STALLED, RESTING = 0, 1, 2, 3, 4, 5
"""Where a part stands: off, to come on later in the run, starting, running, stalled, resting before it is tried again."""
SLOW_WITHIN = 0.03
"""A start this near above the volts it needs is slow. Share of nominal; ours."""
SLOW_X = 2.0
"""And takes so many times as long. Ours."""
STALL_S, REST_S, MOST_TRIES = 6.0, 120.0, 3
"""A motor that stalls draws its start until its own protector opens, rests, and is tried so often. Ours, from usual protectors."""
ALIKE_X = 1.05
"""Bases within this of one another are alike, as in the verdict."""
ASIDE_S = 60.0
"""A load kept apart from another tries again after so long."""
STALL, SLOW_START, GAVE_UP, TOGETHER, DIP, SHED, STARTED = (
    int(kind)
    for kind in (
        Happening.STALL,
        Happening.SLOW_START,
        Happening.GAVE_UP,
        Happening.TOGETHER,
        Happening.DIP,
        Happening.SHED,
        Happening.STARTED,
    )
)
"""What can happen, as plain numbers: compiled code makes none of an enum."""


@inlined
def note(s: PlayState, kept: KeptDraws, log: Floats, kind: int, load: int, value: float) -> None:
    """Count what happened against the load it happened by, and write it down if this draw is kept."""
    kept.causes[load, kind] += 1
    k = int(s.scalars[Scalar.LOGGED])
    if k < log.shape[0]:
        log[k, 0], log[k, 1], log[k, 2], log[k, 3] = s.scalars[Scalar.NOW], kind, load, value
        s.scalars[Scalar.LOGGED] = k + 1


@inlined
def write_level(s: PlayState, log: Floats) -> None:
    """Write down what runs, what it draws and what is left, of a draw that is told: a bit a load, of the first ``LEVEL_BITS``."""
    k = int(s.scalars[Scalar.LOGGED])
    if k >= log.shape[0]:
        return
    running, bit = 0.0, 1.0
    for i in range(min(loads_of(s), LEVEL_BITS)):
        if s.load[i, N.RUN] > 0:
            running += bit
        bit *= 2.0
    log[k, 0], log[k, 1], log[k, 2] = s.scalars[Scalar.NOW], LEVEL, running
    log[k, 3] = s.place[0, 0] + s.place[2, 0]
    log[k, 4] = s.scalars[Scalar.BATTERY_WH] if s.scalars[Scalar.BATTERY_WH] > 0 else s.scalars[Scalar.TANK_L]
    s.scalars[Scalar.LOGGED] = k + 1


@inlined
def turns_at(s: PlayState, p: int, at_s: float) -> None:
    """When a part next turns; the soonest of all is kept, so that parts are looked through only when one is due."""
    s.next_s[loads_of(s) + p] = at_s
    s.scalars[Scalar.PART_S] = min(s.scalars[Scalar.PART_S], at_s)


@inlined
def runs_on(s: PlayState, i: int, p: int) -> None:
    """A part runs until it is off; one that lasts as long as its load's run ends with that."""
    s.part[p, Q.PHASE] = RUNNING
    off_s = s.part[p, Q.OFF_S]
    turns_at(s, p, off_s if off_s < s.load[i, N.RUN_END_S] else math.inf)


@inlined
def put(home: HomeTables, s: PlayState, i: int, p: int, row: int, value: float) -> None:
    """Set what a part adds in one row of the sums, at each place."""
    change = value - s.part[p, Q.RUN_W + row]
    s.part[p, Q.RUN_W + row] = value
    s.place[row, 0] += change
    s.place[row, 1] += change * home.loads[i, L.LEG_1]
    s.place[row, 2] += change * home.loads[i, L.LEG_2]


@inlined
def drop(home: HomeTables, s: PlayState, i: int, p: int) -> None:
    """A part goes off."""
    if s.part[p, Q.PHASE] == STARTING or s.part[p, Q.PHASE] == STALLED:
        s.scalars[Scalar.STARTING] -= 1
    for row in range(4):
        if s.part[p, Q.RUN_W + row] != 0.0:
            put(home, s, i, p, row, 0.0)
    s.part[p, Q.PHASE] = IDLE
    s.next_s[loads_of(s) + p] = math.inf


@inlined
def goes_without(s: PlayState, i: int) -> None:
    """A load that would run has no power, or is left off, from now on: since when, and what of its run was left."""
    now = s.scalars[Scalar.NOW]
    s.load[i, N.WANTS], s.load[i, N.CUT_S] = 1, now
    s.load[i, N.LEFT_S] = s.load[i, N.RUN_END_S] - now
    s.next_s[i] = math.inf


@inlined
def cut_off(home: HomeTables, s: PlayState, i: int) -> None:
    """A load that runs is cut off, and wants to run again."""
    for p in range(home.part_of[i], home.part_of[i + 1]):
        drop(home, s, i, p)
    s.load[i, N.RUN] = 0
    goes_without(s, i)


@inlined
def begin(
    unit: Floats, scale: Floats, home: HomeTables, setting: Setting, s: PlayState, kept: KeptDraws, log: Floats, i: int
) -> None:
    """A load's run begins, if there is power, its rule lets it, and nothing that it is kept apart from runs."""
    now = s.scalars[Scalar.NOW]
    if s.scalars[Scalar.LIVE] == 0:
        if s.load[i, N.WANTS] == 0:
            goes_without(s, i)
        s.next_s[i] = math.inf
        return
    if is_shed(unit, home, setting, s, i):
        if s.load[i, N.WANTS] == 0:
            goes_without(s, i)
            note(s, kept, log, SHED, i, 0.0)
        s.next_s[i] = math.inf
        return
    if s.load[i, N.WANTS] > 0:
        comes = called(home, setting, s, i)
        s.load[i, N.WANTS] = 0
        if not comes:
            return
    if home.loads[i, L.CYCLES] == 0 and home.loads[i, L.PROGRAM] == 0 and now >= s.load[i, N.RUN_END_S]:
        schedule(home, setting, s, i)  # it was kept aside until its hours were over
        return
    for j in range(loads_of(s)):
        if home.apart[i, j] and s.load[j, N.RUN] > 0:
            s.next_s[i] = now + ASIDE_S
            if home.loads[i, L.PROGRAM] > 0:
                s.load[i, N.RUN_END_S] += ASIDE_S
            elif home.loads[i, L.CYCLES] > 0:  # it goes on losing what it keeps, and runs for longer after it
                h = min(int(now / HOUR_S), home.on_s.shape[1] - 1)
                later = ASIDE_S * (1.0 + home.on_s[i, h] / home.off_s[i, h])
                s.load[i, N.RUN_END_S] += later
                s.load[i, N.CYCLE_S] += later
            s.load[i, N.UNSERVED_S] += ASIDE_S
            return
    s.load[i, N.RUN] = 1
    s.next_s[i] = s.load[i, N.RUN_END_S]
    for p in range(home.part_of[i], home.part_of[i + 1]):
        s.part[p, Q.TRIES] = 0
        if home.parts[p, P.FROM_S] > 0:
            s.part[p, Q.PHASE] = WAITING
            turns_at(s, p, now + home.parts[p, P.FROM_S])
        else:
            part_on(unit, scale, home, setting, s, kept, log, i, p)


@inlined
def end(home: HomeTables, setting: Setting, s: PlayState, i: int) -> None:
    """A load's run ends, and its next is set."""
    for p in range(home.part_of[i], home.part_of[i + 1]):
        drop(home, s, i, p)
    s.load[i, N.RUN] = 0
    schedule(home, setting, s, i)


@compiled
def part_on(
    unit: Floats,
    scale: Floats,
    home: HomeTables,
    setting: Setting,
    s: PlayState,
    kept: KeptDraws,
    log: Floats,
    i: int,
    p: int,
) -> None:
    """A part comes on, and starts if it has a start."""
    now = s.scalars[Scalar.NOW]
    s.scalars[Scalar.LAST_ON] = i
    s.part[p, Q.OFF_S] = min(now + home.parts[p, P.FOR_S], s.load[i, N.RUN_END_S])
    put(home, s, i, p, 0, home.parts[p, P.RUN_W] * scale[0, i])
    put(home, s, i, p, 1, home.parts[p, P.RUN_VA] * scale[0, i])
    if home.parts[p, P.START_VA] > 0:
        start(unit, scale, home, setting, s, kept, log, i, p)
    else:
        runs_on(s, i, p)


@inlined
def leg_volts(unit: Floats, s: PlayState, leg: int) -> float:
    """Steady volts of a leg under what runs on it."""
    return float(unit[U.NO_LOAD_V1 + leg] + unit[U.V1_PER_W + leg] * s.place[0, 1 + leg])


@inlined
def lowest_x(
    unit: Floats, home: HomeTables, setting: Setting, s: PlayState, i: int, start_va: float, pf: float
) -> float:
    """Lowest volts of a start as a share of nominal, by what starts meet; below nothing where that is not known.

    ``start_va`` is what the load draws at standstill at nominal volts. What was on is taken at unity power factor, a
    constant impedance like the start itself.
    """
    across = home.loads[i, L.ACROSS] > 0
    leg = 1 if home.loads[i, L.LEG_2] > 0 and not across else 0
    z = complex(unit[U.R1_OHM + 2 * leg], unit[U.X1_OHM + 2 * leg])
    limit_a = unit[U.LIMIT_1_A + leg]
    v, base_va = leg_volts(unit, s, leg), s.place[1, 1 + leg] + s.place[3, 1 + leg]
    nominal = setting.fixed[Fixed.V_NOMINAL]
    if across:
        z += complex(unit[U.R2_OHM], unit[U.X2_OHM])
        limit_a = min(limit_a, unit[U.LIMIT_2_A])
        v += leg_volts(unit, s, 1)
        base_va += s.place[1, 2] + s.place[3, 2]
        nominal *= 2
    if z == 0 and limit_a == math.inf:
        return -1.0
    base_a, start_a = base_va / nominal, start_va / nominal
    if limit_a < math.inf:
        return float((v if base_a + start_a <= limit_a else v * limit_a / (base_a + start_a)) / nominal)
    turned = complex(pf, -math.sqrt(max(0.0, 1.0 - pf * pf))) if z.imag != 0 else complex(1.0, 0.0)
    base_s = complex(base_a / v, 0.0)
    start_s = start_a / nominal * turned
    return float(v * abs((1 + z * base_s) / (1 + z * (start_s + base_s))) / nominal)


@inlined
def is_starting(home: HomeTables, s: PlayState, j: int) -> bool:
    """Whether a part of a load starts, or is stalled, at this moment."""
    if s.load[j, N.RUN] > 0:
        for p in range(home.part_of[j], home.part_of[j + 1]):
            if s.part[p, Q.PHASE] == STARTING or s.part[p, Q.PHASE] == STALLED:
                return True
    return False


@inlined
def other_starting(home: HomeTables, s: PlayState, i: int) -> int:
    """Another load that starts at this moment, −1 for none."""
    for j in range(loads_of(s)):
        if j != i and is_starting(home, s, j):
            return j
    return -1


@inlined
def own_w(home: HomeTables, s: PlayState, i: int) -> float:
    """What a load's own parts run at: that is no base of its start."""
    total = 0.0
    for p in range(home.part_of[i], home.part_of[i + 1]):
        total += s.part[p, Q.RUN_W]
    return total


@inlined
def start_failed(kept: KeptDraws, i: int, other: int) -> None:
    """Keep that a start failed, alone or with another."""
    if other < 0:
        kept.failed[0, i] += 1
    elif other < MOST_BITS and i < MOST_BITS:
        kept.failed_with[0, i] |= np.int64(1) << np.int64(other)


@inlined
def start(
    unit: Floats,
    scale: Floats,
    home: HomeTables,
    setting: Setting,
    s: PlayState,
    kept: KeptDraws,
    log: Floats,
    i: int,
    p: int,
) -> None:
    """A start on what runs beneath it: held, slow, or stalled; what electronics make of the dip.

    What was seen to start on as much, alone, needs no reckoning: it neither stalls nor uses up what the source holds.
    What was seen to fail on no more fails, whatever is reckoned.
    """
    now, out = s.scalars[Scalar.NOW], kept.outcomes[0]
    run_va = s.part[p, Q.RUN_VA]
    total_va = max(run_va, scale[1, i] * (home.parts[p, P.RUN_VA] + home.parts[p, P.START_VA]))
    other = other_starting(home, s, i) if s.scalars[Scalar.STARTING] > 0 else -1
    put(home, s, i, p, 1, 0.0)
    x = lowest_x(unit, home, setting, s, i, total_va, home.parts[p, P.START_PF])
    put(home, s, i, p, 1, run_va)
    base_w, floor_x = s.place[0, 0] - own_w(home, s, i), home.loads[i, L.FLOOR_X]
    fails = base_w * ALIKE_X >= home.loads[i, L.FAILED_W]
    seen = not fails and other < 0 and base_w <= home.loads[i, L.SEEN_W]
    if seen and 0 < x < floor_x:
        x = floor_x
    draws_x = 0.0 if seen else x * x if x > 0 else 1.0
    put(home, s, i, p, 2, max(0.0, total_va * home.parts[p, P.START_PF] * draws_x - s.part[p, Q.RUN_W]))
    put(home, s, i, p, 3, max(0.0, total_va * draws_x - run_va))
    s.scalars[Scalar.STARTING] += 1
    s.part[p, Q.PHASE] = STARTING
    length_s = home.parts[p, P.START_S]
    if x > 0:
        out[OutcomeColumn.LOWEST_V_X] = min(out[OutcomeColumn.LOWEST_V_X], x)
    if x > 0 or fails:
        if fails or x < floor_x:
            s.part[p, Q.PHASE] = STALLED
            s.part[p, Q.TRIES] += 1
            length_s = STALL_S
            out[OutcomeColumn.STALLS] += 1
            start_failed(kept, i, other)
            note(s, kept, log, STALL, i, x if x < floor_x else 0.0)
        elif floor_x > 0 and x < floor_x + SLOW_WITHIN:
            length_s *= SLOW_X
            note(s, kept, log, SLOW_START, i, x)
        else:
            note(s, kept, log, STARTED, i, x)
        if 0 < x < home.parts[p, P.DIP_X] and minds(home, s, i):
            out[OutcomeColumn.DIPS] += 1
            note(s, kept, log, DIP, i, x)
    if other >= 0:
        kept.pairs[i, other] += 1
        note(s, kept, log, TOGETHER, i, float(other))
    ends_s = now + length_s
    turns_at(s, p, min(ends_s, s.part[p, Q.OFF_S]) if s.part[p, Q.PHASE] == STARTING else ends_s)


@inlined
def minds(home: HomeTables, s: PlayState, i: int) -> bool:
    """Whether something that is on, on a leg of this load, does not ride through every dip."""
    for j in range(loads_of(s)):
        if j != i and s.load[j, N.RUN] > 0 and home.loads[j, L.MINDS_DIPS] > 0:
            same = home.loads[i, L.LEG_1] * home.loads[j, L.LEG_1] + home.loads[i, L.LEG_2] * home.loads[j, L.LEG_2]
            if same > 0:
                return True
    return False


@inlined
def part_turns(
    unit: Floats,
    scale: Floats,
    home: HomeTables,
    setting: Setting,
    s: PlayState,
    kept: KeptDraws,
    log: Floats,
    i: int,
    p: int,
) -> None:
    """What a part does when its moment comes: on, started, off, thrown out by its protector, or tried again."""
    now = s.scalars[Scalar.NOW]
    if s.part[p, Q.PHASE] == WAITING:
        part_on(unit, scale, home, setting, s, kept, log, i, p)
    elif s.part[p, Q.PHASE] == STARTING:
        s.scalars[Scalar.STARTING] -= 1
        put(home, s, i, p, 2, 0.0)
        put(home, s, i, p, 3, 0.0)
        runs_on(s, i, p)
    elif s.part[p, Q.PHASE] == STALLED:
        tries = s.part[p, Q.TRIES]
        drop(home, s, i, p)
        if tries < MOST_TRIES and now + REST_S < s.part[p, Q.OFF_S]:
            s.part[p, Q.PHASE] = RESTING
            turns_at(s, p, now + REST_S)
            s.load[i, N.UNSERVED_S] += STALL_S + REST_S
        else:
            s.load[i, N.UNSERVED_S] += STALL_S + max(0.0, s.part[p, Q.OFF_S] - now)
            note(s, kept, log, GAVE_UP, i, 0.0)
    elif s.part[p, Q.PHASE] == RESTING:
        part_on(unit, scale, home, setting, s, kept, log, i, p)
    else:
        drop(home, s, i, p)


@inlined
def is_shed(unit: Floats, home: HomeTables, setting: Setting, s: PlayState, i: int) -> bool:
    """Whether the household leaves a load off now, for the battery is below what it keeps for others."""
    if setting.fixed[Fixed.HAS_BATTERY] == 0 or home.loads[i, L.SHED_BELOW] <= 0:
        return False
    return bool(s.scalars[Scalar.BATTERY_WH] < home.loads[i, L.SHED_BELOW] * unit[U.BATTERY_WH] - 1e-9)
