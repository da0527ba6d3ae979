"""Signal Cottage: a bird observatory, 230 V 50 Hz; a battery station, a stepped-wave inverter on a bank, a small station with panels."""

from __future__ import annotations

import random
from dataclasses import replace

from muster.core.brief import Brief, Wiring
from muster.core.kit import USUAL_KIT
from muster.core.loads import Caller, Duty, Load, Tier, Wave, Weather
from muster.core.quantities import Grade
from muster.core.sessions import Conditions, Step
from muster.core.sources import Claims, Site, Source, SourceKind, Wires
from muster.core.sources.panels import Location
from muster.core.supply import SYSTEMS, Leg
from muster.formats.jobfile import JobFile, SourceRecord
from muster.formats.jobzip import JobPackage
from muster.twin.waves import Waveshape as Shape

from . import deeper, scripts
from .cottage_panels import small_station
from .models import Model
from .pen import Pen, closed, confirmed
from .recorder import listed, record

HAND = Caller.HAND
SYSTEM = SYSTEMS["single-230-50"]
LOADS = (
    Load(
        "1",
        "sample freezer",
        "motor",
        115,
        0.68,
        Leg.ONE,
        Tier.MUST,
        Duty(14, 31),
        run_grade=Grade.A,
        weather=Weather(16, -20),
    ),
    Load("2", "egg incubator", "heater", 90, 1.0, Leg.ONE, Tier.MUST, Duty(6, 9), run_grade=Grade.A),
    Load("3", "radio link", "electronic", 38, 0.72, Leg.ONE, Tier.MUST, Duty(), run_grade=Grade.A),
    Load("4", "dehumidifier", "compressor", 270, 0.88, Leg.ONE, Tier.SHOULD, Duty(20, 25), run_grade=Grade.A),
    Load(
        "5",
        "ringing-room heater",
        "heater",
        980,
        1.0,
        Leg.ONE,
        Tier.COULD,
        Duty(10, 20),
        (6, 7, 8, 9, 16, 17),
        run_grade=Grade.A,
        weather=Weather(8, 18),
    ),
    Load(
        "6", "kettle", "heater", 1850, 1.0, Leg.ONE, Tier.COULD, Duty(4, 116, HAND), (7, 10, 13, 16), run_grade=Grade.A
    ),
)
BRIEF = Brief(
    question="can any of them keep the freezer, the eggs and the radio going overnight?",
    system=SYSTEM,
    outage_h=12,
    outage_from_hour=19,
    reserve_pct=20,
    noise_night_dba=40,
    neighbour_m=12,
    site=Site(25, 8),
    wiring=Wiring.CORDS,
    zone="Atlantic/Faroe",
    place=Location(61.9, -6.9),
    month=6,
)
STATION = Source(
    "the battery station",
    SourceKind.STATION,
    Claims(
        cont_w=2000,
        surge_w=4000,
        surge_s=3,
        thd_pct=3,
        noise_dba_7m=40,
        battery_wh=2048,
        usable_pct=90,
        idle_w=18,
        charge_w=900,
    ),
)
STEPPED = Source(
    "the 12 V inverter on the bank",
    SourceKind.INVERTER,
    Claims(
        cont_w=1500,
        surge_w=3000,
        surge_s=1,
        wave=Wave.STEPPED,
        battery_wh=2400,
        usable_pct=50,
        idle_w=12,
        battery_low_v=11.0,
        conversion_pct=86,
    ),
    note="Two old lead-acid batteries in parallel, 200 Ah in all.",
    wires=Wires(dc_lead="wall_75:1/0", dc_lead_m=1.5, dc_fuse_a=200),
)
ROOM = Conditions(temp_c=14, altitude_m=25)
CHEAP = tuple(
    replace(i, true_rms=False, name="cheap multimeter with min/max hold") if i.slug == "multimeter" else i
    for i in USUAL_KIT
)
"""The kit of the second day: the good multimeter was at the harbour, this one responds to the average."""


def signal_cottage() -> JobPackage:
    """The whole job."""
    rng = random.Random(1881)
    traces: dict = {}
    captures: dict = {}
    sources = (
        SourceRecord(STATION, _station(rng, traces), confirmed("2026-10-21", "bonding", "cords")),
        SourceRecord(STEPPED, _stepped(rng, traces, captures), confirmed("2026-10-23", "cords", "battery")),
        small_station(LOADS, SYSTEM, traces, captures),
    )
    return JobPackage(JobFile("Signal Cottage", BRIEF, LOADS, sources), traces, captures)


def _station(rng: random.Random, traces: dict) -> tuple:
    """With slips: a percentage that rises while discharging, and energy misread so that it runs backwards."""
    model = Model(
        rng,
        SYSTEM,
        230.4,
        -0.0006,
        50.0,
        0.0,
        1.1,
        46.0,
        18.5,
        5.0,
        battery_wh=2010,
        cells_v=(54.6, 46.0),
        dc_ohm=0.03,
        p0_w=17,
        p1=0.055,
        p2=1.6e-5,
    )
    pen = Pen(LOADS, model)
    first = scripts.ladder(pen, 2000, ROOM, past=("4",), trip="screen showed overload, came back by its button")
    name = "traces/1-1-1-ladder.csv"
    log = traces[name] = record("ladder, station", model, LOADS, pen.entries, 1.0, dc=True)
    pen = Pen(LOADS, model)
    shown = [(300 if n == 0 else 1800, f"{98 - 7 * n}% {0.13 * n:.2f}kwh 230.2v 255w") for n in range(12)]
    shown[4] = (1800, "79% 0.52kwh 230.2v 256w")
    shown[7] = (1800, "49% 0.19kwh 230.1v 254w")
    second = scripts.endurance(pen, {"1", "2", "3"}, [*shown, (900, "!trip empty, screen dark")], ROOM)
    slow = "traces/1-2-1-night.csv"
    log_slow = traces[slow] = record("a night on the station", model, LOADS, pen.entries, 10.0, dc=True, charge=0.99)
    pen = Pen(LOADS, model)
    third = scripts.starts(pen, ("1", "4"), {"2", "3"}, ROOM)
    pen = Pen(LOADS, model)
    mains = scripts.baseline(pen, 233.0, ROOM)
    return (
        closed(mains, "2026-10-20T14:20:00+00:00"),
        closed(first, "2026-10-21T08:40:00+00:00", (listed(log, name),)),
        closed(second, "2026-10-21T18:00:00+00:00", (listed(log_slow, slow),)),
        closed(third, "2026-10-22T09:15:00+00:00"),
        *_station_deeper(model),
    )


