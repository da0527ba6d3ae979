"""Characters fitted on seeded benches whose truth is known: ``python -m benchmarks.proof`` writes docs/recovery.md.

Each bench is read as an assessor would: through meters with an error of
their own, rounded as they round, jotted as log lines.
"""

from __future__ import annotations

import math
import sys
from collections.abc import Callable, Iterable, Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, field, replace
from pathlib import Path

import numpy as np

from muster.core.character import Character, Dated, character_of, predictions
from muster.core.findings import findings_of
from muster.core.kit import USUAL_KIT
from muster.core.loads import Duty, Load, Tier
from muster.core.quantities import Grade, Value
from muster.core.sessions import Conditions, Entry, Place, Session
from muster.core.sessions.log_line import read_line
from muster.core.sources import Claims, Site, Source, SourceKind
from muster.core.supply import SYSTEMS, Leg
from muster.core.timeline.captures import Capture, read_capture
from muster.core.timeline.traces import Channel
from muster.twin.battery import Battery, BatteryClaims
from muster.twin.bench import Bench
from muster.twin.engine import Engine, EngineClaims
from muster.twin.inverter import FAN_C, FAN_W, Inverter, InverterClaims
from muster.twin.waves import Waveshape, samples

TARGET = Path(__file__).parent.parent / "docs/recovery.md"
SYSTEM, SPLIT = SYSTEMS["single-230-50"], SYSTEMS["split-120-240-60"]
BENCHES = 200
WANTED = 0.90
ERR_SHARE = 0.95
"""A meter's own error is drawn within so much of its accuracy."""
DECIMALS = {"v": 1, "w": 0, "hz": 1, "a": 1, "dba": 1, "temp_c": 1, "fuel_l": 2, "soc_pct": 0, "wh": 1}
UNITS = {"dba": "db", "temp_c": "c", "fuel_l": "l fuel", "soc_pct": "%"}
CYCLE_S = 0.02


@dataclass(frozen=True)
class Recovered:
    """A parameter fitted: the truth, what was said, its half-width."""

    name: str
    truth: float
    said: float
    u: float

    @property
    def within(self) -> bool:
        """Whether the truth lies within the band."""
        return abs(self.said - self.truth) <= self.u


@dataclass
class Hand:
    """An assessor at a bench: reads meters that err, jots log lines by the bench's own clock."""

    bench: Bench
    rng: np.random.Generator
    protocol: str
    lines: list[tuple[float, str]] = field(default_factory=list)
    errs: dict[tuple[str, str], float] = field(default_factory=dict)
    began_s: float = 0.0

    def begin(self, protocol: str) -> Hand:
        """A new session with the same meters."""
        return Hand(self.bench, self.rng, protocol, [], self.errs, self.bench.t_s)

    def shown(self, slug: str, quantity: str, value: float) -> str:
        """What an instrument shows: its own scale error, drawn once, and its last digit."""
        measure = next(i for i in USUAL_KIT if i.slug == slug).measure(quantity)
        assert measure is not None
        share = self.errs.setdefault((slug, quantity), float(self.rng.uniform(-ERR_SHARE, ERR_SHARE)))
        off = share * (abs(value) * measure.accuracy_pct / 100 + measure.accuracy_abs)
        said = quantity.removeprefix("dc_")
        return f"{value + off:.{DECIMALS.get(said, 1)}f}{UNITS.get(said, said)}"

    def jot(self, text: str) -> None:
        """A line of the record."""
        self.lines.append((self.bench.t_s - self.began_s, text))

    def steady(self, more: str = "", slug: str = "meter") -> None:
        """Volts and watts of each leg, and hertz."""
        now = self.bench.sample()
        several = len(now.leg_v) > 1
        figures = []
        for place, (v, w) in enumerate(zip(now.leg_v, now.leg_w, strict=True), 1):
            figures += [f"l{place}"] if several else []
            figures += [self.shown(slug, "v", v), self.shown(slug, "w", w)]
        figures.append(self.shown(slug, "hz", now.f_hz))
        self.jot(f"@{slug} {' '.join(figures)} {more}".strip())

    def switch(self, keys: Iterable[str], settle_s: float = 8.0) -> None:
        """These on and no others."""
        want = set(keys)
        now = {key for key, appliance in self.bench.appliances.items() if appliance.on}
        words = [f"-{key}" for key in sorted(now - want)] + [f"+{key}" for key in sorted(want - now)]
        for key in now ^ want:
            self.bench.switch(key, on=key in want)
        if words:
            self.jot(" ".join(words))
        self.bench.advance(settle_s)

    def session(self, loads: Sequence[Load]) -> Session:
        """The session as it was jotted."""
        names = {load.key: load.name for load in loads}
        entries = [
            Entry(i, round(t, 2), read_line(text, names, self.bench.system).items, text)
            for i, (t, text) in enumerate(self.lines, 1)
        ]
        return Session(self.protocol, (), tuple(entries), Conditions(temp_c=20))


