"""What the played outage reads and writes: tables of plain arrays, and where each figure stands in them.

Place 0 is the whole source; a two-leg supply has its legs as places 1 and 2.
Times are seconds of the outage.
"""

from __future__ import annotations

from enum import IntEnum
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]

PLACES = 3
"""Whole source and two legs; a supply of one leg leaves the legs at nothing."""


class SourceColumn(IntEnum):
    """Columns of what a source is, one row a draw: watts or volt-amperes as ``by_va`` says, volts and amps of one leg."""

    HELD_0 = 0
    HELD_1 = 1
    HELD_2 = 2
    BREAKER_0 = 3
    BREAKER_1 = 4
    BREAKER_2 = 5
    HOLD_K_S = 6
    HOLD_N = 7
    COOLS_S = 8
    BACK_S = 9
    NO_LOAD_V1 = 10
    NO_LOAD_V2 = 11
    V1_PER_W = 12
    V2_PER_W = 13
    NO_LOAD_HZ = 14
    HZ_PER_W = 15
    R1_OHM = 16
    X1_OHM = 17
    R2_OHM = 18
    X2_OHM = 19
    LIMIT_1_A = 20
    LIMIT_2_A = 21
    BATTERY_WH = 22
    IDLE_W = 23
    LOSS_P1 = 24
    LOSS_P2_PER_W = 25
    CHARGE_SHARE = 26
    CHARGE_MOST_W = 27
    RATED_AT_W = 28
    PEUKERT = 29
    EMPTY_V = 30
    FULL_V = 31
    CELL_OHM = 32
    CUT_V = 33
    BACK_V = 34
    TANK_L = 35
    STORE_L = 36
    IDLE_LPH = 37
    LPH_PER_W = 38
    SUN_X = 39


UNITS = len(SourceColumn)


class PartColumn(IntEnum):
    """Columns of a part: what it runs at, what its start adds, and its times from the beginning of a run."""

    RUN_W = 0
    RUN_VA = 1
    START_VA = 2
    START_W = 3
    START_PF = 4
    FROM_S = 5
    FOR_S = 6
    START_S = 7
    DIP_X = 8
    """Least share of nominal volts at which electronics ride through this start."""


class LoadColumn(IntEnum):
    """Columns of a load: its connection, what it stands, and how it begins."""

    LEG_1 = 0
    LEG_2 = 1
    ACROSS = 2
    FLOOR_X = 3
    V_LOW_X = 4
    V_HIGH_X = 5
    HZ_OFF_X = 6
    MINDS_DIPS = 7
    FIRST_S = 8
    CALLS = 9
    CYCLES = 10
    PROGRAM = 11
    SHED_BELOW = 12
    ORDER = 13
    SEEN_W = 14
    """On how much it was seen to start on this source; below nothing where it was not."""
    FAILED_W = 15
    """On how little it was seen not to start; infinite where it never failed."""


class HomeTables(NamedTuple):
    """The loads of a home: figures by part and by load, their rhythm by hour of the outage, and the hours in which each may run."""

    parts: Floats
    part_of: Ints
    load_of: Ints
    loads: Floats
    on_s: Floats
    off_s: Floats
    opens: Floats
    closes: Floats
    window_of: Ints
    apart: NDArray[np.bool_]
    seeds: NDArray[np.uint64]


class Fixed(IntEnum):
    """Places of what is the same in every draw and at every moment; a yes is 1."""

    V_NOMINAL = 0
    HZ = 1
    LEGS = 2
    HORIZON_S = 3
    BY_VA = 4
    HAS_BATTERY = 5
    HAS_TANK = 6
    JITTER = 7
    GAP_S = 8
    ONE_BY_ONE = 9
    MIXED = 10
    """The sky is drawn again every few hours between clear and overcast."""
    RECOVERS_ALONE = 11
    BATTERY_ALONE_W = 12
    RESET_DAY_S = 13
    RESET_NIGHT_S = 14


class Edge(IntEnum):
    """Rows of what stands outside from each moment to the next."""

    AT_S = 0
    HOUR = 1
    """Of the outage."""
    CLEAR_W = 2
    GREY_W = 3
    """What panels would give under a clear and under an overcast sky."""
    CHARGER_W = 4
    CAPACITY_X = 5
    """How much of what is held the air leaves."""
    FREEZING = 6
    """A lithium battery takes no charge."""
    ASLEEP = 7
    REFUEL = 8
    """The household then fills the tank."""


class Setting(NamedTuple):
    """What is the same in every draw: ``fixed`` by ``Fixed``, ``edges`` by ``Edge`` and moment."""

    fixed: Floats
    edges: Floats


class Happening(IntEnum):
    """What can happen in an outage."""

    TRIP = 0
    """An overload used up what the source holds; its value is the place."""
    TRIP_AT_START = 1
    """The same while something starts."""
    BREAKER = 2
    STALL = 3
    """A motor stayed below the volts that it needs, or failed as it was seen to; its value is the lowest volts, as a share of nominal,
    at most 0 where it fails by what was seen alone."""
    SLOW_START = 4
    GAVE_UP = 5
    """A motor that stalled as often as it is tried."""
    TOGETHER = 6
    """Two starts at the same moment; its value is the other load."""
    EMPTY = 7
    """The battery gave all it gives."""
    CUT_OFF = 8
    """The battery's volts sagged to the cut-off with charge left."""
    DRY = 9
    """The tank ran dry."""
    REFUEL = 10
    """A planned stop to cool and refuel; its value is the litres filled."""
    BACK = 11
    """There are volts again."""
    OUT_OF_TOLERANCE = 12
    DIP = 13
    """Electronics that were on do not ride through a start; its value is the share of nominal volts left."""
    SHED = 14
    """A load was left off by the household's rule, for the battery is low."""
    FULL = 15
    """The battery is full."""
    STARTED = 16
    """A start held; its value is the lowest volts, as a share of nominal."""


