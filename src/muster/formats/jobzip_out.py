"""A job with its traces written as one file."""

from __future__ import annotations

import io
import zipfile

from .jobfile import job_text
from .jobzip import JOB_NAME, JobPackage
from .logs.writing import capture_csv, trace_csv

ZIP_DATE = (1980, 1, 1, 0, 0, 0)
"""One date for every member: the same job gives the same bytes."""


def write_package(package: JobPackage) -> bytes:
    """A job as its file: JSON alone where it has no traces, captures and photos, else a zip."""
    if not (package.traces or package.captures or package.photos):
        return job_text(package.job).encode()
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED, compresslevel=9) as archive:
        _add(archive, JOB_NAME, job_text(package.job).encode())
        for name, trace in sorted(package.traces.items()):
            _add(archive, name, trace_csv(trace))
        for name, capture in sorted(package.captures.items()):
            _add(archive, name, capture_csv(capture))
        for name, photo in sorted(package.photos.items()):
            _add(archive, name, photo.data)
    return out.getvalue()


def _add(archive: zipfile.ZipFile, name: str, data: bytes) -> None:
    info = zipfile.ZipInfo(name, ZIP_DATE)
    info.compress_type = zipfile.ZIP_DEFLATED
    archive.writestr(info, data, compresslevel=9)
