"""Outages on a source whose every figure is known, made in a line."""

from __future__ import annotations

import math

import numpy as np

from muster.core.brief import Brief
from muster.core.character import Character, Parameter
from muster.core.character.impedance import StartModel
from muster.core.loads import Caller, Duty, Load, Tier
from muster.core.outage.capability import Capability
from muster.core.outage.layout import UNITS, Happening, KeptDraws
from muster.core.outage.layout import SourceColumn as U
from muster.core.outage.nights import OutageEvent
from muster.core.outage.play import Play, events_of, kept_for, log_for, log_of, play_all
from muster.core.outage.rules import Rules
from muster.core.outage.tables import capacity_by_hour, edges_of, home_of, setting_of
from muster.core.quantities import Grade, Value
from muster.core.supply import SYSTEMS

from .brute_force import Unit

SINGLE, SPLIT = SYSTEMS["single-230-50"], SYSTEMS["split-120-240-60"]
NOBODY = Character(source="", kind="station", parameters=(), start_models={})
SEED = 7


def heaters(rng: np.random.Generator, count: int) -> list[Load]:
    """Loads without a start: thermostats, hands, programs, hours."""
    made = []
    for i in range(count):
        kind = rng.integers(4)
        duty = (
            Duty(int(rng.integers(5, 40)), int(rng.integers(10, 90))),
            Duty(int(rng.integers(20, 90)), int(rng.integers(30, 90)), Caller.HAND),
            Duty(60, 0),
            Duty(int(rng.integers(30, 80)), 0, Caller.HAND, once=True),
        )[kind]
        first = int(rng.integers(0, 24))
        hours = (
            tuple(range(24)) if rng.random() < 0.6 else tuple((first + j) % 24 for j in range(int(rng.integers(2, 9))))
        )
        made.append(
            Load(
                key=str(i),
                name=f"load {i}",
                kind="heater",
                run_w=float(rng.integers(60, 900)),
                pf=1.0,
                duty=duty,
                hours=hours,
                run_grade=Grade.A,
                tier=Tier.MUST,
            )
        )
    return made


def meets(z_ohm: float, r_ohm: float, x_ohm: float) -> StartModel:
    """What starts meet, known to the last digit."""
    return StartModel(
        kind="impedance",
        z_ohm=z_ohm,
        r_ohm=r_ohm,
        x_ohm=x_ohm,
        limit_a=None,
        pf=0.5,
        u=0.0,
        residual_v=0.0,
        other_residual_v=None,
        hits=(),
    )


def a_source(unit: Unit, brief: Brief) -> Capability:
    """The same source for the compiled play, with no doubt in it."""
    base = np.zeros(UNITS)
    base[[U.HELD_0, U.HELD_1, U.HELD_2]] = unit.held_w if math.isfinite(unit.held_w) else 1e30
    base[[U.BREAKER_0, U.BREAKER_1, U.BREAKER_2]] = 1e30
    base[[U.HOLD_K_S, U.HOLD_N, U.COOLS_S]] = unit.k_s, unit.n, unit.cools_s
    base[[U.NO_LOAD_V1, U.NO_LOAD_V2]], base[U.NO_LOAD_HZ] = brief.system.v_nominal, brief.system.hz
    base[[U.LIMIT_1_A, U.LIMIT_2_A]] = math.inf
    base[[U.BATTERY_WH, U.IDLE_W, U.LOSS_P1]] = unit.battery_wh, unit.idle_w, unit.p1
    base[[U.CHARGE_SHARE, U.CHARGE_MOST_W, U.RATED_AT_W, U.SUN_X]] = 1.0, unit.charge_most_w, 1e30, 1.0
    base[[U.TANK_L, U.STORE_L, U.IDLE_LPH, U.LPH_PER_W]] = unit.tank_l, unit.store_l, unit.a_lph, unit.b_lph_per_w
    base[U.FULL_V] = 1.0
    return Capability(
        unsure=(),
        by_va=False,
        has_battery=unit.battery_wh > 0,
        has_tank=unit.tank_l > 0,
        recovers_alone=False,
        lead=True,
        base=base,
    )


def a_play(
    loads: list[Load],
    brief: Brief,
    unit: Unit | Capability,
    rules: Rules | None = None,
    sun_w: list[float] | None = None,
) -> Play:
    """A play of a source whose figures are all known."""
    capability = unit if isinstance(unit, Capability) else a_source(unit, brief)
    rules, loads = rules or Rules(), sorted(loads, key=lambda load: load.key)
    sun = None
    if sun_w is not None:
        each = np.append(np.array(sun_w)[: edges_of(brief, sun=True).size - 1], 0.0)
        sun = (each, each)
    return Play(
        loads=tuple(loads),
        brief=brief,
        character=NOBODY,
        capability=capability,
        home=home_of(loads, brief, rules, NOBODY, SEED),
        setting=setting_of(brief, capability, rules, sun, capacity_by_hour(NOBODY, brief)),
        missing=(),
        seed=SEED,
    )


def outcome(play: Play, draw: int = 0, **unit: float) -> tuple[KeptDraws, list[OutageEvent]]:
    """One draw at the stated values: what is kept of it, and its events."""
    row = play.capability.stated(1)
    for name, value in unit.items():
        row[0, U[name]] = value
    n, hours = len(play.loads), math.ceil(play.brief.outage_h)
    kept = kept_for(1, n, hours)
    play_all(row, np.ones((1, n)), np.ones((1, n)), play.home, play.setting, draw, kept, log_for(0))
    return kept, events_of(play, log_of(play, draw, row[0], np.ones(n), np.ones(n)))


BRIEF = Brief(
    system=SINGLE,
    outage_h=24,
    outage_from_hour=17,
    quiet_from_hour=0,
    quiet_to_hour=0,
    reset_min=10,
    reset_night_min=10,
)


def steady(run_w: float, key: str = "1", **more: object) -> Load:
    """A load that runs throughout, measured."""
    given: dict[str, object] = {"pf": 1.0, "duty": Duty(60, 0), "run_grade": Grade.A, "kind": "heater", **more}
    return Load(key=key, name=f"load {key}", run_w=run_w, **given)  # type: ignore[arg-type]


def kinds(events: list[OutageEvent]) -> list[Happening]:
    """What happened, starts that held left out."""
    return [event.kind for event in events if event.kind is not Happening.STARTED]


def known(**more: object) -> Character:
    """A source of which so much is known."""
    given: dict[str, object] = {"source": "set", "kind": "inverter", "parameters": (), "start_models": {}, **more}
    return Character(**given)  # type: ignore[arg-type]


def parameter(key: str, value: float, unit: str, u: float, grade: Grade = Grade.A) -> Parameter:
    """A parameter that was measured."""
    return Parameter(key=key, name=key, value=Value(value, unit, u, None, grade), estimates=())
