"""What the bench page shows at this moment, gathered from the record."""

from __future__ import annotations

from collections.abc import Hashable, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta

from muster.core.brief import Home
from muster.core.character import Character, Dated, Given, known_limits, started_on
from muster.core.findings import SessionFindings
from muster.core.loads import Load, short_name
from muster.core.plan.sheets import Predicted, build_sheet
from muster.core.sessions import PROTOCOLS, Place, Protocol, Session, Step
from muster.core.sessions.checks import Check, misread
from muster.core.sessions.log_line import tell
from muster.core.sessions.replay import BenchRecord, SwitchOn, replay
from muster.core.sources import Source
from muster.core.sources.limits import Limit, drawn
from muster.core.stacking.what_if import WhatIf, next_to_start, what_if, whole_source
from muster.core.supply import System
from muster.records import bridge
from muster.records.actions import recordings
from muster.records.actions.captures import live_captures
from muster.records.actions.sessions import live_sessions
from muster.records.actions.traces import live_traces
from muster.records.background import Waiting
from muster.records.checking import checks_on
from muster.records.judging import findings_so_far, kept_character, read_together
from muster.records.looking import looking, read_once
from muster.records.models import EntryRow, PhotoRow, RecordingRow, SessionRow
from muster.records.recording.start_traces import start_trace_of
from muster.web.figures.stack import Stack, draw_stack
from muster.web.figures.start_trace import StartTrace, describe, draw_start_trace

from .checkins import Checkins, checkins_of
from .recording import Recording, recording_of

MOST_LINES = 60
"""Of a running session so many entries are shown; all of them a link away, and once it is sealed."""


@dataclass(frozen=True)
class Readout:
    """A big figure: its value, unit suffix and what it is of; where it should lie on this step, and the channel that moves it."""

    value: float | None
    unit: str
    of: str
    heading: str = ""
    expected: Predicted | None = None

    @property
    def outside(self) -> bool:
        """Whether it lies where it should not."""
        return (
            self.value is not None
            and self.expected is not None
            and not self.expected.low <= self.value <= self.expected.high
        )


@dataclass(frozen=True)
class ShownStart:
    """The trace of the last start (``key``: the entry it was logged by): whose, what it says, and its drawing."""

    key: int
    name: str
    sentence: str
    figure: StartTrace


@dataclass(frozen=True)
class Call:
    """A load in the list of loads: on or off, and whether it could be switched on now."""

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
    closed_at: datetime | None
    superseded: bool
    undone: bool
    correctable: bool
    checks: tuple[Check, ...] = ()
    photos: tuple[PhotoRow, ...] = ()

    @property
    def key(self) -> tuple[Hashable, ...]:
        """All that its line on the page hangs on."""
        photos = tuple((photo.pk, photo.caption) for photo in self.photos)
        amended = self.row.amendment_id
        of = (self.row.pk, self.closed_at, self.told, self.who, self.superseded, self.undone, self.correctable)
        return (*of, amended, self.checks, photos)


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
    recording: Recording | None = None
    start: ShownStart | None = None
    checkins: Checkins | None = None
    capture_count: int = 0
    photo_count: int = 0
    failed: RecordingRow | None = None
    waiting: bool = False

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
    off = [load for load in home.every if load.key not in record.on]
    for load in off:
        if load.key == wanted:
            return load
    if step is not None:
        planned = [load for load in off if load.key in step.loads]
        if planned:
            return next_to_start(planned, record.on)
    return next_to_start(home.every, record.on)


def _switch_words(step: Step | None, on: Sequence[str], home: Home) -> str:
    """What to switch for a step, in words."""
    if step is None or not (step.loads or step.target_w == 0):
        return ""
    names = {load.key: short_name(load) for load in home.every}
    add = [names[key] for key in step.loads if key not in on and key in names]
    drop = [names[key] for key in on if key not in step.loads and key in names]
    parts = []
    if add:
        parts.append("switch on " + ", ".join(add))
    if drop:
        parts.append("switch off " + ", ".join(drop))
    return "; ".join(parts) or "the loads of this step are on"


