"""Homes and sources whose truth is fixed before Muster sees anything, and benches at which everything was read that must be.

A world as it is made here carries its home, and was read well enough to say so.
``traps`` then changes the truth, or takes away what decides it.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import lru_cache

import numpy as np

from muster.core.brief import Brief, BringUp, Home, Wiring
from muster.core.character import given_of
from muster.core.findings import SessionFindings, findings_of
from muster.core.loads import Duty, Load
from muster.core.outage import OutageDemand, upper
from muster.core.outage.simulate import simulate
from muster.core.quantities import Grade
from muster.core.safety.checks import KNOWN
from muster.core.sessions import Conditions, Entry, Item, Place, Session
from muster.core.sessions.log_line import read_line
from muster.core.sources import Chemistry, Claims, Site, Source, SourceKind
from muster.core.supply import SYSTEMS, Leg, System
from muster.core.timeline.captures import Capture, CaptureFeatures, read_capture
from muster.core.timeline.traces import Channel
from muster.core.verdict.inputs import VerdictInputs

SINGLE, SPLIT = SYSTEMS["single-230-50"], SYSTEMS["split-120-240-60"]
SCOPE_STEP_S = 1e-4
HOLD_MIN = 105
"""An engine's heat has settled after 90 min (physics §10)."""


@dataclass(frozen=True)
class Sitting:
    """A session as it was jotted: lines at their seconds. ``waves``: the source's wave was captured under load."""

    protocol: str
    lines: tuple[tuple[float, str], ...]
    conditions: Conditions = field(default_factory=lambda: Conditions(temp_c=20, altitude_m=0, fuel="petrol"))
    waves: str = ""


@dataclass(frozen=True)
class Truth:
    """What the generator fixed: the source as it is, whoever reads it."""

    holds_w: float
    no_load_v: float
    v_per_w: float
    no_load_hz: float
    hz_per_w: float
    start_v: float
    idle_lph: float
    lph_per_w: float
    dba_1m: float
    decay_db: float

    def v(self, w: float, legs: int = 1) -> float:
        """Volts of a leg under a load of the whole, shared alike."""
        return self.no_load_v + self.v_per_w * w / legs

    def hz(self, w: float) -> float:
        """Hertz under a load."""
        return self.no_load_hz + self.hz_per_w * w

    def dba(self, metres: float) -> float:
        """The level at a distance, under the load the walk is made with."""
        return float(self.dba_1m - self.decay_db * np.log10(metres))


@dataclass(frozen=True)
class World:
    """A home, a source, what was read of it, and the truth."""

    truth: Truth
    brief: Brief
    loads: tuple[Load, ...]
    source: Source
    sittings: Mapping[str, Sitting]
    passed: frozenset[str] = frozenset(KNOWN)

    @property
    def need_w(self) -> float:
        """What the home draws with everything on."""
        return sum(load.run_w for load in self.loads)

    def with_sitting(self, name: str, **changes: object) -> World:
        """The same with one session changed."""
        return replace(self, sittings={**self.sittings, name: replace(self.sittings[name], **changes)})  # type: ignore[arg-type]

    def without(self, *names: str) -> World:
        """The same with sessions never run."""
        return replace(self, sittings={key: s for key, s in self.sittings.items() if key not in names})

    def with_load(self, index: int, **changes: object) -> World:
        """The same with one load otherwise than it was."""
        loads = list(self.loads)
        loads[index] = replace(loads[index], **changes)  # type: ignore[arg-type]
        return replace(self, loads=tuple(loads))

    def claiming(self, **changes: object) -> World:
        """The same with other claims of its source."""
        return replace(self, source=replace(self.source, claims=replace(self.source.claims, **changes)))  # type: ignore[arg-type]


# What Muster makes of a world


def case_of(world: World) -> VerdictInputs:
    """The world's readings as a verdict is judged on them."""
    found = tuple(
        _findings(sitting, world.loads, world.brief.system, world.brief.neighbour_m, world.source, world.brief.site)
        for sitting in world.sittings.values()
    )
    return VerdictInputs(
        home=Home(world.brief, world.loads),
        source=world.source,
        demand=_demand(upper(world.loads), world.brief),
        planned=_demand(world.loads, world.brief),
        given=given_of(world.source, world.brief.system, world.brief.site, found),
        passed=world.passed,
    )


@lru_cache(512)
def _demand(loads: tuple[Load, ...], brief: Brief) -> OutageDemand:
    return simulate(loads, brief, 20)