def _station_deeper(model: Model) -> tuple:
    """Charged from the wall, emptied fast, and charged again: what comes back, and what standing by costs."""
    charge = [
        (60.0, "0% 0.00kwh 890w"),
        *((1800.0, f"{23 * n}% {0.443 * n:.2f}kwh 886w") for n in range(1, 5)),
        (700.0, "100% 1.88kwh 19w !full"),
    ]
    up = deeper.jotted(Pen(LOADS, model), "recharge", charge, ROOM)
    fast = [
        (60.0, "100% 0.00kwh"),
        (20.0, "+5 229.8v 985w"),
        *((900.0, f"{100 - 16 * n}% {0.246 * n:.2f}kwh 229.8v 983w") for n in range(1, 6)),
        (860.0, "2% 1.47kwh"),
        (20.0, "!trip empty, screen dark"),
    ]
    down = deeper.jotted(Pen(LOADS, model), "endurance", fast, ROOM)
    return closed(up, "2026-10-22T11:00:00+00:00"), closed(down, "2026-10-22T14:30:00+00:00")


def _stepped_deeper(model: Model, captures: dict) -> tuple:
    """Its wave, its cut-offs, and what the wave costs in heat."""
    _, rng = deeper.rngs(18811)
    wave = deeper.jotted(
        Pen(LOADS, model), "waveform", [(60, "222.0v"), (90, "+5"), (60, "218.1v 975w"), (60, "-5")], ROOM
    )
    shots = (
        deeper.capture("no load", Shape("stepped", conduction=0.66), 222.0, 50.0, 70.0, rng),
        deeper.capture("heater on", Shape("stepped", conduction=0.74), 218.1, 50.0, 190.0, rng),
    )
    cut = deeper.jotted(
        Pen(LOADS, model),
        "cut_offs",
        [
            (60, "dc 12.9v"),
            (120, "dc 11.2v"),
            (60, "dc 10.9v !trip"),
            (90, "dc 11.8v"),
            (60, "dc 12.4v !reset by itself"),
            (60, "+2 +5"),
            (60, "dc 11.9v"),
            (120, "dc 11.3v !trip"),
            (90, "dc 12.5v !reset by itself"),
        ],
        ROOM,
    )
    steps = tuple(Step(f"{where}, run {n}") for where in ("on the mains", "on the source") for n in (1, 2))
    heat = deeper.jotted(
        Pen(LOADS, model),
        "heating_check",
        [
            (60, "0.75kg 14.0c before 61.5c after 150s 1118w"),
            (10, "!step"),
            (600, "0.75kg 14.5c before 61.5c after 150s 1112w"),
            (10, "!step"),
            (900, "0.75kg 14.0c before 49.0c after 150s 982w"),
            (10, "!step"),
            (600, "0.75kg 14.5c before 49.5c after 150s 978w"),
        ],
        ROOM,
        steps,
    )
    return (
        deeper.with_captures(closed(wave, "2026-10-23T13:30:00+00:00"), deeper.listed_captures("2-3", shots, captures)),
        closed(cut, "2026-10-23T14:20:00+00:00"),
        closed(heat, "2026-10-23T15:30:00+00:00"),
    )


def _stepped(rng: random.Random, traces: dict, captures: dict) -> tuple:
    """With slips: an average-responding meter on a stepped wave, and the display trusted against the clamp."""
    model = Model(
        rng,
        SYSTEM,
        222.0,
        -0.004,
        50.0,
        0.0,
        3.4,
        44.0,
        18.0,
        3.0,
        battery_wh=1900,
        cells_v=(12.8, 11.3),
        dc_ohm=0.011,
        p0_w=11,
        p1=0.09,
        p2=4e-5,
    )
    pen = Pen(LOADS, model)
    first = scripts.ladder(pen, 1500, ROOM)
    pen.jot("@display 1480w", 15)
    pen.jot("@plug 1265w", 10)
    pen.jot("incubator's display flickered, kettle fine", 20)
    first = pen.session("ladder", first.steps, ROOM)
    name = "traces/2-1-1-ladder.csv"
    log = traces[name] = record("ladder, 12 V inverter", model, LOADS, pen.entries, 1.0, dc=True)
    pen = Pen(LOADS, model)
    second = replace(scripts.starts(pen, ("1",), {"2", "3"}, ROOM, stalls=("4",)), kit=CHEAP)
    return (
        closed(first, "2026-10-23T08:50:00+00:00", (listed(log, name),)),
        closed(second, "2026-10-23T10:30:00+00:00"),
        *_stepped_deeper(model, captures),
    )
