"""The demo's logs and captures with their digests, its closed sessions with their seals: as if they had been run here."""

from __future__ import annotations

from dataclasses import replace

from muster.formats.digests import digest_of_capture, digest_of_samples
from muster.formats.jobfile import SessionRecord
from muster.formats.jobzip import JobPackage
from muster.formats.seals import seal_of


def sealed(package: JobPackage) -> JobPackage:
    """A package whose every log, capture and closed session carries what verifies it."""
    sources = tuple(
        replace(source, sessions=tuple(_sealed(kept, package) for kept in source.sessions))
        for source in package.job.sources
    )
    return replace(package, job=replace(package.job, sources=sources))


def _sealed(kept: SessionRecord, package: JobPackage) -> SessionRecord:
    logs = {trace.file: package.traces[trace.file] for trace in kept.traces}
    traces = tuple(
        replace(item, sha256=digest_of_samples(log.channels, log.t_s, log.values))
        for item, log in zip(kept.traces, logs.values(), strict=True)
    )
    captures = tuple(
        replace(capture, sha256=digest_of_capture(package.captures[capture.file].values)) for capture in kept.captures
    )
    whole = replace(kept, traces=traces, captures=captures)
    return replace(whole, sha256=seal_of(whole)) if whole.closed_at is not None else whole