def start(hand: Hand, key: str, place: int = 0) -> tuple[float, float]:
    """Start a load with a scope on it: lowest volts and highest amps over a cycle, as they truly were."""
    bench = hand.bench
    before = bench.sample()
    track: list[tuple[float, float, float]] = []
    bench.switch(key, on=True)
    bench.advance(2.5, lambda b: track.append((b.t_s, b.sample().leg_v[place], b.sample().leg_a[place])))
    t, v, a = (np.array(x) for x in zip(*track, strict=True))
    lowest, highest = _cycles(t, v).min(), _cycles(t, a).max()
    settled = bench.sample().leg_v[place]
    hand.jot(
        f"load {key} start @scope {hand.shown('scope', 'v', before.leg_v[place])} before {hand.shown('scope', 'v', lowest)} min "
        f"{hand.shown('scope', 'v', settled)} settled {hand.shown('scope', 'a', highest)} max !held"
    )
    return float(lowest), float(highest)


def _cycles(t: np.ndarray, x: np.ndarray) -> np.ndarray:
    """RMS over the cycle before each moment."""
    fine = t <= t[0] + 2.0
    t, x = t[fine], x[fine]
    first = np.searchsorted(t, t - CYCLE_S)
    sums = np.concatenate([[0.0], np.cumsum(x**2)])
    count = np.arange(1, t.size + 1) - first
    whole = t >= t[0] + CYCLE_S
    return np.sqrt((sums[1:] - sums[first]) / count)[whole]


def _load(key: str, kind: str, run_w: float, **more: float) -> Load:
    return Load(
        key,
        f"load {key}",
        kind,
        round(run_w),
        1.0 if kind == "heater" else 0.7,
        Leg.ONE,
        Tier.MUST,
        Duty(),
        run_grade=Grade.A,
        start_grade=Grade.A,
        **more,
    )


def _said(character: Character, key: str) -> Value | None:
    return character.get(key)


def _about(character: Character, start: str, w: float) -> Value | None:
    """The parameter of a kind that is of about such a load; None where that load was not read."""
    near = [key for key in character.by_key if key.startswith(start) and 0.7 < float(key.removeprefix(start)) / w < 1.4]
    return character.get(near[0]) if near else None


def _add(recovereds: list[Recovered], name: str, truth: float, value: Value | None) -> None:
    if value is not None and value.bound is None:
        recovereds.append(Recovered(name, truth, value.value, value.u or 0.0))


