"""Sessions: start, jot, undo, correct, close. Entries are only ever added."""

from __future__ import annotations

import math
from collections.abc import Callable, Collection, Sequence
from dataclasses import replace
from datetime import datetime, timedelta
from typing import Any

from django.contrib.auth.models import AbstractUser
from django.db import models, transaction
from django.db.models import QuerySet
from django.utils import timezone

from muster.core.errors import MusterError, NotEnoughReadings, Refused
from muster.core.kit import Kit
from muster.core.plan import steps_of
from muster.core.sessions import PROTOCOLS, Conditions, Entry, Event, EventName, Item, Session, Step, checks
from muster.core.sessions.log_line import Jotting, When, code_meanings, read_line
from muster.core.sessions.moments import SOON, moment_of
from muster.core.sessions.replay import replay
from muster.formats.codec import dump
from muster.formats.seals import NEWEST, holds, seal_of
from muster.records import bridge
from muster.records.checking import checks_before
from muster.records.looking import looking
from muster.records.models import BEING_RECORDED, EntryRow, SessionRow, SourceRow

from .history import changing
from .kit import kit_at_hand
from .measures import follow_typed
from .safety import confirm_checks, not_confirmed


def live_sessions(source: SourceRow) -> QuerySet[SessionRow]:
    """The sessions of a source that are not archived."""
    return source.session_rows.filter(archived_at=None)


def archive_session(row: SessionRow, who: AbstractUser) -> SessionRow:
    """Archive a session, sealed or not: nothing of it counts until it is restored."""
    with changing(row, f"{PROTOCOLS[row.protocol].name} of {row.started_at:%d %b %Y} archived", who):
        row.archived_at = timezone.now()
        row.save(update_fields=["archived_at"])
    return row


def restore_session(row: SessionRow, who: AbstractUser) -> SessionRow:
    """Bring a session back."""
    with changing(row, f"{PROTOCOLS[row.protocol].name} of {row.started_at:%d %b %Y} restored", who):
        row.archived_at = None
        row.save(update_fields=["archived_at"])
    return row


def plan_steps(source: SourceRow, protocol: str, who: AbstractUser) -> tuple[Step, ...]:
    """The steps of a protocol for this source's home, with the kit at hand and what was changed in the plan.

    Raises
    ------
    NotEnoughReadings
        If the loads hold nothing to plan with.
    MusterError
        If there is no such protocol.
    """
    home, value = bridge.home_of(source.job), bridge.source_of(source)
    kit = Kit(kit_at_hand(who), value.claims.wave)
    return steps_of(protocol, home, value, kit, bridge.changes_of(source, protocol))


@transaction.atomic
def start_session(
    source: SourceRow,
    protocol: str,
    conditions: Conditions,
    who: AbstractUser,
    *,
    confirmed: Collection[str],
    began: datetime | None = None,
    written_up: bool = False,
) -> SessionRow:
    """Start a session with its planned steps and the kit at hand.

    ``written_up`` is one that was run already, ``began`` when it was, if that
    is known: no check and no limit of the plan stops it, and what was not
    confirmed is kept as such.

    Raises
    ------
    Refused
        If a safety check has not passed: ``confirmed`` are those confirmed at this start.
    MusterError
        As ``plan_steps``.
    """
    now = timezone.now()
    if began is not None and began > now:
        raise MusterError("that is still to come", where="began", want="when it was run, or nothing for now")
    written_up = written_up or began is not None
    try:
        steps = plan_steps(source, protocol, who)
    except NotEnoughReadings:
        if not written_up:
            raise
        steps = ()
    left = not_confirmed(source, protocol, steps, confirmed, who) if written_up else ""
    if not written_up:
        confirm_checks(source, protocol, steps, confirmed, who)
    session = Session(protocol=protocol, steps=steps, entries=(), conditions=conditions, kit=kit_at_hand(who))
    row = SessionRow(source=source, protocol=protocol, started_at=began or now, data=dump(session), created_by=who)
    row.dated = began is not None or not written_up
    with changing(row, f"{PROTOCOLS[protocol].name} begun on {source.name}", who):
        row.save()
    raw = f"safety checks {left}" if left else "safety checks passed"
    append(row, [Event(EventName.CAUTIONS, left)], row.started_at, raw, who)
    return row


def append(
    row: SessionRow,
    items: Sequence[Item],
    at: datetime,
    raw: str,
    who: AbstractUser,
    supersedes: EntryRow | None = None,
    by: str = "",
) -> EntryRow:
    """Add an entry to the record, after all that stands there."""
    last = row.entry_rows.order_by("-seq").values_list("seq", flat=True).first() or 0
    return EntryRow.objects.create(
        session=row,
        seq=last + 1,
        at=at,
        raw=raw,
        items=[dump(item) for item in items],
        who=who,
        by=by or bridge.shown_name(who),
        supersedes=supersedes,
    )


