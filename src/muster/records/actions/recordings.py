"""Recordings: begun, asked to stop, asked to run a sheet, and made whole after a kill."""

from __future__ import annotations

import os
import subprocess
import sys
import time
from collections.abc import Mapping, Sequence
from datetime import timedelta

from django.conf import settings
from django.contrib.auth.models import AbstractUser
from django.db import transaction
from django.utils import timezone

from muster.core.autorun import Pace, StopAt, steps_to_run
from muster.core.bench import replay
from muster.core.errors import MusterError, Refused
from muster.formats.codec import dump, load
from muster.instruments.link import Link
from muster.records import bridge
from muster.records.models import InstrumentRow, RecordingRow, SessionRow, StripRow
from muster.records.recorder import recover

STILL_S = 8.0
"""A recording writes each second that it is alive: one that has not for so long was cut off."""
STUCK_S = 60.0
"""One whose process still runs may be held up by a slow disk: it is given so long."""
ENDS_S = 8.0
"""How long recordings are given to end when Muster stops."""
EVERY_S = 0.1
_children: list[subprocess.Popen[bytes]] = []


def current(session: SessionRow) -> RecordingRow | None:
    """The recording that goes on in a session, or was cut off in it; None if there is none."""
    going = (RecordingRow.State.STARTING, RecordingRow.State.RUNNING)
    return session.recording_rows.filter(state__in=going).first()


def cut_off(row: RecordingRow) -> bool:
    """Whether a recording has not said for too long that it is alive: at once where its process is gone, else after longer."""
    silent = timezone.now() - (row.beat_at or row.created_at)
    return silent > timedelta(seconds=STUCK_S if _alive(row.pid) else STILL_S)


def _alive(pid: int | None) -> bool:
    """Whether a process of this number runs on this machine."""
    if pid is None:
        return False
    _children[:] = [child for child in _children if child.poll() is None]  # a child that ended is no longer a process
    try:
        os.kill(pid, 0)
    except ProcessLookupError:
        return False
    except PermissionError:
        return True
    return True


@transaction.atomic
def begin(
    session: SessionRow, instruments: Sequence[InstrumentRow], who: AbstractUser, *, every_s: float = EVERY_S,
    strip: StripRow | None = None, outlets: Mapping[str, int] | None = None,
) -> RecordingRow:  # fmt: skip
    """Set a recording up; ``launch`` starts its process. What hangs on which outlet is remembered for the job.

    Raises
    ------
    Refused
        If the session is sealed, or is being recorded already.
    MusterError
        If no instrument is chosen, or two loads are to hang on one outlet.
    """
    if session.closed_at is not None:
        raise Refused("this session is sealed", where="session", want="a session that is still open")
    if current(session) is not None:
        raise Refused("it is being recorded already", where="session", want="stop that recording first")
    chosen = [row for row in instruments if row.link is not None]
    if not chosen:
        raise MusterError("no instrument is chosen", where="instruments", want="at least one that has an address")
    hung = dict(outlets or {})
    if len(set(hung.values())) < len(hung):
        raise MusterError("two loads on one outlet", where="outlets", want="an outlet for each")
    if not 0.02 <= every_s <= 3600:
        raise MusterError(f"got {every_s:g}", where="every_s", want="0.02 s to an hour")
    if strip is not None:
        strip.outlets = {**strip.outlets, str(session.source.job_id): hung}
        strip.save(update_fields=["outlets"])
    return RecordingRow.objects.create(
        session=session, links={row.slug: row.link for row in chosen}, every_s=every_s, created_by=who,
        strip=strip.link if strip is not None else None, outlets=hung if strip is not None else {},
    )  # fmt: skip


def launch(row: RecordingRow) -> None:
    """Start a recording's process; it goes on by itself if this one dies."""
    _children[:] = [child for child in _children if child.poll() is None]
    name = settings.DATABASES["default"]["NAME"]
    environment = {**os.environ, "MUSTER_DATA": str(name.parent), "MUSTER_DATABASE": name.name}
    command = [sys.executable, "-m", "muster", "record", str(row.session_id), "--recording", str(row.pk)]
    with (name.parent / "recorder.log").open("ab") as told:
        _children.append(
            subprocess.Popen(
                command, stdin=subprocess.DEVNULL, stdout=told, stderr=told, env=environment, start_new_session=True
            )
        )


def ask_stop(row: RecordingRow) -> None:
    """Ask a recording to end; its outlets go off, its traces are made whole."""
    RecordingRow.objects.filter(pk=row.pk).update(stop_asked=True)


def run_sheet(row: RecordingRow, stop_at: StopAt, pace: Pace) -> None:
    """Ask a recording to run the session's sheet by itself.

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


def make_whole(row: RecordingRow) -> RecordingRow:
    """Make whole traces of what a recording that was cut off had kept.

    Raises
    ------
    Refused
        If it is still at work.
    """
    if not cut_off(row):
        raise Refused("the recorder is still at work", where="recording", want="stop it first")
    recover(row.session)
    row.state, row.message = RecordingRow.State.FAILED, "it was cut off; what was kept is whole"
    row.save(update_fields=["state", "message"])
    return row


def make_all_whole() -> int:
    """Make whole what recordings left that were cut off, as when the machine lost its power; how many there were."""
    going = (RecordingRow.State.STARTING, RecordingRow.State.RUNNING)
    rows = [row for row in RecordingRow.objects.filter(state__in=going).select_related("session") if cut_off(row)]
    for row in rows:
        make_whole(row)
    return len(rows)


def stop_all(patience_s: float = ENDS_S) -> None:
    """Ask every recording to end, and wait until they have."""
    going = (RecordingRow.State.STARTING, RecordingRow.State.RUNNING)
    if not RecordingRow.objects.filter(state__in=going).update(stop_asked=True):
        return
    until = time.monotonic() + patience_s
    while time.monotonic() < until and any(child.poll() is None for child in _children):
        time.sleep(0.1)


def link_of(row: InstrumentRow | StripRow) -> Link | None:
    """How an instrument or a strip is reached, None if nobody said."""
    return load(Link, row.link) if row.link is not None else None