class OutcomeColumn(IntEnum):
    """Columns of what came of one draw."""

    TRIPS = 0
    START_TRIPS = 1
    BREAKS = 2
    STALLS = 3
    RAN_OUT_S = 4
    """When battery or tank were first empty, unplanned; never: infinite."""
    OUT_S = 5
    """How long steady volts or hertz lay outside what a load that was on stands."""
    DIPS = 6
    LOWEST_V_X = 7
    LOWEST_HZ = 8
    BURNT_L = 9
    REFUELS = 10
    DEAD_S = 11
    SUN_WH = 12
    OUT_OF_FUEL = 13
    """The tank ran dry with nothing left to fill it from; a yes is 1."""
    DRY_STOPS = 14
    """How often the tank ran dry with fuel at hand, for nobody filled it in time."""
    TRIPS_0 = 15
    """Trips of the source's own limit by place, starts apart; of the whole first, then of each leg."""
    TRIPS_1 = 16
    TRIPS_2 = 17
    BREAKS_0 = 18
    """Breakers opened, by place."""
    BREAKS_1 = 19
    BREAKS_2 = 20
    OVER_0 = 21
    """Whether more ran at a place than it holds for ever, starts apart; a yes is 1."""
    OVER_1 = 22
    OVER_2 = 23


OUTCOMES = len(OutcomeColumn)


class LoadNow(IntEnum):
    """Columns of where a load stands."""

    RUN = 0
    WANTS = 1
    """It would run and has no power, or is left off."""
    CUT_S = 2
    """Since when."""
    LEFT_S = 3
    """What of its run was left."""
    RUN_END_S = 4
    CYCLE_S = 5
    """When its next cycle begins; of a program, which of its hours is next."""
    PICKUP_X = 6
    ROLLS = 7
    UNSERVED_S = 8


class PartNow(IntEnum):
    """Columns of where a part stands: its phase, when it goes off, how often it stalled, and what it adds now."""

    PHASE = 0
    OFF_S = 1
    TRIES = 2
    RUN_W = 3
    RUN_VA = 4
    START_W = 5
    START_VA = 6


DAMAGE, RATE, ROWS = 4, 6, 8
"""Rows of ``PlayState.place``: watts and volt-amperes that run and that starts add; how far each limit (the source's own, the
breaker's) is used up, and how fast."""


class PlayState(NamedTuple):
    """Everything that changes while an outage is played; made once and cleared for each draw.

    ``next_s`` is when each load, then each part, next changes; ``load`` by
    ``LoadNow`` with a row more for the sky; ``part`` by ``PartNow``; ``place``
    by row and place; ``scalars`` by ``Scalar``; ``seeds`` the dice of this draw.
    """

    next_s: Floats
    load: Floats
    part: Floats
    place: Floats
    scalars: Floats
    seeds: NDArray[np.uint64]


class Scalar(IntEnum):
    """Where a single figure stands in ``PlayState.scalars``; a yes is 1."""

    NOW = 0
    BATTERY_WH = 1
    TANK_L = 2
    STORE_L = 3
    DRAIN_W = 4
    """What the battery loses now; below nothing it charges."""
    LPH = 5
    FLOOR_WH = 6
    """The charge at which the volts meet the cut-off under the load of the moment."""
    BACK_S = 7
    DEAD_SINCE_S = 8
    CLEARNESS = 9
    SUN_W = 10
    LOCKED_SINCE_S = 11
    LIVE = 12
    WHY_DEAD = 13
    EDGE = 14
    LAST_ON = 15
    OUT = 16
    """Volts or hertz are outside what something that is on stands."""
    TRIPS_IN_HOUR = 17
    FULL = 18
    ALONE = 19
    """It comes back by itself, and so everything at once."""
    STARTING = 20
    """How many parts start or are stalled."""
    LOGGED = 21
    PART_S = 22
    """No part turns before this."""


SCALARS = len(Scalar)


LOG_COLUMNS = 5
"""Of the log of one draw: time, kind, load (−1 for none) and value; of a level what runs (a bit a load), watts, and what is left
in the battery [Wh] or the tank [L]."""
LEVEL = 100
"""In the place of what happened: what runs from now on."""
LEVEL_BITS = 50
"""Loads that a level tells of: so many bits a figure holds exactly."""


class KeptDraws(NamedTuple):
    """What is gathered over the draws: outcomes, energy by hour and place [Ws], charge and fuel at each hour, time not served by load, causes by load.

    ``failed`` counts the starts of each load that failed with no other at that moment; ``failed_with`` has a bit for each
    other load (of the first ``MOST_BITS``) with which one failed.
    """

    outcomes: Floats
    by_hour: Floats
    charge_wh: Floats
    fuel_l: Floats
    unserved_s: Floats
    causes: Ints
    pairs: Ints
    refuel_s: Floats
    failed: Floats
    failed_with: Ints


MOST_BITS = 62
"""Loads of which it is kept with which others a start failed."""
