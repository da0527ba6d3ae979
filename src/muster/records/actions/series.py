"""A series: a short plan over many units in one sitting, each figure a line of its own unit's record."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import timedelta

from django.contrib.auth.models import AbstractUser
from django.db import transaction
from django.utils import timezone

from muster.core.errors import MusterError, NotEnoughReadings, Refused
from muster.core.loads import Load
from muster.core.plan.series import (
    MOST_UNITS,
    PROTOCOL,
    SHARED_CHECKS,
    Cell,
    CellFigure,
    SeriesPlan,
    cells_of,
    figure_of,
    line_of,
)
from muster.core.safety.checks import HOLDS_H, not_passed
from muster.core.safety.planned import SafetyCheck
from muster.core.sessions import Conditions
from muster.core.sessions.replay import replay
from muster.formats.codec import dump, load
from muster.records import bridge
from muster.records.models import EntryRow, Job, SeriesRow, SessionRow, SourceRow

from . import sessions
from .safety import safety_checks_of


@dataclass(frozen=True)
class UnitChecks:
    """The safety checks of a unit that stand open: those of the place and the people, and the unit's own."""

    shared: tuple[SafetyCheck, ...]
    own: tuple[SafetyCheck, ...]


def plan_of(row: SeriesRow) -> SeriesPlan:
    """What a series reads of each unit."""
    return load(SeriesPlan, row.plan)


def loads_of(job: Job) -> Mapping[str, Load]:
    """The loads that a series may switch, by key: nothing that somebody's breath or medicine hangs on."""
    return {item.key: item for item in bridge.home_of(job).every if not item.kind_figures.medical}


def cells(row: SeriesRow) -> tuple[Cell, ...]:
    """The cells of a series, from the top down."""
    return cells_of(plan_of(row), loads_of(row.job))


def units_of(row: SeriesRow) -> list[SourceRow]:
    """Its units in the order in which they are tested; what was archived since is passed over."""
    rows = SourceRow.objects.filter(pk__in=row.units, archived_at=None).in_bulk()
    return [rows[pk] for pk in row.units if pk in rows]


@transaction.atomic
def begin_series(job: Job, units: Sequence[SourceRow], plan: SeriesPlan, who: AbstractUser) -> SeriesRow:
    """Lay out a series; no unit's session starts before its checks have passed.

    Raises
    ------
    NotEnoughReadings
        If there is no unit, or nothing to read.
    MusterError
        If there are more units than a grid holds.
    """
    if not units:
        raise NotEnoughReadings("no unit was chosen", where="units", want="one at least")
    if len(units) > MOST_UNITS:
        raise MusterError(f"{len(units)} units", where="units", want=f"at most {MOST_UNITS} in one sitting")
    return SeriesRow.objects.create(job=job, plan=dump(plan), units=[unit.pk for unit in units], created_by=who)


def checks_of(row: SeriesRow, unit: SourceRow, who: AbstractUser) -> UnitChecks:
    """The safety checks of a unit that have not passed, those that the sitting has confirmed left out."""
    steps = sessions.plan_steps(unit, PROTOCOL, who)
    left = not_passed(safety_checks_of(unit, PROTOCOL, steps, who))
    confirmed = set(shared_confirmed(row))
    return UnitChecks(
        shared=tuple(check for check in left if check.slug in SHARED_CHECKS and check.slug not in confirmed),
        own=tuple(check for check in left if check.slug not in SHARED_CHECKS),
    )


def shared_confirmed(row: SeriesRow) -> tuple[str, ...]:
    """The checks of the place and the people that hold: those of a day are asked again on the next."""
    return tuple(row.confirmed) if timezone.now() - row.created_at < timedelta(hours=HOLDS_H) else ()


@transaction.atomic
def confirm_shared(row: SeriesRow, slugs: Iterable[str]) -> SeriesRow:
    """Confirm checks of the place and the people for the whole sitting; those of a unit are passed over."""
    row.refresh_from_db()
    row.confirmed = sorted({*row.confirmed, *(slug for slug in slugs if slug in SHARED_CHECKS)})
    row.save(update_fields=["confirmed"])
    return row


@transaction.atomic
def begin_unit(row: SeriesRow, unit: SourceRow, confirmed: Collection[str], who: AbstractUser) -> SessionRow:
    """Start a unit's own session, once its checks have passed; the same again where it was started.

    Raises
    ------
    Refused
        With each check that has not passed.
    """
    row.refresh_from_db()
    kept = session_of(row, unit)
    if kept is not None:
        return kept
    site = bridge.brief_of(row.job).site
    session = sessions.start_session(
        unit,
        PROTOCOL,
        Conditions(temp_c=site.temp_c, altitude_m=site.altitude_m),
        who,
        confirmed={*confirmed, *shared_confirmed(row)},
    )
    row.sessions = {**row.sessions, str(unit.pk): session.pk}
    row.save(update_fields=["sessions"])
    for cell in cells(row):
        if cell.shared and cell.key in row.shared:
            _log(row, unit, cell, figure_of(cell, row.shared[cell.key]), who)
    return session


def session_of(row: SeriesRow, unit: SourceRow) -> SessionRow | None:
    """A unit's own session, None where it was not started."""
    return SessionRow.objects.filter(pk=row.sessions.get(str(unit.pk), 0), archived_at=None).first()


def text_in(row: SeriesRow, unit: SourceRow, cell: Cell) -> str:
    """What stands in a cell, as it was typed; empty where nothing does."""
    if cell.shared:
        return str(row.shared.get(cell.key, ""))
    return str(row.cells.get(str(unit.pk), {}).get(cell.key, {}).get("text", ""))