def _readouts(record: BenchRecord, system: System, expected: dict[str, Predicted]) -> tuple[Readout, ...]:
    def last(quantity: str, place: Place) -> float | None:
        reading = record.latest.get((quantity, place))
        return reading.value if reading else None

    readouts = []
    if system.legs == 2:
        readouts += [
            Readout(last("v", Place(leg)), "v", f"leg {leg}", f"l{leg}_v", expected.get(f"l{leg}_v"))
            for leg in ("1", "2")
        ]
    else:
        readouts.append(Readout(last("v", Place.LEG1), "v", "voltage", "l1_v", expected.get("l1_v")))
    readouts.append(Readout(last("hz", Place.NONE), "hz", "frequency", "f_hz", expected.get("f_hz")))
    readouts.append(Readout(record.segments[-1].total_w(system.legs), "w", "read, this load", "total_w"))
    readouts.append(Readout(last("dba", Place.NONE), "dba", "sound", "spl_dba"))
    if ("w", Place.DC) in record.latest:
        readouts.append(Readout(last("w", Place.DC), "w", "DC side", "dc_w"))
    return tuple(readouts)


def _expected(
    session: Session, step: Step | None, home: Home, source: Source, before: Character | None
) -> dict[str, Predicted]:
    """What this step should read, by the heading of each channel, as other sessions have it; nothing where the step is done by hand."""
    if step is None:
        return {}
    (planned,) = build_sheet(session.protocol, home, source, [step], session.kit_on(), before).steps
    return {item.channel.heading: item for item in planned.predicted}


def _last_on(record: BenchRecord) -> SwitchOn | None:
    """The last load switched on that was not planned away since."""
    return record.switched_on[-1] if record.switched_on else None


def _start_trace(row: SessionRow, record: BenchRecord, home: Home) -> ShownStart | None:
    """The trace of the last start, where it was recorded or captured."""
    last = _last_on(record)
    load = home.by_key.get(last.load) if last is not None else None
    if last is None or load is None or not (live_captures(row) or row.trace_rows.exists()):
        return None
    seen = start_trace_of(row, load, last.t_s, record.kit, home.brief.system)
    if seen is None:
        return None
    return ShownStart(last.seq, short_name(load), describe(seen), draw_start_trace(seen, home.brief.system.v_nominal))


def record_lines(
    row: SessionRow, home: Home, session: Session, checks: Sequence[Check], most: int | None = None
) -> tuple[RecordLine, ...]:
    """The entries of a session, the latest first, with what the checks say of each; the latest so many, or all."""
    names = {key: load.name for key, load in bridge.job_loads(row.source.job).ever.items()}
    system, kit = home.brief.system, session.kit_on()
    flags: dict[int, list[Check]] = {}
    for check in checks:
        flags.setdefault(check.seq, []).append(check)
    rows, lines, voided = bridge.entry_rows_of(row), [], session.voided
    by_pk = {entry.pk: entry for entry in rows}
    photos: dict[int, list[PhotoRow]] = {}
    for photo in _live_photos(row):
        photos.setdefault(photo.entry_id, []).append(photo)
    written = list(
        zip(rows, session.entries, strict=False)
    )  # a recorder may have logged more since the session was read
    for entry, kept in written[::-1][:most]:
        items = kept.items
        told = " · ".join(tell(item, names, system, kit) for item in items)
        if entry.supersedes_id and not items:
            undone = by_pk.get(entry.supersedes.supersedes_id) if not entry.supersedes.items else None
            told = f"put back no. {undone.seq}" if undone else f"undid no. {entry.supersedes.seq}"
        elif entry.supersedes_id:
            told = f"{told} (corrects no. {entry.supersedes.seq})"
        superseded = entry.seq in voided
        lines.append(
            RecordLine(
                row=entry,
                told=told,
                who=entry.by,
                closed_at=row.closed_at,
                superseded=superseded,
                undone=superseded and bool(items) and _was_undone(entry.seq, session),
                correctable=not superseded and bool(items) and entry.seq > 1,
                checks=tuple(flags.get(entry.seq, ())),
                photos=tuple(photos.get(entry.pk, ())),
            )
        )
    return tuple(lines)