@lru_cache(1024)
def _findings(
    sitting: Sitting, loads: tuple[Load, ...], system: System, neighbour_m: float, source: Source, site: Site
) -> SessionFindings:
    names = tuple((load.key, load.name) for load in loads)
    entries = tuple(Entry(i, t_s, _items(text, names, system), text) for i, (t_s, text) in enumerate(sitting.lines, 1))
    made = Session(sitting.protocol, (), entries, sitting.conditions)
    by_key = {load.key: load for load in loads}
    return findings_of(
        made, by_key, system, neighbour_m, captures=_captures(sitting.waves, system), source=source, site=site
    )


@lru_cache(4096)
def _items(text: str, names: tuple[tuple[str, str], ...], system: System) -> tuple[Item, ...]:
    """What a line says; the same line is jotted again and again while a level is held."""
    return read_line(text, dict(names), system).items


@lru_cache(8)
def _captures(waves: str, system: System) -> tuple[CaptureFeatures, ...]:
    """A clean wave, captured with the loads on that the session says; ``unloaded`` at no load, ``poor`` with a third harmonic."""
    if not waves:
        return ()
    t_s = np.arange(0, 0.4, SCOPE_STEP_S)
    angle = 2 * np.pi * system.hz * t_s
    volts = system.v_nominal * np.sqrt(2) * (np.sin(angle) + (0.12 if waves == "poor" else 0.01) * np.sin(3 * angle))
    at_s = 5.0 if waves == "unloaded" else 120.0
    shot = Capture(
        "wave",
        "scope",
        at_s,
        SCOPE_STEP_S,
        tuple(Channel("v", place) for place in (Place.LEG1, Place.LEG2)[: system.legs]),
        np.tile(volts.astype(np.float32), (system.legs, 1)),
    )
    return (read_capture(shot, system),)


# Worlds


def engine_world(seed: int, legs: int = 1) -> World:
    """A set with an engine and a home of a heater, a pump and, on two legs, the same again."""
    rng = np.random.default_rng([seed, legs])
    system = SPLIT if legs == 2 else SINGLE
    heater_w, pump_w = float(rng.integers(12, 22) * 100), float(rng.integers(5, 9) * 100)
    loads = _loads(heater_w, pump_w, legs)
    need_w = sum(load.run_w for load in loads)
    holds_w = round(need_w * rng.uniform(1.15, 1.5), -1)
    nominal, hz = system.v_nominal, system.hz
    truth = Truth(
        holds_w=holds_w,
        no_load_v=nominal * rng.uniform(1.01, 1.035),
        v_per_w=-nominal * rng.uniform(0.01, 0.04) / need_w * legs,
        no_load_hz=hz * rng.uniform(1.01, 1.025),
        hz_per_w=-hz * rng.uniform(0.01, 0.025) / need_w,
        start_v=nominal * rng.uniform(0.9, 0.95),
        idle_lph=rng.uniform(0.4, 0.7),
        lph_per_w=rng.uniform(0.28, 0.36) / 1000,
        dba_1m=rng.uniform(78, 86),
        decay_db=rng.uniform(17, 20),
    )
    neighbour_m = float(rng.integers(25, 36))
    brief = Brief(
        system=system,
        outage_h=float(rng.integers(5, 9)),
        outage_from_hour=18,
        reserve_pct=10,
        neighbour_m=neighbour_m,
        noise_day_dba=round(truth.dba(neighbour_m)) + 8,
        noise_night_dba=round(truth.dba(neighbour_m)) + 8,
        bring_up=BringUp.AT_ONCE,
        wiring=Wiring.INTERLOCK,
        site=Site(0.0, 20.0),
    )
    lph = truth.idle_lph + truth.lph_per_w * need_w
    claims = Claims(
        cont_w=holds_w,
        surge_w=round(1.6 * holds_w),
        surge_s=5,
        per_leg_w=holds_w if legs == 2 else None,
        tank_l=round(lph * brief.outage_h * 1.6, 1),
    )
    bare = World(truth, brief, loads, Source("set", SourceKind.OPEN_FRAME, claims), {})
    return replace(bare, sittings=bench_of(bare))


