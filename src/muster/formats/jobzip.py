"""A job with its traces: one zip, the job file at its root and a CSV a trace; or the job file alone."""

from __future__ import annotations

import io
import lzma
import struct
import zipfile
import zlib
from collections.abc import Container, Mapping, Sequence
from dataclasses import dataclass, field
from functools import partial
from pathlib import Path
from typing import IO

from muster.core.errors import MusterError
from muster.core.timeline.captures import Capture
from muster.core.timeline.traces import Trace

from . import bounds
from .jobfile import JobFile, PhotoRecord, parse_job
from .logs.own import read_trace_file
from .photos import MOST_BYTES, Photo, kept_photo

JOB_NAME = "job.muster.json"
ZIP_MARK = b"PK\x03\x04"


@dataclass(frozen=True)
class JobPackage:
    """A job with its traces, captures and photos, by the name of their file."""

    job: JobFile
    traces: Mapping[str, Trace] = field(default_factory=dict)
    captures: Mapping[str, Capture] = field(default_factory=dict)
    photos: Mapping[str, Photo] = field(default_factory=dict)

    def __post_init__(self) -> None:
        for at, source in enumerate(self.job.sources):
            for number, kept in enumerate(source.sessions):
                where = f"sources[{at}].sessions[{number}]"
                _all_there([trace.file for trace in kept.traces], self.traces, f"{where}.traces")
                _all_there([capture.file for capture in kept.captures], self.captures, f"{where}.captures")
                _all_there([photo.file for photo in kept.photos], self.photos, f"{where}.photos")

    @property
    def suffix(self) -> str:
        """The end of the name that such a file bears."""
        return ".muster.zip" if self.traces or self.captures or self.photos else ".muster.json"


def _all_there(names: Sequence[str], files: Container[str], where: str) -> None:
    for place, name in enumerate(names):
        if name not in files:
            raise MusterError(
                f"“{name}” is missing",
                where=f"{where}[{place}].file",
                want="the .muster.zip, which holds the recorded logs, captures and photos too",
            )


def read_package(data: bytes) -> JobPackage:
    """A job from the bytes of its file, JSON or zip.

    Raises
    ------
    MusterError
        If it is neither, if something in it does not fit (path and reason), a
        trace it lists is missing, or it would take more memory than any job does.
    """
    if not data.startswith(ZIP_MARK):
        return JobPackage(parse_job(data))
    return _unzipped(io.BytesIO(data))


def _unzipped(file: IO[bytes]) -> JobPackage:
    try:
        with zipfile.ZipFile(file) as archive:
            return _unpacked(archive)
    except MusterError:
        raise
    except (
        zipfile.BadZipFile,
        zlib.error,
        lzma.LZMAError,
        struct.error,
        EOFError,
        NotImplementedError,
        RuntimeError,
        LookupError,
        OSError,
        ValueError,
    ) as error:
        raise MusterError(
            f"the zip is damaged: {error or type(error).__name__}"[:200],
            where="file",
            want="a .muster.zip as Muster wrote it",
        ) from None


def _unpacked(archive: zipfile.ZipFile) -> JobPackage:
    _require_bounded(archive.infolist())
    names = set(archive.namelist())
    if JOB_NAME not in names:
        raise MusterError(f"no {JOB_NAME} in the zip", where="file", want="a .muster.zip as Muster wrote it")
    if archive.getinfo(JOB_NAME).file_size > bounds.MOST_JSON:
        raise MusterError(
            f"larger than {bounds.MOST_JSON // 1_000_000} MB", where=JOB_NAME, want="a job of fewer entries"
        )
    job = parse_job(archive.read(JOB_NAME))
    left = bounds.MOST_SAMPLES
    traces = {}
    for record in job.traces:
        if record.file in names:
            trace = read_trace_file(partial(archive.open, record.file), record.file, record.instrument, left)
            left -= trace.t_s.nbytes + trace.values.nbytes
            traces[record.file] = Trace(record.name, trace.instrument, trace.channels, trace.t_s, trace.values)
    captures = {}
    for shot in job.captures:
        if shot.file in names:
            samples = read_trace_file(partial(archive.open, shot.file), shot.file, shot.instrument, left)
            left -= samples.values.nbytes
            captures[shot.file] = Capture(
                name=shot.name,
                instrument=shot.instrument,
                t_s=shot.t_s,
                step_s=shot.step_s,
                channels=samples.channels,
                values=samples.values,
                why=shot.why,
            )
    photos = {record.file: _photo(archive, record) for record in job.photos if record.file in names}
    return JobPackage(job, traces, captures, photos)


def _photo(archive: zipfile.ZipFile, record: PhotoRecord) -> Photo:
    if archive.getinfo(record.file).file_size > MOST_BYTES:
        raise MusterError("larger than a photo can be", where=record.file, want="the file as Muster wrote it")
    try:
        photo = kept_photo(archive.read(record.file))
    except MusterError as error:
        raise MusterError(error.what, where=record.file, want=error.want) from None
    if photo.sha256 != record.sha256:
        raise MusterError("was changed after it was taken", where=record.file, want="the file as Muster wrote it")
    return photo


def _require_bounded(members: Sequence[zipfile.ZipInfo]) -> None:
    """Refuse, by what the zip says of itself, what would not fit: nothing is unpacked yet."""
    if len(members) > bounds.MOST_MEMBERS:
        raise MusterError(f"{len(members)} files in the zip", where="file", want="a .muster.zip as Muster wrote it")
    if sum(member.file_size for member in members) > bounds.MOST_UNPACKED:
        raise MusterError("larger than 1 GB unpacked", where="file", want="a job of fewer logs")
    for member in members:
        if member.file_size > max(bounds.RATIO_FROM, bounds.MOST_RATIO * member.compress_size):
            raise MusterError(
                f"{member.filename[:60]} unpacks to {member.file_size // max(1, member.compress_size)} times its size",
                where="file",
                want="a .muster.zip as Muster wrote it",
            )


def read_package_file(path: Path) -> JobPackage:
    """A job from its file on disk.

    Raises
    ------
    MusterError
        As ``read_package``, or if the file cannot be read.
    """
    try:
        size = path.stat().st_size
        if size > bounds.MOST_FILE:
            raise MusterError("larger than a job file can be", where=str(path), want="at most 400 MB")
        with path.open("rb") as file:
            if file.read(len(ZIP_MARK)) == ZIP_MARK:
                file.seek(0)
                return _unzipped(file)
            file.seek(0)
            return JobPackage(parse_job(file.read(bounds.MOST_JSON + 1)))
    except OSError as error:
        raise MusterError(str(error.strerror).lower(), where=str(path), want="a .muster.json or .muster.zip") from None
