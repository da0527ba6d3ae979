"""Make the demo job: the Ferry House on Hask, its open-frame set, and the sessions run on it.

Everything is made up. A small seeded model of the set (a straight voltage
and frequency line, a source impedance for starts, a level that falls with
distance) gives the readings; they are written as log lines and read back by
the same grammar that a person's typing goes through, slips included.

``python -m tools.make_demo`` writes src/muster/demo/ferry_house.muster.json.
"""

from __future__ import annotations

import math
import random
from collections.abc import Iterable
from dataclasses import dataclass, field
from datetime import datetime, timedelta
from pathlib import Path

from muster.core.brief import Brief, Wiring
from muster.core.loads import Caller, Duty, Load, Tier
from muster.core.logline import read_line
from muster.core.plan import ladder_steps, noise_steps, start_steps
from muster.core.quantities import Grade
from muster.core.sessions import Conditions, Entry, Session, Step
from muster.core.sources import Claims, Site, Source, SourceKind
from muster.core.supply import SYSTEMS, Leg
from muster.formats.jobfile import JobFile, SessionRecord, SourceRecord, job_text

SEED = 1874
TARGET = Path(__file__).parent.parent / "src/muster/demo/ferry_house.muster.json"
HAND = Caller.HAND
DAYTIME = tuple(range(6, 22))

LOADS = (
    Load("1", "borehole pump", "motor_loaded", 1150, 0.80, Leg.BOTH, Tier.MUST, Duty(3, 27),
         run_grade=Grade.A, start_va=12000, start_grade=Grade.C),
    Load("2", "oil boiler", "furnace", 320, 0.80, Leg.ONE, Tier.MUST, Duty(12, 18), run_grade=Grade.A),
    Load("3", "chest freezer", "motor", 130, 0.70, Leg.ONE, Tier.MUST, Duty(15, 30), run_grade=Grade.A),
    Load("4", "sump pump", "motor", 380, 0.70, Leg.TWO, Tier.MUST, Duty(2, 18), run_grade=Grade.A, start_va=2350,
         start_grade=Grade.A),
    Load("5", "oxygen concentrator", "medical", 350, 0.85, Leg.TWO, Tier.MUST, Duty(), run_grade=Grade.A,
         note="Never tested on the person who needs it."),
    Load("6", "house lights", "electronic", 90, 0.85, Leg.ONE, Tier.MUST, Duty(), (6, 7, 8, 16, 17, 18, 19, 20, 21, 22),
         run_grade=Grade.A),
    Load("7", "bread oven", "heater", 1960, 1.0, Leg.BOTH, Tier.SHOULD, Duty(8, 8, HAND), (5, 6, 7), run_grade=Grade.A),
    Load("8", "seed-tray lights", "electronic", 140, 0.92, Leg.TWO, Tier.SHOULD, Duty(), DAYTIME, run_grade=Grade.B),
    Load("9", "kettle", "heater", 1480, 1.0, Leg.ONE, Tier.SHOULD, Duty(4, 56, HAND), (6, 7, 12, 16, 17, 20),
         run_grade=Grade.A),
    Load("a", "dehumidifier", "compressor", 290, 0.90, Leg.TWO, Tier.COULD, Duty(30, 30)),
    Load("b", "heat-pump", "compressor", 2100, 0.90, Leg.BOTH, Tier.COULD, Duty(15, 15)),
)  # fmt: skip
BRIEF = Brief(
    question="can the open-frame set carry it for 18 h?",
    system=SYSTEMS["split-120-240-60"],
    outage_h=18,
    outage_from_hour=16,
    reserve_pct=20,
    noise_day_dba=60,
    noise_night_dba=50,
    ear_m=23,
    site=Site(40, 9),
    wiring=Wiring.INTERLOCK,
    zone="Atlantic/Faroe",
)
SET = Source(
    "the open-frame set",
    SourceKind.OPEN_FRAME,
    Claims(
        cont_w=5000, surge_w=6250, surge_s=10, per_leg_w=2500, breaker_a=25, noise_dba_7m=74, fuel="petrol",
        tank_l=25, stored_fuel_l=40, half_load_lph=1.9, full_load_lph=3.2,
    ),
)  # fmt: skip

