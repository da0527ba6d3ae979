"""Long work beside the requests: a table of what was asked, done by worker processes, with progress and a way to stop it.

A page that needs a result asks for it here. Where workers are at hand the page
is told ``NotReady`` and shows what it knows meanwhile; where there are none,
as on the command line and in a worker itself, the work is done at once.
"""

from __future__ import annotations

import time
from collections.abc import Callable, Iterable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from datetime import timedelta
from pathlib import Path
from typing import Any, TypeVar

from django.db import transaction
from django.utils import timezone

from muster.core.errors import MusterError

from .models import WorkRow

T = TypeVar("T")
REPORTED_EVERY_S = 0.2
"""Progress is written at most so often."""
KEPT_DAYS = 1
GOING = (WorkRow.State.WAITING, WorkRow.State.WORKING)


class WorkStopped(Exception):
    """The work was asked to stop."""


class NotReady(Exception):
    """What a page needs is being worked out: ``rows`` say how far it has come."""

    def __init__(self, rows: Iterable[WorkRow]) -> None:
        self.rows = list(rows)
        super().__init__(", ".join(row.label for row in self.rows))


@dataclass
class WorkProgress:
    """How far a piece of work has come, written to its row now and then; ``None``: nobody looks."""

    row: WorkRow | None = None
    _told: float = 0.0

    def at(self, done: float, total: float) -> None:
        """Say how far it is.

        Raises
        ------
        Stopped
            If it was asked to stop.
        """
        if self.row is None or time.monotonic() - self._told < REPORTED_EVERY_S:
            return
        self._told = time.monotonic()
        share = max(0.0, min(1.0, done / total)) if total else 0.0
        WorkRow.objects.filter(pk=self.row.pk).update(share=share)
        if WorkRow.objects.filter(pk=self.row.pk, stop_asked=True).exists():
            raise WorkStopped


Run = Callable[[dict[str, Any], WorkProgress], dict[str, Any] | None]


@dataclass(frozen=True)
class Task:
    """A kind of work: what it does, and what is put right if its worker dies or it is stopped in the middle."""

    name: str
    run: Run
    broken_off: Callable[[dict[str, Any]], None] | None = None


_tasks: dict[str, Task] = {}
_beside = False


def task(name: str, broken_off: Callable[[dict[str, Any]], None] | None = None) -> Callable[[Run], Run]:
    """Make a function a kind of work, by a name that its rows keep."""

    def known(run: Run) -> Run:
        _tasks[name] = Task(name, run, broken_off)
        return run

    return known


def set_beside(*, on: bool) -> None:
    """Whether worker processes are at hand; without them work is done where it is asked for."""
    global _beside
    _beside = on


def has_workers() -> bool:
    """Whether worker processes are at hand."""
    return _beside


def need(name: str, key: str, args: dict[str, Any], label: str) -> None:
    """See to it that a result is there: at once where there are no workers, else by asking for it.

    Raises
    ------
    NotReady
        If it is being worked out, failed, or was stopped.
    """
    if not _beside:
        _tasks[name].run(args, WorkProgress())
        return
    raise NotReady([_asked(name, key, args, label)])


@transaction.atomic
def _asked(name: str, key: str, args: dict[str, Any], label: str) -> WorkRow:
    row, made = WorkRow.objects.get_or_create(key=key, defaults={"task": name, "args": args, "label": label})
    if not made and row.state == WorkRow.State.DONE:
        again(row)  # its result is gone, or this was asked in the instant before it came
    return row


def asked_for(key: str) -> list[WorkRow]:
    """The piece of work of a key that waits, is being done, failed or was stopped; none where it is done or was never asked for."""
    return list(WorkRow.objects.filter(key=key).exclude(state=WorkRow.State.DONE))


def begin(name: str, key: str, args: dict[str, Any], label: str) -> WorkRow:
    """Set a piece of work going; where there are no workers it is over when this returns."""
    row = WorkRow.objects.create(task=name, key=key, args=args, label=label)
    if not _beside:
        do(row)
    return row


