"""Starts and dips from readings: before, lowest, settled, and what the meter could have missed."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, replace

from ..kit import Instrument, bound_of, sees_whole, sure_held_s
from ..loads import Load, short_name
from ..quantities import Grade, Value, number, plain
from ..sessions import Place, Reading, Stat
from ..sessions.replay import BenchRecord, Outcome, StartRun
from ..supply import Leg, System
from ..working import Working
from .finding import Finding, Topic


@dataclass(frozen=True)
class StartSeen:
    """A start as read: volts on the leg that dipped most, the highest amps, how it ended.

    ``base_w`` is the load it started on top of, from readings or the loads (``base_grade``).
    ``lowest`` is None where no lowest voltage was read.
    """

    run: StartRun
    load: Load
    leg: Leg | None
    before_v: float | None
    lowest: Value | None
    settled_v: float | None
    highest_a: Value | None
    base_w: float
    base_grade: Grade
    floor_v: float
    finding: Finding

    @property
    def outcome(self) -> Outcome:
        """How it ended."""
        return self.run.outcome


def _extreme(
    record: BenchRecord, run: StartRun, quantity: str, stat: Stat, event_s: float
) -> tuple[Reading, Value] | None:
    """The lowest or highest reading, its uncertainty, and the bound its instrument makes it."""
    hits = [r for r in run.readings if r.quantity == quantity and r.stat is stat]
    if not hits:
        return None
    lowest = stat is Stat.LOWEST
    reading = (min if lowest else max)(hits, key=lambda r: r.value)
    instrument = record.kit.instrument_for(quantity, reading.instrument)
    bound = bound_of(instrument, event_s, lowest=lowest)
    doubted = bound is not None or record.kit.reads_low(quantity, instrument)
    unit = "v" if quantity == "v" else "a"
    return reading, Value(reading.value, unit, record.u(reading), bound, Grade.B if doubted else Grade.A)


def _at(run: StartRun, stat: Stat, place: Place | None) -> float | None:
    hits = [
        r.value for r in run.readings if r.quantity == "v" and r.stat is stat and (place is None or r.place is place)
    ]
    return hits[-1] if hits else None


def analyse_start(
    record: BenchRecord, run: StartRun, load: Load, loads: Mapping[str, Load], system: System
) -> StartSeen:
    """Read one start: depth against the voltage before and against nominal, and its bound.

    References
    ----------
    IEC 61000-4-30 residual voltage and depth; the meter's bound from ``kit.sure_held_s``.
    """
    seen = _extreme(record, run, "v", Stat.LOWEST, load.start_s)
    amps = _extreme(record, run, "a", Stat.HIGHEST, load.start_s)
    place = seen[0].place if seen else None
    across = place is Place.TOTAL
    nominal = system.v_nominal * (2 if across else 1)
    base_w, base_grade = _base(run, loads)
    lowest = seen[1] if seen else None
    before, settled = _at(run, Stat.BEFORE, place), _at(run, Stat.SETTLED, place)
    if run.outcome is Outcome.HELD and not run.said and settled is not None:
        run = _as_settled(run, load, settled, nominal)
    finding = _describe(record, run, load, before, lowest, amps[1] if amps else None, nominal, base_w)
    leg = {Place.LEG1: Leg.ONE, Place.LEG2: Leg.TWO, Place.TOTAL: Leg.BOTH}.get(place) if place else None
    return StartSeen(
        run=run,
        load=load,
        leg=leg,
        before_v=before,
        lowest=lowest,
        settled_v=settled,
        highest_a=amps[1] if amps else None,
        base_w=base_w,
        base_grade=base_grade,
        floor_v=load.floor_v(system.v_nominal) * (2 if across else 1),
        finding=finding,
    )


def _as_settled(run: StartRun, load: Load, settled_v: float, nominal: float) -> StartRun:
    """A start whose outcome nobody said: volts that settled below what the load stands tell of no motor that came to run."""
    tolerance = load.v_low_pct
    hums = tolerance is not None and settled_v < nominal * (1 - tolerance / 100)
    return replace(run, outcome=Outcome.UNKNOWN) if hums else run


def _base(run: StartRun, loads: Mapping[str, Load]) -> tuple[float, Grade]:
    """Watts the load started on top of: read, else summed from the loads.

    A sum of loads that were all measured is grade B, indirect; else grade D.
    """
    if run.base_w is not None:
        return run.base_w, Grade.A
    beneath = [loads[key] for key in run.base if key in loads]
    measured = all(load.run_grade.is_measured for load in beneath)
    return sum(load.run_w for load in beneath), Grade.B if measured else Grade.D


SPAN_S = 20.0
"""A start is shown on the strip with so many seconds either side."""


def _is_logged(run: StartRun) -> bool:
    return any(reading.instrument.endswith("-log") for reading in run.readings)


OUTCOME_WORDS = {
    Outcome.HELD: "started and held",
    Outcome.STALLED: "stalled",
    Outcome.TRIPPED: "took the source down",
    Outcome.UNKNOWN: "outcome not said",
}


def _worked_depth(before: float | None, lowest: Value, nominal: float) -> list[Working]:
    """Depth against the voltage before (where it was read) and residual against nominal."""
    least = "at least " if lowest.bound else ""
    residual = Working(
        "residual = lowest ÷ nominal",
        f"{number(lowest.value, 'v')} ÷ {number(nominal, 'v')}",
        plain(lowest.value / nominal * 100, "pct"),
        "IEC 61000-4-30, against nominal",
    )
    if not before:
        return [residual]
    depth = Working(
        "depth = (before − lowest) ÷ before",
        f"({number(before, 'v')} − {number(lowest.value, 'v')}) ÷ {number(before, 'v')}",
        least + plain((before - lowest.value) / before * 100, "pct"),
        "IEC 61000-4-30, against the voltage before the event",
    )
    return [depth, residual]


def _worked_standstill(amps: Value, lowest: Value, nominal: float) -> Working:
    return Working(
        "standstill amps at nominal volts = highest amps × nominal ÷ lowest",
        f"{number(amps.value, 'a')} × {number(nominal, 'v')} ÷ {number(lowest.value, 'v')}",
        plain(amps.value * nominal / lowest.value, "a"),
        "a motor at standstill is a constant impedance",
    )


def _put_in_bound(window_s: float, refresh_s: float, start_s: float) -> str:
    w, t, d = f"{window_s:g}", f"{refresh_s:g}", f"{start_s:g}"
    return f"max(0, min({w}, {d}, ({w} + {d} − {t}) ÷ 2))"


def _worked_bound(load: Load, slow: Instrument) -> Working:
    held_s = sure_held_s(slow.window_s, slow.extreme_refresh_s, load.start_s)
    return Working(
        "surely seen = max(0, min(W, d, (W + d − T) ÷ 2)), and whole only if d ≥ W + T",
        _put_in_bound(slow.window_s, slow.extreme_refresh_s, load.start_s),
        f"{plain(held_s, 's')} of it: this is a bound, a faster meter could show worse",
        f"{slow.name}, the start falling as unluckily as it can",
    )


def _slow_meters(record: BenchRecord, run: StartRun, load: Load) -> list[Instrument]:
    """The instruments of the extremes that are too slow for this start."""
    extremes = [r for r in run.readings if r.stat in (Stat.LOWEST, Stat.HIGHEST) and r.quantity in ("v", "a")]
    used = [record.kit.instrument_for(r.measured, r.instrument) for r in extremes]
    return [meter for i, meter in enumerate(used) if meter not in used[:i] and not sees_whole(meter, load.start_s)]


def _said(value: Value) -> str:
    """A value in a sentence: bare where it is sure, with its bound where it is not."""
    return str(value) if value.bound else plain(value.value, value.unit)


def _sentence(
    run: StartRun, load: Load, before: float | None, lowest: Value | None, amps: Value | None, base_w: float
) -> str:
    on_top = f"on top of {plain(base_w, 'w')}" if base_w else "with nothing else on" if run.together else "alone"
    how = ("hot, " if run.hot else "") + ("eased, " if run.eased else "")
    said = f"{short_name(load).capitalize()}, {how}{on_top}: {OUTCOME_WORDS[run.outcome]}"
    if lowest is not None:
        said += f"; volts fell to {_said(lowest)}"
        if before:
            least = "at least " if lowest.bound else ""
            said += f", a dip of {least}{plain((before - lowest.value) / before * 100, 'pct')}"
    if amps is not None:
        said += f"; {_said(amps)} at the start"
    return said + "."


def _describe(
    record: BenchRecord,
    run: StartRun,
    load: Load,
    before: float | None,
    lowest: Value | None,
    amps: Value | None,
    nominal: float,
    base_w: float,
) -> Finding:
    workings = _worked_depth(before, lowest, nominal) if lowest is not None else []
    if amps is not None and lowest is not None and lowest.value > 0:
        workings.append(_worked_standstill(amps, lowest, nominal))
    slow = _slow_meters(record, run, load)
    workings += [_worked_bound(load, meter) for meter in slow]
    needs = "a meter with min/max hold" if slow else ""
    if lowest is None:
        needs = "the lowest voltage at the start"
    return Finding(
        key=f"start-{run.seq}",
        topic=Topic.STARTS,
        title=f"Start of the {short_name(load)}",
        sentence=_sentence(run, load, before, lowest, amps, base_w),
        value=lowest or amps or Value(math.nan, "v", grade=Grade.B),
        workings=tuple(workings),
        seqs=(run.seq,),
        needs=needs,
        span=(run.t_s - SPAN_S, run.t_s + SPAN_S) if _is_logged(run) else None,
    )


def starts(record: BenchRecord, loads: Mapping[str, Load], system: System) -> tuple[StartSeen, ...]:
    """Every logged start whose load is still there, in the order logged."""
    alone = (run for run in record.starts if run.load in loads and not run.together)
    return tuple(analyse_start(record, run, loads[run.load], loads, system) for run in alone)


def starts_together(record: BenchRecord, loads: Mapping[str, Load], system: System) -> tuple[StartSeen, ...]:
    """Starts of several loads at one moment: told of all of them, credited to none alone."""
    told = []
    for run in record.starts:
        keys = [key for key in (run.load, *run.together) if key in loads]
        if not run.together or not keys:
            continue
        names = " and ".join(short_name(loads[key]) for key in keys)
        longest = max((loads[key] for key in keys), key=lambda load: load.start_s)
        seen = analyse_start(record, run, replace(longest, name=f"{names} together"), loads, system)
        finding = replace(seen.finding, needs="a start of each alone: what was read is of all of them")
        told.append(replace(seen, finding=finding))
    return tuple(told)