WARM = Conditions(temp_c=9, altitude_m=40, fuel="petrol", warm=True)


@dataclass
class SetModel:
    """The set as it really is: lines, impedance, sound, with a meter's scatter."""

    rng: random.Random
    no_load_v: float = 123.4
    v_per_w: float = -0.0021
    no_load_hz: float = 62.1
    hz_per_w: float = -0.00058
    z_ohm: float = 0.9
    dba_1m: float = 81.5
    decay: float = 18.2

    def volts(self, leg_w: float) -> float:
        """Steady volts of a leg."""
        return self.no_load_v + self.v_per_w * leg_w + self.rng.gauss(0, 0.15)

    def hertz(self, total_w: float) -> float:
        """Steady frequency."""
        return self.no_load_hz + self.hz_per_w * total_w + self.rng.gauss(0, 0.05)

    def lowest(self, before_v: float, lra_a: float, nominal: float) -> float:
        """Lowest volts at a start: a constant impedance behind the set's own."""
        return before_v / (1 + self.z_ohm * (nominal / 120) * lra_a / nominal) + self.rng.gauss(0, 0.3)

    def dba(self, distance_m: float, *, loaded: bool) -> float:
        """Level at a distance."""
        return self.dba_1m + (3.2 if loaded else 0) - self.decay * math.log10(distance_m) + self.rng.gauss(0, 0.4)


@dataclass
class Pen:
    """Writes log lines at their times and keeps what they were understood to say."""

    t_s: float = 0.0
    entries: list[Entry] = field(default_factory=list)

    def jot(self, line: str, after_s: float = 20.0) -> None:
        """Write a line some seconds later."""
        self.t_s += after_s
        jotting = read_line(line, {load.key: load.name for load in LOADS}, BRIEF.system)
        self.entries.append(Entry(len(self.entries) + 1, round(self.t_s, 1), jotting.items, line))


def _watts(keys: Iterable[str], leg: Leg | None, rng: random.Random) -> float:
    loads = [load for load in LOADS if load.key in set(keys)]
    return sum(load.run_w * (1 if leg is None else load.share_on(leg)) * rng.uniform(0.99, 1.01) for load in loads)


def _read(pen: Pen, model: SetModel, on: Iterable[str], after_s: float) -> None:
    one, two = (_watts(on, leg, model.rng) for leg in (Leg.ONE, Leg.TWO))
    hertz = model.hertz(one + two)
    pen.jot(f"l1 {model.volts(one):.1f}v {one:.0f}w l2 {model.volts(two):.1f}v {two:.0f}w {hertz:.1f}hz", after_s)


def _go_to(pen: Pen, was: set[str], want: set[str]) -> set[str]:
    words = [f"-{key}" for key in sorted(was - want)] + [f"+{key}" for key in sorted(want - was)]
    if words:
        pen.jot(" ".join(words))
    return want


def ladder(model: SetModel) -> Session:
    """A ladder to the claim, held 12 min, and one rung past it until the set lets go."""
    steps = ladder_steps(LOADS, SET.claims.cont_w, 2)
    pen = Pen()
    pen.jot("!cautions seen to", 0)
    _read(pen, model, (), 60)
    pen.jot("!step")
    on: set[str] = set()
    for step in steps[1:]:
        on = _go_to(pen, on, set(step.loads))
        _read(pen, model, on, 25)
        if step.hold_s >= 600:
            pen.jot("!hold", 5)
            _read(pen, model, on, 300)
            pen.jot("43c cord plug at the set", 60)
            _read(pen, model, on, 380)
        else:
            _read(pen, model, on, 110)
        pen.jot("!step", 10)
    extra = next(load.key for load in LOADS if load.key not in on and load.run_w > 500)
    on = _go_to(pen, on, on | {extra})
    _read(pen, model, on, 15)
    pen.jot("!trip engine ran on, both breakers up", 41)
    pen.jot("engine sound dropped and hunted before it let go", 15)
    return Session("ladder", steps, tuple(pen.entries), WARM)