def again(row: WorkRow) -> None:
    """Ask once more for what failed or was stopped."""
    row.state, row.message, row.share, row.stop_asked, row.pid = WorkRow.State.WAITING, "", 0.0, False, None
    row.asked_at = timezone.now()
    row.save()


def ask_stop(row: WorkRow) -> None:
    """Stop a piece of work: at once while it waits, soon where it is being done."""
    WorkRow.objects.filter(pk=row.pk, state=WorkRow.State.WAITING).update(state=WorkRow.State.STOPPED)
    WorkRow.objects.filter(pk=row.pk, state=WorkRow.State.WORKING).update(stop_asked=True)


@transaction.atomic
def claim(pid: int) -> WorkRow | None:
    """Take the newest piece of work that waits: it is what somebody is looking at."""
    row = WorkRow.objects.filter(state=WorkRow.State.WAITING).order_by("-asked_at", "-pk").first()
    if row is not None:
        row.state, row.pid = WorkRow.State.WORKING, pid
        row.save(update_fields=["state", "pid"])
    return row


def do(row: WorkRow) -> None:
    """Do a piece of work; how it ended stands in its row."""
    try:
        result = _tasks[row.task].run(row.args, WorkProgress(row))
        _end(row, WorkRow.State.DONE, result=result or {})
    except WorkStopped:
        _end(row, WorkRow.State.STOPPED)
    except MusterError as error:
        _end(row, WorkRow.State.FAILED, str(error))
    except Exception as error:
        _end(row, WorkRow.State.FAILED, f"Muster failed on it ({type(error).__name__}); nothing of it was kept")
        raise


def _end(row: WorkRow, state: str, message: str = "", result: dict[str, Any] | None = None) -> None:
    row.state, row.message, row.result, row.pid = state, message, result or {}, None
    row.save(update_fields=["state", "message", "result", "pid"])


def broken_off(row: WorkRow, why: str, state: str = WorkRow.State.FAILED) -> None:
    """A worker is gone in the midst of this: nothing half done stays, and the row says why."""
    undo = _tasks[row.task].broken_off if row.task in _tasks else None
    if undo is not None:
        undo(row.args)
    _end(row, state, why)


def tidy() -> int:
    """After a stop: what was being done was broken off, and what was done long ago is forgotten. How many were broken off.

    A file that was written and never fetched goes with its row.
    """
    rows = list(WorkRow.objects.filter(state=WorkRow.State.WORKING))
    for row in rows:
        broken_off(row, "Muster was stopped while it worked on this")
    old = timezone.now() - timedelta(days=KEPT_DAYS)
    forgotten = WorkRow.objects.exclude(state__in=GOING).filter(asked_at__lt=old)
    for row in forgotten:
        if "path" in row.result:
            Path(row.result["path"]).unlink(missing_ok=True)
    forgotten.delete()
    return len(rows)


@dataclass
class Waiting:
    """What a page still waits for; falsy when nothing."""

    rows: list[WorkRow] = field(default_factory=list)

    def __bool__(self) -> bool:
        return bool(self.rows)

    @property
    def over(self) -> bool:
        """Whether nothing more will come by itself."""
        return all(row.over for row in self.rows)

    @property
    def ids(self) -> str:
        """Its rows as an address names them."""
        return ",".join(str(row.pk) for row in self.rows)


@contextmanager
def filling(waiting: Waiting | None = None) -> Iterator[Waiting]:
    """Leave out of a page what is not ready; what it waits for is in what this gives."""
    waits = Waiting() if waiting is None else waiting
    try:
        yield waits
    except NotReady as missing:
        known = {row.pk for row in waits.rows}
        waits.rows += [row for row in missing.rows if row.pk not in known]


def every(wanted: Iterable[Callable[[], T]]) -> tuple[T, ...]:
    """Several results, all of them asked for before any is waited for.

    Raises
    ------
    NotReady
        With every row that is waited for.
    """
    result: list[T] = []
    waits = Waiting()
    for item in wanted:
        with filling(waits):
            result.append(item())
    if waits:
        raise NotReady(waits.rows)
    return tuple(result)
