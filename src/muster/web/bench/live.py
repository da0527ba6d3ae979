"""What the bench page shows at this moment, gathered from the record."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta

from muster.core.bench import BenchRecord, replay
from muster.core.brief import Home
from muster.core.checks import Check
from muster.core.findings import SessionFindings
from muster.core.limits import Limit, drawn, limits_of
from muster.core.loads import Load, short_name
from muster.core.logline import tell
from muster.core.sessions import PROTOCOLS, Place, Protocol, Session, Step
from muster.core.stack import WhatIf, measured_limits, next_to_start, what_if, whole_source
from muster.core.supply import System
from muster.records import bridge
from muster.records.actions.sessions import checks_on, live_sessions
from muster.records.judging import session_findings
from muster.records.models import EntryRow, SessionRow
from muster.web.figures.stack import Stack, draw_stack

MOST_LINES = 60
"""Of a running session so many entries are shown; all of them a link away, and once it is sealed."""


@dataclass(frozen=True)
class Readout:
    """A big figure: its value, unit suffix and what it is of."""

    value: float | None
    unit: str
    of: str


@dataclass(frozen=True)
class Call:
    """A load in the roll call: on or off, and whether it could be switched on now."""

    load: Load
    on: bool
    asked: bool
    chosen: bool
    answer: WhatIf | None


@dataclass(frozen=True)
class RecordLine:
    """An entry as the running record shows it."""

    row: EntryRow
    told: str
    who: str
    void: bool
    correctable: bool
    checks: tuple[Check, ...] = ()


@dataclass(frozen=True)
class Live:
    """Everything the bench page shows."""

    row: SessionRow
    protocol: Protocol
    session: Session
    record: BenchRecord
    findings: SessionFindings
    stack: Stack
    limits: tuple[Limit, ...]
    calls: tuple[Call, ...]
    next_answer: WhatIf | None
    whole: str
    readouts: tuple[Readout, ...]
    step: Step | None
    step_number: int
    switch_words: str
    lines: tuple[RecordLine, ...]
    hold_from: datetime | None
    open: bool
    log_count: int
    entry_count: int
    doubts: int

    @property
    def on_count(self) -> int:
        """How many loads are on."""
        return sum(1 for call in self.calls if call.on)

    @property
    def chosen_key(self) -> str:
        """The key of the load shown as next, empty if none is."""
        return next((call.load.key for call in self.calls if call.chosen), "")


def _chosen(home: Home, record: BenchRecord, step: Step | None, wanted: str) -> Load | None:
    """The load to show as next: the one asked for, else the step's first that is off, else by start order."""
    off = [load for load in home.loads if load.key not in record.on]
    for load in off:
        if load.key == wanted:
            return load
    if step is not None:
        planned = [load for load in off if load.key in step.loads]
        if planned:
            return next_to_start(planned, record.on)
    return next_to_start(home.loads, record.on)


def _switch_words(step: Step | None, on: Sequence[str], home: Home) -> str:
    """What to switch for a step, in words."""
    if step is None or not (step.loads or step.target_w == 0):
        return ""
    names = {load.key: short_name(load) for load in home.loads}
    add = [names[key] for key in step.loads if key not in on and key in names]
    drop = [names[key] for key in on if key not in step.loads and key in names]
    parts = []
    if add:
        parts.append("switch on " + ", ".join(add))
    if drop:
        parts.append("switch off " + ", ".join(drop))
    return "; ".join(parts) or "the loads of this step are on"


def _readouts(record: BenchRecord, system: System) -> tuple[Readout, ...]:
    def last(quantity: str, place: Place) -> float | None:
        reading = record.latest.get((quantity, place))
        return reading.value if reading else None

    found = []
    if system.legs == 2:
        found += [Readout(last("v", Place(leg)), "v", f"leg {leg}") for leg in ("1", "2")]
    else:
        found.append(Readout(last("v", Place.LEG1), "v", "voltage"))
    found.append(Readout(last("hz", Place.NONE), "hz", "frequency"))
    found.append(Readout(record.segments[-1].total_w(system.legs), "w", "read, this load"))
    found.append(Readout(last("dba", Place.NONE), "dba", "sound"))
    return tuple(found)


