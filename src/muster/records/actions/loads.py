"""The loads: add a load in one line, edit it in place, paint its hours, take it off and put it back."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace

from django.contrib.auth.models import AbstractUser
from django.db import transaction
from django.utils import timezone

from muster.core.errors import MusterError
from muster.core.loads import Load, LoadFigure, with_figures, without_figure
from muster.core.loads.line_parser import LoadEntry, parse_load_line
from muster.core.supply import Leg
from muster.records import bridge
from muster.records.judging import session_findings
from muster.records.models import EntryRow, Job, LoadRow, SessionRow

from .history import changing
from .sessions import log_line
from .shelf import own_shelf

KEYS = "123456789abcefijklmopqrsuvwxy"
"""One key a load on the bench; d, g, h, n, t and z are taken by Muster's own shortcuts."""


def next_key(job: Job) -> str:
    """The first bench key not taken in this job, removed loads included; two-digit numbers after the last."""
    taken = set(job.load_rows.values_list("key", flat=True))
    free = (key for key in KEYS if key not in taken)
    return next(free, f"{len(taken) + 1:02d}")


def read_load_line(job: Job, line: str) -> LoadEntry:
    """Understand a line for this job without adding anything.

    Raises
    ------
    MusterError
        If the line names nothing, or gives no watts where the shelf has none.
    """
    return parse_load_line(line, next_key(job), bridge.brief_of(job).system.v_nominal, own_shelf())


@transaction.atomic
def add_load(job: Job, load: Load, who: AbstractUser) -> LoadRow:
    """Add a load; on a single-phase home it sits on leg 1, and a second of a name is numbered."""
    if bridge.brief_of(job).system.legs == 1:
        load = replace(load, leg=Leg.ONE)
    load = replace(load, key=next_key(job), name=_unlike(job, load.name))
    row = bridge.fill_load(LoadRow(job=job, created_by=who), load)
    with changing(row, f"{load.name} added", who):
        row.save()
    job.save(update_fields=["changed_at"])
    return row


def _unlike(job: Job, name: str) -> str:
    """The name, numbered if the loads has one like it: the log must tell them apart."""
    taken = {row_name.lower() for row_name in job.load_rows.filter(removed_at=None).values_list("name", flat=True)}
    numbered = (f"{name} {number}" for number in range(2, 100))
    return name if name.lower() not in taken else next(n for n in numbered if n.lower() not in taken)


def add_line(job: Job, line: str, who: AbstractUser) -> LoadRow:
    """Add a load by one line.

    Raises
    ------
    MusterError
        As ``read_load_line``.
    """
    return add_load(job, read_load_line(job, line).load, who)


@transaction.atomic
def add_and_log(row: SessionRow, name: str, line: str, who: AbstractUser, *, ago_s: float = 0.0) -> EntryRow:
    """Put a load that a jotted line speaks of on the list, and keep the line.

    Raises
    ------
    MusterError
        If the load can't be added, or the line is empty.
    Refused
        If the session is closed.
    """
    add_line(row.source.job, name.strip(), who)
    return log_line(row, line, who, ago_s=ago_s)


def edit_load(row: LoadRow, load: Load, who: AbstractUser) -> LoadRow:
    """Change a load in place; its key stays.

    Raises
    ------
    MusterError
        If another load has its name.
    """
    same = row.job.load_rows.filter(removed_at=None, name__iexact=load.name).exclude(pk=row.pk)
    if same.exists():
        raise MusterError(
            f"“{load.name}” is among the loads already",
            where="name",
            want="another name, so that the log can tell them apart",
        )
    with changing(row, f"{row.name} changed", who):
        bridge.fill_load(row, replace(load, key=row.key)).save()
    row.job.save(update_fields=["changed_at"])
    return row


def add_known(row: LoadRow, figures: Iterable[LoadFigure], who: AbstractUser) -> LoadRow:
    """Add what is known of a load; the plans go by the best of it from now on."""
    load = with_figures(bridge.load_of(row), *figures)
    with changing(row, f"more known of {row.name}", who):
        bridge.fill_load(row, load).save()
    row.job.save(update_fields=["changed_at"])
    return row


@transaction.atomic
def take_baseline(session: SessionRow, who: AbstractUser) -> int:
    """Take over for each load what a baseline read of each load; how many loads took something.

    Raises
    ------
    MusterError
        If the session read no load alone.
    """
    seen = session_findings(session).baseline
    if not seen:
        raise MusterError("no load was read alone", where="session", want="one load on at a time, and its watts")
    rows = {row.key: row for row in session.source.job.load_rows.filter(removed_at=None)}
    taken = [add_known(rows[item.load.key], item.figures, who) for item in seen if item.load.key in rows]
    return len(taken)


def strike_known(row: LoadRow, index: int, who: AbstractUser) -> LoadRow:
    """Strike one figure of a load.

    Raises
    ------
    MusterError
        If there is no such figure, or it is the only one of its quantity.
    """
    load = bridge.load_of(row)
    struck = without_figure(load, index)
    if struck == load:
        raise MusterError("this one stays", where="figure", want="another figure to go by first")
    with changing(row, f"a figure of {row.name} struck", who):
        bridge.fill_load(row, struck).save()
    row.job.save(update_fields=["changed_at"])
    return row


def paint_hours(row: LoadRow, hours: Iterable[int], who: AbstractUser) -> LoadRow:
    """Set the hours in which a load may run.

    Raises
    ------
    MusterError
        If an hour lies outside the day.
    """
    load = replace(bridge.load_of(row), hours=tuple(sorted(set(hours))))
    with changing(row, f"hours of {row.name} painted", who, stroke=True):
        bridge.fill_load(row, load).save()
    return row


def remove_load(row: LoadRow, who: AbstractUser) -> LoadRow:
    """Remove a load; it can be put back."""
    with changing(row, f"{row.name} removed", who):
        row.removed_at = timezone.now()
        row.save(update_fields=["removed_at"])
    return row


def put_back(row: LoadRow, who: AbstractUser) -> LoadRow:
    """Put a removed load back."""
    with changing(row, f"{row.name} put back", who):
        row.removed_at = None
        row.save(update_fields=["removed_at"])
    return row
