"""The Ferry House: 120/240 V 60 Hz, four sources."""

from __future__ import annotations

import random
from dataclasses import replace

from muster.core.advice.noise_layout import NoiseLayout
from muster.core.brief import Brief, Home, Wiring
from muster.core.kit import Kit
from muster.core.loads import Basis, Caller, Duty, Load, LoadFigure, Tier, Weather, with_figures
from muster.core.loads.evidence import from_code_letter, from_locked_rotor
from muster.core.plan import Changes, steps_of
from muster.core.quantities import Grade
from muster.core.sessions import Conditions
from muster.core.shelf import BOILER_PARTS
from muster.core.sources import Claims, PairSchool, Share, Site, Source, SourceKind, Unit, Wires
from muster.core.sources.panels import Location, Panels
from muster.core.supply import SYSTEMS, Leg
from muster.formats.jobfile import CaptureRecord, JobFile, SourceRecord
from muster.formats.jobzip import JobPackage
from muster.twin.waves import Waveshape

from . import deeper, scripts
from .by_the_twin import run_by_muster
from .models import Model
from .pen import Pen, closed, confirmed
from .recorder import listed, record

HAND = Caller.HAND
DAYTIME = tuple(range(6, 22))
SYSTEM = SYSTEMS["split-120-240-60"]
PUMP = with_figures(
    Load("1", "borehole pump", "motor_loaded", 1150, 0.80, Leg.BOTH, Tier.MUST, Duty(3, 27), run_grade=Grade.A),
    LoadFigure("run_w", 1150, Basis.SHELF, "borehole pump, one horse"),
    from_code_letter("G", 1.0),
    from_locked_rotor(240, 50),
)
BOILER = Load(
    "2",
    "oil boiler",
    "furnace",
    320,
    0.80,
    Leg.ONE,
    Tier.MUST,
    Duty(12, 18),
    run_grade=Grade.A,
    parts=BOILER_PARTS,
    weather=Weather(9, 19),
)
LOADS = (
    PUMP,
    BOILER,
    Load("3", "chest freezer", "motor", 130, 0.70, Leg.ONE, Tier.MUST, Duty(15, 30), run_grade=Grade.A),
    Load(
        "4",
        "sump pump",
        "motor",
        380,
        0.70,
        Leg.TWO,
        Tier.MUST,
        Duty(2, 18),
        run_grade=Grade.A,
        start_va=2350,
        start_grade=Grade.A,
    ),
    Load(
        "5",
        "oxygen concentrator",
        "medical",
        350,
        0.85,
        Leg.TWO,
        Tier.MUST,
        Duty(),
        run_grade=Grade.A,
        note="Never tested on the person who needs it.",
    ),
    Load(
        "6",
        "house lights",
        "electronic",
        90,
        0.85,
        Leg.ONE,
        Tier.MUST,
        Duty(),
        (6, 7, 8, 16, 17, 18, 19, 20, 21, 22),
        run_grade=Grade.A,
    ),
    Load("7", "bread oven", "heater", 1960, 1.0, Leg.BOTH, Tier.SHOULD, Duty(8, 8, HAND), (5, 6, 7), run_grade=Grade.A),
    Load("8", "seed-tray lights", "electronic", 140, 0.92, Leg.TWO, Tier.SHOULD, Duty(), DAYTIME, run_grade=Grade.B),
    Load(
        "9",
        "kettle",
        "heater",
        1480,
        1.0,
        Leg.ONE,
        Tier.SHOULD,
        Duty(4, 56, HAND),
        (6, 7, 12, 16, 17, 20),
        run_grade=Grade.A,
    ),
    Load("a", "dehumidifier", "compressor", 290, 0.90, Leg.TWO, Tier.COULD, Duty(30, 30)),
    Load("b", "heat-pump", "compressor_inverter", 2100, 0.95, Leg.BOTH, Tier.COULD, Duty(15, 15)),
)
BRIEF = Brief(
    question="which of the four can carry it for 18 h?",
    system=SYSTEM,
    outage_h=18,
    outage_from_hour=16,
    reserve_pct=20,
    noise_day_dba=60,
    noise_night_dba=50,
    neighbour_m=23,
    site=Site(40, 9),
    wiring=Wiring.INTERLOCK,
    zone="Atlantic/Faroe",
    place=Location(61.9, -6.9),
    month=11,
)
OPEN_FRAME = Source(
    "the open-frame set",
    SourceKind.OPEN_FRAME,
    Claims(
        cont_w=5000,
        surge_w=6250,
        surge_s=10,
        per_leg_w=2500,
        breaker_a=25,
        noise_dba_7m=74,
        fuel="petrol",
        tank_l=25,
        stored_fuel_l=40,
        half_load_lph=1.9,
        full_load_lph=3.2,
    ),
    wires=Wires(inlet_a=30, lead="cord_awg:10", lead_m=12),
    layout=NoiseLayout(house_x=-9, house_y=3, neighbour_x=22, neighbour_y=6.5),
)
INVERTER_SET = Source(
    "the inverter set",
    SourceKind.INVERTER_SET,
    Claims(
        cont_w=3600,
        surge_w=4200,
        surge_s=8,
        per_leg_w=1800,
        breaker_a=16,
        thd_pct=3,
        noise_dba_7m=58,
        fuel="petrol",
        tank_l=12,
        stored_fuel_l=40,
        half_load_lph=0.9,
        full_load_lph=1.7,
    ),
)
PAIR = Source(
    "the two inverter sets in parallel",
    SourceKind.INVERTER_SET,
    Claims(
        cont_w=4800,
        surge_w=5600,
        surge_s=5,
        per_leg_w=2400,
        breaker_a=25,
        thd_pct=3,
        noise_dba_7m=60,
        fuel="petrol",
        tank_l=9,
        stored_fuel_l=40,
        half_load_lph=1.3,
        full_load_lph=2.4,
    ),
    note="A 2.2 kW and a 3.0 kW unit of unlike age on one parallel kit.",
    units=(Unit("the elder unit", 2200, 2500), Unit("the younger unit", 3000, 3600)),
    school=PairSchool.MEASURED,
    shares=(Share(4.4, 2.0, 2.4), Share(8.7, 3.7, 5.0), Share(14.2, 5.8, 8.4)),
)
HYBRID = Source(
    "the hybrid inverter",
    SourceKind.HYBRID,
    Claims(
        cont_w=6000,
        surge_w=12000,
        surge_s=5,
        per_leg_w=3000,
        breaker_a=32,
        thd_pct=3,
        noise_dba_7m=38,
        battery_wh=10240,
        usable_pct=90,
        idle_w=60,
        transfer_ms=12,
        battery_a=150,
        battery_low_v=47.5,
        conversion_pct=92,
    ),
    note="A 10 kWh battery under the stairs, twelve panels on the boathouse roof.",
    wires=Wires(dc_lead="wall_75:2/0", dc_lead_m=1.2, dc_fuse_a=175),
    panels=(Panels(12 * 410, 30.0, 200.0),),
)
WARM = Conditions(temp_c=9, altitude_m=40, fuel="petrol", warm=True)
COLD = replace(WARM, warm=False)
INDOORS = Conditions(temp_c=16, altitude_m=40)


