"""The Net Loft's second source: an inverter on a bank, measured through; it carries what must run by three rules."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from muster.core.loads import Load
from muster.core.outage.household import HouseholdRule, RuleKind
from muster.core.sessions import Conditions, Session
from muster.core.sources import Chemistry, Claims, Source, SourceKind, Wires
from muster.core.supply import System
from muster.core.timeline.captures import Capture
from muster.formats.jobfile import SessionRecord, SourceRecord
from muster.twin.waves import Waveshape

from . import deeper, scripts
from .models import Model
from .pen import Pen, closed, confirmed

BANK = Source(
    "the inverter on the bank",
    SourceKind.INVERTER,
    Claims(
        cont_w=3000,
        surge_w=6000,
        surge_s=5,
        breaker_a=16,
        thd_pct=3,
        noise_dba_7m=43,
        battery_wh=9600,
        usable_pct=85,
        idle_w=22,
        charge_w=1500,
        battery_v=48,
        battery_a=100,
        battery_low_v=44.0,
        conversion_pct=92,
        chemistry=Chemistry.LFP,
    ),
    note="Four blocks of 48 V in a locker behind the cold store; charged from the two-engine set by day.",
    wires=Wires(dc_lead="wall_75:1/0", dc_lead_m=1.5, dc_fuse_a=125),
)
RULES = (
    HouseholdRule(kind=RuleKind.APART, load="1", other="3"),
    HouseholdRule(kind=RuleKind.CHARGE, w=1445, from_hour=10, to_hour=16),
    HouseholdRule(kind=RuleKind.SOFT_STARTER, load="1"),
)
"""What the search finds, accepted: hob and cold store in turn, the set charges by day, and a soft starter that was tried."""
INDOORS = Conditions(temp_c=12, altitude_m=10)
HALF_HOUR_S, QUARTER_S = 1800.0, 900.0


def loft_bank(loads: tuple[Load, ...], system: System, captures: dict[str, Capture]) -> SourceRecord:
    """The source with its sessions."""
    rng, chance = deeper.rngs(18932)
    model = Model(
        rng,
        system,
        230.6,
        -0.0011,
        50.0,
        0.0,
        0.55,
        60.0,
        20.5,
        2.0,
        battery_wh=8150,
        cells_v=(53.6, 46.0),
        dc_ohm=0.02,
        p0_w=21,
        p1=0.05,
        p2=8e-6,
    )

    def jotted(protocol: str, lines: Iterator[tuple[float, str]] | list[tuple[float, str]]) -> Session:
        return deeper.jotted(Pen(loads, model), protocol, lines, INDOORS)

    sessions = (
        closed(jotted("ladder", LADDER), "2026-11-02T09:00:00+00:00"),
        closed(jotted("starts", _starts()), "2026-11-02T10:30:00+00:00"),
        closed(jotted("endurance", _slow()), "2026-11-02T12:00:00+00:00"),
        closed(jotted("recharge", _charge()), "2026-11-03T08:00:00+00:00"),
        closed(jotted("endurance", _fast()), "2026-11-04T09:00:00+00:00"),
        _waves(jotted("waveform", [(60, "230.6v"), (60, "+3"), (60, "228.0v 2403w")]), chance, captures),
        closed(
            scripts.noise_walk(Pen(loads, model), 35, {"2", "8"}, "19.5db before anybody came", INDOORS),
            "2026-11-04T14:00:00+00:00",
        ),
    )
    return SourceRecord(BANK, sessions, confirmed("2026-11-02", "isolation", "interlock", "bonding"), rules=RULES)


LADDER = [
    (60.0, "230.6v 0w 50.0hz"),
    (20.0, "+2"),
    (30.0, "230.3v 261w 1.26a 50.0hz"),
    (60.0, "+8"),
    (30.0, "227.3v 3012w 13.3a 50.0hz"),
    *((420.0, f"227.3v {w}w 13.3a 50.0hz") for w in (3010, 3013, 3009, 3011)),
    (30.0, "-8 -2"),
    (20.0, "+3 +5"),
    (12.0, "227.0v 3146w 14.0a 50.0hz"),
    (14.0, "!trip overload, its display says so"),
    (120.0, "-3 -5"),
]
"""To its claim, held half an hour; then hob and band saw together, and it trips."""


def _starts() -> Iterator[tuple[float, str]]:
    """The cold store: bare on the lights it takes the inverter down; with a borrowed soft starter it starts, hot too."""
    yield 40.0, "+2"
    yield 30.0, "230.3v 260w"
    for _ in range(2):
        yield 60.0, "cold store start @recorder 230.3v before 158.0v min @clamp 24.1a max !trip overload"
        yield 30.0, "-1"
        yield 60.0, "!reset"
    yield 20.0, "soft starter borrowed for the cold store"
    for how in ("", "", "hot "):
        yield (
            60.0,
            f"{how}cold store soft start @recorder 230.3v before 222.1v min 229.6v settled @clamp 8.9a max !held",
        )
        yield 40.0, "-1"


def _slow() -> Iterator[tuple[float, str]]:
    """Full to empty under cold store and lights."""
    yield 60.0, "100% 0.00kwh"
    yield 20.0, "+1 +2 229.7v 905w"
    for n in range(1, 18):
        yield HALF_HOUR_S, f"{100 - 5.6 * n:.0f}% {0.45 * n:.2f}kwh 229.7v 903w"
    yield 600.0, "!trip empty, screen dark"


def _fast() -> Iterator[tuple[float, str]]:
    """Full to empty under the hob."""
    yield 60.0, "100% 0.00kwh"
    yield 20.0, "+3 228.0v 2402w"
    for n in range(1, 13):
        yield QUARTER_S, f"{100 - 7.6 * n:.0f}% {0.6005 * n:.2f}kwh 228.0v 2402w"
    yield 500.0, "!trip empty, screen dark"


def _charge() -> Iterator[tuple[float, str]]:
    yield 60.0, "0% 0.00kwh 1490w"
    for n in range(1, 12):
        yield HALF_HOUR_S, f"{min(100, 8.4 * n):.0f}% {0.73 * n:.2f}kwh 1486w"
    yield 1500.0, "100% 8.55kwh 25w !full"


def _waves(session: Session, chance: np.random.Generator, captures: dict[str, Capture]) -> SessionRecord:
    shots = (
        deeper.capture("no load", Waveshape(harmonics=((3, 0.008), (5, 0.006))), 230.6, 50.0, 50.0, chance),
        deeper.capture("hob on", Waveshape(harmonics=((3, 0.014), (5, 0.011), (7, 0.005))), 228.0, 50.0, 170.0, chance),
    )
    listed = deeper.listed_captures("2-6", shots, captures)
    return deeper.with_captures(closed(session, "2026-11-04T13:00:00+00:00"), listed)