def _as_kept(text: str) -> str:
    """A figure as a cell keeps it, so that two ways of typing one are one."""
    return text.strip().replace(",", ".").replace(" ", "").lower()


def _require_as_shown(row: SeriesRow, unit: SourceRow, key: str, typed: str, was: str | None) -> None:
    """Refuse a figure for a cell that somebody else filled since it was shown; the same figure again is none of that."""
    cell = next((item for item in cells(row) if item.key == key), None)
    if cell is None or was is None:
        return
    held = text_in(row, unit, cell)
    if _as_kept(held) not in (_as_kept(was), _as_kept(typed)):
        raise Refused(
            f"{unit.name}, {cell.label}: holds {held or 'nothing'} by now, typed elsewhere since this page was shown",
            where="cell",
            want="look, and type it once more if it is to be corrected",
        )


@transaction.atomic
def put_figure(
    row: SeriesRow, unit: SourceRow, key: str, text: str, who: AbstractUser, was: str | None = None
) -> SeriesRow:
    """Keep a figure in a cell: a line of the unit's record, or its correction where the cell held another.

    A figure that is read once for all goes into the record of every unit that was begun, and of each that is begun later.
    ``was`` is what the cell was shown to hold, None where nobody looked.

    Raises
    ------
    MusterError
        If there is no such cell, or the text is no figure of it.
    Refused
        If the unit's session was not started, or is closed; if the cell holds another figure than was shown.
    """
    row.refresh_from_db()  # another browser may have filled another cell meanwhile
    _require_as_shown(row, unit, key, text, was)
    cell = next((item for item in cells(row) if item.key == key), None)
    if cell is None:
        raise MusterError(f"there is no cell “{key}”", where="cell", want="one of the grid")
    figure = figure_of(cell, text)
    if not cell.shared:
        return _log(row, unit, cell, figure, who)
    row.shared = {**row.shared, cell.key: figure.text}
    row.save(update_fields=["shared"])
    for other in units_of(row):
        session = session_of(row, other)
        if session is not None and session.closed_at is None:
            _log(row, other, cell, figure, who)
    return row


def _log(row: SeriesRow, unit: SourceRow, cell: Cell, figure: CellFigure, who: AbstractUser) -> SeriesRow:
    session = session_of(row, unit)
    if session is None:
        raise Refused(f"{unit.name} was not begun", where="safety", want="confirm its checks first")
    loads, held = loads_of(row.job), row.cells.get(str(unit.pk), {})
    before = EntryRow.objects.filter(pk=held.get(cell.key, {}).get("entry", 0), session=session).first()
    if before is not None and not bridge.is_superseded(before):
        entry = sessions.correct(before, _corrected(before, cell, figure, loads), who)
    else:
        on_now = replay(bridge.session_of(session), bridge.brief_of(row.job).system.legs).on
        entry = sessions.log_line(session, line_of(cell, figure, on_now, loads), who)
    text = f"{figure.text}{'x' if figure.failed else ''}"
    row.cells = {**row.cells, str(unit.pk): {**held, cell.key: {"entry": entry.pk, "text": text}}}
    row.save(update_fields=["cells"])
    return row


def _corrected(before: EntryRow, cell: Cell, figure: CellFigure, loads: Mapping[str, Load]) -> str:
    """The line that takes the place of another: what it switched stays switched."""
    moved = [word for word in before.raw.split() if word[:1] in "+-" and word[1:] in loads]
    return " ".join([*moved, line_of(cell, figure, cell.on, loads)])


@transaction.atomic
def clear_figure(row: SeriesRow, unit: SourceRow, key: str, who: AbstractUser, was: str | None = None) -> SeriesRow:
    """Take a figure back: its line stays in the record, struck through; one that was read once for all, in each record.

    Raises
    ------
    Refused
        If there is none, or the session is closed; if the cell holds another figure than was shown.
    """
    row.refresh_from_db()
    _require_as_shown(row, unit, key, "", was)
    if key not in row.shared:
        return _strike(row, unit, key, who)
    row.shared = {own: text for own, text in row.shared.items() if own != key}
    row.save(update_fields=["shared"])
    for other in units_of(row):
        session = session_of(row, other)
        if session is not None and session.closed_at is None and key in row.cells.get(str(other.pk), {}):
            _strike(row, other, key, who)
    return row


def _strike(row: SeriesRow, unit: SourceRow, key: str, who: AbstractUser) -> SeriesRow:
    held = row.cells.get(str(unit.pk), {})
    entry = EntryRow.objects.filter(pk=held.get(key, {}).get("entry", 0)).select_related("session").first()
    if entry is None:
        raise Refused("that cell is empty", where="cell")
    sessions.require_open(entry.session)
    held_by: EntryRow | None = entry
    while held_by is not None:  # a correction that is taken back leaves what it corrected: that goes too
        sessions.append(entry.session, [], timezone.now(), f"undo {held_by.seq}", who, supersedes=held_by)
        held_by = held_by.supersedes
    row.cells = {**row.cells, str(unit.pk): {own: value for own, value in held.items() if own != key}}
    row.save(update_fields=["cells"])
    return row


@transaction.atomic
def close_series(row: SeriesRow) -> SeriesRow:
    """Close and seal the record of every unit that was begun."""
    for unit in units_of(row):
        session = session_of(row, unit)
        if session is not None and session.closed_at is None:
            sessions.close_session(session)
    row.closed_at = timezone.now()
    row.save(update_fields=["closed_at"])
    return row