def require_open(row: SessionRow) -> None:
    """Raise ``Refused`` if the session is closed."""
    if row.closed_at is not None:
        raise Refused("this session is closed", where="session", want="start a new one to log more")


def understand(row: SessionRow, line: str, session: Session | None = None) -> Jotting:
    """What a line would be taken to say after what a ``session`` holds (else the record), nothing kept."""
    home = bridge.home_of(row.source.job)
    session = session or bridge.session_of(row)
    record = replay(session, home.brief.system.legs)
    step = session.steps[record.step] if record.step < len(session.steps) else None
    source = bridge.source_of(row.source)
    jotting = read_line(
        line,
        {load.key: load.name for load in home.every},
        home.brief.system,
        {load.key: load.start_s for load in home.every},
        session.kit_on(),
        on=record.on,
        alone=_started_alone(session, step) if row.protocol == "starts" else (),
        heats=any(box.quantity == "heat_s" for box in PROTOCOLS[row.protocol].boxes),
        battery=source.kind.has_battery,
        again=record.starts[-1].load if record.starts else "",
    )
    return replace(jotting, told=(*jotting.told, *code_meanings(jotting.items, source.owning.meaning_of)))


def before(entry: EntryRow) -> Session:
    """The session as it was before an entry."""
    session = bridge.session_of(entry.session)
    return replace(session, entries=tuple(kept for kept in session.entries if kept.seq < entry.seq))


def _started_alone(session: Session, step: Step | None) -> tuple[str, ...]:
    """The loads that a plan of starts wants with nothing else on, while it stands at such steps."""
    if step is not None and len(step.loads) != 1:
        return ()
    return tuple(planned.loads[0] for planned in session.steps if len(planned.loads) == 1)


def checks_of_line(row: SessionRow, jotting: Jotting, line: str, session: Session) -> tuple[checks.Check, ...]:
    """The checks a line would raise if it were kept now."""
    now = timezone.now()
    at = max(_time_in(row, jotting.when, reference(row, now)), row.started_at)
    seq = max((entry.seq for entry in session.entries), default=0) + 1
    entry = Entry(seq=seq, t_s=bridge.seconds_since(row.started_at, at), items=jotting.items, raw=line)
    return checks_before(row, session, entry)


BACKDATED_S = 3600.0
"""A session entered so long after it began is being written up: its clock is that of its own day."""


def reference(row: SessionRow, now: datetime) -> datetime:
    """The moment that lines speak from: now, or the last entry of a session that is written up afterwards."""
    if not is_written_up(row):
        return now
    return max((entry.at for entry in bridge.entry_rows_of(row)), default=row.started_at)


BEGAN_EARLIER = timedelta(minutes=5)
"""A first line of so long before the session was begun: it is written up afterwards, and began then."""
SAID_BEFORE = timedelta(seconds=2)
"""In a write-up an entry of so long before it was typed was told with its time."""


def _time_in(row: SessionRow, when: When, spoken: datetime) -> datetime:
    """The moment of a jotting by the record at present; it may lie before the session's beginning."""
    last = max((entry.at for entry in bridge.entry_rows_of(row)), default=row.started_at)
    return moment_of(
        when,
        spoken=spoken,
        began=row.started_at,
        last=last,
        zone=bridge.brief_of(row.source.job).zone,
        written_up=is_written_up(row),
    )


def is_written_up(row: SessionRow) -> bool:
    """Whether a session is of the past: begun long before it was entered, or of a day that nobody said and already of a time."""
    if (row.created_at - row.started_at).total_seconds() >= BACKDATED_S:
        return True
    return not row.dated and _has_said_a_time(row)


def place_in_time(row: SessionRow, when: When, spoken: datetime) -> datetime:
    """The moment of a jotting; a first line of long ago takes the beginning of its session with it.

    A session whose date nobody said is of so many days earlier as its entries need to lie in the past.
    """
    at = _time_in(row, when, spoken)
    now = timezone.now()
    first_said = not row.dated and not _has_said_a_time(row)
    if first_said and when.clock is not None and when.date is None and at > now - SAID_BEFORE:
        at -= timedelta(days=1)  # This minute, or the next: of a test that is over, so of the day before.
    unplaced = not _has_been_logged(row) or first_said
    if at < row.started_at - (BEGAN_EARLIER if row.dated else SAID_BEFORE) and when.clock is not None and unplaced:
        _move(row, at - row.started_at, dated=when.date is not None)
    if at > now + SOON and not row.dated:
        days = timedelta(days=math.ceil((at - now) / timedelta(days=1)))
        _move(row, -days, dated=False)
        at -= days
    return max(at, row.started_at)


