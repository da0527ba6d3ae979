"""Measured sources on the shelf: put there with their evidence, taken into a job, in and out as files."""

from __future__ import annotations

from dataclasses import replace

from django.contrib.auth.models import AbstractUser
from django.db import transaction
from django.utils import timezone

from muster.core.errors import NotEnoughReadings, Refused
from muster.core.shelf.measured import MeasuredSession, MeasuredSource, TakenSource, require_same_supply
from muster.formats.codec import load
from muster.formats.measured_source import digest_of_evidence, parse_source, source_text
from muster.records import bridge
from muster.records.judging import captures_of, logs_of
from muster.records.models import Job, MeasuredRow, SourceRow

from .evidence import keep, taken
from .history import changing
from .sessions import live_sessions


def measured_of(row: MeasuredRow) -> MeasuredSource:
    """The row's source."""
    return load(MeasuredSource, row.data)


def on_shelf() -> list[MeasuredRow]:
    """The measured sources on the shelf."""
    return list(MeasuredRow.objects.filter(removed_at=None))


@transaction.atomic
def put_on_shelf(source: SourceRow, who: AbstractUser) -> MeasuredRow:
    """Put a source on the shelf as it was measured so far; the same evidence again is the same entry.

    Raises
    ------
    NotEnoughReadings
        If nothing was measured of it.
    Refused
        If it was taken from the shelf itself and nothing was measured here.
    NotReady
        If a log or capture of it is being read.
    """
    sessions = list(live_sessions(source).order_by("started_at", "pk"))
    if not sessions and source.elsewhere is not None:
        raise Refused(f"{source.name} is on the shelf already, as it was taken", where="source")
    if not sessions:
        raise NotEnoughReadings(f"nothing was measured of {source.name}", where="sessions", want="one session at least")
    home, value = bridge.home_of(source.job), bridge.source_of(source)
    wave, system = value.claims.wave, home.brief.system
    measured = MeasuredSource(
        source=value,
        brief=home.brief,
        loads=home.every,
        sessions=tuple(
            MeasuredSession(
                session=bridge.session_of(row),
                started_at=row.started_at.isoformat(),
                seal=row.sha256,
                logs=logs_of(row, system, wave),
                captures=captures_of(row, system),
            )
            for row in sessions
        ),
        measured_for=source.job.name,
    )
    dated = replace(measured, put_at=timezone.now().isoformat(), put_by=bridge.shown_name(who))
    return keep(replace(dated, digest=digest_of_evidence(measured)), who)


@transaction.atomic
def take(job: Job, row: MeasuredRow, who: AbstractUser, *, serviced: bool = False) -> SourceRow:
    """Take a measured source into a job: judged there at once, as measured elsewhere.

    Raises
    ------
    Refused
        If it was measured on another supply.
    """
    measured = measured_of(row)
    require_same_supply(measured, bridge.brief_of(job).system)
    source = bridge.fill_source(SourceRow(job=job, created_by=who), measured.source)
    source.elsewhere = taken(TakenSource(measured, serviced))
    with changing(source, f"{measured.source.name} taken from the shelf", who):
        source.save()
    job.save(update_fields=["changed_at"])
    return source


def say_serviced(source: SourceRow, who: AbstractUser, *, serviced: bool) -> SourceRow:
    """Say whether a taken source was serviced, repaired or changed since it was measured."""
    kept = bridge.taken_of(source)
    if kept is None:
        raise Refused(f"{source.name} was measured here", where="source")
    with changing(source, f"{source.name} {'serviced' if serviced else 'not serviced'} since it was measured", who):
        source.elsewhere = taken(replace(kept, serviced=serviced))
        source.save(update_fields=["elsewhere"])
    source.job.save(update_fields=["changed_at"])
    return source


def write_out(row: MeasuredRow) -> str:
    """The text of a measured source's file."""
    return source_text(measured_of(row))


def bring_in(text: str, who: AbstractUser) -> MeasuredRow:
    """Put a measured source from a file on the shelf.

    Raises
    ------
    MusterError
        As ``parse_source``.
    """
    return keep(parse_source(text), who)


def remove(row: MeasuredRow) -> MeasuredRow:
    """Take a measured source off the shelf; it can be put back, and jobs that took it keep theirs."""
    row.removed_at = timezone.now()
    row.save(update_fields=["removed_at"])
    return row


def put_back(row: MeasuredRow) -> MeasuredRow:
    """Put it back."""
    row.removed_at = None
    row.save(update_fields=["removed_at"])
    return row
