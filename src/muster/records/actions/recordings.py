"""Recordings: begun, asked to stop, asked to run a plan, and made whole after a kill."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
import time
from collections.abc import Mapping, Sequence
from datetime import timedelta

from django.contrib.auth.models import AbstractUser
from django.db import transaction
from django.utils import timezone

from muster.core.errors import MusterError, Refused
from muster.core.plan.run import Doing, Pace, StopAt, steps_to_run
from muster.core.sessions import Note, Switch
from muster.core.sessions.replay import replay
from muster.formats.codec import dump, load
from muster.instruments.link import Link
from muster.records import bridge, folder
from muster.records.looking import read_once
from muster.records.models import InstrumentRow, RecordingRow, SessionRow, StripRow
from muster.records.recording.recorder import recover

from .sessions import log_items

STILL_S = 8.0
"""A recording writes each second that it is alive: one that has not for so long was cut off."""
STUCK_S = 60.0
"""One whose process still runs may be held up by a slow disk: it is given so long."""
ENDS_S = 8.0
"""How long recordings are given to end when Muster stops."""
EVERY_S = 0.1
GOING = (RecordingRow.State.STARTING, RecordingRow.State.RUNNING)
MUSTER = "Muster"
"""Who logs what the recorder does by itself."""
_children: dict[int, subprocess.Popen[bytes]] = {}
"""The processes that this one started, by their recording."""
_deaths: dict[int, list[float]] = {}
MOST_DEATHS, WITHIN_S = 5, 60.0
"""A recorder that dies so often within so long is not started again."""
WATCHDOG_S = 3.0
"""What an outlet strip's own watchdog is set to: so long after its recorder died the loads are off."""
MOST_UNATTENDED_H = 24 * 14.0


@read_once
def current(session: SessionRow) -> RecordingRow | None:
    """The recording that goes on in a session, or was cut off in it; None if there is none."""
    return session.recording_rows.filter(state__in=GOING).first()


def cut_off(row: RecordingRow) -> bool:
    """Whether a recording has not said for too long that it is alive: at once where its process is gone, else after longer."""
    silent = timezone.now() - (row.polled_at or row.created_at)
    return silent > timedelta(seconds=STUCK_S if _alive(row.pid) else STILL_S)


def _alive(pid: int | None) -> bool:
    """Whether a process of this number runs on this machine."""
    if pid is None:
        return False
    for child in _children.values():
        child.poll()  # a child that ended is no longer a process
    try:
        os.kill(pid, 0)
    except ProcessLookupError:
        return False
    except PermissionError:
        return True
    return True


def _require_free(session: SessionRow) -> None:
    if session.closed_at is not None:
        raise Refused("this session is sealed", where="session", want="a session that is still open")
    if current(session) is not None:
        raise Refused("it is being recorded already", where="session", want="stop that recording first")


@transaction.atomic
def begin(
    session: SessionRow,
    instruments: Sequence[InstrumentRow],
    who: AbstractUser,
    *,
    every_s: float = EVERY_S,
    strip: StripRow | None = None,
    outlets: Mapping[str, int] | None = None,
    unattended_h: float = 0.0,
) -> RecordingRow:
    """Set a recording up; ``launch`` starts its process. What hangs on which outlet is remembered for the job.

    ``unattended_h``: for how many hours the outlets may stay on while no server lives.

    Raises
    ------
    Refused
        If the session is sealed, or is being recorded already.
    MusterError
        If no instrument is chosen, or two loads are to hang on one outlet.
    """
    _require_free(session)
    chosen = [row for row in instruments if row.link is not None]
    if not chosen:
        raise MusterError("no instrument is chosen", where="instruments", want="at least one that has an address")
    hung = dict(outlets or {})
    if len(set(hung.values())) < len(hung):
        raise MusterError("two loads on one outlet", where="outlets", want="an outlet for each")
    if not 0.02 <= every_s <= 3600:
        raise MusterError(f"got {every_s:g}", where="every_s", want="0.02 s to an hour")
    if not 0 <= unattended_h <= MOST_UNATTENDED_H:
        raise MusterError(f"got {unattended_h:g}", where="unattended_h", want=f"0 to {MOST_UNATTENDED_H:g} h")
    if strip is not None:
        strip.outlets = {**strip.outlets, str(session.source.job_id): hung}
        strip.save(update_fields=["outlets"])
    return RecordingRow.objects.create(
        session=session,
        links={row.slug: row.link for row in chosen},
        every_s=every_s,
        created_by=who,
        strip=strip.link if strip is not None else None,
        outlets=hung if strip is not None else {},
        unattended_h=unattended_h,
    )