def _start(pen: Pen, model: SetModel, load: Load, base: set[str], how: str, after_s: float) -> None:
    across = load.leg is Leg.BOTH
    nominal = 240.0 if across else 120.0
    leg = Leg.ONE if across else load.leg
    base_w = sum(x.run_w * x.share_on(leg) for x in LOADS if x.key in base)
    before = (model.no_load_v + model.v_per_w * base_w) * (2 if across else 1)
    lra = load.start_total_va / nominal
    lowest = model.lowest(before, lra, nominal)
    amps = lra * lowest / nominal
    place = "total" if across else f"l{load.leg.value}"
    settled = model.volts(base_w + load.run_w * load.share_on(leg)) * (2 if across else 1)
    ended = "!stall" if how == "stall" else "!held"
    after = "" if how == "stall" else f" {settled:.1f}v settled"
    hot = "hot " if how == "hot" else ""
    pen.jot(
        f"{hot}{load.name} start {place} @multimeter {before:.1f}v before {lowest:.1f}v min{after} "
        f"@clamp {amps:.1f}a max {ended}",
        after_s,
    )


def starts(model: SetModel) -> Session:
    """Each motor alone, then three times on base load with a hot restart; the borehole pump stalls."""
    by_key = {load.key: load for load in LOADS}
    steps = start_steps([load for load in LOADS if load.tier is Tier.MUST], BRIEF.system.hz)
    pen = Pen()
    pen.jot("!cautions seen to", 0)
    _read(pen, model, (), 60)
    for key in ("4", "2", "3"):
        _start(pen, model, by_key[key], set(), "", 90)
        pen.jot(f"-{key}", 40)
    base: set[str] = set()
    for key in ("4", "2", "3"):
        others = {k for k in ("1", "2", "3", "4", "5", "6") if k != key}
        base = _go_to(pen, base, others)
        _read(pen, model, base, 30)
        for how in ("", "", "hot"):
            _start(pen, model, by_key[key], base, how, 60)
            pen.jot(f"-{key}", 30)
    base = _go_to(pen, base, {"2", "5", "6"})
    _read(pen, model, base, 30)
    _start(pen, model, by_key["1"], base, "stall", 60)
    pen.jot("pump groaned and its breaker was opened by hand after 3 s", 10)
    base = _go_to(pen, base, set())
    _start(pen, model, by_key["1"], base, "stall", 240)
    return Session("starts", steps, tuple(pen.entries), WARM)


def noise_walk(model: SetModel) -> Session:
    """Background, then four distances unloaded and loaded."""
    steps: tuple[Step, ...] = noise_steps(BRIEF.ear_m)
    pen = Pen()
    pen.jot("!cautions seen to", 0)
    pen.jot("background 41.5db wind in the alders", 60)
    for loaded in (False, True):
        if loaded:
            pen.jot("+7 +5 +6", 60)
        for metres in (1, 4, 7, 23):
            pen.jot(f"{model.dba(metres, loaded=loaded):.1f}db@{metres}m", 45)
    return Session("noise_walk", steps, tuple(pen.entries), WARM)


def _closed(session: Session, started_at: str) -> SessionRecord:
    """A session closed with its last entry."""
    end = datetime.fromisoformat(started_at) + timedelta(seconds=session.entries[-1].t_s)
    return SessionRecord(session, started_at, end.isoformat())


def ferry_house() -> JobFile:
    """The whole job."""
    rng = random.Random(SEED)
    model = SetModel(rng)
    sessions = (
        _closed(ladder(model), "2026-10-12T09:05:00+00:00"),
        _closed(starts(model), "2026-10-12T10:40:00+00:00"),
        _closed(noise_walk(model), "2026-10-13T08:20:00+00:00"),
    )
    return JobFile("The Ferry House", BRIEF, LOADS, (SourceRecord(SET, sessions),))


def main() -> None:
    """Write the file anew; the same seed gives the same file."""
    TARGET.write_text(job_text(ferry_house()), encoding="utf-8")
    print(TARGET)


if __name__ == "__main__":
    main()
