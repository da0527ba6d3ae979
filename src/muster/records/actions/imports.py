"""Bringing in a log file: received, looked at, mapped, read in the background, and whole or not at all."""

from __future__ import annotations

import secrets
from collections.abc import Callable, Iterable
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any
from zoneinfo import ZoneInfo

from django.conf import settings
from django.contrib.auth.models import AbstractUser
from django.db import transaction

from muster.core.errors import MusterError, Refused
from muster.formats.codec import dump, load
from muster.formats.logs.layout import LOOK_BYTES, LogLayout, look_at
from muster.formats.logs.mapping import Mapping, guess_mapping, headings_digest
from muster.formats.logs.reading import Notes, read_chunks
from muster.formats.logs.times import Clock
from muster.records import background, bridge
from muster.records.models import BEING_RECORDED, ImportRow, MappingRow, SessionRow, TraceRow

from .traces import BlockWriter, drop_staged, stage

MOST_BYTES = 4_000_000_000
FARTHEST_S = 366 * 24 * 3600.0
"""A log that lies farther than a year from its session was mapped wrongly."""


def inbox() -> Path:
    """Where files wait to be mapped and read."""
    folder = Path(settings.DATA) / "inbox"
    folder.mkdir(parents=True, exist_ok=True, mode=0o700)
    return folder


def receive(session: SessionRow, name: str, pieces: Iterable[bytes], who: AbstractUser) -> ImportRow:
    """Take a file in and look at it.

    Raises
    ------
    Refused
        If the session is sealed.
    MusterError
        If the file is no log.
    """
    if session.closed_at is not None:
        raise Refused("this session is sealed", where="session", want="a session that is still open")
    row = ImportRow.objects.create(session=session, file_name=name[:200], path="", size_bytes=0, created_by=who)
    path = inbox() / f"{row.pk}.csv"
    try:
        with path.open("wb") as file:
            for piece in pieces:
                row.size_bytes += len(piece)
                if row.size_bytes > MOST_BYTES:
                    raise MusterError("larger than 4 GB", where="file", want="a shorter log")
                file.write(piece)
        row.path = str(path)
        layout_of(row)
    except (MusterError, OSError) as error:
        path.unlink(missing_ok=True)
        row.delete()
        if isinstance(error, OSError):
            raise MusterError(str(error.strerror).lower(), where="file", want="room on the disk") from None
        raise
    row.save()
    return row


def layout_of(row: ImportRow) -> LogLayout:
    """How the file is laid out.

    Raises
    ------
    MusterError
        If it is no log.
    """
    with Path(row.path).open("rb") as file:
        head = file.read(LOOK_BYTES)
        return look_at(head, whole=not file.read(1))


def suggested(row: ImportRow, layout: LogLayout, instrument: str) -> Mapping | None:
    """What the same instrument's like file was read by, else a guess from the headings."""
    kept = MappingRow.objects.filter(instrument=instrument, headings=headings_digest(layout)).first()
    if kept is not None:
        return load(Mapping, kept.data)
    return guess_mapping(layout, bridge.brief_of(row.session.source.job).system)


def remembered_instrument(layout: LogLayout) -> str:
    """The instrument whose like file was read last, empty if there was none."""
    kept = MappingRow.objects.filter(headings=headings_digest(layout)).first()
    return kept.instrument if kept else ""


def clock_of(session: SessionRow) -> Clock:
    """What the session's logs are timed against."""
    return Clock(ZoneInfo(bridge.brief_of(session.source.job).zone), session.started_at.timestamp())


@dataclass(frozen=True)
class Preview:
    """The first rows as the mapping reads them: seconds after the session began, figures; or what is wrong."""

    rows: tuple[tuple[float, tuple[float, ...]], ...]
    error: str = ""


def preview(row: ImportRow, layout: LogLayout, mapping: Mapping) -> Preview:
    """Read the sample by a mapping."""
    clock = clock_of(row.session)
    try:
        with Path(row.path).open("rb") as file:
            chunk = next(read_chunks(_Head(file), layout, mapping, clock))  # type: ignore[arg-type]
    except MusterError as error:
        return Preview((), str(error))
    except StopIteration:
        return Preview((), "no row could be read")
    times = (chunk.t_s[:8] - clock.began_s).tolist()
    return Preview(tuple((t_s, tuple(chunk.values[:, i].tolist())) for i, t_s in enumerate(times)))


class _Head:
    """The first part of a file, ended at a line."""

    def __init__(self, file: object) -> None:
        head: bytes = file.read(LOOK_BYTES)  # type: ignore[attr-defined]
        more = file.read(1)  # type: ignore[attr-defined]
        self.data = head[: head.rfind(b"\n") + 1] if more and b"\n" in head else head
        self.at = 0

    def read(self, count: int) -> bytes:
        piece = self.data[self.at : self.at + count]
        self.at += len(piece)
        return piece

    def tell(self) -> int:
        return self.at