def ferry_house() -> JobPackage:
    """The whole job."""
    rng = random.Random(1874)
    traces, captures = {}, {}
    frame = Model(rng, SYSTEM, 123.4, -0.0021, 62.1, -0.00058, 0.9, 81.5, 18.2, 3.2)
    pen = Pen(tuple(load for load in LOADS if load.key != "1"), frame)
    first = scripts.ladder(pen, 5000, WARM, past=("9",), trip="engine ran on, both breakers up")
    log = traces["traces/1-1-1-ladder.csv"] = record("ladder, open-frame set", frame, LOADS, pen.entries, 1.0)
    pen = Pen(LOADS, frame)
    second = scripts.starts(pen, ("4", "2", "3"), {"5", "6"}, WARM, stalls=("1",))
    pen = Pen(LOADS, frame)
    third = scripts.noise_walk(pen, 23, {"5", "6", "7"}, "41.5db wind in the alders", WARM)
    open_frame = (
        closed(first, "2026-10-12T09:05:00+00:00", (listed(log, "traces/1-1-1-ladder.csv"),)),
        closed(second, "2026-10-12T10:40:00+00:00"),
        closed(third, "2026-10-13T08:20:00+00:00"),
        *_open_frame_deeper(frame, captures),
    )
    sources = (
        SourceRecord(OPEN_FRAME, open_frame, confirmed("2026-10-12", "isolation", "interlock", "bonding", "exhaust")),
        SourceRecord(INVERTER_SET, _inverter_set(rng), confirmed("2026-10-14", "isolation", "interlock", "exhaust")),
        SourceRecord(PAIR, _pair(rng), confirmed("2026-10-15", "isolation", "interlock", "exhaust")),
        SourceRecord(
            HYBRID,
            _hybrid(rng, traces, captures),
            confirmed("2026-10-19", "isolation", "interlock", "bonding", "battery"),
        ),
    )
    return JobPackage(JobFile("The Ferry House", BRIEF, LOADS, sources), traces, captures)


