"""What recorded logs add: starts seen faster than by eye, dips, holds, energy, duty, conversion."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace

from ..kit import Kit
from ..loads import Load
from ..quantities import Bound, Grade, Value, duration, number, plain
from ..sessions import Place, Reading, Stat
from ..sessions.replay import BenchRecord, Outcome, StartRun, SwitchOn
from ..supply import System
from ..timeline.power import Stood, stood
from ..timeline.traces.energy import DutySeen, Energy
from ..timeline.traces.events import MOST_EVENTS, StepUp, VoltEvent
from ..timeline.traces.features import TraceFeatures
from ..trade.ride_through import VoltEventKind, dip_floor_pct, rides_through, rise_ceiling_pct
from ..working import Method, Working, rows_of
from .finding import Finding, Topic
from .holds import Held
from .holds_told import describe_held

MATCH_S = 20.0
"""A typed start and a step of the log belong together within so many seconds: a thumb and two clocks."""
SAME_LOAD_SHARE = 0.35
"""A step of power is a load's own when it is within this share of its running watts."""
START_LOOK_S = 6.0
MOST_DIPS = 12
"""More dips than this are counted, the deepest told."""
ENERGY_AGREES_PCT = 5.0
LEAST_HELD_S = 10.0
"""A shorter stretch of a log is not told as held."""


@dataclass(frozen=True)
class _Match:
    step: StepUp
    log: TraceFeatures


def _step_near(logs: Sequence[TraceFeatures], t_s: float, load: Load | None) -> _Match | None:
    """The step of a log that a typed start belongs to: near in time, and like in watts where it held."""
    near = [_Match(step, log) for log in logs for step in log.steps if abs(step.t_s - t_s) <= MATCH_S]
    if load is not None:
        alike = [m for m in near if abs(m.step.step_w - load.run_w) <= SAME_LOAD_SHARE * load.run_w]
        near = alike or []
    return min(near, key=lambda match: abs(match.step.t_s - t_s), default=None)


def _readings(match: _Match) -> tuple[Reading, ...]:
    """A step as readings by the instrument that logged it."""
    by, step = logged_as(match.log), match.step
    kinds = (
        ("v", Stat.BEFORE, step.before_v),
        ("v", Stat.LOWEST, step.lowest_v),
        ("v", Stat.SETTLED, step.settled_v),
        ("a", Stat.HIGHEST, step.highest_a),
    )
    return tuple(
        Reading(quantity=quantity, value=value, place=place, stat=stat, instrument=by)
        for quantity, stat, values in kinds
        for place, value in values.items()
    )


def logged_as(log: TraceFeatures) -> str:
    """The word under which a log's own sampling stands in the kit."""
    return f"{log.instrument[:15]}-log"


def _kit_with(kit: Kit, logs: Iterable[TraceFeatures]) -> Kit:
    """The kit with each log's instrument as it sampled there: no faster than the log's own step."""
    added = []
    for log in logs:
        instrument = kit.instrument_for("v", log.instrument)
        step_s = max(round(log.step_s, 3), 1e-3)
        slower = instrument.refresh_s < step_s
        added.append(
            replace(
                instrument,
                slug=logged_as(log),
                name=f"{instrument.name}, logged every {plain(step_s, 's')}",
                refresh_s=max(instrument.refresh_s, step_s),
                max_hold=instrument.max_hold and not slower,
            )
        )
    return Kit((*kit.instruments, *added), kit.wave)


def with_logs(
    record: BenchRecord, logs: Sequence[TraceFeatures], loads: Mapping[str, Load], system: System
) -> BenchRecord:
    """The record with each typed start filled in from the logs, and the switchings-on that they show as starts."""
    if not logs:
        return record
    starts: list[StartRun] = []
    for run in record.starts:
        match = _step_near(logs, run.t_s, loads.get(run.load) if run.outcome is Outcome.HELD else None)
        starts.append(run if match is None else replace(run, readings=(*_readings(match), *run.readings)))
    seen = [_start_of(on, logs, loads, system) for on in record.switched_on]
    starts += [run for run in seen if run is not None]
    return replace(record, starts=tuple(sorted(starts, key=lambda run: run.t_s)), kit=_kit_with(record.kit, logs))


def _start_of(
    on: SwitchOn, logs: Sequence[TraceFeatures], loads: Mapping[str, Load], system: System
) -> StartRun | None:
    load = loads.get(on.load)
    if load is None or not load.has_start(system.hz):
        return None
    match = _step_near(logs, on.t_s, load)
    if match is None or not match.step.lowest_v:
        return None
    return StartRun(
        seq=on.seq,
        load=on.load,
        hot=False,
        base=on.base,
        readings=_readings(match),
        outcome=Outcome.HELD,
        base_w=on.base_w,
        t_s=match.step.t_s,
    )


