"""A series in a job's file and out of it: which source, session and entry holds what, counted and never by this database."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from datetime import datetime

from django.contrib.auth.models import AbstractUser

from muster.formats.codec import dump
from muster.formats.jobfile import SeriesFigure, SeriesRecord, SeriesUnitRecord
from muster.records.models import EntryRow, Job, SeriesRow, SessionRow, SourceRow

from .series import plan_of


def series_records(job: Job, sessions: Sequence[tuple[SourceRow, Sequence[SessionRow]]]) -> tuple[SeriesRecord, ...]:
    """Every series of a job, the earliest first.

    Parameters
    ----------
    job
        The job.
    sessions
        Its sources with their sessions, in the order in which the file holds them.

    Returns
    -------
    tuple of SeriesRecord
        Without units that were archived, and without figures of a session that was.
    """
    places = {source.pk: (at, [row.pk for row in own]) for at, (source, own) in enumerate(sessions, 1)}
    return tuple(
        SeriesRecord(
            plan=plan_of(row),
            units=tuple(_unit(row, pk, *places[pk]) for pk in row.units if pk in places),
            at=row.created_at.isoformat(),
            shared=row.shared,
            confirmed=tuple(row.confirmed),
            closed_at=row.closed_at.isoformat() if row.closed_at else None,
        )
        for row in job.series_rows.order_by("pk")
    )


def _unit(row: SeriesRow, unit: int, place: int, sessions: Sequence[int]) -> SeriesUnitRecord:
    begun = row.sessions.get(str(unit))
    if begun not in sessions:
        return SeriesUnitRecord(place)
    cells = row.cells.get(str(unit), {})
    seqs = dict(EntryRow.objects.filter(session=begun).values_list("pk", "seq"))
    return SeriesUnitRecord(
        source=place,
        session=sessions.index(begun) + 1,
        cells={key: SeriesFigure(seqs[cell["entry"]], cell["text"]) for key, cell in cells.items()},
    )


def read_series(
    job: Job, records: Iterable[SeriesRecord], rows: Sequence[tuple[SourceRow, Sequence[SessionRow]]], who: AbstractUser
) -> None:
    """Keep every series of a job file; ``rows`` are its sources with their sessions, as they were read in."""
    for record in records:
        units = [(rows[unit.source - 1], unit) for unit in record.units]
        begun = [
            (source.pk, sessions[unit.session - 1], unit)
            for (source, sessions), unit in units
            if unit.session is not None
        ]
        series = SeriesRow.objects.create(
            job=job,
            plan=dump(record.plan),
            units=[source.pk for (source, _), _ in units],
            sessions={str(source): session.pk for source, session, _ in begun},
            cells={str(source): _cells(session, unit) for source, session, unit in begun},
            shared=record.shared,
            confirmed=list(record.confirmed),
            closed_at=datetime.fromisoformat(record.closed_at) if record.closed_at else None,
            created_by=who,
        )
        SeriesRow.objects.filter(pk=series.pk).update(created_at=datetime.fromisoformat(record.at))


def _cells(session: SessionRow, unit: SeriesUnitRecord) -> dict[str, dict[str, object]]:
    entries = dict(EntryRow.objects.filter(session=session).values_list("seq", "pk"))
    return {key: {"entry": entries[figure.entry], "text": figure.text} for key, figure in unit.cells.items()}
