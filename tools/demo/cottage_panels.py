"""Signal Cottage's third source: a small station with panels to the west; whether it lasts the night is decided by the month."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from muster.core.loads import Load
from muster.core.sessions import Conditions, Place, Session
from muster.core.sources import Chemistry, Claims, Source, SourceKind
from muster.core.sources.panels import Panels
from muster.core.supply import System
from muster.core.timeline.captures import Capture
from muster.core.timeline.traces import Channel, Trace
from muster.formats.jobfile import SessionRecord, SourceRecord
from muster.twin.waves import Waveshape

from . import deeper, scripts
from .models import Model
from .pen import Pen, closed, confirmed

SMALL_STATION = Source(
    "the small station with panels",
    SourceKind.STATION,
    Claims(
        cont_w=1200,
        surge_w=2400,
        surge_s=3,
        thd_pct=3,
        noise_dba_7m=34,
        battery_wh=2048,
        usable_pct=90,
        idle_w=9,
        charge_w=500,
        chemistry=Chemistry.LFP,
    ),
    note="Four panels lean on the west wall, out of the wind.",
    panels=(Panels(1400, 40.0, 285.0),),
)
ROOM = Conditions(temp_c=14, altitude_m=25)
RUNNING_W = 243
"""Freezer, incubator and radio link together."""


def small_station(
    loads: tuple[Load, ...], system: System, traces: dict[str, Trace], captures: dict[str, Capture]
) -> SourceRecord:
    """The source with its sessions."""
    rng, chance = deeper.rngs(18812)
    model = Model(rng, system, 230.2, -0.0009, 50.0, 0.0, 0.9, 46.0, 20.2, 2.0)

    def jotted(protocol: str, lines: Iterator[tuple[float, str]] | list[tuple[float, str]]) -> Session:
        return deeper.jotted(Pen(loads, model), protocol, lines, ROOM)

    sessions = (
        closed(jotted("ladder", LADDER), "2026-06-08T08:30:00+00:00"),
        closed(jotted("starts", _starts()), "2026-06-08T09:40:00+00:00"),
        closed(jotted("endurance", _run(RUNNING_W, 1800.0, 13, "+1 +2 +3")), "2026-06-08T11:00:00+00:00"),
        closed(jotted("recharge", _charge()), "2026-06-09T08:00:00+00:00"),
        closed(jotted("endurance", _run(983, 575.0, 10, "+5")), "2026-06-09T13:00:00+00:00"),
        _waves(jotted("waveform", [(60, "230.2v"), (60, "+5"), (60, "229.3v 982w")]), chance, captures),
        closed(
            scripts.noise_walk(Pen(loads, model), 12, {"5"}, "16.0db a still evening", ROOM),
            "2026-06-09T18:00:00+00:00",
        ),
        deeper.with_trace(
            jotted("solar_input", [(60, "pv 38.0v"), (7000, "!through lights stay on while it charges")]),
            "2026-06-10T15:00:00+00:00",
            _afternoon(chance),
            "traces/3-8-1-panels.csv",
            traces,
        ),
    )
    return SourceRecord(SMALL_STATION, sessions, confirmed("2026-06-08", "unplugged", "bonding", "cords"))


LADDER = [
    (60.0, "230.2v 0w 50.0hz"),
    (30.0, "+1 +2 +3"),
    (60.0, f"230.0v {RUNNING_W}w 1.4a 50.0hz"),
    (60.0, "+5"),
    (60.0, "229.1v 1222w 5.5a 50.0hz"),
    *((420.0, "229.1v 1220w 5.5a 50.0hz") for _ in range(3)),
    (60.0, "-1 -2 -3 -5"),
]


def _starts() -> Iterator[tuple[float, str]]:
    """The freezer alone, then on the incubator and the radio link, a hot restart last."""
    for base in ((), ((40.0, "+2 +3"), (30.0, "230.1v 128w"))):
        yield from base
        for how in ("", "", "hot "):
            yield (
                60.0,
                (f"{how}sample freezer start @recorder 230.1v before 222.6v min 229.9v settled @clamp 4.6a max !held"),
            )
            yield 40.0, "-1"


def _run(watts: float, every_s: float, looks: int, on: str) -> Iterator[tuple[float, str]]:
    """Full to empty under a load, looked at so often."""
    yield 60.0, "100% 0.00kwh"
    yield 20.0, f"{on} 230.0v {watts:.0f}w"
    for n in range(1, looks + 1):
        kwh = watts * every_s * n / 3.6e6
        yield every_s, f"{max(1, round(100 - kwh / 1.66 * 100))}% {kwh:.2f}kwh 230.0v {watts:.0f}w"
    yield every_s / 2, "!trip empty, screen dark"


def _charge() -> Iterator[tuple[float, str]]:
    yield 60.0, "0% 0.00kwh 495w"
    for n in range(1, 9):
        yield 1800.0, f"{min(100, 12 * n)}% {0.246 * n:.2f}kwh 494w"
    yield 600.0, "100% 2.02kwh 10w !full"


def _waves(session: Session, chance: np.random.Generator, captures: dict[str, Capture]) -> SessionRecord:
    shots = (
        deeper.capture("no load", Waveshape(harmonics=((3, 0.006),)), 230.2, 50.0, 50.0, chance),
        deeper.capture("heater on", Waveshape(harmonics=((3, 0.012), (5, 0.008))), 229.3, 50.0, 170.0, chance),
    )
    listed = deeper.listed_captures("3-6", shots, captures)
    return deeper.with_captures(closed(session, "2026-06-09T16:00:00+00:00"), listed)


def _afternoon(rng: np.random.Generator) -> Trace:
    """An afternoon of panels at 5 s: the sun comes round to the west wall."""
    t = np.arange(0.0, 2 * 3600.0, 5.0)
    sun = 0.45 + 0.42 * np.sin(np.pi * t / (4.2 * 3600)) + 0.02 * np.sin(t / 170)
    watts = 1400 * sun * 0.9
    channels = (Channel("v", Place.PANELS), Channel("w", Place.PANELS), Channel("soc_pct"))
    charge = np.clip(20 + np.cumsum(watts * 5 / 3600) / 20.5 * 0.94, 0, 100)
    values = np.stack([37 + rng.normal(0, 0.2, t.size), watts + rng.normal(0, 2, t.size), charge.round()])
    return Trace("panels, an afternoon", "recorder", channels, t.round(1), values.round(2).astype(np.float32))
