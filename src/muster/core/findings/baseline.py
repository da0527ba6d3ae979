"""The mains baseline: what each load drew alone, which says nothing of any source."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from ..kit import bound_of
from ..loads import Basis, Load, LoadFigure, short_name
from ..quantities import Bound, Grade, Value, number, plain
from ..sessions import Place, Reading, Stat
from ..sessions.replay import BenchRecord, Segment, StartRun
from ..supply import Leg, System
from ..working import Working
from .finding import Finding, Topic

PLACES = (Place.TOTAL, Place.LEG1, Place.LEG2)


@dataclass(frozen=True)
class BaselineSeen:
    """One load alone on the mains: watts, power factor where it was read, its start where a meter showed it."""

    load: Load
    w: Value
    pf: Value | None
    start_va: Value | None
    finding: Finding

    @property
    def figures(self) -> tuple[LoadFigure, ...]:
        """What the figures may be from now on."""
        load_figures = [LoadFigure("run_w", self.w.value, Basis.MEASURED, "alone on the mains")]
        if self.pf is not None:
            load_figures.append(LoadFigure("pf", min(1.0, self.pf.value), Basis.MEASURED, "alone on the mains"))
        if self.start_va is not None:
            basis = Basis.INDIRECT if self.start_va.bound else Basis.MEASURED
            words = "start on the mains" + (", at least" if self.start_va.bound else "")
            load_figures.append(LoadFigure("start_va", self.start_va.value, basis, words, self.load.eased))
        return tuple(load_figures)


def baseline(record: BenchRecord, loads: Mapping[str, Load], system: System) -> tuple[BaselineSeen, ...]:
    """What each load drew while nothing else was on, the latest stretch of each; in the order of the record."""
    baseline_seens: dict[str, BaselineSeen] = {}
    for segment in record.segments:
        load = loads.get(segment.on[0]) if len(segment.on) == 1 else None
        watts = _watts(segment, record) if load is not None else None
        if load is not None and watts is not None and watts.value > 0:
            starts = [run for run in record.starts if run.load == load.key and not run.base]
            baseline_seens[load.key] = _seen(record, segment, load, watts, starts, system)
    return tuple(baseline_seens.values())


def _watts(segment: Segment, record: BenchRecord) -> Value | None:
    """Watts of a stretch: as read, else volts × amps × power factor; in all, or on whichever leg was read."""
    for place in PLACES:
        read = segment.last("w", place)
        if read is not None:
            return Value(read.value, "w", record.u(read), None, Grade.A)
    parts = [w for place in PLACES if (w := segment.place_w(place)) is not None]
    return Value(sum(parts), "w", None, None, Grade.B) if parts else None


def _factor(segment: Segment, record: BenchRecord) -> Value | None:
    for place in (*PLACES, Place.NONE):
        read = segment.last("pf", place)
        if read is not None and read.value > 0:
            return Value(read.value, "pf", record.u(read), None, Grade.A)
    return None


def _start(record: BenchRecord, runs: list[StartRun], load: Load, system: System) -> Value | None:
    """The highest amps of any start alone, at nominal volts."""
    amps: list[Reading] = [r for run in runs for r in run.readings if r.quantity == "a" and r.stat is Stat.HIGHEST]
    if not amps:
        return None
    reading = max(amps, key=lambda r: r.value)
    volts = system.v_nominal * (2 if load.leg is Leg.BOTH and system.legs == 2 else 1)
    bound = bound_of(record.kit.instrument_for("a", reading.instrument), load.start_s, lowest=False)
    u = record.u(reading) * volts
    return Value(reading.value * volts, "va", u, Bound.AT_LEAST if bound else None, Grade.B if bound else Grade.A)


def _seen(
    record: BenchRecord, segment: Segment, load: Load, watts: Value, runs: list[StartRun], system: System
) -> BaselineSeen:
    factor, start = _factor(segment, record), _start(record, runs, load, system)
    name = short_name(load)
    said = f"{name[0].upper()}{name[1:]}, alone on the mains: {plain(watts.value, 'w')}"
    if factor is not None:
        said += f" at PF {number(factor.value, 'pf')}"
    if start is not None:
        said += f", start {start}"
    apart = watts.value - load.run_w
    working = Working(
        "read − the figure used so far", f"{number(watts.value, 'w')} − {number(load.run_w, 'w')} W", plain(apart, "w")
    )
    seqs = tuple(sorted({seq for seq, _, _ in segment.readings} | {run.seq for run in runs}))
    finding = Finding(
        key=f"baseline-{load.key}",
        topic=Topic.BASELINE,
        title=f"{name}, on the mains",
        sentence=f"{said}.",
        value=watts,
        workings=(working,),
        seqs=seqs,
        needs="" if factor is not None else "its power factor",
    )
    return BaselineSeen(load, watts, factor, start, finding)