def _inverter_set(rng: random.Random) -> tuple:
    model = Model(rng, SYSTEM, 120.6, -0.0004, 60.0, 0.0, 1.6, 71.0, 18.8, 6.0)
    pen = Pen(LOADS, model)
    first = scripts.ladder(pen, 3600, WARM, past=("9",), trip="overload lamp red, engine ran on, restart by its button")
    pen = Pen(LOADS, model)
    second = scripts.noise_walk(pen, 23, {"5", "6", "7"}, "39.0db", COLD)
    return closed(first, "2026-10-14T09:10:00+00:00"), closed(second, "2026-10-14T10:30:00+00:00")


def _pair(rng: random.Random) -> tuple:
    """With a slip: the loaded reading of leg 1 was written in kilowatts and said in watts, and put right."""
    model = Model(rng, SYSTEM, 120.9, -0.0006, 60.0, 0.0, 1.3, 73.0, 18.5, 5.0)
    pen = Pen(LOADS, model)
    first = scripts.ladder(pen, 4800, WARM)
    pen.jot("l1 118.9v 2.31w l2 119.6v 2210w", 20)
    pen.correct(len(pen.entries), "l1 118.9v 2.31kw l2 119.6v 2210w")
    pen.jot("the smaller unit sat at its limit, the other at two thirds", 15)
    first = pen.session("ladder", first.steps, WARM)
    pen = Pen(LOADS, model)
    second = scripts.starts(pen, ("4", "3"), {"5", "6"}, WARM, stalls=("1",))
    shares = [(5.1, 2.2, 2.9), (9.6, 4.0, 5.6), (13.9, 5.7, 8.2), (17.8, 7.3, 10.5)]
    lines = [(90.0, f"ua {item}a ub {other}a total {total}a") for total, item, other in shares]
    pen = Pen(LOADS, model)
    switched = [("+6 +8", lines[0]), ("+7", lines[1]), ("+9", lines[2]), ("+b", lines[3])]
    third = deeper.jotted(pen, "parallel", [item for on, line in switched for item in ((30.0, on), line)], WARM)
    return (
        closed(first, "2026-10-15T09:00:00+00:00"),
        closed(second, "2026-10-15T10:20:00+00:00"),
        closed(third, "2026-10-15T13:10:00+00:00"),
    )


