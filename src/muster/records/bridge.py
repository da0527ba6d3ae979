"""Rows to core values and back."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from dataclasses import dataclass, replace
from datetime import datetime
from typing import Any

from django.contrib.auth.models import AbstractUser
from django.db.models import Max

from muster.core.brief import Brief, Home
from muster.core.card.written import CardWords
from muster.core.character import Character
from muster.core.loads import Load
from muster.core.outage.household import HouseholdRule
from muster.core.plan import Changes
from muster.core.sessions import Entry, Item, Session
from muster.core.shelf.measured import MeasuredSource, TakenSource
from muster.core.sources import Source
from muster.formats.codec import dump, load
from muster.formats.jobfile import (
    AmendmentRecord,
    CaptureRecord,
    CardGiven,
    CharacterRecord,
    PhotoRecord,
    SafetyCheckRecord,
    SessionRecord,
    TraceRecord,
)

from .looking import read_once, remember
from .models import (
    AmendmentRow,
    CaptureRow,
    CharacterRow,
    EntryRow,
    Job,
    LoadRow,
    MeasuredRow,
    PhotoRow,
    SafetyCheckRow,
    SessionRow,
    SourceRow,
    TraceRow,
)
from .recent import Recent


def shown_name(account: AbstractUser) -> str:
    """The name as it is shown beside records."""
    return account.first_name or "the assessor"


def brief_of(job: Job) -> Brief:
    """The job's brief."""
    return load(Brief, job.brief)


def load_of(row: LoadRow) -> Load:
    """The row's load."""
    return load(Load, row.data)


@dataclass(frozen=True)
class JobLoads:
    """The loads of a job in the order added: those of the home, and by key every one that the record may speak of."""

    home: tuple[Load, ...]
    ever: Mapping[str, Load]


@read_once
def job_loads(job: Job) -> JobLoads:
    """The loads of a job, those removed among them."""
    rows = [(row, load_of(row)) for row in job.load_rows.all()]
    return JobLoads(tuple(load for row, load in rows if row.removed_at is None), {row.key: load for row, load in rows})


def loads_of(job: Job) -> tuple[Load, ...]:
    """The loads of a job, those removed left out, in the order added."""
    return job_loads(job).home


@read_once
def home_of(job: Job) -> Home:
    """The brief with its roll."""
    return Home(brief_of(job), loads_of(job))


@read_once
def source_of(row: SourceRow) -> Source:
    """The row's source."""
    return load(Source, row.data)


def rules_of(row: SourceRow) -> tuple[HouseholdRule, ...]:
    """The rules of the household that were accepted for this source."""
    return tuple(load(HouseholdRule, item) for item in row.rules)


def card_words_of(row: SourceRow) -> CardWords:
    """What was chosen of the words of this source's card."""
    return load(CardWords, row.card)


def card_given_of(row: SourceRow) -> CardGiven | None:
    """When this source's card was last given out; None where it never was."""
    return None if row.card_given is None else load(CardGiven, row.card_given)


def changes_of(row: SourceRow, protocol: str) -> Changes:
    """What was changed in the plan of a protocol for this source."""
    return load(Changes, row.plans[protocol]) if protocol in row.plans else Changes()


def fill_load(row: LoadRow, value: Load) -> LoadRow:
    """Write a load into a row: the asked-about parts as columns, all of it as JSON."""
    row.key, row.name, row.kind = value.key, value.name, value.kind
    row.tier, row.leg, row.data = value.tier.value, value.leg.value, dump(value)
    return row


def fill_source(row: SourceRow, value: Source) -> SourceRow:
    """Write a source into a row."""
    row.name, row.kind, row.data = value.name, value.kind.value, dump(value)
    return row


def taken_of(row: SourceRow) -> TakenSource | None:
    """What was measured of a source on another job, None where it was taken from no shelf."""
    if row.elsewhere is None:
        return None
    digest = row.elsewhere["digest"]
    measured = _EVIDENCE.get(digest) or _EVIDENCE.put(
        digest, load(MeasuredSource, MeasuredRow.objects.get(digest=digest).data)
    )
    return TakenSource(measured, row.elsewhere["serviced"])


_EVIDENCE: Recent[MeasuredSource] = Recent(8)
"""Evidence as it was last read: its digest names it, and it never changes."""


def seconds_since(start: datetime, at: datetime) -> float:
    """Seconds from a session's start to a time."""
    return (at - start).total_seconds()


def entry_of(row: EntryRow, started_at: datetime) -> Entry:
    """The row's entry, its time counted from the session's start."""
    items: tuple[Item, ...] = load(tuple[Item, ...], row.items)  # type: ignore[arg-type]
    supersedes = row.supersedes.seq if row.supersedes is not None else None
    return Entry(
        seq=row.seq,
        t_s=seconds_since(started_at, row.at),
        items=items,
        raw=row.raw,
        supersedes=supersedes,
        who=row.by,
        amendment=row.amendment.number if row.amendment is not None else 0,
    )


def trace_record(row: TraceRow) -> TraceRecord:
    """A trace as a job file lists it; its file is named when the job is written."""
    return TraceRecord(
        name=row.name,
        instrument=row.instrument,
        file=f"trace {row.pk}",
        rows=row.rows,
        sha256=row.sha256,
        notes=tuple(row.notes),
    )


