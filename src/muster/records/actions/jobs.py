"""Jobs: create, edit the brief, copy, archive, restore, and read in whole."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from datetime import datetime, timedelta

from django.contrib.auth.models import AbstractUser
from django.db import transaction
from django.db.models import QuerySet
from django.utils import timezone
from django.utils.text import slugify

from muster.core.brief import Brief
from muster.core.calculators import CALCULATIONS
from muster.core.errors import MusterError
from muster.core.sessions import Entry
from muster.core.timeline.traces import Trace
from muster.formats.codec import dump
from muster.formats.digests import FORM_2, digest_of_samples, is_true
from muster.formats.jobfile import CalculationRecord, CharacterRecord, JobFile, SessionRecord, SourceRecord, TraceRecord
from muster.formats.jobzip import JobPackage
from muster.formats.seals import NEWEST, form_of, holds
from muster.records import bridge
from muster.records.models import (
    BEING_RECORDED,
    AmendmentRow,
    CalculationRow,
    CaptureRow,
    CharacterRow,
    EntryRow,
    Job,
    LoadRow,
    PhotoRow,
    SafetyCheckRow,
    SessionRow,
    SourceRow,
    TraceRow,
)

from .captures import capture_of, keep_capture
from .evidence import keep_evidence, taken
from .history import changing
from .photos import keep_photo, photo_of, write_photo
from .series_kept import read_series, series_records
from .sessions import live_sessions, seal
from .traces import keep_trace, read_trace, so_far


def _named(name: str) -> str:
    if not name.strip():
        raise MusterError("a job needs a name", where="name", want="such as the name of the house")
    return name.strip()[:120]


def create_job(name: str, brief: Brief, who: AbstractUser) -> Job:
    """Open a job.

    Raises
    ------
    MusterError
        If it has no name.
    """
    return Job.objects.create(name=_named(name), brief=dump(brief), created_by=who)


def edit_brief(job: Job, name: str, brief: Brief, who: AbstractUser) -> Job:
    """Change a job's name and brief.

    Raises
    ------
    MusterError
        If it has no name.
    """
    with changing(job, "brief changed", who):
        job.name, job.brief = _named(name), dump(brief)
        job.save()
    return job


@transaction.atomic
def copy_job(job: Job, who: AbstractUser) -> Job:
    """Copy a job's brief, loads and sources; its sessions stay with the home they were measured in."""
    copy = Job.objects.create(name=f"{job.name}, copy"[:120], brief=job.brief, created_by=who)
    for row in job.load_rows.filter(removed_at=None):
        LoadRow.objects.create(
            job=copy,
            key=row.key,
            name=row.name,
            kind=row.kind,
            tier=row.tier,
            leg=row.leg,
            data=row.data,
            created_by=who,
        )
    for source in job.source_rows.filter(archived_at=None):
        SourceRow.objects.create(
            job=copy,
            name=source.name,
            kind=source.kind,
            data=source.data,
            rules=source.rules,
            card=source.card,
            elsewhere=source.elsewhere,
            created_by=who,
        )
    return copy


def archive_job(job: Job, who: AbstractUser) -> Job:
    """Archive a job; nothing is deleted."""
    with changing(job, "job archived", who):
        job.archived_at = timezone.now()
        job.save(update_fields=["archived_at"])
    return job


def restore_job(job: Job, who: AbstractUser) -> Job:
    """Bring an archived job back."""
    with changing(job, "job restored", who):
        job.archived_at = None
        job.save(update_fields=["archived_at"])
    return job


@transaction.atomic
def read_in(package: JobPackage, who: AbstractUser, demo: str = "") -> Job:
    """Make a whole job of a job file and its traces, or nothing of it.

    Raises
    ------
    MusterError
        If a sealed session or a trace is not what was sealed.
    """
    file = package.job
    job = create_job(file.name, file.brief, who)
    if demo:
        job.demo = demo
        job.save(update_fields=["demo"])
    for load in file.loads:
        bridge.fill_load(LoadRow(job=job, created_by=who), load).save()
    for at, kept in enumerate(file.calculations):
        if kept.slug not in CALCULATIONS:
            raise MusterError(f"got “{kept.slug}”", where=f"calculations[{at}].slug", want=", ".join(CALCULATIONS))
        CalculationRow.objects.create(job=job, slug=kept.slug, typed=kept.typed, sentence=kept.sentence, created_by=who)
    rows: list[tuple[SourceRow, list[SessionRow]]] = []
    for record in file.sources:
        row = bridge.fill_source(SourceRow(job=job, created_by=who), record.source)
        row.plans = {protocol: dump(changes) for protocol, changes in record.plans.items()}
        row.rules = [dump(rule) for rule in record.rules]
        row.card = dump(record.card)
        row.card_given = None if record.card_given is None else dump(record.card_given)
        if record.elsewhere is not None:
            keep_evidence(record.elsewhere.measured, who)
            row.elsewhere = taken(record.elsewhere)
        row.save()
        rows.append((row, [_read_session(row, session, package, who) for session in record.sessions]))
        SafetyCheckRow.objects.bulk_create(
            SafetyCheckRow(
                source=row, slug=g.slug, at=datetime.fromisoformat(g.at), by=g.who, note=g.note, created_by=who
            )
            for g in record.safety_checks
        )
        for character in record.characters:
            _read_character(row, character, who)
    read_series(job, file.series, rows, who)
    return job