def engine(seed: int) -> list[Recovered]:
    """One open-frame set: ladder, starts, a run on the tank, a noise walk."""
    rng = np.random.default_rng(seed)
    cont = rng.uniform(3000, 7000)
    claims = EngineClaims(
        cont,
        230,
        50,
        no_load_hz=rng.uniform(50.5, 53),
        droop=rng.uniform(0.02, 0.08),
        x_pu=rng.uniform(0.10, 0.25),
        r_pu=rng.uniform(0.02, 0.06),
        regulation=rng.uniform(0, 0.04),
        no_load_v=rng.uniform(226, 240),
        idle_lph=rng.uniform(0.4, 0.9),
        lph_per_w=rng.uniform(3e-4, 6e-4),
        dba_1m=rng.uniform(82, 94),
        louder_db=rng.uniform(2, 7),
        surge_x=1.35,
    )
    loads = (
        *(_load(str(i), "heater", cont / 4) for i in range(1, 5)),
        _load("a", "motor", 0.08 * cont),
        _load("b", "motor", 0.16 * cont),
        _load("c", "motor", 0.12 * cont),
    )
    source = Source("the set", SourceKind.OPEN_FRAME, Claims(round(cont), tank_l=25))
    bench = Bench(Engine(claims), SYSTEM, loads, seed=seed, background_dba=rng.uniform(30, 40))
    bench.advance(900)
    truth = _truth(bench, ["1", "2", "3", "4"])
    hand = Hand(bench, rng, "ladder", began_s=bench.t_s)
    for on in ("", "1", "12", "123", "1234"):
        hand.switch(on, 12)
        hand.steady()
    starts = hand.begin("starts")
    for base, key in (("", "a"), ("", "b"), ("1", "a"), ("1", "b"), ("12", "b")):
        starts.switch(base, 10)
        starts.steady()
        start(starts, key)
        starts.switch("", 6)
    lowest_c, _ = start(hand.begin("starts"), "c")
    run = hand.begin("endurance")
    run.switch("", 5)
    bench.source.fuel_l = 2.4  # type: ignore[union-attr]
    for on, stretch_s in (("1", 1500.0), ("123", 1200.0)):
        run.jot(run.shown("dipstick", "fuel_l", bench.sample().fuel_l))
        run.switch(on, 5)
        run.steady()
        bench.advance(stretch_s)
        run.jot(run.shown("dipstick", "fuel_l", bench.sample().fuel_l))
    walk = _walk(hand, "123")
    character = _character(source, loads, (hand, starts, run, walk))
    recovereds: list[Recovered] = []
    _lines(recovereds, character, truth)
    _add(recovereds, "litres an hour, no load", claims.idle_lph, _said(character, "idle_lph"))
    _add(recovereds, "litres an hour with load", claims.lph_per_w * 1000, _said(character, "lph_per_kw"))
    dba = bench.source.dba_at_1m(bench.total_w) - 20 * math.log10(7)
    _add(recovereds, "level at 7 m, loaded", dba, _said(character, "dba_7m_loaded"))
    _add(recovereds, "lost for each tenfold distance", 20.0, _said(character, "decay_db_loaded"))
    (predicted,) = predictions(character, [loads[-1]], SYSTEM)
    _add(recovereds, "volts of a start never tried", lowest_c, predicted.lowest)
    return recovereds


def _truth(bench: Bench, heaters: Sequence[str]) -> dict[str, tuple[float, float]]:
    """Volts and hertz at no load and their slopes, by perfect meters at no load and full."""
    ends = []
    for on in (False, True):
        for key in heaters:
            bench.switch(key, on=on)
        bench.advance(12)
        ends.append(bench.sample())
    for key in heaters:
        bench.switch(key, on=False)
    bench.advance(12)
    none, full = ends
    kw = (full.total_w - none.total_w) / 1000
    return {"v": (none.leg_v[0], (full.leg_v[0] - none.leg_v[0]) / kw), "hz": (none.f_hz, (full.f_hz - none.f_hz) / kw)}


def _lines(recovereds: list[Recovered], character: Character, truth: dict[str, tuple[float, float]]) -> None:
    _add(recovereds, "no-load volts", truth["v"][0], _said(character, "no_load_v1"))
    _add(recovereds, "volts with load", truth["v"][1], _said(character, "v1_per_kw"))
    _add(recovereds, "no-load hertz", truth["hz"][0], _said(character, "no_load_hz"))
    _add(recovereds, "hertz with load", truth["hz"][1], _said(character, "hz_per_kw"))


