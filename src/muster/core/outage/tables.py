"""From a home, its brief and its rules to the plain arrays that the played outage reads."""

from __future__ import annotations

import hashlib
import math
from collections.abc import Sequence

import numpy as np

from ..brief import Brief, BringUp, Sky
from ..character import Character
from ..loads import COLD_PICKUP_X, Load, Part, in_weather
from ..sources import Site, SourceKind, derate
from ..stacking.order import by_school
from ..supply import Leg
from ..trade.ride_through import dip_floor_pct
from .capability import Capability
from .layout import Edge, Fixed, Floats, HomeTables, Setting
from .layout import LoadColumn as L
from .layout import PartColumn as P
from .rhythm import BRING_UP_GAP_S, HOUR_S, JITTER, apart_of, start_extra_va, windows_of
from .rules import Rules

SUN_STEP_S = 600.0
"""The sun is reckoned so often."""
FREEZING_C = 0.0
ANY_X = 1e9
"""A share of nominal that nothing comes near: a load that minds nothing."""


def home_of(loads: Sequence[Load], brief: Brief, rules: Rules, character: Character, seed: int) -> HomeTables:
    """The loads as tables.

    Parameters
    ----------
    loads
        In any order: what each does hangs on its own key.
    brief
        Supply, hours, and the air by hour.
    rules
        What is kept apart and what is left off.
    character
        Of the source: on how much each load was seen to start on it, and on how little not.
    seed
        Of all random numbers.

    Returns
    -------
    HomeTables
        One row more in ``loads`` than there are: the least that any of them stands.
    """
    hours = math.ceil(brief.outage_h)
    parts = [load.running_parts for load in loads]
    windows = [windows_of(load, brief) for load in loads]
    rhythm = np.array([_rhythm(load, brief, hours) for load in loads]).reshape(len(loads), 2, hours)
    order = {load.key: place for place, load in enumerate(by_school(loads, brief.schools.motor_order, rules.first))}
    rows = [_load_row(load, brief, rules, character, order[load.key]) for load in loads]
    table = np.zeros((len(loads) + 1, len(L)))
    table[:-1] = np.array(rows).reshape(len(loads), len(L))
    table[-1, L.V_LOW_X] = max((row[L.V_LOW_X] for row in rows), default=-ANY_X)
    table[-1, L.V_HIGH_X] = min((row[L.V_HIGH_X] for row in rows), default=ANY_X)
    table[-1, L.HZ_OFF_X] = min((row[L.HZ_OFF_X] for row in rows), default=ANY_X)
    return HomeTables(
        parts=np.array(
            [_part_row(load, part, brief) for load, own in zip(loads, parts, strict=True) for part in own]
        ).reshape(-1, len(P)),
        part_of=np.cumsum([0, *(len(own) for own in parts)]).astype(np.int64),
        load_of=np.repeat(np.arange(len(loads)), [len(own) for own in parts]).astype(np.int64),
        loads=table,
        on_s=np.ascontiguousarray(rhythm[:, 0]),
        off_s=np.ascontiguousarray(rhythm[:, 1]),
        opens=np.array([opens for own in windows for opens, _ in own], dtype=np.float64),
        closes=np.array([closes for own in windows for _, closes in own], dtype=np.float64),
        window_of=np.cumsum([0, *(len(own) for own in windows)]).astype(np.int64),
        apart=apart_of(loads, rules.apart),
        seeds=np.array([_seed(load.key, seed) for load in loads] + [_seed("", seed)], dtype=np.uint64),
    )


def _seed(key: str, seed: int) -> int:
    """Sixty-four bits of a load's key: the order of the loads changes nothing."""
    return int.from_bytes(hashlib.blake2b(f"{seed}:{key}".encode(), digest_size=8).digest(), "little")


def _rhythm(load: Load, brief: Brief, hours: int) -> tuple[list[float], list[float]]:
    """On and off seconds in each hour of the outage, by the air of that hour; off is infinite where it does not call."""
    on, off = [], []
    for i in range(hours):
        sited = in_weather(load, brief.air_c(brief.outage_from_hour + i + 0.5), brief.room_c)
        on.append(load.duty.on_min * 60.0)
        off.append(math.inf if sited is None else sited.duty.off_min * 60.0)
    return on, off


def _load_row(load: Load, brief: Brief, rules: Rules, character: Character, order: int) -> list[float]:
    system, v = brief.system, brief.system.v_nominal
    across = load.leg is Leg.BOTH and system.legs == 2
    plate = load.plate_x(v)
    row = [0.0] * len(L)
    row[L.LEG_1] = 1.0 if system.legs == 1 else load.share_on(Leg.ONE)
    row[L.LEG_2] = 0.0 if system.legs == 1 else load.share_on(Leg.TWO)
    row[L.ACROSS] = float(across)
    row[L.FLOOR_X] = load.floor_v(v) / v
    row[L.V_LOW_X] = -ANY_X if load.v_low_pct is None else plate * (1 - load.v_low_pct / 100)
    row[L.V_HIGH_X] = ANY_X if load.v_high_pct is None else plate * (1 + load.v_high_pct / 100)
    row[L.HZ_OFF_X] = ANY_X if load.hz_pct is None else load.hz_pct / 100
    row[L.MINDS_DIPS] = float(load.gap_ms is not None)
    row[L.FIRST_S] = BRING_UP_GAP_S * order if brief.bring_up is BringUp.ONE_BY_ONE else 0.0
    row[L.CALLS] = float(load.calls_at_once)
    row[L.CYCLES] = COLD_PICKUP_X if load.duty.cycles else 0.0
    row[L.PROGRAM] = float(load.duty.once)
    shed = [share for tier, share in rules.shed_below if tier is load.tier and not load.kind_figures.medical]
    row[L.SHED_BELOW] = max(shed, default=0.0)
    row[L.ORDER] = order
    row[L.SEEN_W] = character.started_w.get(load.key, -1.0)
    row[L.FAILED_W] = math.inf if load.eased else character.failed_w.get(load.key, math.inf)
    return row