def _loads(heater_w: float, pump_w: float, legs: int) -> tuple[Load, ...]:
    measured = {"run_grade": Grade.A, "start_grade": Grade.A}
    always, turns = Duty(), Duty(12, 18)
    if legs == 1:
        return (
            Load("1", "heater", "heater", heater_w, pf=1.0, duty=always, **measured),  # type: ignore[arg-type]
            Load("2", "pump", "motor_loaded", pump_w, pf=0.8, duty=turns, start_va=5 * pump_w, **measured),  # type: ignore[arg-type]
            Load("3", "radio", "electronic", 60, pf=0.8, duty=always, **measured),  # type: ignore[arg-type]
        )
    half = {"duty": always, **measured}
    return (
        Load("1", "heater", "heater", heater_w / 2, pf=1.0, leg=Leg.ONE, **half),  # type: ignore[arg-type]
        Load("2", "pump", "motor_loaded", pump_w, pf=0.8, leg=Leg.ONE, start_va=5 * pump_w, **{**half, "duty": turns}),  # type: ignore[arg-type]
        Load("3", "radio", "electronic", 60, pf=0.8, leg=Leg.TWO, **half),  # type: ignore[arg-type]
        Load("4", "oven", "heater", heater_w / 2 + 300, pf=1.0, leg=Leg.TWO, **half),  # type: ignore[arg-type]
    )


# The bench


def bench_of(world: World) -> dict[str, Sitting]:
    """Every session that the home's lines want, read as the truth is."""
    return {
        "ladder": Sitting("ladder", ladder(world, (0.0, 0.35, 0.7, 1.08), HOLD_MIN)),
        "starts": Sitting("starts", starts(world)),
        "fuel": Sitting("endurance", fuel(world, (1.05, 0.4))),
        "noise": Sitting("noise_walk", noise(world, (3, 7, 14, 25))),
        "waveform": Sitting("waveform", ((0, "1w"), (60, f"+1 +2 {power(world, world.need_w)}")), waves="loaded"),
        **({"legs": Sitting("legs", unlike_legs(world))} if world.brief.system.legs == 2 else {}),
    }


def power(world: World, w: float) -> str:
    """Watts as they are jotted, leg by leg where there are two: shared as the home shares them."""
    return " ".join(f"{where}{here_w:.0f}w" for where, here_w, _ in _shared(world, w))


def _shared(world: World, w: float) -> list[tuple[str, float, float]]:
    """What a load of the whole is on each leg, as the home shares it: how the leg is written, its watts, its VA."""
    legs = (Leg.ONE, Leg.TWO) if world.brief.system.legs == 2 else (Leg.ONE,)
    whole = []
    for leg in legs:
        here = [load for load in world.loads if len(legs) == 1 or load.leg is leg]
        x = w / world.need_w
        where = f"l{leg.value} " if len(legs) == 2 else ""
        whole.append((where, x * sum(load.run_w for load in here), x * sum(load.run_va for load in here)))
    return whole


def level(world: World, w: float) -> str:
    """Watts, amps, volts and hertz of a level, drawn at the power factor of the home."""
    v = world.truth.v(w, world.brief.system.legs)
    read = (f"{where}{here_w:.0f}w {va / v:.2f}a {v:.1f}v" for where, here_w, va in _shared(world, w))
    return f"{' '.join(read)} {world.truth.hz(w):.2f}hz"


def ladder(world: World, shares: Sequence[float], hold_min: float) -> tuple[tuple[float, str], ...]:
    """Shares of what the home draws, a minute each, the last one held and read every quarter of an hour."""
    lines = [(60.0 * i, level(world, share * world.need_w)) for i, share in enumerate(shares)]
    last_s, text = lines[-1]
    every_s = max(1.0, min(900.0, hold_min * 60))
    held = np.arange(every_s, hold_min * 60 + 1, every_s)
    return (*lines, *((last_s + float(s), text) for s in held))


def starts(
    world: World,
    key: str = "2",
    base: str = "+1 +3",
    times: int = 3,
    hot: bool = True,
    meter: str = "scope",
    low_v: float | None = None,
    end: str = "!held",
) -> tuple[tuple[float, str], ...]:
    """Starts of the pump on what the home has beneath it, a hot one among them."""
    base += " +4" if world.brief.system.legs == 2 and base else ""
    on_w = sum(load.run_w for load in world.loads if load.key in base)
    name = next(load.name for load in world.loads if load.key == key)
    before = world.truth.v(on_w, world.brief.system.legs)
    lines = [(0.0, base), (5.0, power(world, on_w))] if base else [(0.0, "0w")]
    lowest = world.truth.start_v if low_v is None else low_v
    for i in range(times):
        warm = "hot " if hot and i == times - 1 else ""
        text = f"{warm}{name} start @{meter} {before:.1f}v before {lowest:.1f}v min {before - 1:.1f}v settled {end}"
        lines += [(60.0 + 60 * i, text), (90.0 + 60 * i, f"-{key}")]
    return tuple(lines)