def _walk(hand: Hand, on: str) -> Hand:
    hand.switch("", 5)
    walk = hand.begin("noise_walk")
    walk.jot("background " + walk.shown("sound", "dba", hand.bench.background_dba))
    walk.switch(on, 5)
    for metres in (1, 4, 7, 15):
        walk.jot(walk.shown("sound", "dba", hand.bench.dba(metres) + walk.rng.normal(0, 0.3)) + f"@{metres}m")
    return walk


def _character(
    source: Source, loads: Sequence[Load], hands: Iterable[Hand], captures: Sequence[Capture] = ()
) -> Character:
    by_key = {load.key: load for load in loads}
    sessions, system = [], SYSTEM
    for hand in hands:
        system = hand.bench.system
        read = tuple(read_capture(capture, system) for capture in captures) if hand.protocol == "waveform" else ()
        result = findings_of(hand.session(loads), by_key, system, 20.0, captures=read, source=source)
        sessions.append(Dated(result, hand.protocol, "2026-01-01"))
    return character_of(source, system, Site(), sessions)


def legs(seed: int) -> list[Recovered]:
    """One open-frame set of two legs: each laden by itself and both together, and starts on both."""
    rng = np.random.default_rng(seed)
    cont = rng.uniform(4000, 8000)
    claims = EngineClaims(
        cont,
        120,
        60,
        legs=2,
        no_load_hz=rng.uniform(60.5, 63),
        droop=rng.uniform(0.02, 0.06),
        x_pu=rng.uniform(0.10, 0.20),
        r_pu=rng.uniform(0.02, 0.06),
        regulation=rng.uniform(0, 0.03),
        no_load_v=rng.uniform(118, 126),
        surge_x=1.35,
    )
    loads = (
        *(
            replace(_load(str(i), "heater", cont / 6), leg=leg)
            for i, leg in enumerate((Leg.ONE, Leg.ONE, Leg.TWO, Leg.TWO), 1)
        ),
        *(
            replace(_load(key, "motor", share * cont), leg=Leg.TWO)
            for key, share in (("a", 0.06), ("b", 0.1), ("c", 0.08))
        ),
    )
    source = Source("the set", SourceKind.OPEN_FRAME, Claims(round(cont)))
    bench = Bench(Engine(claims), SPLIT, loads, seed=seed)
    bench.advance(900)
    truth = [_leg_truth(bench, place, keys) for place, keys in ((0, "12"), (1, "34"))]
    hand = Hand(bench, rng, "ladder", began_s=bench.t_s)
    for on in ("", "1", "3", "13", "123", "134", "1234"):
        hand.switch(on, 12)
        hand.steady()
    starts = hand.begin("starts")
    for base, key in (("", "a"), ("", "b"), ("3", "a"), ("3", "b")):
        starts.switch(base, 10)
        starts.steady()
        start(starts, key, place=1)
        starts.switch("", 6)
    lowest_c, _ = start(hand.begin("starts"), "c", place=1)
    character = _character(source, loads, (hand, starts))
    recovereds: list[Recovered] = []
    for leg, (level, slope) in enumerate(truth, 1):
        _add(recovereds, "no-load volts of a leg", level, _said(character, f"no_load_v{leg}"))
        _add(recovereds, "volts of a leg with its load", slope, _said(character, f"v{leg}_per_kw"))
    (predicted,) = predictions(character, [loads[-1]], SPLIT)
    _add(recovereds, "volts of a start never tried, on a leg", lowest_c, predicted.lowest)
    return recovereds


def _leg_truth(bench: Bench, place: int, heaters: Sequence[str]) -> tuple[float, float]:
    """Volts of a leg at no load and what each kilowatt on it takes, by perfect meters."""
    ends = []
    for on in (False, True):
        for key in heaters:
            bench.switch(key, on=on)
        bench.advance(12)
        ends.append(bench.sample())
    for key in heaters:
        bench.switch(key, on=False)
    bench.advance(12)
    none, full = ends
    kw = (full.leg_w[place] - none.leg_w[place]) / 1000
    return none.leg_v[place], (full.leg_v[place] - none.leg_v[place]) / kw


