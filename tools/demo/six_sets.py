"""Six small sets tested in one afternoon, one short test each: units alone, for a comparison."""

from __future__ import annotations

import random
from dataclasses import dataclass

from muster.core.brief import Brief
from muster.core.loads import Load, Tier
from muster.core.measures import Measures
from muster.core.plan.series import Cell, CellKind, SeriesPlan, cells_of, distances_of, figure_of, line_of
from muster.core.sessions import Conditions
from muster.core.sessions.inspection import answered, text_of
from muster.core.sessions.model import Entry
from muster.core.sources import Claims, Owning, Site, Source, SourceKind
from muster.core.supply import SYSTEMS
from muster.formats.jobfile import JobFile, SessionRecord, SourceRecord
from muster.formats.jobzip import JobPackage

from .models import Model
from .pen import Pen, closed, confirmed

SYSTEM = SYSTEMS["single-120-60"]
HEATER = Load(key="1", name="space heater", kind="heater", run_w=1380, pf=1.0, tier=Tier.TEST)
SAW = Load(key="2", name="bench saw", kind="universal", run_w=840, pf=0.95, tier=Tier.TEST)
LOADS = (HEATER, SAW)
PLAN = SeriesPlan(distances_of("3, 10, 20, 35 ft"), HEATER.key, SAW.key)
WINDLESS = Conditions(temp_c=14, altitude_m=12)
BRIEF = Brief(
    system=SYSTEM,
    of_units=True,
    question="which of six small sets does the parish buy for its lamp shed?",
    site=Site(12.0, 14.0),
    zone="Etc/UTC",
    measures=Measures(length="ft"),
)
BACKGROUND = "41.5"


@dataclass(frozen=True)
class SmallSet:
    """A set as it really is: its claims, what it costs, how stiff and how loud, and what a hand finds on it."""

    name: str
    cont_w: float
    surge_w: float
    price: float
    weight_kg: float
    no_load_v: float
    v_per_w: float
    z_ohm: float
    dba_1m: float
    looked_at: tuple[tuple[str, str], ...] = ()
    starts: bool = True


SETS = (
    SmallSet("the red set", 1800, 2200, 540, 19.5, 121.8, -0.0011, 1.9, 74.0, (("live_off", "dead"), ("sockets", "room"))),
    SmallSet("the grey set", 2000, 2300, 690, 21.0, 120.9, -0.0006, 1.4, 70.5, (("live_off", "dead"), ("display", "watts"))),
    SmallSet("the tall set", 1600, 1800, 410, 18.0, 123.5, -0.0024, 3.4, 77.5, (("sockets", "tight"), ("cooling", "blocked")), starts=False),
    SmallSet("the old set", 1900, 2200, 250, 26.5, 124.2, -0.0031, 2.8, 80.0, (("covers", "before"), ("gauge", "unmarked"))),
    SmallSet("the blue set", 2200, 2500, 880, 22.5, 120.3, -0.0004, 1.1, 68.5, (("live_off", "live"), ("protection", "trips"))),
    SmallSet("the green set", 1800, 2000, 560, 20.0, 121.2, -0.0012, 2.0, 73.0, (("returns", "buyer"), ("live_off", "dead"))),
)  # fmt: skip


def six_sets() -> JobPackage:
    """The job of units alone, each with its inspection and its short test."""
    sources = tuple(_source(unit, at) for at, unit in enumerate(SETS))
    return JobPackage(JobFile("Six small sets", BRIEF, LOADS, sources))


def _source(unit: SmallSet, at: int) -> SourceRecord:
    source = Source(
        unit.name,
        SourceKind.INVERTER_SET,
        Claims(cont_w=unit.cont_w, surge_w=unit.surge_w, surge_s=8, thd_pct=3, tank_l=4.0),
        owning=Owning(price=unit.price, weight_kg=unit.weight_kg, warranty_years=2),
    )
    model = Model(
        random.Random(f"six {at}"),
        SYSTEM,
        unit.no_load_v,
        unit.v_per_w,
        60.1,
        -0.0002,
        unit.z_ohm,
        unit.dba_1m,
        17.0,
        4.5,
    )
    sessions = (_inspection(unit, at), _short_test(unit, model, at))
    return SourceRecord(source, sessions, confirmed("2026-11-14", "bonding", "exhaust", "refuelling"))


def _inspection(unit: SmallSet, at: int) -> SessionRecord:
    pen = Pen(LOADS, Model(random.Random(at), SYSTEM, 120.0, 0.0, 60.0, 0.0, 1.0))
    pen.jot("!cautions seen to", 0)
    for point, answer in unit.looked_at:
        looked = answered(point, answer)
        pen.t_s += 40
        pen.entries.append(Entry(len(pen.entries) + 1, pen.t_s, (looked,), text_of(looked), who="Ishbel"))
    return closed(pen.session("inspection", (), WINDLESS), f"2026-11-14T09:{10 + 7 * at:02d}:00+00:00")


def _short_test(unit: SmallSet, model: Model, at: int) -> SessionRecord:
    pen = Pen(LOADS, model)
    pen.jot("!cautions seen to", 0)
    loads = {load.key: load for load in LOADS}
    for cell in cells_of(PLAN, loads):
        text = _figure(cell, unit, model)
        pen.jot(line_of(cell, figure_of(cell, text), tuple(sorted(pen.on)), loads), 15.0)
    return closed(pen.session("short_test", (), WINDLESS), f"2026-11-14T13:{8 * at:02d}:00+00:00")


def _figure(cell: Cell, unit: SmallSet, model: Model) -> str:
    """What the meters showed for a cell."""
    w = HEATER.run_w if cell.on else 0.0
    if cell.kind is CellKind.LEVEL and cell.distance is not None:
        return f"{model.dba(cell.distance.m, loaded=bool(cell.on)):.1f}"
    return {
        CellKind.BACKGROUND: lambda: BACKGROUND,
        CellKind.VOLTS: lambda: f"{model.volts(w):.1f}",
        CellKind.HERTZ: lambda: f"{model.hertz(w):.1f}",
        CellKind.WATTS: lambda: f"{HEATER.run_w * (model.volts(w) / SYSTEM.v_nominal) ** 2:.0f}",
        CellKind.STEP: lambda: f"{model.lowest(unit.no_load_v, HEATER.run_w, SYSTEM.v_nominal):.1f}",
        CellKind.START: lambda: (
            f"{model.lowest(unit.no_load_v, SAW.start_total_va, SYSTEM.v_nominal):.1f}{'' if unit.starts else 'x'}"
        ),
    }[cell.kind]()