def _has_been_logged(row: SessionRow) -> bool:
    """Whether anything stands in the record but the safety checks."""
    return any(not _is_cautions(entry.items) for entry in bridge.entry_rows_of(row)[:2])


def _has_said_a_time(row: SessionRow) -> bool:
    """Whether an entry was put at another time than that of its typing."""
    return any(entry.at < entry.logged_at - SAID_BEFORE for entry in bridge.entry_rows_of(row))


def _is_cautions(items: Sequence[Any]) -> bool:
    """Whether an entry is the one that a session begins with: what was said of its safety checks."""
    return len(items) == 1 and items[0].get("name") == EventName.CAUTIONS


def _move(row: SessionRow, by: timedelta, *, dated: bool) -> None:
    """Move a session with all its entries in time: what lies between them stays."""
    row.started_at += by
    row.dated = dated
    row.save(update_fields=["started_at", "dated"])
    row.entry_rows.update(at=models.F("at") + by)


@transaction.atomic
def once(row: SessionRow, key: str, change: Callable[[], EntryRow | None]) -> EntryRow | None:
    """Make a change that a browser may send again, unless it was made already: ``key`` is the browser's own for it.

    Raises
    ------
    MusterError
        As the change.
    """
    if key and row.entry_rows.filter(once=key[:ONCE]).exists():
        return None
    entry = change()
    if key and entry is not None:
        entry.once = key[:ONCE]
        entry.save(update_fields=["once"])
    return entry


ONCE = 40
LATE_S = 2.0
"""What was pressed so long before it came is put at the time of the press."""


def _pressed_at(row: SessionRow, ago_s: float) -> datetime:
    """The moment that something sent from a page speaks from."""
    now = timezone.now()
    spoken = reference(row, now)
    return max(row.started_at, now - timedelta(seconds=ago_s)) if spoken == now and ago_s > LATE_S else spoken


@transaction.atomic
def log_line(row: SessionRow, line: str, who: AbstractUser, *, ago_s: float = 0.0) -> EntryRow:
    """Keep a jotted line, typed so many seconds ago; what cannot be read is kept as a note.

    Raises
    ------
    MusterError
        If the line is empty.
    Refused
        If the session is closed.
    """
    require_open(row)
    if not line.strip():
        raise MusterError("nothing was typed", where="line", want="a reading, an event or a note")
    with looking():
        jotting = understand(row, line)
        at = place_in_time(row, jotting.when, _pressed_at(row, ago_s))
    return _keep_at(row, line, jotting, at, who)


def keep(row: SessionRow, line: str, jotting: Jotting, who: AbstractUser, ago_s: float = 0.0) -> EntryRow:
    """Keep what was understood of a line, at its moment."""
    with looking():
        at = place_in_time(row, jotting.when, _pressed_at(row, ago_s))
    return _keep_at(row, line, jotting, at, who)


def _keep_at(row: SessionRow, line: str, jotting: Jotting, at: datetime, who: AbstractUser) -> EntryRow:
    follow_typed(row.source.job, line)
    return append(row, jotting.items, at, line.strip(), who)


@transaction.atomic
def log_items(
    row: SessionRow,
    items: Sequence[Item],
    raw: str,
    who: AbstractUser,
    by: str = "",
    at: datetime | None = None,
    ago_s: float = 0.0,
) -> EntryRow:
    """Keep items given by a key, a click or the form; ``by`` where it was not ``who`` but Muster itself.

    They are of now, of ``ago_s`` seconds ago, or of ``at``.

    Raises
    ------
    MusterError
        If there is nothing in it.
    Refused
        If the session is closed.
    """
    require_open(row)
    if not items:
        raise MusterError("nothing was filled in", where="form", want="at least one figure")
    return append(row, items, at or _pressed_at(row, ago_s), raw, who, by=by)


@transaction.atomic
def undo(row: SessionRow, who: AbstractUser) -> EntryRow | None:
    """Undo the last entry that counts: it stays in the record, struck through. None if there is none.

    Raises
    ------
    Refused
        If the session is closed.
    """
    require_open(row)
    voided = bridge.session_of(row).voided
    rows = row.entry_rows.order_by("-seq").iterator(chunk_size=50)
    stands = next((entry for entry in rows if entry.items and entry.seq not in voided), None)
    if stands is None or _is_cautions(stands.items):
        return None
    return append(row, [], timezone.now(), f"undo {stands.seq}", who, supersedes=stands)