def holds_logged(record: BenchRecord, logs: Iterable[TraceFeatures]) -> tuple[Held, ...]:
    """What each log shows held, of the whole source and of each leg: every power with the longest time at or above it."""
    return tuple(
        _held_logged(record, log, place, level)
        for log in logs
        for place, runs in log.power.items()
        for run in runs
        for level in stood(run)
        if level.w > 0 and level.held_s >= LEAST_HELD_S
    )


def _held_logged(record: BenchRecord, log: TraceFeatures, place: Place, level: Stood) -> Held:
    u_w = record.kit.u("w", log.instrument, level.w)
    working = Working(
        "the longest time at or above it",
        f"{level.t1_s:.0f} s − {level.t0_s:.0f} s",
        f"{duration(level.held_s)} at {plain(level.w, 'w')} or more",
        "single spikes left out; a gap in the log ends it",
    )
    finding = replace(
        describe_held(place, level.w, u_w, level.held_s, working),
        key=f"held-log-{log.name}-{place.value}-{level.w:.0f}",
        title=f"Held, {place.label}, from the log",
        span=(level.t0_s, level.t1_s),
        log=log.name,
    )
    return Held(place=place, w=level.w, u_w=u_w, held_s=level.held_s, tripped=False, seq=0, finding=finding)


def findings_logged(record: BenchRecord, logs: Iterable[TraceFeatures], system: System) -> tuple[Finding, ...]:
    """Dips and rises outside starts, energy and duty of each log."""
    of_starts = [run.t_s for run in record.starts]
    findings: list[Finding] = []
    for log in logs:
        apart = [e for e in log.events if not any(abs(e.t0_s - t_s) <= MATCH_S for t_s in of_starts)]
        findings += _describe_events(log, apart, system)
        findings += [_describe_energy(log, energy, record.kit) for energy in log.energies if energy.covered_s > 0]
        findings += [_describe_duty(log, log.duty)] if log.duty is not None else []
    return tuple(findings)


def worked_depth(before_v: float, extreme_v: float) -> Working:
    """How far volts fell below what stood before."""
    return Working(
        "depth = (before − extreme) ÷ before",
        f"({number(before_v, 'v')} − {number(extreme_v, 'v')}) ÷ {number(before_v, 'v')}",
        plain((before_v - extreme_v) / before_v * 100, "pct"),
    )


def worked_envelope(residual_pct: float, event_s: float) -> Working:
    """Whether electronics ride an event through."""
    low, high = dip_floor_pct(event_s), rise_ceiling_pct(event_s)
    rides = rides_through(residual_pct, event_s)
    return Working(
        f"electronics stand {low:g} to {high:g} % of nominal for so long",
        f"{plain(residual_pct, 'pct')} for {event_s * 1000:.0f} ms",
        "ridden through" if rides else "not ridden through: they may trip",
        "ITIC envelope",
    )


def _describe_events(log: TraceFeatures, events: Sequence[VoltEvent], system: System) -> list[Finding]:
    worst = sorted(events, key=lambda e: -abs(100 - e.residual_pct))[:MOST_DIPS]
    told = [_describe_event(log, event, system) for event in sorted(worst, key=lambda e: e.t0_s)]
    if len(events) > len(told) and told:
        lesser = f"{len(events) - len(told)} lesser ones are" if len(events) < MOST_EVENTS else "Hundreds more are"
        more = f" {lesser} in the log."
        told[-1] = replace(told[-1], sentence=told[-1].sentence + more)
    return told


def _describe_event(log: TraceFeatures, event: VoltEvent, system: System) -> Finding:
    where = "" if system.legs == 1 else f" on {event.place.label}"
    size = plain(event.residual_pct, "pct")
    for_s = f"for {duration(event.duration_s)}"
    if event.kind is VoltEventKind.INTERRUPTION:
        sentence = f"The output{where} was gone {for_s}."
    else:
        way = "fell" if event.kind is VoltEventKind.DIP else "rose"
        sentence = f"Volts{where} {way} to {event.extreme}, {size} of nominal, {for_s} as sampled."
    workings = [
        Working(
            "residual = extreme ÷ nominal",
            f"{number(event.extreme.value, 'v')} ÷ {number(event.nominal_v, 'v')}",
            size,
            "IEC 61000-4-30: a dip from 90 to 92 %, a rise from 110 to 108 % of nominal",
        )
    ]
    if event.kind != "interruption":
        workings.append(worked_envelope(event.residual_pct, event.duration_s))
    if event.before_v:
        workings.append(worked_depth(event.before_v, event.extreme.value))
    topic = Topic.TRIPS if event.kind is VoltEventKind.INTERRUPTION else Topic.DIPS
    title = {"interruption": "Output gone", "dip": "Dip", "rise": "Rise"}[event.kind]
    needs = "a log fast enough to hold the whole event" if event.extreme.bound else ""
    return Finding(
        key=f"{event.kind}-log-{event.place.value}-{event.t0_s:.2f}",
        topic=topic,
        title=f"{title}, from the log",
        sentence=sentence,
        value=event.extreme,
        workings=tuple(workings),
        seqs=(),
        needs=needs,
        span=(event.t0_s - START_LOOK_S, event.t1_s + START_LOOK_S),
        log=log.name,
    )


