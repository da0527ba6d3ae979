"""A job with its traces: one zip, the job file at its root and a CSV a trace; or the job file alone."""

from __future__ import annotations

import io
import zipfile
import zlib
from collections.abc import Container, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from pathlib import Path

from muster.core.captures import Capture
from muster.core.errors import MusterError
from muster.core.traces import Trace

from .jobfile import JobFile, parse_job
from .logs.own import read_trace_csv

JOB_NAME = "job.muster.json"
MOST_UNPACKED = 4_000_000_000
ZIP_MARK = b"PK\x03\x04"


@dataclass(frozen=True)
class JobPackage:
    """A job with its traces and captures, by the name of their file."""

    job: JobFile
    traces: Mapping[str, Trace] = field(default_factory=dict)
    captures: Mapping[str, Capture] = field(default_factory=dict)

    def __post_init__(self) -> None:
        for at, source in enumerate(self.job.sources):
            for number, kept in enumerate(source.sessions):
                where = f"sources[{at}].sessions[{number}]"
                _all_there([one.file for one in kept.traces], self.traces, f"{where}.traces")
                _all_there([one.file for one in kept.captures], self.captures, f"{where}.captures")

    @property
    def suffix(self) -> str:
        """The end of the name that such a file bears."""
        return ".muster.zip" if self.traces or self.captures else ".muster.json"


def _all_there(names: Sequence[str], files: Container[str], where: str) -> None:
    for place, name in enumerate(names):
        if name not in files:
            raise MusterError(
                f"“{name}” is missing", where=f"{where}[{place}].file",
                want="the .muster.zip, which holds the recorded logs and captures too",
            )  # fmt: skip


def read_package(data: bytes) -> JobPackage:
    """A job from the bytes of its file, JSON or zip.

    Raises
    ------
    MusterError
        If it is neither, if something in it does not fit (path and reason), or
        a trace it lists is missing.
    """
    if not data.startswith(ZIP_MARK):
        return JobPackage(parse_job(data))
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            return _unpacked(archive)
    except (zipfile.BadZipFile, zlib.error, EOFError, NotImplementedError, RuntimeError, KeyError) as error:
        raise MusterError(
            f"the zip is damaged: {error}", where="file", want="a .muster.zip as Muster wrote it"
        ) from None


def _unpacked(archive: zipfile.ZipFile) -> JobPackage:
    if sum(member.file_size for member in archive.infolist()) > MOST_UNPACKED:
        raise MusterError("larger than 4 GB unpacked", where="file", want="a job of fewer logs")
    names = set(archive.namelist())
    if JOB_NAME not in names:
        raise MusterError(f"no {JOB_NAME} in the zip", where="file", want="a .muster.zip as Muster wrote it")
    job = parse_job(archive.read(JOB_NAME))
    traces = {}
    for record in job.traces:
        if record.file in names:
            trace = read_trace_csv(archive.read(record.file), record.file, record.instrument)
            traces[record.file] = Trace(record.name, trace.instrument, trace.channels, trace.t_s, trace.values)
    return JobPackage(job, traces, dict(_captures(archive, job, names)))


def _captures(archive: zipfile.ZipFile, job: JobFile, names: set[str]) -> Iterator[tuple[str, Capture]]:
    for record in job.captures:
        if record.file in names:
            samples = read_trace_csv(archive.read(record.file), record.file, record.instrument)
            head = (record.name, record.instrument, record.t_s, record.step_s)
            yield record.file, Capture(*head, samples.channels, samples.values, record.why)


def read_package_file(path: Path) -> JobPackage:
    """A job from its file on disk.

    Raises
    ------
    MusterError
        As ``read_package``, or if the file cannot be read.
    """
    try:
        data = path.read_bytes()
    except OSError as error:
        raise MusterError(str(error.strerror).lower(), where=str(path), want="a .muster.json or .muster.zip") from None
    return read_package(data)
