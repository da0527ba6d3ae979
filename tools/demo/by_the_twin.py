"""A ladder that Muster ran by itself, on the bench twin: its record, its log, and a capture around each motor's start."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np

from muster.core.brief import Home
from muster.core.kit import USUAL_KIT
from muster.core.loads import Load, short_name
from muster.core.plan.run import LadderRun, Pace, Say, StopAt
from muster.core.sessions import Conditions, Entry, Event, Place, Session, Step, Switch
from muster.core.sources import Source
from muster.core.timeline.captures import Capture
from muster.core.timeline.traces import Channel, Trace
from muster.instruments.standins.rig import LastSeconds
from muster.twin.from_job import bench_of
from muster.twin.meters import Meter

TICK_S, LOG_S, METER_S = 0.1, 0.5, 0.02
CAPTURE_HZ, CAPTURE_AFTER_S, CAPTURE_S = 5000.0, 1.3, 2.0
SETTLED_S = 12.0
LEGS = (Place.LEG1, Place.LEG2)
CHANNELS = (
    *(Channel(quantity, leg) for leg in LEGS for quantity in ("v", "a", "w")),
    Channel("hz"),
    Channel("v", Place.DC),
    Channel("a", Place.DC),
    Channel("soc_pct"),
)
INSTRUMENT = "recorder"


@dataclass
class Ran:
    """What came of a run."""

    entries: list[Entry] = field(default_factory=list)
    times: list[float] = field(default_factory=list)
    figures: list[list[float]] = field(default_factory=list)
    captures: list[Capture] = field(default_factory=list)

    def say(self, t_s: float, say: Say, who: str = "Muster") -> None:
        """An entry of the running record."""
        self.entries.append(Entry(len(self.entries) + 1, round(t_s, 1), say.items, say.raw, who=who))


def run_by_muster(
    name: str, home: Home, source: Source, steps: tuple[Step, ...], loads: tuple[Load, ...], seed: int
) -> tuple[Session, Trace, tuple[Capture, ...]]:
    """Run a plan on the twin as the recorder would, by simulated time."""
    bench = bench_of(home, source, seed)
    meter = Meter(next(i for i in USUAL_KIT if i.slug == INSTRUMENT), CHANNELS, bench)
    ring, ran = LastSeconds(), Ran()
    run = LadderRun(
        steps,
        loads,
        home.brief.system,
        StopAt(leg_a=100),
        Pace(settle_s=SETTLED_S),
        dict.fromkeys(CHANNELS, INSTRUMENT),
    )
    ran.say(0.0, Say((Event("cautions", "seen to"),), "!cautions seen to"), "Ishbel")
    due: list[tuple[float, Load]] = []
    by_key = {load.key: load for load in loads}

    metered_s = -1.0

    def look(subject: object) -> None:
        nonlocal metered_s
        ring.look(bench)
        if bench.t_s - metered_s >= METER_S:
            metered_s = bench.t_s
            meter.look(bench)

    while not run.doing.over:
        bench.advance(TICK_S, look)
        shown = {channel: round(value, 2) for channel, value in meter.shown.items()}
        for say in run.tick(bench.t_s, shown):
            ran.say(bench.t_s, say)
            for item in say.items:
                if isinstance(item, Switch):
                    bench.switch(item.load, on=item.on)
                    load = by_key[item.load]
                    if item.on and load.has_start(home.brief.system.hz) and load.leg.value != "2":
                        due.append((bench.t_s + CAPTURE_AFTER_S, load))
        if not ran.times or bench.t_s - ran.times[-1] >= LOG_S - 1e-6:
            ran.times.append(bench.t_s)
            ran.figures.append([shown[channel] for channel in CHANNELS])
        while due and bench.t_s >= due[0][0]:
            ran.captures.append(_capture(ring, bench.t_s, due.pop(0)[1], bench.rng))
    session = Session("ladder", steps, tuple(ran.entries), Conditions(temp_c=16, altitude_m=40))
    values = np.array(ran.figures, dtype=np.float32).T
    return session, Trace(name, INSTRUMENT, CHANNELS, np.array(ran.times).round(3), values), tuple(ran.captures)


def _capture(ring: LastSeconds, now_s: float, load: Load, rng: np.random.Generator) -> Capture:
    count = round(CAPTURE_S * CAPTURE_HZ)
    waves = np.stack([ring.wave(channel, CAPTURE_HZ, rng)[-count:] for channel in (1, 2)]).round(2).astype(np.float32)
    channels = (Channel("v", Place.LEG1), Channel("a", Place.LEG1))
    begun = round(now_s - (waves.shape[1] - 1) / CAPTURE_HZ, 4)
    why = f"start of {short_name(load)}"
    return Capture(why, INSTRUMENT, begun, 1 / CAPTURE_HZ, channels, waves, why)