def _read_character(source: SourceRow, record: CharacterRecord, who: AbstractUser) -> None:
    """Keep a saved character of a job file, of the day that it was saved."""
    row = CharacterRow.objects.create(
        source=source, data=dump(record.character), note=record.note[:120], created_by=who
    )
    CharacterRow.objects.filter(pk=row.pk).update(created_at=datetime.fromisoformat(record.at))


def _read_session(source: SourceRow, record: SessionRecord, package: JobPackage, who: AbstractUser) -> SessionRow:
    session = record.session
    started_at = datetime.fromisoformat(record.started_at)
    row = SessionRow.objects.create(
        source=source,
        protocol=session.protocol,
        started_at=started_at,
        created_by=who,
        data=dump(replace(session, entries=())),
    )
    _read_entries(row, session.entries, _read_amendments(row, record, who), who)
    for trace in record.traces:
        _read_trace(row, trace, package.traces[trace.file], who)
    for capture in record.captures:
        kept_capture = keep_capture(row, package.captures[capture.file], who)
        if capture.sha256 and capture.sha256 != kept_capture.sha256:
            raise MusterError(
                "was changed after it was captured", where=capture.file, want="the file as Muster wrote it"
            )
    entries = {entry.seq: entry for entry in row.entry_rows.all()} if record.photos else {}
    for photo in record.photos:
        picture = package.photos[photo.file]
        write_photo(picture)
        keep_photo(entries[photo.entry], picture, photo.caption, who)
    if record.closed_at is not None:
        seal(row, datetime.fromisoformat(record.closed_at), form_of(record.sha256) if record.sha256 else NEWEST)
        amended = record.amendments and not holds(bridge.record_of(row))
        if amended or (record.sha256 and record.sha256 != row.sha256):
            raise MusterError(
                f"the {session.protocol} of {record.started_at} was changed after it was sealed",
                where="sources",
                want="the file as Muster wrote it",
            )
    return row


def _read_amendments(row: SessionRow, record: SessionRecord, who: AbstractUser) -> dict[int, AmendmentRow]:
    """Keep the amendments of a session, by their number."""
    return {
        number: AmendmentRow.objects.create(
            session=row,
            number=number,
            at=datetime.fromisoformat(amendment.at),
            who=who,
            by=amendment.who or bridge.shown_name(who),
            reason=amendment.reason,
            sealed=amendment.sealed,
        )
        for number, amendment in enumerate(record.amendments, 1)
    }


def _read_entries(
    row: SessionRow, entries: Sequence[Entry], amendments: Mapping[int, AmendmentRow], who: AbstractUser
) -> None:
    """Keep the entries of a session in their order, many at once; one that supersedes another comes after it."""
    rows: dict[int, EntryRow] = {}
    waiting: list[EntryRow] = []
    by = bridge.shown_name(who)
    for entry in entries:
        superseded = rows.get(entry.supersedes) if entry.supersedes is not None else None
        if superseded is not None and superseded.pk is None:
            EntryRow.objects.bulk_create(waiting)
            waiting = []
        rows[entry.seq] = EntryRow(
            session=row,
            seq=entry.seq,
            at=row.started_at + timedelta(seconds=entry.t_s),
            who=who,
            by=entry.who or by,
            raw=entry.raw,
            items=[dump(item) for item in entry.items],
            supersedes=superseded,
            amendment=amendments.get(entry.amendment),
        )
        waiting.append(rows[entry.seq])
    EntryRow.objects.bulk_create(waiting)


def _read_trace(row: SessionRow, record: TraceRecord, trace: Trace, who: AbstractUser) -> None:
    """Keep a trace of a job file, its digest checked and kept as it came.

    A digest of form 1 hung on how the samples were stored; one that no way of
    cutting them brings back is marked as unchecked, and the page says so.

    Raises
    ------
    MusterError
        If its samples are not those that were recorded.
    """
    checked = not record.sha256 or is_true(record.sha256, trace)
    if not checked and record.sha256.startswith(FORM_2):
        raise MusterError("was changed after it was recorded", where=record.file, want="the file as Muster wrote it")
    kept = keep_trace(row, trace, record.notes, who)
    if record.sha256:
        kept.sha256, kept.unchecked = record.sha256, not checked
        kept.save(update_fields=["sha256", "unchecked"])