def _part_row(load: Load, part: Part, brief: Brief) -> list[float]:
    """A part's watts, volt-amperes, start and times; a start shorter than a cycle is none."""
    row = [0.0] * len(P)
    row[P.RUN_W], row[P.RUN_VA] = part.run_w, part.run_va
    row[P.START_VA] = start_extra_va(load, part, brief)
    row[P.START_PF] = load.start_pf
    row[P.FROM_S] = part.from_s
    row[P.FOR_S] = math.inf if part.for_s is None else part.for_s
    row[P.START_S] = part.start_s
    row[P.DIP_X] = dip_floor_pct(part.start_s) / 100
    return row


def setting_of(
    brief: Brief, capability: Capability, rules: Rules, sun_w: tuple[Floats, Floats] | None, capacity_x: Sequence[float]
) -> Setting:
    """What is the same in every draw.

    Parameters
    ----------
    brief
        Hours, air, who is about.
    capability
        Whether there is a battery or a tank, and whether the source comes back by itself.
    rules
        Charger and refuelling.
    sun_w
        Clear and overcast harvest from each edge on (``edges_of``); None without sun. [W]
    capacity_x
        What the air of each edge leaves of what is held.

    Returns
    -------
    Setting
        With one place more in each array than there are stretches.
    """
    edges = edges_of(brief, sun=sun_w is not None)
    hour = np.minimum((edges / HOUR_S + 1e-9).astype(np.int64), math.ceil(brief.outage_h) - 1)
    clock = (brief.outage_from_hour + hour) % 24
    nothing = np.zeros(edges.size)
    clear, grey = (nothing, nothing) if sun_w is None else sun_w
    if brief.sky is not Sky.MIXED:
        clear = grey = clear if brief.sky is Sky.CLEAR else grey
    charging = rules.charging.hours if rules.charging else frozenset()
    quiet, bed = brief.quiet_hours, (brief.quiet_from_hour - 1) % 24
    horizon_s, system = brief.outage_h * HOUR_S, brief.system
    fixed = {
        Fixed.V_NOMINAL: system.v_nominal,
        Fixed.HZ: system.hz,
        Fixed.LEGS: system.legs,
        Fixed.HORIZON_S: horizon_s,
        Fixed.BY_VA: capability.by_va,
        Fixed.HAS_BATTERY: capability.has_battery,
        Fixed.HAS_TANK: capability.has_tank,
        Fixed.JITTER: JITTER,
        Fixed.GAP_S: BRING_UP_GAP_S,
        Fixed.ONE_BY_ONE: brief.bring_up is BringUp.ONE_BY_ONE,
        Fixed.MIXED: sun_w is not None and brief.sky is Sky.MIXED,
        Fixed.RECOVERS_ALONE: capability.recovers_alone,
        Fixed.BATTERY_ALONE_W: capability.battery_alone_w,
        Fixed.RESET_DAY_S: brief.reset_min * 60,
        Fixed.RESET_NIGHT_S: brief.reset_night_min * 60,
    }
    outside = {
        Edge.AT_S: edges,
        Edge.HOUR: hour,
        Edge.CLEAR_W: clear,
        Edge.GREY_W: grey,
        Edge.CHARGER_W: [rules.charging.w if rules.charging and int(h) in charging else 0.0 for h in clock],
        Edge.CAPACITY_X: np.asarray(capacity_x, dtype=np.float64)[hour],
        Edge.FREEZING: [brief.air_c(float(h)) <= FREEZING_C and not capability.lead for h in clock],
        Edge.ASLEEP: [int(h) in quiet for h in clock],
        Edge.REFUEL: [rules.refuel_before_bed and int(h) == bed for h in clock],
    }
    return Setting(
        fixed=np.array([float(fixed[name]) for name in Fixed]),
        edges=np.array([np.asarray(outside[name], dtype=np.float64) for name in Edge]),
    )


def edges_of(brief: Brief, *, sun: bool) -> Floats:
    """The moments at which something outside changes: every hour, every ten minutes where the sun counts, and the end. [s]"""
    horizon_s = brief.outage_h * HOUR_S
    step_s = SUN_STEP_S if sun else HOUR_S
    inside = np.arange(0.0, horizon_s, step_s)
    return np.append(inside, horizon_s)


def capacity_by_hour(character: Character, brief: Brief) -> list[float]:
    """What the air of each hour leaves of what is held at the brief's own temperature: engines alone lose by heat."""
    kind = SourceKind(character.kind)
    here = derate(kind, "", Site(brief.site.altitude_m, brief.site.temp_c)).share
    return [
        min(
            1.0,
            derate(kind, "", Site(brief.site.altitude_m, brief.air_c(brief.outage_from_hour + i + 0.5))).share / here,
        )
        for i in range(math.ceil(brief.outage_h))
    ]