@read_once
def _live_photos(row: SessionRow) -> list[PhotoRow]:
    return list(row.photo_rows.filter(removed_at=None))


def _was_undone(seq: int, session: Session) -> bool:
    """Whether an undo stands on an entry, and not a correction."""
    voided = session.voided
    return any(e.supersedes == seq and not e.items and e.seq not in voided for e in session.entries)


@looking()
def live_of(row: SessionRow, wanted: str = "", *, everything: bool = False) -> Live:
    """Gather the bench page of a session; of a running one the latest entries, unless ``everything`` is wanted."""
    home = bridge.home_of(row.source.job)
    system = home.brief.system
    session = bridge.session_of(row)
    record = replay(session, system.legs)
    rows = {other.pk: other for other in (*live_sessions(row.source), row)}
    read_together(rows.values())
    waiting = Waiting()
    source = bridge.source_of(row.source)
    findings = {key: findings_so_far(other, waiting, home, source) for key, other in rows.items()}
    dated = [Dated(findings[key], other.protocol, other.started_at.isoformat()) for key, other in rows.items()]
    limits = known_limits(Given(source, system, home.brief.site, sorted(dated, key=lambda item: item.at)))
    others = [item for item in dated if item.findings is not findings[row.pk]]
    before = (
        kept_character(row.source, Given(source, system, home.brief.site, others), beside=row.pk) if others else None
    )
    started = started_on([start for finding in findings.values() for start in finding.starts])
    binding = tuple(limit for limit in limits if not limit.key.startswith("held"))
    on = [load for load in home.every if load.key in record.on]
    step = session.steps[record.step] if record.step < len(session.steps) else None
    chosen = _chosen(home, record, step, wanted) if row.closed_at is None else None
    answers = {
        load.key: what_if(load, on, binding, system, started) for load in home.every if load.key not in record.on
    }
    calls = tuple(
        Call(
            load,
            load.key in record.on,
            step is not None and load.key in step.loads,
            chosen is load,
            answers.get(load.key),
        )
        for load in home.every
    )
    most = next(limit for limit in limits if limit.leg is None)
    checks = checks_on(row, session)
    return Live(
        row=row,
        protocol=PROTOCOLS[session.protocol],
        session=session,
        record=record,
        findings=findings[row.pk],
        stack=draw_stack(on, chosen, drawn(limits), system),
        limits=limits,
        calls=calls,
        next_answer=answers.get(chosen.key) if chosen else None,
        whole=whole_source(on, most, system),
        readouts=_readouts(record, system, _expected(session, step, home, source, before)),
        step=step,
        step_number=record.step + 1,
        switch_words=_switch_words(step, record.on, home),
        lines=record_lines(row, home, session, checks, None if everything or row.closed_at else MOST_LINES),
        entry_count=len(session.entries),
        doubts=sum(1 for check in checks if not check.confirmed),
        hold_from=_hold_from(row, record),
        open=row.closed_at is None,
        recording=recording_of(row, session.kit_on(), steps_left=step is not None),
        start=_start_trace(row, record, home),
        capture_count=len(live_captures(row)),
        photo_count=len(_live_photos(row)),
        checkins=checkins_of(row, session, record, source.claims, home.by_key, misread(checks))
        if row.closed_at is None
        else None,
        log_count=len(live_traces(row)),
        failed=recordings.failed(row) if row.closed_at is None else None,
        waiting=bool(waiting),
    )


def _hold_from(row: SessionRow, record: BenchRecord) -> datetime | None:
    """When the hold clock began, None if it stands still."""
    if record.hold_from_s is None or row.closed_at is not None:
        return None
    return row.started_at + timedelta(seconds=record.hold_from_s)