def write_out(job: Job) -> JobPackage:
    """The whole job with its traces: what was undone included, what was archived left out, nothing of this database.

    Of a recording that goes on, what it holds up to its last whole second.
    """
    going: dict[str, Trace] = {}
    sources = _source_records(job, going)
    rows = TraceRow.objects.filter(session__source__job=job, session__archived_at=None, staged=False, removed_at=None)
    samples = {bridge.trace_record(row).file: row for row in rows}
    file = _file_of(job, sources)
    old = [trace.file for source in sources for kept in source.sessions for trace in kept.traces]
    traces = {
        trace.file: going[before] if before in going else read_trace(samples[before])
        for trace, before in zip(file.traces, old, strict=True)
    }
    shots = CaptureRow.objects.filter(session__source__job=job, session__archived_at=None, removed_at=None)
    by_name = {bridge.capture_record(row).file: row for row in shots}
    before = [capture.file for source in sources for kept in source.sessions for capture in kept.captures]
    captures = {item.file: capture_of(by_name[name]) for item, name in zip(file.captures, before, strict=True)}
    pictures = PhotoRow.objects.filter(session__source__job=job, session__archived_at=None, removed_at=None)
    by_digest = {row.sha256: row for row in pictures}
    photos = {record.file: photo_of(by_digest[record.sha256]) for record in file.photos}
    return JobPackage(file, traces, captures, photos)


def job_file(job: Job) -> JobFile:
    """The job as its file holds it, no samples read: what papers speak of."""
    return _file_of(job, _source_records(job, {}))


def _source_records(job: Job, going: dict[str, Trace]) -> tuple[SourceRecord, ...]:
    return tuple(
        SourceRecord(
            source=bridge.source_of(row),
            sessions=tuple(_with_going(session, going) for session in live_sessions(row)),
            safety_checks=tuple(
                bridge.safety_record(gate) for gate in row.safety_rows.filter(withdrawn_at=None).order_by("pk")
            ),
            plans={protocol: bridge.changes_of(row, protocol) for protocol in row.plans},
            characters=tuple(
                bridge.character_record(kept) for kept in row.character_rows.filter(removed_at=None).order_by("pk")
            ),
            rules=bridge.rules_of(row),
            card=bridge.card_words_of(row),
            card_given=bridge.card_given_of(row),
            elsewhere=bridge.taken_of(row),
        )
        for row in _live_sources(job)
    )


def _live_sources(job: Job) -> QuerySet[SourceRow]:
    return job.source_rows.filter(archived_at=None)


def _file_of(job: Job, sources: Sequence[SourceRecord]) -> JobFile:
    return JobFile(
        name=job.name,
        brief=bridge.brief_of(job),
        loads=bridge.loads_of(job),
        sources=tuple(replace(source, sessions=_with_files(at, source)) for at, source in enumerate(sources, 1)),
        calculations=tuple(
            CalculationRecord(row.slug, row.typed, row.sentence) for row in job.calculation_rows.filter(removed_at=None)
        ),
        series=series_records(job, [(row, list(live_sessions(row))) for row in _live_sources(job)]),
    )


def _with_going(session: SessionRow, going: dict[str, Trace]) -> SessionRecord:
    """A session as its job file holds it, with what a recorder has kept so far; its samples go into ``going``."""
    record = bridge.record_of(session)
    listed_traces = []
    for row in session.trace_rows.filter(staged=True, notes=[BEING_RECORDED], removed_at=None):
        trace, note = so_far(row)
        if trace.t_s.size:
            listed = bridge.trace_record(row)
            going[listed.file] = trace
            digest = digest_of_samples(trace.channels, trace.t_s, trace.values)
            listed_traces.append(replace(listed, rows=int(trace.t_s.size), sha256=digest, notes=(note,)))
    return replace(record, traces=(*record.traces, *listed_traces))


def _with_files(place: int, source: SourceRecord) -> tuple[SessionRecord, ...]:
    """The sessions of a source with the files of their traces named by where they stand."""
    return tuple(
        replace(
            kept,
            traces=tuple(
                replace(trace, file=f"traces/{place}-{number}-{count}-{slugify(trace.name)[:40] or 'log'}.csv")
                for count, trace in enumerate(kept.traces, 1)
            ),
            captures=tuple(
                replace(item, file=f"captures/{place}-{number}-{count}-{slugify(item.name)[:40] or 'capture'}.csv")
                for count, item in enumerate(kept.captures, 1)
            ),
            photos=tuple(
                replace(photo, file=f"photos/{place}-{number}-{count}.jpg")
                for count, photo in enumerate(kept.photos, 1)
            ),
        )
        for number, kept in enumerate(source.sessions, 1)
    )