def _open_frame_deeper(frame: Model, captures: dict) -> tuple:
    """Load steps, a run on the tank, and the wave: rough at no load, distorted under load, ragged at its end."""
    _, rng = deeper.rngs(18741)
    steps = deeper.jotted(
        Pen(LOADS, frame),
        "load_steps",
        [
            (60, "l1 123.3v 62.1hz"),
            (20, "+7 1960w l1 114.2v min l1 121.4v settled 59.4hz min 61.0hz settled"),
            (60, "-7 l1 129.8v max l1 123.4v settled 63.9hz max 62.1hz settled"),
            (60, "+7 +9 3440w l1 106.9v min l1 118.3v settled 57.3hz min 60.1hz settled"),
            (60, "-7 -9 l1 137.6v max l1 123.4v settled 65.6hz max 62.1hz settled"),
        ],
        WARM,
    )
    run = deeper.jotted(
        Pen(LOADS, frame),
        "endurance",
        [
            (60, "fuel 9.0l"),
            (60, "+5 +6 +8"),
            (60, "l1 123.2v 88w l2 122.6v 489w"),
            (120, "18c cord"),
            (900, "19c cord"),
            (2400, "20c cord"),
            (240, "fuel 8.1l"),
            (30, "+7 +9"),
            (60, "l1 118.2v 2550w l2 120.4v 1470w"),
            (300, "31c cord"),
            (600, "41c cord"),
            (900, "48c cord"),
            (1200, "52c cord"),
            (900, "53c cord"),
            (60, "fuel 5.4l"),
        ],
        WARM,
    )
    wave = deeper.jotted(
        Pen(LOADS, frame),
        "waveform",
        [
            (60, "l1 123.3v 62.1hz"),
            (90, "+7 +9"),
            (60, "l1 118.3v 3440w 60.1hz"),
            (60, "-7 -9"),
            (120, "shut down at its key"),
        ],
        WARM,
    )
    rough = Waveshape(harmonics=((3, 0.046), (5, 0.031), (7, 0.012), (11, 0.014)))
    worse = Waveshape(harmonics=((3, 0.071), (5, 0.048), (7, 0.024), (11, 0.021), (13, 0.012)))
    shots = (
        deeper.capture("no load", rough, 123.2, 62.1, 70.0, rng),
        deeper.capture("oven and kettle on", worse, 118.3, 60.1, 200.0, rng),
        deeper.capture("shut down", rough, 123.2, 61.8, 389.0, rng, 1.6, dies_at_s=0.6),
    )
    return (
        closed(steps, "2026-10-13T09:40:00+00:00"),
        closed(run, "2026-10-13T10:20:00+00:00"),
        deeper.with_captures(closed(wave, "2026-10-13T13:00:00+00:00"), deeper.listed_captures("1-6", shots, captures)),
    )


def _hybrid_deeper(traces: dict, captures: dict) -> tuple:
    """Overloads to the trip, the gap at transfer, a forenoon on the panels."""
    rand, rng = deeper.rngs(18742)
    model = Model(rand, SYSTEM, 120.3, -0.0003, 60.0, 0.0, 0.35)
    over = deeper.jotted(
        Pen(LOADS, model),
        "overload",
        [
            (60, "+7 +8 +9 +a +b"),
            (30, "l1 3350w l2 3330w"),
            (214, "!trip overload on its screen, DC still there"),
            (60, "!reset by its button"),
            (900, "+2 +3 +4 l1 3710w l2 3680w"),
            (46, "!trip overload on its screen"),
            (60, "!reset by its button"),
            (900, "+5 +6 l1 4160w l2 4090w"),
            (15, "!trip overload on its screen"),
            (60, "!reset by its button"),
        ],
        INDOORS,
    )
    gaps = deeper.jotted(
        Pen(LOADS, model),
        "transfer",
        [
            (60, "+5 +6 +8"),
            (60, "@scope 13ms"),
            (300, "@scope 15ms"),
            (300, "@scope 14ms"),
            (60, "nothing noticed, the lights winked"),
        ],
        INDOORS,
    )
    sun = deeper.jotted(
        Pen(LOADS, model),
        "solar_input",
        [
            (600, "12 panels as two strings of six"),
            (1200, "!through house stayed on"),
            (4300, "panel volts odd: unplugged and plugged in again"),
        ],
        INDOORS,
    )
    gap = (deeper.dipping(SYSTEM, 121.0, 14.2, rng),)
    return (
        closed(over, "2026-10-20T13:20:00+00:00"),
        deeper.with_captures(closed(gaps, "2026-10-20T15:10:00+00:00"), deeper.listed_captures("4-6", gap, captures)),
        deeper.with_trace(sun, "2026-10-21T09:00:00+00:00", deeper.panels_log(rng), "traces/4-7-1-panels.csv", traces),
    )