def inverter(seed: int) -> list[Recovered]:
    """One inverter on a battery: ladder with the DC side, overloads, a slow and a fast run to empty, heat, a capture, starts."""
    rng = np.random.default_rng(seed)
    cont = rng.uniform(800, 3000)
    claims = InverterClaims(
        cont,
        230,
        50,
        limit_x=3.0,
        k_s=rng.uniform(0.15, 0.5),
        n=rng.uniform(1.8, 2.8),
        ohm=rng.uniform(0.2, 1.2),
        p0_w=rng.uniform(8, 40),
        p1=rng.uniform(0.02, 0.08),
        p2_per_w=rng.uniform(0.01, 0.05) / cont,
        heat_s=rng.uniform(240, 600),
        heat_k_per_w=0.0,
    )
    lost_w = claims.p0_w + claims.p1 * cont + claims.p2_per_w * cont**2
    claims = InverterClaims(**{**claims.__dict__, "heat_k_per_w": rng.uniform(20, 34) / lost_w})
    wh = cont * rng.uniform(0.6, 0.9)
    cells = BatteryClaims(wh, 47.0, 54.5, 60.0 / wh, gauge_lie=rng.uniform(-0.12, 0.12))
    heaters = (0.25, 0.25, 0.25, 0.25, 0.16, 0.14, 0.2)
    loads = (
        *(_load(str(i), "heater", share * cont) for i, share in enumerate(heaters, 1)),
        _load("a", "motor", 0.10 * cont),
        _load("b", "motor", 0.20 * cont),
        _load("c", "motor", 0.15 * cont),
    )
    source = Source("the inverter", SourceKind.INVERTER, Claims(round(cont), battery_wh=round(wh)))
    unit = Inverter(claims, Battery(cells, 1.0))
    bench = Bench(unit, SYSTEM, loads, seed=seed)
    battery = unit.battery
    assert battery is not None
    truth = _truth(bench, ["1", "2", "3", "4"])
    hand = Hand(bench, rng, "ladder", began_s=bench.t_s)
    for on in ("", "1", "12", "123", "1234"):
        battery.soc = 1.0
        hand.switch(on, 12)
        _both_sides(hand)
    battery.soc = 1.0
    bench.advance(610)
    _both_sides(hand)
    over = hand.begin("overload")
    for on in ("12345", "123456", "1234567"):
        over.switch("", 900)
        _fresh(bench, unit, battery)
        over.switch(on, 0.2)
        over.steady(slug="recorder")
        while unit.live and bench.t_s - over.began_s < 20_000:
            bench.advance(0.05)
        over.jot("!trip overload on its screen")
        bench.reset()
        over.jot("!reset by its button")
    starts = hand.begin("starts")
    _fresh(bench, unit, battery)
    for base, key in (("", "a"), ("", "b"), ("1", "a"), ("1", "b")):
        starts.switch(base, 3)
        starts.steady()
        start(starts, key)
        starts.switch("", 3)
    lowest_c, _ = start(hand.begin("starts"), "c")
    runs = []
    energies = []
    temps: list[float] = []
    for on in ("1", "1234"):
        run, given, dc, hot = _run(hand.begin("endurance"), unit, battery, on)
        runs.append(run)
        energies.append((given, dc))
        temps.append(hot)
    wave = hand.begin("waveform")
    wave.jot("no load")
    shape, thd_pct = _wave(rng)
    shot = Capture(
        "a wave",
        "scope",
        0.5,
        1e-4,
        (Channel("v", Place.LEG1),),
        samples(shape, 230, 50 * rng.uniform(0.99, 1.01), 1e4, 0.3, rng, 0.8)[None, :].astype(np.float32),
    )
    character = _character(source, loads, (hand, over, starts, *runs, wave), (shot,))
    recovereds: list[Recovered] = []
    _lines(recovereds, character, truth)
    _add(recovereds, "idle draw", claims.p0_w, _said(character, "idle_w"))
    top_w = max(seen for seen in _ac_seen(hand))
    _add(
        recovereds,
        "conversion at the top",
        100 * top_w / (top_w + unit.claims.p0_w + claims.p1 * top_w + claims.p2_per_w * top_w**2 + _fan(unit, top_w)),
        _said(character, "conversion_pct"),
    )
    _add(recovereds, "loss that goes with load", claims.p1 * 100, _said(character, "loss_p1_pct"))
    for w, (given, _), end_c in zip((0.25 * cont, cont), energies, temps, strict=True):
        _add(recovereds, "delivered, full to empty", given, _about(character, "delivered_wh_ac_", w))
        _add(recovereds, "end temperature", end_c, _about(character, "end_c_case_", w))
    _add(recovereds, "battery, by two runs", energies[0][1], _said(character, "two_runs_wh_dc"))
    _add(recovereds, "idle draw, by two runs", claims.p0_w, _said(character, "two_runs_idle_w"))
    _add(recovereds, "distortion", thd_pct, _said(character, "thd_pct_no_load"))
    if character.hold is not None:
        w = 1.38 * cont
        low, high = character.hold.band_s(w)
        true_s = claims.k_s * (w / cont - 1) ** -claims.n
        middle, half = (math.log(low) + math.log(high)) / 2, (math.log(high) - math.log(low)) / 2
        recovereds.append(Recovered("hold time at 1.38 × (log)", math.log(true_s), middle, half))
    (predicted,) = predictions(character, [loads[-1]], SYSTEM)
    _add(recovereds, "volts of a start never tried", lowest_c, predicted.lowest)
    half = 100 * min(1.0, 0.5 + cells.gauge_lie)
    _add(recovereds, "gauge when half is left", half, _said(character, "half_at_pct"))
    return recovereds


