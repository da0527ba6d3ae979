"""Job files in and out as pieces of work: a large one takes seconds, and no request waits for it."""

from __future__ import annotations

import contextlib
import secrets
from collections.abc import Iterable, Mapping
from datetime import datetime
from pathlib import Path
from typing import Any
from zoneinfo import ZoneInfo

from django.conf import settings
from django.contrib.auth import get_user_model
from django.contrib.auth.models import AbstractUser
from django.utils.text import slugify

from muster.core.errors import MusterError
from muster.core.measures import showing_in
from muster.formats.bounds import MOST_CAPTURE, MOST_FILE
from muster.formats.datapackage import write_datapackage
from muster.formats.jobzip import read_package_file
from muster.formats.jobzip_out import write_package
from muster.records import background, bridge
from muster.records.models import Job, SessionRow, WorkRow

from .captures import keep_capture
from .imports import inbox
from .jobs import read_in, write_out


def outbox() -> Path:
    """Where written files wait to be fetched."""
    folder = Path(settings.DATA) / "outbox"
    folder.mkdir(parents=True, exist_ok=True, mode=0o700)
    return folder


def _take_in(path: Path, pieces: Iterable[bytes], most_bytes: int) -> None:
    """Write what is sent to a file, a piece at a time; where it is too much, or the disk is full, nothing stays.

    Raises
    ------
    MusterError
        If it is too much, or the disk does not take it.
    """
    try:
        with path.open("wb") as file:
            size = 0
            for piece in pieces:
                size += len(piece)
                if size > most_bytes:
                    raise MusterError(
                        "larger than such a file can be", where="file", want=f"at most {most_bytes // 1_000_000} MB"
                    )
                file.write(piece)
    except MusterError:
        path.unlink(missing_ok=True)
        raise
    except OSError as error:
        path.unlink(missing_ok=True)
        raise MusterError(str(error.strerror).lower(), where="file", want="room on the disk") from None


def receive_job(pieces: Iterable[bytes], who: AbstractUser) -> WorkRow:
    """Take a job file in, and have it read: all of it or nothing.

    Raises
    ------
    MusterError
        If it is larger than a job file can be, or the disk does not take it.
    """
    key = f"read-in {secrets.token_hex(16)}"
    path = inbox() / f"{key[8:]}.job"
    _take_in(path, pieces, MOST_FILE)
    return background.begin("read-in", key, {"path": str(path), "who": who.pk}, "reading the job file")


def _forget_upload(args: dict[str, Any]) -> None:
    Path(args["path"]).unlink(missing_ok=True)


@background.task("read-in", broken_off=_forget_upload)
def _read_in(args: dict[str, Any], progress: background.WorkProgress) -> dict[str, Any]:
    del progress
    try:
        job = read_in(read_package_file(Path(args["path"])), get_user_model().objects.get(pk=args["who"]))
    except MusterError as error:
        raise MusterError(error.what, where=error.where.replace(args["path"], "file"), want=error.want) from None
    finally:
        _forget_upload(args)
    return {"job": job.pk, "name": job.name}


def receive_capture(
    session: SessionRow, files: Mapping[str, Iterable[bytes]], instrument: str, at_s: float | None, who: AbstractUser
) -> WorkRow:
    """Take a waveform file in, one or two parts by their names, and have it read.

    ``at_s``: seconds after the session began; None: as the file says by the
    site's clock, else at the beginning.

    Raises
    ------
    MusterError
        If it is larger than a capture can be, or the disk does not take it.
    """
    key = f"capture-in {secrets.token_hex(16)}"
    paths = {}
    for place, (name, pieces) in enumerate(files.items()):
        path = inbox() / f"{key[11:]}.{place}"
        paths[name] = str(path)
        try:
            _take_in(path, pieces, MOST_CAPTURE)
        except MusterError:
            _forget_parts({"paths": paths})
            raise
    args = {"session": session.pk, "paths": paths, "instrument": instrument, "at_s": at_s, "who": who.pk}
    return background.begin("capture-in", key, args, "reading the capture")


def _forget_parts(args: dict[str, Any]) -> None:
    for path in args["paths"].values():
        Path(path).unlink(missing_ok=True)


@background.task("capture-in", broken_off=_forget_parts)
def _capture_in(args: dict[str, Any], progress: background.WorkProgress) -> dict[str, Any]:
    from muster.formats.captures import read_capture_files  # its library takes a while to load

    del progress
    try:
        read = read_capture_files({name: Path(path).read_bytes() for name, path in args["paths"].items()})
    finally:
        _forget_parts(args)
    session = SessionRow.objects.select_related("source__job").get(pk=args["session"])
    at_s = args["at_s"]
    if at_s is None:
        at_s = 0.0 if read.began is None else _by_the_site(session, read.began)
    who = get_user_model().objects.get(pk=args["who"])
    kept = keep_capture(session, read.capture(at_s, args["instrument"]), who)
    return {"at": [session.source.job_id, session.pk, kept.pk], "left_out": ", ".join(read.left_out)[:200]}


def _by_the_site(session: SessionRow, began: datetime) -> float:
    zone = ZoneInfo(bridge.brief_of(session.source.job).zone)
    return bridge.seconds_since(session.started_at, began if began.tzinfo else began.replace(tzinfo=zone))


def write_job_file(job: Job) -> WorkRow:
    """Have a job written as its file."""
    return _write("write-out", job, "writing the job file")


def write_data(job: Job) -> WorkRow:
    """Have everything measured written as a data package."""
    return _write("write-data", job, "writing the data package")


def _write(task: str, job: Job, label: str) -> WorkRow:
    key = f"{task} {secrets.token_hex(16)}"
    return background.begin(task, key, {"job": job.pk, "path": str(outbox() / key.replace(" ", "-"))}, label)


@background.task("write-out", broken_off=_forget_upload)
def _write_out(args: dict[str, Any], progress: background.WorkProgress) -> dict[str, Any]:
    del progress
    job = Job.objects.get(pk=args["job"])
    package = write_out(job)
    Path(args["path"]).write_bytes(write_package(package))
    return {"path": args["path"], "name": f"{slugify(job.name) or 'job'}{package.suffix}"}


@background.task("write-data", broken_off=_forget_upload)
def _write_data(args: dict[str, Any], progress: background.WorkProgress) -> dict[str, Any]:
    from muster.records.judging import findings_of  # judging stands above the actions that it reads

    del progress
    job = Job.objects.get(pk=args["job"])
    with showing_in(bridge.brief_of(job).shown_in):
        Path(args["path"]).write_bytes(write_datapackage(write_out(job), findings_of(job)))
    return {"path": args["path"], "name": f"{slugify(job.name) or 'job'}-data.zip"}


def fetched(row: WorkRow) -> bytes:
    """The file that a piece of work wrote; it is fetched once.

    Raises
    ------
    MusterError
        If it is no longer there.
    """
    path = Path(row.result.get("path", ""))
    try:
        data = path.read_bytes()
    except OSError:
        raise MusterError("the file was fetched already", where="file", want="save it again") from None
    with contextlib.suppress(OSError):
        path.unlink()
    return data