def _hybrid(rng: random.Random, traces: dict, captures: dict) -> tuple:
    """With two slips: the panel meter used for a start, and its energy count misread by a digit."""
    model = Model(
        rng,
        SYSTEM,
        120.3,
        -0.0003,
        60.0,
        0.0,
        0.35,
        52.0,
        18.0,
        4.0,
        battery_wh=9800,
        cells_v=(54.2, 47.5),
        dc_ohm=0.012,
        p0_w=58,
        p1=0.032,
        p2=7e-6,
    )
    pen = Pen(LOADS, model)
    first = scripts.ladder(pen, 6000, INDOORS)
    name = "traces/4-1-1-ladder.csv"
    log = traces[name] = record("ladder, hybrid with its battery", model, LOADS, pen.entries, 1.0, dc=True)
    pen = Pen(LOADS, model)
    second = scripts.starts(pen, ("1", "4", "2", "3"), {"5", "6"}, INDOORS)
    by_key = {load.key: load for load in LOADS}
    pen.start(by_key["4"], "hot", 60, "meter")
    second = pen.session("starts", second.steps, INDOORS)
    fast = "traces/4-2-1-starts.csv"
    log_fast = traces[fast] = record("starts, five a second", model, LOADS, pen.entries, 0.2, charge=0.8)
    pen = Pen(LOADS, model)
    check_ins = [(1800 if n else 120, f"{96 - 9 * n}% {0.41 * n + 0.02:.2f}kwh 120.1v") for n in range(9)]
    check_ins[5] = (1800, "51% 1.07kwh 120.1v")
    third = scripts.endurance(pen, {"2", "3", "5", "6", "8"}, check_ins, INDOORS)
    slow = "traces/4-3-1-evening.csv"
    log_slow = traces[slow] = record(
        "an evening, every ten seconds", model, LOADS, pen.entries, 10.0, dc=True, charge=0.97
    )
    by_itself, log_itself, shots = run_by_muster(
        "ladder run by Muster, two a second",
        Home(BRIEF, LOADS),
        HYBRID,
        steps_of("ladder", Home(BRIEF, LOADS), HYBRID, Kit(), Changes(dropped=("1",))),
        LOADS,
        seed=1874,
    )
    own = "traces/4-4-1-by-muster.csv"
    traces[own] = log_itself
    kept = []
    for number, shot in enumerate(shots, 1):
        file = f"captures/4-4-{number}.csv"
        captures[file] = shot
        kept.append(
            CaptureRecord(shot.name, shot.instrument, file, shot.t_s, shot.step_s, shot.values.shape[1], why=shot.why)
        )
    fourth = closed(by_itself, "2026-10-20T08:30:00+00:00", (listed(log_itself, own),))
    return (
        closed(first, "2026-10-19T08:30:00+00:00", (listed(log, name),)),
        closed(second, "2026-10-19T10:15:00+00:00", (listed(log_fast, fast),)),
        closed(third, "2026-10-19T16:30:00+00:00", (listed(log_slow, slow),)),
        replace(fourth, captures=tuple(kept)),
        *_hybrid_deeper(traces, captures),
    )