def _fresh(bench: Bench, unit: Inverter, battery: Battery) -> None:
    """Charged, cold, and with nothing remembered."""
    battery.soc, battery.open, unit.memory, unit.temp_c = 1.0, False, 0.0, unit.claims.air_c
    bench.advance(1)


def _fan(unit: Inverter, top_w: float) -> float:
    """The fan's watts, if it ran as the top was read first: cold it does not."""
    end_c = unit.claims.air_c + unit.claims.heat_k_per_w * (
        unit.claims.p0_w + unit.claims.p1 * top_w + unit.claims.p2_per_w * top_w**2
    )
    return FAN_W / 2 if end_c > FAN_C else 0.0


def _ac_seen(hand: Hand) -> list[float]:
    return [
        float(word[:-1]) for _, line in hand.lines for word in line.split() if word.endswith("w") and word[0].isdigit()
    ]


def _both_sides(hand: Hand) -> None:
    now = hand.bench.sample()
    dc = f"@recorder dc {hand.shown('recorder', 'dc_v', now.dc_v)} {hand.shown('recorder', 'dc_a', now.dc_a)}"
    hand.steady(slug="recorder")
    hand.jot(dc)


def _run(run: Hand, unit: Inverter, battery: Battery, on: str) -> tuple[Hand, float, float, float]:
    """Full to empty with check-ins: the session, and what was truly delivered, truly given by the battery, and the end temperature."""
    bench = run.bench
    run.switch("", 5)
    _fresh(bench, unit, battery)
    began, ac_wh, dc_wh, last = bench.t_s, 0.0, 0.0, bench.t_s

    def count(b: Bench) -> None:
        nonlocal ac_wh, dc_wh, last
        dt, last = b.t_s - last, b.t_s
        ac_wh += b.sample().total_w * dt / 3600
        dc_wh += unit.dc_w(b.total_w) * dt / 3600 if unit.live else 0.0

    def look() -> None:
        now = bench.sample()
        shown = " ".join((f"{now.soc_pct:.0f}%", run.shown("recorder", "wh", ac_wh)))
        run.jot(f"{shown} {run.shown('recorder', 'w', now.total_w)}" if now.live else shown)

    run.jot(f"100% {run.shown('recorder', 'wh', 0.0)}")
    run.switch(on, 1)
    last = bench.t_s
    last_w = 0.0
    while unit.live and bench.t_s - began < 40_000:
        bench.advance(240, count)
        if unit.live:
            look()
            run.jot(f"{run.shown('thermometer', 'temp_c', unit.temp_c)} case")
            last_w = bench.total_w
    run.jot(f"{run.shown('recorder', 'wh', ac_wh)}")
    run.jot("!trip empty, screen dark")
    # The fan, once it runs, is part of what warms it.
    end_c = unit.claims.air_c + unit.claims.heat_k_per_w * unit.loss_w(last_w)
    bench.reset()
    _fresh(bench, unit, battery)
    bench.reset()
    return run, ac_wh, dc_wh, end_c