def fuel(world: World, shares: Sequence[float], hours: float = 4) -> tuple[tuple[float, str], ...]:
    """What four hours of each load took out of the tank."""
    left_l, at_s = 16.0, 0.0
    lines: list[tuple[float, str]] = [(0.0, f"fuel {left_l:.2f}l")]
    for share in shares:
        w = share * world.need_w
        left_l -= hours * (world.truth.idle_lph + world.truth.lph_per_w * w)
        lines += [(at_s + 5, power(world, w)), (at_s + hours * 3600, power(world, w))]
        at_s += hours * 3600 + 10
        lines.append((at_s, f"fuel {left_l:.2f}l"))
    return tuple(lines)


def noise(world: World, spots_m: Sequence[float], w: float | None = None) -> tuple[tuple[float, str], ...]:
    """A walk with the background first, under the home's own load."""
    watts = power(world, world.need_w * 1.05 if w is None else w)
    lines = [(0.0, "background 30db"), (30.0, f"+1 {watts}")]
    return (*lines, *((60.0 + 60 * i, f"{watts} {world.truth.dba(m):.1f}db@{m:g}m") for i, m in enumerate(spots_m)))


def unlike_legs(world: World, minutes: float = 30) -> tuple[tuple[float, str], ...]:
    """One leg loaded alone, held, its neutral read."""
    w = 1.1 * max(
        sum(load.run_va for load in world.loads if load.leg is Leg.ONE),
        sum(load.run_va for load in world.loads if load.leg is Leg.TWO),
    )
    v = world.truth.v(w)
    text = f"l1 {w:.0f}w {w / v:.1f}a {v:.1f}v l2 0w 0a {world.truth.no_load_v:.1f}v neutral {w / v:.1f}a"
    other = f"l2 {w:.0f}w {w / v:.1f}a {v:.1f}v l1 0w 0a {world.truth.no_load_v:.1f}v neutral {w / v:.1f}a"
    return ((0, text), (minutes * 60, text), (minutes * 60 + 60, other), (minutes * 120 + 60, other))


def station_world(seed: int) -> World:
    """A battery station and a home of a heater and a radio: it was run from full to empty, and held for hours."""
    rng = np.random.default_rng([seed, 9])
    need_w = float(rng.integers(20, 40) * 10)
    measured = {"run_grade": Grade.A, "start_grade": Grade.A, "duty": Duty()}
    loads = (
        Load("1", "heater", "heater", need_w - 40, pf=1.0, **measured),  # type: ignore[arg-type]
        Load("3", "radio", "electronic", 40, pf=0.8, **measured),  # type: ignore[arg-type]
    )
    brief = Brief(
        system=SINGLE, outage_h=float(rng.integers(3, 5)), outage_from_hour=10, reserve_pct=10, site=Site(0.0, 20.0)
    )
    gives_wh = round(need_w * brief.outage_h * 1.1 * rng.uniform(1.25, 1.5))
    truth = Truth(round(need_w * 2.5), 230.0, 0.0, 50.0, 0.0, 230.0, 0.0, 0.0, 30.0, 20.0)
    claims = Claims(cont_w=truth.holds_w, battery_wh=round(gives_wh * 1.2), chemistry=Chemistry.LFP)
    bare = World(truth, brief, loads, Source("station", SourceKind.STATION, claims), {})
    return replace(bare, sittings=station_bench(bare, gives_wh))


def station_bench(world: World, gives_wh: float, share: float = 1.05) -> dict[str, Sitting]:
    """Idle, volts against load, and a run from full to empty with the counter read."""
    w = world.need_w * share
    hours = gives_wh / w
    run = [(0.0, f"100% {w:.0f}w 0wh")]
    run += [(hours * 3600 * x, f"{100 * (1 - x):.0f}% {w:.0f}w {gives_wh * x:.0f}wh") for x in (0.25, 0.5, 0.75, 0.9)]
    run.append((hours * 3600, f"{gives_wh:.0f}wh 0% off by itself, empty"))
    steps = tuple((60.0 * i, f"{x * world.need_w:.0f}w 230v 50hz") for i, x in enumerate((0.0, 0.5, 1.1)))
    return {
        "idle": Sitting("idle", ((0, "51.2v dc 0.2a idle"), (60, "0w 230v 50hz"))),
        "ladder": Sitting("ladder", (*steps, *((120.0 + 1800 * i, steps[-1][1]) for i in range(1, 11)))),
        "run": Sitting("endurance", tuple(run)),
        "waveform": Sitting("waveform", ((0, "1w"), (60, f"+1 +3 {world.need_w:.0f}w")), waves="loaded"),
    }