def launch(row: RecordingRow) -> None:
    """Start a recording's process; it goes on by itself if this one dies."""
    command = [sys.executable, "-m", "muster", "record", str(row.session_id), "--recording", str(row.pk)]
    with (folder.database().parent / "recorder.log").open("ab") as told:
        _children[row.pk] = subprocess.Popen(
            command,
            stdin=subprocess.DEVNULL,
            stdout=told,
            stderr=told,
            env=folder.environment(),
            start_new_session=True,
        )


def _died(row: RecordingRow) -> bool:
    """Whether the process of a recording that should go on is gone."""
    child = _children.get(row.pk)
    if child is not None:
        return child.poll() is not None
    if row.pid is None:
        return timezone.now() - row.created_at > timedelta(seconds=STILL_S)
    return not _alive(row.pid)


def heal() -> None:
    """Start again what died without having been asked to end; the server calls this now and then.

    What was switched on is off by the record from the moment at which the
    strip's watchdog dropped them; a plan run by itself is over.
    """
    for row in RecordingRow.objects.filter(state__in=GOING).select_related("session__source__job", "created_by"):
        if not _died(row):
            continue
        if row.stop_asked:
            make_whole(row, died=True)
            continue
        now = time.monotonic()
        recent = [at for at in _deaths.get(row.pk, []) if now - at < WITHIN_S]
        _deaths[row.pk] = [*recent, now]
        loads_fell(row)
        if len(recent) >= MOST_DEATHS:
            make_whole(
                row, died=True, why=f"the recorder ended {MOST_DEATHS + 1} times in a minute; what was kept is whole"
            )
            continue
        _note_gap(row)
        launch(row)


def _note_gap(row: RecordingRow) -> None:
    died = row.polled_at or row.created_at
    if row.session.closed_at is None:
        words = f"the recorder ended at {died:%H:%M:%S} UTC and was started again: nothing was recorded in between"
        log_items(row.session, [Note(words)], "the recorder", row.created_by, MUSTER)


@transaction.atomic
def loads_fell(row: RecordingRow) -> None:
    """Log off what hung on the outlets of a recorder that died, from when the strip's own watchdog dropped them."""
    if row.auto and row.auto.get("state") in ("asked", "running"):
        row.auto = {**row.auto, "state": "over", "doing": Doing.STOPPED.value, "why": "the recorder died"}
        row.auto.setdefault("step", 0)
        row.auto.setdefault("of", 0)
        row.save(update_fields=["auto"])
    if row.strip is None or row.session.closed_at is not None or row.polled_at is None:
        return
    system = bridge.brief_of(row.session.source.job).system
    on = [key for key in replay(bridge.session_of(row.session), system.legs).on if key in row.outlets]
    if on:
        at = min(timezone.now(), row.polled_at + timedelta(seconds=WATCHDOG_S))
        words = "all off: the recorder died, the strip’s watchdog dropped them"
        log_items(row.session, [Switch(key, on=False) for key in on], words, row.created_by, MUSTER, at=at)


