"""The Net Loft: a workshop and community kitchen, 230 V 50 Hz, on an 8 kVA two-engine set with a mis-set governor, and a bank."""

from __future__ import annotations

import random

from muster.core.brief import Brief, Wiring
from muster.core.loads import Basis, Caller, Duty, Load, LoadFigure, Tier, with_figures
from muster.core.quantities import Grade
from muster.core.sessions import Conditions
from muster.core.sources import Claims, Site, Source, SourceKind
from muster.core.supply import SYSTEMS, Leg
from muster.formats.jobfile import JobFile, SourceRecord
from muster.formats.jobzip import JobPackage
from muster.twin.waves import Waveshape

from . import deeper, scripts
from .loft_bank import loft_bank
from .models import Model
from .pen import Pen, closed, confirmed
from .recorder import listed, record

HAND = Caller.HAND
SYSTEM = SYSTEMS["single-230-50"]
WORK = tuple(range(8, 18))
LOADS = (
    with_figures(
        Load("1", "walk-in cold store", "compressor", 640, 0.85, Leg.ONE, Tier.MUST, Duty(18, 22), run_grade=Grade.A),
        LoadFigure("start_va", 2050, Basis.MEASURED, "with a borrowed soft starter", soft=True),
    ),
    Load("2", "workshop lights", "electronic", 260, 0.90, Leg.ONE, Tier.MUST, Duty(), WORK, run_grade=Grade.A),
    Load(
        "3",
        "induction hob",
        "electronic",
        2400,
        0.97,
        Leg.ONE,
        Tier.MUST,
        Duty(25, 35, HAND),
        (7, 11, 12, 17, 18),
        run_grade=Grade.A,
    ),
    Load("4", "air compressor", "motor_loaded", 1450, 0.82, Leg.ONE, Tier.SHOULD, Duty(4, 11), WORK, run_grade=Grade.A),
    Load("5", "band saw", "motor", 750, 0.74, Leg.ONE, Tier.SHOULD, Duty(6, 14, HAND), WORK, run_grade=Grade.A),
    Load("6", "net hoist", "motor_loaded", 900, 0.78, Leg.ONE, Tier.SHOULD, Duty(2, 28, HAND), WORK, run_grade=Grade.A),
    Load("7", "welder", "welder", 3100, 0.70, Leg.ONE, Tier.COULD, Duty(3, 7, HAND), WORK, run_grade=Grade.B),
    Load("8", "urn", "heater", 2750, 1.0, Leg.ONE, Tier.COULD, Duty(10, 50, HAND), (9, 10, 13, 15), run_grade=Grade.A),
)
BRIEF = Brief(
    question="can either of the two carry a working day?",
    system=SYSTEM,
    outage_h=11,
    outage_from_hour=7,
    reserve_pct=25,
    noise_day_dba=65,
    neighbour_m=35,
    site=Site(10, 10),
    wiring=Wiring.ESSENTIAL,
    zone="Atlantic/Faroe",
)
SET = Source(
    "the two-engine set",
    SourceKind.OPEN_FRAME,
    Claims(
        cont_w=6400,
        surge_w=8000,
        surge_s=10,
        breaker_a=32,
        noise_dba_7m=79,
        fuel="diesel",
        tank_l=45,
        stored_fuel_l=80,
        half_load_lph=1.6,
        full_load_lph=2.7,
    ),
    note="Two small engines on one 8 kVA alternator; nobody remembers who last set the governor.",
)
WARM = Conditions(temp_c=10, altitude_m=10, fuel="diesel", warm=True)


def net_loft() -> JobPackage:
    """The whole job. The governor is set high: 53.4 Hz at no load, and a steep droop."""
    rng = random.Random(1893)
    model = Model(rng, SYSTEM, 238.5, -0.0024, 53.4, -0.00062, 1.0, 89.0, 18.6, 3.5)
    traces, captures = {}, {}
    pen = Pen(LOADS, model)
    first = scripts.ladder(pen, 6400, WARM, past=("5",), trip="breaker on the panel down, engines ran on")
    pen.jot("231.0v 5980w 49.9hz", 60)
    first = pen.session("ladder", first.steps, WARM)
    name = "traces/1-1-1-ladder.csv"
    log = traces[name] = record("ladder, two-engine set", model, LOADS, pen.entries, 1.0)
    pen = Pen(LOADS, model)
    second = scripts.starts(pen, ("1", "4", "5", "6"), {"2"}, WARM)
    pen.jot("@plug 19.5a on the hob's lead", 60)
    pen.jot("@multimeter 236v 228v max", 20)
    second = pen.session("starts", second.steps, WARM)
    fast = "traces/1-2-1-starts.csv"
    log_fast = traces[fast] = record("starts, five a second", model, LOADS, pen.entries, 0.2)
    pen = Pen(LOADS, model)
    third = scripts.noise_walk(pen, 35, {"2", "3"}, "44.0db gulls and the tide", WARM)
    sessions = (
        closed(first, "2026-10-26T09:20:00+00:00", (listed(log, name),)),
        closed(second, "2026-10-26T11:05:00+00:00", (listed(log_fast, fast),)),
        closed(third, "2026-10-27T13:40:00+00:00"),
        *_deeper(model, traces, captures),
    )
    return JobPackage(
        JobFile(
            "The Net Loft",
            BRIEF,
            LOADS,
            (
                SourceRecord(SET, sessions, confirmed("2026-10-26", "isolation", "interlock", "exhaust")),
                loft_bank(LOADS, SYSTEM, captures),
            ),
        ),
        traces,
        captures,
    )


def _deeper(model: Model, traces: dict, captures: dict) -> tuple:
    """Load steps with a log ten times a second, and the wave."""
    _, rng = deeper.rngs(18931)
    lines = [(30, "+8"), (30, "-8"), (30, "+8 +3"), (40, "-8 -3")]
    steps = deeper.jotted(Pen(LOADS, model), "load_steps", lines, WARM)
    plan = [(30.0, 2750.0), (60.0, 0.0), (90.0, 5150.0), (130.0, 0.0)]
    log = deeper.swinging("steps, ten a second", plan, (53.4, 238.5), (-0.00062, -0.0024), rng, 170.0, 6400.0)
    wave = deeper.jotted(
        Pen(LOADS, model), "waveform", [(60, "238.4v 53.4hz"), (60, "+8 +3"), (60, "226.1v 5160w 50.2hz")], WARM
    )
    clean = Waveshape(harmonics=((3, 0.021), (5, 0.024), (7, 0.011)))
    worse = Waveshape(harmonics=((3, 0.034), (5, 0.041), (7, 0.019), (11, 0.012)))
    shots = (
        deeper.capture("no load", clean, 238.4, 53.4, 70.0, rng),
        deeper.capture("urn and hob on", worse, 226.1, 50.2, 175.0, rng),
    )
    return (
        deeper.with_trace(steps, "2026-10-27T15:00:00+00:00", log, "traces/1-4-1-steps.csv", traces),
        deeper.with_captures(closed(wave, "2026-10-27T15:40:00+00:00"), deeper.listed_captures("1-5", shots, captures)),
    )