def capture_record(row: CaptureRow) -> CaptureRecord:
    """A capture as a job file lists it; its file is named when the job is written."""
    samples = len(row.samples) // 4 // len(row.channels)
    return CaptureRecord(
        name=row.name,
        instrument=row.instrument,
        file=f"capture {row.pk}",
        t_s=row.t0_s,
        step_s=row.step_s,
        samples=samples,
        sha256=row.sha256,
        why=row.why,
    )


def photo_record(row: PhotoRow) -> PhotoRecord:
    """A photo as a job file lists it; its file is named when the job is written."""
    return PhotoRecord(entry=row.entry.seq, file=f"photo {row.pk}", sha256=row.sha256, caption=row.caption)


def safety_record(row: SafetyCheckRow) -> SafetyCheckRecord:
    """A confirmed safety check as a job file holds it."""
    return SafetyCheckRecord(row.slug, row.at.isoformat(), row.by, row.note)


def character_record(row: CharacterRow) -> CharacterRecord:
    """A saved character as a job file holds it."""
    character = load(Character, row.data)
    return CharacterRecord(row.created_at.isoformat(), shown_name(row.created_by), character, row.note)


def record_of(row: SessionRow) -> SessionRecord:
    """The session as a job file holds it."""
    closed_at = row.closed_at.isoformat() if row.closed_at else None
    traces = tuple(trace_record(trace) for trace in row.trace_rows.filter(staged=False, removed_at=None))
    captures = tuple(capture_record(capture) for capture in row.capture_rows.filter(removed_at=None))
    return SessionRecord(
        session=session_whole(row),
        started_at=row.started_at.isoformat(),
        closed_at=closed_at,
        sha256=row.sha256,
        traces=traces,
        captures=captures,
        amendments=tuple(amendment_record(amendment) for amendment in row.amendment_rows.all()),
        photos=tuple(photo_record(photo) for photo in row.photo_rows.filter(removed_at=None).select_related("entry")),
    )


def amendment_record(row: AmendmentRow) -> AmendmentRecord:
    """An amendment as a job file holds it."""
    return AmendmentRecord(at=row.at.isoformat(), reason=row.reason, who=row.by, sealed=row.sealed)


def is_superseded(row: EntryRow) -> bool:
    """Whether an entry no longer counts: undone or superseded."""
    return row.seq in session_of(row.session).voided


@read_once
def session_data(row: SessionRow) -> Session:
    """The session as planned, without its entries."""
    return load(Session, row.data)


def session_whole(row: SessionRow) -> Session:
    """The session read whole from the database: what seals and files are made of and held against."""
    rows = row.entry_rows.select_related("supersedes", "amendment").all()
    return replace(session_data(row), entries=tuple(entry_of(entry, row.started_at) for entry in rows))


@dataclass(frozen=True)
class _KeptSession:
    """A session as it was last read: of which row as it then was, its entries' rows, and the session itself."""

    of: tuple[datetime, datetime, Any]
    rows: tuple[EntryRow, ...]
    session: Session


_KEPT: Recent[_KeptSession] = Recent()
"""Sessions as they were last read. Entries are only ever added, so a session that was read is read on from its last entry."""


def session_of(row: SessionRow) -> Session:
    """The session with all its entries, those undone and superseded included.

    The same object comes back while nothing was added; what was read before is not read again.
    """
    return _read(row).session


def entry_rows_of(row: SessionRow) -> tuple[EntryRow, ...]:
    """The rows of a session's entries, as ``session_of`` read them."""
    return _read(row).rows


@read_once
def _read(row: SessionRow) -> _KeptSession:
    rows = row.entry_rows.select_related("supersedes", "amendment")
    of = _of(row)
    kept = _KEPT.get(row.pk)
    if kept is not None and kept.of == of and kept.rows:
        last = kept.rows[-1]
        tail = list(rows.filter(seq__gte=last.seq))
        if tail and (tail[0].pk, tail[0].logged_at) == (last.pk, last.logged_at):
            return _read_on(row, kept, tail[1:])
    return _read_on(row, _KeptSession(of, (), session_data(row)), list(rows))


def read_together(rows: Collection[SessionRow]) -> None:
    """See in one query which of several sessions stand as they were last read, for the look that goes on."""
    entries = EntryRow.objects.filter(session__in=rows).order_by().values_list("session")
    last = {key: newest for key, *newest in entries.annotate(Max("pk"), Max("logged_at"))}
    for row in rows:
        kept = _KEPT.get(row.pk)
        if kept is not None and kept.of == _of(row) and kept.rows:
            newest = kept.rows[-1]
            if [newest.pk, newest.logged_at] == last.get(row.pk):
                remember(_read, row, kept)


def _of(row: SessionRow) -> tuple[datetime, datetime, Any]:
    """What a session row says itself: another of it is another session."""
    return row.created_at, row.started_at, row.data


def _read_on(row: SessionRow, kept: _KeptSession, added: list[EntryRow]) -> _KeptSession:
    """A session with the entries that came since, kept for the next time; itself where none came."""
    if not added:
        return kept
    entries = (*kept.session.entries, *(entry_of(entry, row.started_at) for entry in added))
    read_on = _KeptSession(kept.of, (*kept.rows, *added), replace(kept.session, entries=entries))
    return _KEPT.put(row.pk, read_on)