def record_lines(
    row: SessionRow, home: Home, session: Session, checks: Sequence[Check], most: int | None = None
) -> tuple[RecordLine, ...]:
    """The entries of a session, the latest first, with what the checks say of each; the latest so many, or all."""
    names, system, kit = _all_names(row), home.brief.system, session.kit_on()
    flags: dict[int, list[Check]] = {}
    for check in checks:
        flags.setdefault(check.seq, []).append(check)
    kept = {entry.seq: entry for entry in session.entries}
    lines = []
    for entry in row.entry_rows.select_related("voided_by", "who", "voids").order_by("-seq")[:most]:
        items = kept[entry.seq].items
        told = " · ".join(tell(item, names, system, kit) for item in items)
        if entry.voids_id and not items:
            told = f"undid no. {entry.voids.seq}"
        elif entry.voids_id:
            told = f"{told} (corrects no. {entry.voids.seq})"
        void = bridge.is_void(entry)
        lines.append(
            RecordLine(
                entry, told, entry.by, void, not void and bool(items) and entry.seq > 1, tuple(flags.get(entry.seq, ()))
            )
        )
    return tuple(lines)


def _all_names(row: SessionRow) -> dict[str, str]:
    """Names by key, loads since removed included: the record still speaks of them."""
    return dict(row.source.job.load_rows.values_list("key", "name"))


def live_of(row: SessionRow, wanted: str = "", *, everything: bool = False) -> Live:
    """Gather the bench page of a session; of a running one the latest entries, unless ``everything`` is wanted."""
    home = bridge.home_of(row.source.job)
    system = home.brief.system
    session = bridge.session_of(row)
    record = replay(session, system.legs)
    rows = {other.pk: other for other in (*live_sessions(row.source), row)}
    findings = {key: session_findings(other) for key, other in rows.items()}
    measured = measured_limits([held for one in findings.values() for held in one.holds], system)
    plate = limits_of(bridge.source_of(row.source), system, home.brief.site)
    binding = (*plate, *(limit for limit in measured if limit.key == "trip"))
    on = [load for load in home.loads if load.key in record.on]
    step = session.steps[record.step] if record.step < len(session.steps) else None
    chosen = _chosen(home, record, step, wanted) if row.closed_at is None else None
    answers = {load.key: what_if(load, on, binding, system) for load in home.loads if load.key not in record.on}
    calls = tuple(
        Call(
            load,
            load.key in record.on,
            step is not None and load.key in step.loads,
            chosen is load,
            answers.get(load.key),
        )
        for load in home.loads
    )
    most = next(limit for limit in plate if limit.leg is None)
    checks = checks_on(row, session)
    return Live(
        row=row,
        protocol=PROTOCOLS[session.protocol],
        session=session,
        record=record,
        findings=findings[row.pk],
        stack=draw_stack(on, chosen, drawn((*plate, *measured)), system),
        limits=(*plate, *measured),
        calls=calls,
        next_answer=answers.get(chosen.key) if chosen else None,
        whole=whole_source(on, most, system),
        readouts=_readouts(record, system),
        step=step,
        step_number=record.step + 1,
        switch_words=_switch_words(step, record.on, home),
        lines=record_lines(row, home, session, checks, None if everything or row.closed_at else MOST_LINES),
        entry_count=len(session.entries),
        doubts=sum(1 for check in checks if not check.confirmed),
        hold_from=_hold_from(row, record),
        open=row.closed_at is None,
        log_count=row.trace_rows.filter(staged=False, removed_at=None).count(),
    )


def _hold_from(row: SessionRow, record: BenchRecord) -> datetime | None:
    """When the hold clock began, None if it stands still."""
    if record.hold_from_s is None or row.closed_at is not None:
        return None
    return row.started_at + timedelta(seconds=record.hold_from_s)