def _describe_energy(log: TraceFeatures, balance: Energy, kit: Kit) -> Finding:
    side = "battery_wh_dc" if balance.place is Place.DC else "delivered_wh_ac"
    verb = "The battery gave" if balance.place is Place.DC else "Delivered"
    u_wh = kit.u("dc_w" if balance.place is Place.DC else "w", log.instrument, abs(balance.wh))
    gap = f"; {duration(balance.gap_s)} of the log is missing and not counted" if balance.gap_s > 0 else ""
    workings = [
        Working(
            "sum of watts × time each sample stood",
            f"{duration(balance.covered_s)} of samples {plain(round(log.step_s, 3), 's')} apart, in {len(balance.parts)} parts",
            plain(balance.wh, "wh"),
            f"{side}; gaps are left out",
            rows_of(Method.SUM_OF_PRODUCTS, ("h", "W on average"), balance.parts),
        )
    ]
    agrees = ""
    if balance.counted_wh is not None and balance.wh:
        apart_pct = (balance.counted_wh - balance.wh) / balance.wh * 100
        workings.append(
            Working(
                "the meter's own count, last − first",
                f"({number(balance.counted_wh, 'wh')} − {number(balance.wh, 'wh')}) ÷ {number(balance.wh, 'wh')}",
                plain(apart_pct, "pct"),
                "the two should agree within 5 %",
            )
        )
        if abs(apart_pct) > ENERGY_AGREES_PCT:
            agrees = f"; the meter's own count says {plain(balance.counted_wh, 'wh')}"
    sentence = f"{verb} {plain(balance.wh, 'wh')} in {duration(balance.covered_s)}{gap}{agrees}."
    return Finding(
        key=f"energy-{balance.place.value}-{log.name}",
        topic=Topic.ENERGY,
        title="Energy",
        sentence=sentence,
        value=Value(balance.wh, "wh", u_wh, Bound.AT_LEAST if balance.gap_s > 0 else None, Grade.A),
        workings=tuple(workings),
        seqs=(),
        needs="",
        span=log.span,
        log=log.name,
    )


def _describe_duty(log: TraceFeatures, seen: DutySeen) -> Finding:
    sentence = (
        f"The load came and went: on {duration(seen.on_s)}, off {duration(seen.off_s)}, "
        f"{plain(seen.share * 100, 'pct')} of the time, over {seen.cycles} cycles; {plain(seen.on_w, 'w')} when on."
    )
    working = Working(
        "duty = time on ÷ whole cycles",
        f"{duration(seen.on_s * seen.cycles)} ÷ {duration((seen.on_s + seen.off_s) * seen.cycles)}",
        plain(seen.share * 100, "pct"),
        "on is above the middle between the low and the high level",
    )
    u_pct = 100 * seen.share / max(1, seen.cycles) ** 0.5 * 0.2
    return Finding(
        key=f"duty-{log.name}",
        topic=Topic.DUTY,
        title="Duty",
        sentence=sentence,
        value=Value(seen.share * 100, "pct", u_pct, None, Grade.A),
        workings=(working,),
        seqs=(),
        needs="" if seen.cycles >= 4 else "more cycles in the log",
        span=(seen.t0_s, seen.t1_s),
        log=log.name,
    )


def interrupted(logs: Sequence[TraceFeatures]) -> list[tuple[float, float]]:
    """When logs show no volts at all, on any leg. [s of the session]"""
    return [
        (event.t0_s, event.t1_s) for log in logs for event in log.events if event.kind is VoltEventKind.INTERRUPTION
    ]


def lowest_logged_v(logs: Sequence[TraceFeatures]) -> float | None:
    """The lowest volts that logs show of a live leg: of a dip, else of a steady stretch; None without any. [V]"""
    dips = [event.extreme.value for log in logs for event in log.events if event.kind is VoltEventKind.DIP]
    steady = [point.y for log in logs for points in log.volts.values() for point in points]
    return min([*dips, *steady], default=None)
