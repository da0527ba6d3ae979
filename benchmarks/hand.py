"""An assessor's hand at a bench of the twin: meters that err within their accuracy, log lines, and what is fitted from them."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field

import numpy as np

from muster.core.character import Character, Dated, character_of
from muster.core.findings import findings_of
from muster.core.kit import USUAL_KIT
from muster.core.loads import Duty, Load, Tier
from muster.core.quantities import Grade, Value
from muster.core.sessions import Conditions, Entry, Session
from muster.core.sessions.log_line import read_line
from muster.core.sources import Site, Source
from muster.core.supply import SYSTEMS, Leg
from muster.core.timeline.captures import Capture, read_capture
from muster.twin.bench import Bench, Sample

SYSTEM, SPLIT = SYSTEMS["single-230-50"], SYSTEMS["split-120-240-60"]
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


def load_of(key: str, kind: str, run_w: float, **more: float) -> Load:
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


def said_of(character: Character, key: str) -> Value | None:
    return character.get(key)


def said_about(character: Character, start: str, w: float) -> Value | None:
    """The parameter of a kind that is of about such a load; None where that load was not read."""
    near = [key for key in character.by_key if key.startswith(start) and 0.7 < float(key.removeprefix(start)) / w < 1.4]
    return character.get(near[0]) if near else None


def add_to(recovereds: list[Recovered], name: str, truth: float, value: Value | None) -> None:
    if value is not None and value.bound is None:
        recovereds.append(Recovered(name, truth, value.value, value.u or 0.0))


def _at_ends(bench: Bench, heaters: Sequence[str]) -> tuple[Sample, Sample]:
    """The bench at no load and with all these heaters on, by perfect meters."""
    ends = []
    for on in (False, True):
        for key in heaters:
            bench.switch(key, on=on)
        bench.advance(12)
        ends.append(bench.sample())
    for key in heaters:
        bench.switch(key, on=False)
    bench.advance(12)
    return ends[0], ends[1]


def line_truth(bench: Bench, heaters: Sequence[str]) -> dict[str, tuple[float, float]]:
    """Volts and hertz at no load and their slopes, by perfect meters at no load and full."""
    none, full = _at_ends(bench, heaters)
    kw = (full.total_w - none.total_w) / 1000
    return {"v": (none.leg_v[0], (full.leg_v[0] - none.leg_v[0]) / kw), "hz": (none.f_hz, (full.f_hz - none.f_hz) / kw)}


def add_lines(recovereds: list[Recovered], character: Character, truth: dict[str, tuple[float, float]]) -> None:
    add_to(recovereds, "no-load volts", truth["v"][0], said_of(character, "no_load_v1"))
    add_to(recovereds, "volts with load", truth["v"][1], said_of(character, "v1_per_kw"))
    add_to(recovereds, "no-load hertz", truth["hz"][0], said_of(character, "no_load_hz"))
    add_to(recovereds, "hertz with load", truth["hz"][1], said_of(character, "hz_per_kw"))


def walk_around(hand: Hand, on: str) -> Hand:
    hand.switch("", 5)
    walk = hand.begin("noise_walk")
    walk.jot("background " + walk.shown("sound", "dba", hand.bench.background_dba))
    walk.switch(on, 5)
    for metres in (1, 4, 7, 15):
        walk.jot(walk.shown("sound", "dba", hand.bench.dba(metres) + walk.rng.normal(0, 0.3)) + f"@{metres}m")
    return walk


def character_from(
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


def leg_truth(bench: Bench, place: int, heaters: Sequence[str]) -> tuple[float, float]:
    """Volts of a leg at no load and what each kilowatt on it takes, by perfect meters."""
    none, full = _at_ends(bench, heaters)
    kw = (full.leg_w[place] - none.leg_w[place]) / 1000
    return none.leg_v[place], (full.leg_v[place] - none.leg_v[place]) / kw


def both_sides(hand: Hand) -> None:
    now = hand.bench.sample()
    dc = f"@recorder dc {hand.shown('recorder', 'dc_v', now.dc_v)} {hand.shown('recorder', 'dc_a', now.dc_a)}"
    hand.steady(slug="recorder")
    hand.jot(dc)
