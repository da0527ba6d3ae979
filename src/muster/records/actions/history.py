"""Changes to a job, each with what stood before: told, undone, done again."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from datetime import datetime, timedelta
from typing import Any

from django.contrib.auth.models import AbstractUser
from django.db import transaction
from django.utils import timezone

from muster.core.errors import Refused
from muster.core.loads import Load
from muster.core.sources import Source
from muster.formats.codec import load
from muster.records import bridge
from muster.records.models import (
    CalculationRow,
    CaptureRow,
    ChangeRow,
    CharacterRow,
    Job,
    LoadRow,
    PhotoRow,
    SafetyCheckRow,
    SessionRow,
    SourceRow,
    TraceRow,
)

Row = (
    Job
    | LoadRow
    | SourceRow
    | SessionRow
    | TraceRow
    | CaptureRow
    | PhotoRow
    | CalculationRow
    | SafetyCheckRow
    | CharacterRow
)
TABLES: dict[str, tuple[type[Row], tuple[str, ...]]] = {
    "job": (Job, ("name", "brief", "archived_at")),
    "load": (LoadRow, ("data", "removed_at")),
    "source": (SourceRow, ("data", "plans", "rules", "card", "elsewhere", "archived_at")),
    "session": (SessionRow, ("archived_at",)),
    "trace": (TraceRow, ("removed_at",)),
    "capture": (CaptureRow, ("removed_at",)),
    "photo": (PhotoRow, ("caption", "removed_at")),
    "calculation": (CalculationRow, ("removed_at",)),
    "safety_check": (SafetyCheckRow, ("withdrawn_at",)),
    "character": (CharacterRow, ("removed_at",)),
}
"""Each kind of row whose changes are kept, and which of its values can change."""
AWAY = {
    "job": "archived_at",
    "load": "removed_at",
    "source": "archived_at",
    "session": "archived_at",
    "trace": "removed_at",
    "capture": "removed_at",
    "photo": "removed_at",
    "calculation": "removed_at",
    "safety_check": "withdrawn_at",
    "character": "removed_at",
}
ONE_STROKE_S = 60.0
"""Hours painted again within this time are one change, not one a cell."""


def table_of(row: Row) -> str:
    """The name under which a row's changes are kept."""
    return next(name for name, (model, _) in TABLES.items() if isinstance(row, model))


def job_of(row: Row) -> Job:
    """The job a row belongs to."""
    if isinstance(row, Job):
        return row
    if isinstance(row, TraceRow | CaptureRow | PhotoRow):
        return row.session.source.job
    return row.source.job if isinstance(row, SessionRow | SafetyCheckRow | CharacterRow) else row.job


def _values(row: Row) -> dict[str, Any]:
    values = {name: getattr(row, name) for name in TABLES[table_of(row)][1]}
    return {name: value.isoformat() if isinstance(value, datetime) else value for name, value in values.items()}


@contextmanager
def changing(row: Row, words: str, who: AbstractUser, *, stroke: bool = False) -> Iterator[None]:
    """Keep what stood before and after a change to a row; a row not yet saved is an addition.

    A ``stroke`` is joined to one of the same words just before it.
    """
    with transaction.atomic():
        before = _values(type(row).objects.get(pk=row.pk)) if row.pk else None
        yield
        after = _values(row)
        if before == after:
            return
        last = ChangeRow.objects.filter(job=job_of(row)).first() if stroke else None
        if last is not None and _same_stroke(last, row, words):
            last.after = after
            last.save(update_fields=["after"])
            return
        ChangeRow.objects.create(
            job=job_of(row), of=table_of(row), target=row.pk, label=words[:200], before=before, after=after, who=who
        )


def _same_stroke(last: ChangeRow, row: Row, words: str) -> bool:
    same = (last.of, last.target, last.label, last.undone_at) == (table_of(row), row.pk, words[:200], None)
    return same and timezone.now() - last.at < timedelta(seconds=ONE_STROKE_S)


def last_change(job: Job) -> ChangeRow | None:
    """The latest change that is not undone."""
    return job.change_rows.filter(undone_at=None).first()


@transaction.atomic
def undo_change(change: ChangeRow) -> ChangeRow:
    """Put back what stood before a change; an addition is archived.

    Raises
    ------
    Refused
        If it is undone already, or the same thing was changed again since.
    """
    if change.undone_at is not None:
        raise Refused("this is undone already", where="change", want="do it again instead")
    row = _still(change, change.after)
    before = change.before or {**(change.after or {}), AWAY[change.of]: timezone.now().isoformat()}
    _put(row, before)
    change.undone_at = timezone.now()
    change.save(update_fields=["undone_at"])
    return change


@transaction.atomic
def redo_change(change: ChangeRow) -> ChangeRow:
    """Do again what was undone.

    Raises
    ------
    Refused
        If it is not undone, or the same thing was changed since.
    """
    if change.undone_at is None:
        raise Refused("this is not undone", where="change", want="undo it instead")
    row = TABLES[change.of][0].objects.get(pk=change.target)
    if change.before is not None:
        _still(change, change.before)
    _put(row, change.after or {})
    change.undone_at = None
    change.save(update_fields=["undone_at"])
    return change


def _still(change: ChangeRow, expected: Mapping[str, Any] | None) -> Row:
    """The row, as long as it is now as the change left it."""
    row = TABLES[change.of][0].objects.get(pk=change.target)
    if isinstance(row, TraceRow) and row.session.closed_at is not None:
        raise Refused("the session was sealed since", where="change", want="its logs stay as they were sealed")
    if _values(row) != expected:
        raise Refused("it was changed again since", where="change", want="undo the later change first")
    return row


def _put(row: Row, values: Mapping[str, Any]) -> None:
    for name, value in values.items():
        setattr(row, name, datetime.fromisoformat(value) if name == AWAY[table_of(row)] and value else value)
    if isinstance(row, LoadRow):
        bridge.fill_load(row, load(Load, row.data))
    elif isinstance(row, SourceRow):
        bridge.fill_source(row, load(Source, row.data))
    row.save()


def differences(change: ChangeRow) -> tuple[tuple[str, Any, Any], ...]:
    """What a change changed: each value's name, before and after; nothing for an addition or an archiving."""
    if change.before is None or change.after is None:
        return ()
    before, after = _flat(change.before), _flat(change.after)
    names = [name for name in {**before, **after} if before.get(name) != after.get(name)]
    return tuple((name, before.get(name), after.get(name)) for name in names if name != AWAY[change.of])


def _flat(value: Any, name: str = "") -> dict[str, Any]:
    """Values by their dotted name, the outermost left out."""
    if isinstance(value, dict):
        result: dict[str, Any] = {}
        for key, inner in value.items():
            path = "" if not name and key in ("data", "brief") else f"{name}.{key}".lstrip(".")
            result |= _flat(inner, path)
        return result
    return {name: value}