@transaction.atomic
def begin(row: ImportRow, instrument: str, mapping: Mapping) -> ImportRow:
    """Settle how the file is read, remember it for the instrument, and set it going.

    Raises
    ------
    Refused
        If it is being read already or the session is sealed.
    """
    if row.state not in (ImportRow.State.MAPPING, ImportRow.State.FAILED, ImportRow.State.STOPPED):
        raise Refused("this file is being read, or was", where="file", want="import it again")
    layout = layout_of(row)
    trace = stage(
        row.session, Path(row.file_name).stem, instrument, [c.channel for c in mapping.columns], row.created_by
    )
    MappingRow.objects.update_or_create(
        instrument=instrument, headings=headings_digest(layout), defaults={"data": dump(replace(mapping, ahead_s=0.0))}
    )
    row.mapping, row.state, row.message = dump(mapping), ImportRow.State.READING, ""
    row.done_bytes, row.rows, row.stop_asked, row.trace = 0, 0, False, trace
    row.save()
    return row


class ReaderStopped(Exception):
    """The reader was asked to stop."""


def run(
    row: ImportRow,
    seen: Callable[[ImportRow], None] = lambda row: None,
    whole: Callable[[SessionRow], object] = lambda session: None,
) -> ImportRow:
    """Read the file to its end; on any fault nothing of it stays.

    ``seen`` is told after every chunk; ``whole`` once the log is there, before
    it is called done: what the pages would otherwise wait for.
    """
    trace = row.trace
    if trace is None:
        raise Refused("nothing is staged", where="import")
    notes = Notes()
    try:
        _read(row, trace, notes, seen)
        row.state, row.message = ImportRow.State.DONE, ""
        Path(row.path).unlink(missing_ok=True)
    except ReaderStopped:
        _undo(row, trace, ImportRow.State.STOPPED, "Stopped; nothing of it was kept.")
    except MusterError as error:
        _undo(row, trace, ImportRow.State.FAILED, str(error))
    except Exception:
        _undo(row, trace, ImportRow.State.FAILED, "Muster failed on this file; nothing of it was kept.")
        raise
    try:
        if row.state == ImportRow.State.DONE:
            whole(row.session)
    finally:
        row.save()
    return row


def read_beside(row: ImportRow) -> None:
    """Have the file read by a worker, and what it shows read off it: the pages find it kept."""
    background.begin(
        "log-import", f"log-import {secrets.token_hex(16)}", {"import": row.pk}, f"reading {row.file_name}"[:120]
    )


def _broken_off(args: dict[str, Any]) -> None:
    """The worker is gone: nothing half read stays."""
    row = ImportRow.objects.filter(pk=args["import"], state=ImportRow.State.READING).first()
    if row is not None and row.trace is not None and row.trace.staged:
        _undo(row, row.trace, ImportRow.State.FAILED, "Its reader was ended in the middle; nothing of it was kept.")


@background.task("log-import", broken_off=_broken_off)
def _read_log(args: dict[str, Any], progress: background.WorkProgress) -> None:
    from muster.records.judging import session_findings  # judging stands above the actions that it reads

    del progress
    run(ImportRow.objects.get(pk=args["import"]), whole=session_findings)


def _read(row: ImportRow, trace: TraceRow, notes: Notes, seen: Callable[[ImportRow], None]) -> None:
    mapping, clock = load(Mapping, row.mapping), clock_of(row.session)
    layout, writer = layout_of(row), BlockWriter(trace)
    with Path(row.path).open("rb") as file:
        for chunk in read_chunks(file, layout, mapping, clock, notes):
            t_s = chunk.t_s - clock.began_s
            if abs(t_s[0]) > FARTHEST_S or abs(t_s[-1]) > FARTHEST_S:
                raise MusterError(
                    "the log lies more than a year from the session",
                    where="time",
                    want="another form of time, or its clock put right",
                )
            writer.take(t_s, chunk.values)
            row.done_bytes, row.rows = min(chunk.done_bytes, row.size_bytes), trace.rows
            row.save(update_fields=["done_bytes", "rows"])
            seen(row)
            if ImportRow.objects.filter(pk=row.pk, stop_asked=True).exists():
                raise ReaderStopped
    writer.finish(notes.told)


def _undo(row: ImportRow, trace: TraceRow, state: str, message: str) -> None:
    row.trace = None
    row.state, row.message = state, message
    row.save()
    drop_staged(trace)


def ask_stop(row: ImportRow) -> None:
    """Ask the reader to stop; what it imported is forgotten."""
    ImportRow.objects.filter(pk=row.pk, state=ImportRow.State.READING).update(stop_asked=True)


def give_up(row: ImportRow) -> None:
    """Forget a file that was not read.

    Raises
    ------
    Refused
        If it is being read.
    """
    if row.state == ImportRow.State.READING:
        raise Refused("this file is being read", where="file", want="stop it first")
    Path(row.path).unlink(missing_ok=True)
    row.delete()


def forget_unfinished() -> int:
    """After a stop in the middle: nothing half imported stays. Returns how many readings were broken off."""
    reading = ImportRow.objects.filter(state=ImportRow.State.READING)
    reading.filter(trace__staged=False).update(state=ImportRow.State.DONE)
    broken = list(reading.all())
    for row in broken:
        row.state, row.message = (
            ImportRow.State.FAILED,
            "Muster was stopped while it read this file; nothing of it was kept.",
        )
        row.trace = None
        row.save()
    for trace in TraceRow.objects.filter(staged=True).exclude(notes=[BEING_RECORDED]):
        drop_staged(trace)
    return len(broken)