def _wave(rng: np.random.Generator) -> tuple[Waveshape, float]:
    orders = rng.choice(np.arange(3, 40, 2), 4, replace=False)
    shares = rng.uniform(0.003, 0.06, 4)
    thd = 100 * math.sqrt(float((shares**2).sum()))
    return Waveshape(harmonics=tuple((int(o), float(s)) for o, s in zip(orders, shares, strict=True))), thd


def bench_of(seed: int) -> list[Recovered]:
    """Every other bench an engine, every other an inverter; beside every fourth a set of two legs."""
    made: Callable[[int], list[Recovered]] = engine if seed % 2 else inverter
    return made(seed) + (legs(seed) if seed % 4 == 0 else [])


@dataclass(frozen=True)
class Line:
    """A parameter over all benches."""

    name: str
    benches: int
    within: int
    width: float

    @property
    def share(self) -> float:
        """How often its band held the truth."""
        return self.within / self.benches


def table_of(recovereds: Iterable[Recovered]) -> list[Line]:
    """Each parameter with how often its band held the truth, and how wide the band was against the truth."""
    groups: dict[str, list[Recovered]] = {}
    for recovered in recovereds:
        groups.setdefault(recovered.name, []).append(recovered)
    return [
        Line(
            name,
            len(all_),
            sum(item.within for item in all_),
            float(np.median([item.u / abs(item.truth) for item in all_ if abs(item.truth) > 1e-6])),
        )
        for name, all_ in groups.items()
    ]


def main() -> None:
    """Run all benches and write the table."""
    count = int(sys.argv[1]) if len(sys.argv) > 1 else BENCHES
    with ProcessPoolExecutor(2) as pool:
        result = [item for each in pool.map(bench_of, range(1, count + 1)) for item in each]
    lines = table_of(result)
    total, within = sum(line.benches for line in lines), sum(line.within for line in lines)
    rows = [
        f"| {line.name} | {line.benches} | {line.within} | {line.share:.0%} | ± {line.width:.1%} |" for line in lines
    ]
    text = "\n".join(
        [
            "# Recovery",
            "",
            f"Made by `python -m benchmarks.proof`: {count} seeded benches, half of them open-frame sets and half inverters on a battery, and beside every fourth a set of two legs, "
            "each read through meters that err within their accuracy, jotted as log lines, and fitted. A parameter is recovered when the "
            "truth lies within the band that was stated. Wanted: nine in ten.",
            "",
            "| parameter | fitted on | within its band | share | half-width, median |",
            "|---|---|---|---|---|",
            *rows,
            f"| **all** | {total} | {within} | **{within / total:.1%}** | |",
            "",
        ]
    )
    print(text)
    if count == BENCHES:
        TARGET.write_text(text, encoding="utf-8")


if __name__ == "__main__":
    main()