def failed(session: SessionRow) -> RecordingRow | None:
    """The last recording of a session, if it failed and nobody has said that it was seen."""
    last = session.recording_rows.order_by("-pk").first()
    return last if last is not None and last.state == RecordingRow.State.FAILED and last.message else None


LEAST_FREE_BYTES = 2_000_000


def disk_full() -> bool:
    """Whether the disk of the database takes next to nothing more."""
    return shutil.disk_usage(folder.database().parent).free < LEAST_FREE_BYTES


def seen(row: RecordingRow) -> None:
    """Somebody has seen why a recording failed."""
    RecordingRow.objects.filter(pk=row.pk, state=RecordingRow.State.FAILED).update(message="")


def once_more(row: RecordingRow) -> RecordingRow:
    """Set up a recording as one that failed was; ``launch`` starts its process.

    Raises
    ------
    Refused
        As ``begin``.
    """
    with transaction.atomic():
        _require_free(row.session)
        seen(row)
        return RecordingRow.objects.create(
            session=row.session,
            links=row.links,
            every_s=row.every_s,
            created_by=row.created_by,
            strip=row.strip,
            outlets=row.outlets,
            unattended_h=row.unattended_h,
        )


def ask_stop(row: RecordingRow) -> None:
    """Ask a recording to end; its outlets go off, its traces are made whole."""
    RecordingRow.objects.filter(pk=row.pk).update(stop_asked=True)


def run_sheet(row: RecordingRow, stop_at: StopAt, pace: Pace) -> None:
    """Ask a recording to run the session's plan by itself.

    Raises
    ------
    Refused
        If a run goes on already, or there is no outlet strip.
    MusterError
        As ``steps_to_run``.
    """
    if row.strip is None:
        raise Refused("there is no outlet strip", where="strip", want="a recording with an outlet strip")
    if row.auto and row.auto.get("state") in ("asked", "running"):
        raise Refused("a run goes on already", where="run", want="stop it first")
    session = bridge.session_of(row.session)
    legs = bridge.brief_of(row.session.source.job).system.legs
    steps_to_run(session.steps, row.outlets, replay(session, legs).step)
    RecordingRow.objects.filter(pk=row.pk).update(
        auto={"state": "asked", "stop_at": dump(stop_at), "pace": dump(pace)}, halt_asked=False
    )


def halt(row: RecordingRow) -> None:
    """The stop key: the run ends, everything goes off."""
    RecordingRow.objects.filter(pk=row.pk).update(halt_asked=True)


def make_whole(
    row: RecordingRow, *, died: bool = False, why: str = "it was cut off; what was kept is whole"
) -> RecordingRow:
    """Make whole traces of what a recording that was cut off had kept, and have its outlets off by the record.

    Raises
    ------
    Refused
        If it is still at work.
    """
    if not (died or cut_off(row)):
        raise Refused("the recorder is still at work", where="recording", want="stop it first")
    loads_fell(row)
    recover(row.session)
    row.state, row.message = RecordingRow.State.FAILED, why
    row.save(update_fields=["state", "message"])
    return row


def make_all_whole() -> int:
    """Make whole what recordings left that were cut off, as when the machine lost its power; how many there were."""
    rows = RecordingRow.objects.filter(state__in=GOING).select_related("session__source__job", "created_by")
    gone = [row for row in rows if cut_off(row) or (row.pid is not None and not _alive(row.pid))]
    for row in gone:
        make_whole(row, died=True)
    return len(gone)


def stop_all(patience_s: float = ENDS_S) -> None:
    """Ask every recording to end, and wait until they have."""
    if not RecordingRow.objects.filter(state__in=GOING).update(stop_asked=True):
        return
    until = time.monotonic() + patience_s
    while time.monotonic() < until and any(child.poll() is None for child in _children.values()):
        time.sleep(0.1)


def link_of(row: InstrumentRow | StripRow) -> Link | None:
    """How an instrument or a strip is reached, None if nobody said."""
    return load(Link, row.link) if row.link is not None else None