@transaction.atomic
def put_back(entry: EntryRow, who: AbstractUser) -> EntryRow:
    """Undo the undo of an entry: it counts again, and whatever it superseded does not.

    Raises
    ------
    Refused
        If the session is closed, or the entry was not undone.
    """
    row = entry.session
    require_open(row)
    undo_row = undone_by(entry)
    if undo_row is None:
        raise Refused("this entry was not undone", where="entry", want="one that was")
    return append(row, [], timezone.now(), f"put back {entry.seq}", who, supersedes=undo_row)


def undone_by(entry: EntryRow) -> EntryRow | None:
    """The undo by which an entry counts no longer; None if it counts, or was corrected."""
    voided = bridge.session_of(entry.session).voided
    undos = (row for row in entry.superseding.order_by("-seq") if not row.items and row.seq not in voided)
    return next(undos, None) if entry.items and entry.seq in voided else None


@transaction.atomic
def correct(entry: EntryRow, line: str, who: AbstractUser) -> EntryRow:
    """Supersede an entry by another line at the same moment; the original stays visible.

    Raises
    ------
    Refused
        If the session is closed or the entry already superseded.
    MusterError
        If the line is empty.
    """
    row = entry.session
    require_open(row)
    if bridge.is_superseded(entry):
        raise Refused("this entry was already undone or corrected", where="entry")
    if not line.strip():
        raise MusterError("nothing was typed", where="line", want="the entry as it should read")
    jotting = understand(row, line, before(entry))
    at = corrected_time(entry, jotting.when)
    return append(row, jotting.items, at, line.strip(), who, supersedes=entry)


def corrected_time(entry: EntryRow, when: When) -> datetime:
    """The moment of a corrected entry: its own, unless the line says another, read from where the entry stands."""
    if not when.said:
        return entry.at
    row, zone = entry.session, bridge.brief_of(entry.session.source.job).zone
    at = moment_of(
        when, spoken=entry.at + SAME_DAY, began=row.started_at, last=entry.at - SAME_DAY, zone=zone, written_up=True
    )
    return max(at, row.started_at)


SAME_DAY = timedelta(hours=12)
"""A corrected clock time is the one nearest to the entry's own."""
MOST_CHECKIN_MIN = 24 * 60.0


def set_checkin(row: SessionRow, minutes: str) -> SessionRow:
    """Say every how many minutes somebody is to look in; nothing or 0 for never.

    Raises
    ------
    MusterError
        If it is no number of minutes up to a day.
    Refused
        If the session is closed.
    """
    require_open(row)
    try:
        every_min = float(minutes.replace(",", ".") or 0)
    except ValueError:
        every_min = -1.0
    if not (every_min == 0 or 1 <= every_min <= MOST_CHECKIN_MIN):
        raise MusterError(f"got “{minutes[:20]}”", where="minutes", want="minutes from 1 to 1440, or nothing")
    row.data = {**row.data, "checkin_s": every_min * 60}
    row.save(update_fields=["data"])
    return row


def confirm(entry: EntryRow, who: AbstractUser) -> EntryRow:
    """Say that a flagged entry is right as it was read; the flag stays, with who said so.

    Raises
    ------
    Refused
        If the session is closed.
    """
    require_open(entry.session)
    items = [Event(checks.STANDS, str(entry.seq))]
    return append(entry.session, items, reference(entry.session, timezone.now()), f"!{checks.STANDS} {entry.seq}", who)


def close_session(row: SessionRow) -> SessionRow:
    """Close and seal a session: it refuses further change.

    Raises
    ------
    Refused
        If it is closed already, or a recorder has traces that are not whole.
    """
    require_open(row)
    if row.trace_rows.filter(staged=True, notes=[BEING_RECORDED]).exists():
        raise Refused(
            "instruments are being recorded into this session",
            where="session",
            want="stop the recording first, or make whole what was kept",
        )
    return seal(row, timezone.now())


def seal(row: SessionRow, at: datetime, form: int = NEWEST) -> SessionRow:
    """Stamp a session as closed, with its seal; an older ``form`` for one that was sealed by it."""
    row.closed_at = at
    row.sha256 = seal_of(bridge.record_of(row), form)
    row.save(update_fields=["closed_at", "sha256"])
    return row


def seal_holds(row: SessionRow) -> bool:
    """Whether a sealed session and each of its amendments are still what was sealed."""
    return holds(bridge.record_of(row))
