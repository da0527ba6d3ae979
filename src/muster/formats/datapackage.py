"""Everything measured in a job as a data package: CSVs, each with its schema, and one description of them all."""

from __future__ import annotations

import io
import json
import zipfile
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass, field
from datetime import datetime, timedelta
from typing import Any

from muster.core.findings import Finding
from muster.core.kit import QUANTITIES
from muster.core.sessions import Entry, Reading
from muster.core.sessions.log_line import tell
from muster.core.timeline.traces import channel_named

from .jobfile import JobFile, SessionRecord
from .jobzip import JobPackage
from .logs.own import SECONDS
from .logs.writing import capture_csv, trace_csv
from .tables import Cell, Table, csv_text, findings_table, loads_table

PROFILE, RESOURCE_PROFILE = "tabular-data-package", "tabular-data-resource"
ZIP_DATE = (1980, 1, 1, 0, 0, 0)
TYPES = {str: "string", float: "number", int: "number", bool: "boolean"}


@dataclass(frozen=True)
class Resource:
    """A file of the package: its table as bytes, its columns with their types, and what it is."""

    name: str
    title: str
    data: bytes
    columns: tuple[tuple[str, str, str], ...]
    more: Mapping[str, Any] = field(default_factory=dict)

    @property
    def path(self) -> str:
        """Where it stands inside the zip."""
        return f"data/{self.name}.csv"

    def described(self) -> dict[str, Any]:
        """Its part of ``datapackage.json``."""
        fields = [
            {"name": name, "type": kind, **({"description": words} if words else {})}
            for name, kind, words in self.columns
        ]
        return {
            "name": self.name,
            "title": self.title,
            "path": self.path,
            "profile": RESOURCE_PROFILE,
            "format": "csv",
            "mediatype": "text/csv",
            "encoding": "utf-8",
            "bytes": len(self.data),
            "schema": {"fields": fields},
            **self.more,
        }


def write_datapackage(package: JobPackage, findings: Iterable[tuple[str, str, Finding]]) -> bytes:
    """A zip of ``datapackage.json`` and a CSV a table: loads, sessions, entries, readings, findings, logs, captures.

    ``findings`` are (protocol, when it began, finding).

    References
    ----------
    Data Package and Tabular Data Resource, version 1 (specs.frictionlessdata.io).
    """
    resources = [*_tables(package.job, findings), *_samples(package)]
    photos = list(_photos(package))
    told = {
        "name": "muster-measurements",
        "profile": PROFILE,
        "title": f"What was measured: {package.job.name}",
        "description": "Units stand in the column names; times are UTC, or seconds after the session began.",
        "resources": [*(resource.described() for resource in resources), *(about for about, _ in photos)],
    }
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        _add(archive, "datapackage.json", (json.dumps(told, indent=1, ensure_ascii=False) + "\n").encode())
        for resource in resources:
            _add(archive, resource.path, resource.data)
        for about, data in photos:
            _add(archive, about["path"], data)
    return out.getvalue()


def _add(archive: zipfile.ZipFile, name: str, data: bytes) -> None:
    info = zipfile.ZipInfo(name, ZIP_DATE)
    info.compress_type = zipfile.ZIP_DEFLATED
    archive.writestr(info, data)


def _tables(job: JobFile, findings: Iterable[tuple[str, str, Finding]]) -> Iterator[Resource]:
    sessions = list(_sessions(job))
    yield _of_table("loads", "The loads of the home", loads_table(job.loads))
    yield _of_table("sessions", "Sessions run", _session_table(sessions))
    yield _of_table("entries", "The running records, what was undone included", _entry_table(job, sessions))
    yield _of_table("readings", "Every reading that counts", _reading_table(sessions))
    yield _of_table("findings", "What was found", findings_table(findings))


def _sessions(job: JobFile) -> Iterator[tuple[int, str, SessionRecord]]:
    """Each session with its number and its source."""
    number = 0
    for source in job.sources:
        for kept in source.sessions:
            number += 1
            yield number, source.source.name, kept


def _of_table(name: str, title: str, table: Table) -> Resource:
    columns = tuple((heading, _type(table, place), "") for place, heading in enumerate(table.headings))
    return Resource(name, title, csv_text(table).encode(), columns)


def _type(table: Table, place: int) -> str:
    """What a column holds: the type of its cells where they agree, text where they do not."""
    kinds = {TYPES[type(row[place])] for row in table.rows if type(row[place]) in TYPES and row[place] != ""}
    return kinds.pop() if len(kinds) == 1 else "string"


def _session_table(sessions: list[tuple[int, str, SessionRecord]]) -> Table:
    rows = [
        (
            number,
            source,
            kept.session.protocol,
            kept.started_at,
            kept.closed_at or "",
            kept.session.conditions.temp_c,
            kept.session.conditions.altitude_m,
            kept.session.conditions.fuel,
            kept.session.conditions.warm,
            kept.sha256,
        )
        for number, source, kept in sessions
    ]
    headings = (
        "session",
        "source",
        "protocol",
        "started_at",
        "closed_at",
        "temp_c",
        "altitude_m",
        "fuel",
        "warm",
        "sha256",
    )
    return Table(headings, tuple(rows))


def _at(kept: SessionRecord, t_s: float) -> str:
    return (datetime.fromisoformat(kept.started_at) + timedelta(seconds=t_s)).isoformat(timespec="milliseconds")


def _entry_table(job: JobFile, sessions: list[tuple[int, str, SessionRecord]]) -> Table:
    names = {load.key: load.name for load in job.loads}
    system = job.brief.system

    def row(number: int, kept: SessionRecord, entry: Entry, effective: set[int]) -> tuple[Cell, ...]:
        told = "; ".join(tell(item, names, system) for item in entry.items)
        return number, entry.seq, _at(kept, entry.t_s), entry.t_s, entry.who, entry.raw, told, entry.seq in effective

    rows = [
        row(number, kept, entry, {item.seq for item in kept.session.effective})
        for number, _, kept in sessions
        for entry in kept.session.entries
    ]
    return Table(("session", "entry", "at", "t_s", "who", "typed", "told", "counts"), tuple(rows))


def _reading_table(sessions: list[tuple[int, str, SessionRecord]]) -> Table:
    rows: list[tuple[Cell, ...]] = [
        (
            number,
            entry.seq,
            _at(kept, entry.t_s),
            entry.t_s,
            item.quantity,
            item.place.value,
            item.stat.value,
            item.value,
            QUANTITIES[item.measured][1],
            item.instrument,
            item.resolution,
            item.distance_m,
            item.spot,
            item.believable,
        )
        for number, _, kept in sessions
        for entry in kept.session.effective
        for item in entry.items
        if isinstance(item, Reading)
    ]
    headings = (
        "session",
        "entry",
        "at",
        "t_s",
        "quantity",
        "place",
        "stat",
        "value",
        "unit",
        "instrument",
        "resolution",
        "distance_m",
        "spot",
        "believable",
    )
    return Table(headings, tuple(rows))


def _samples(package: JobPackage) -> Iterator[Resource]:
    for number, _, kept in _sessions(package.job):
        for place, record in enumerate(kept.traces, 1):
            trace = package.traces[record.file]
            about = {"session": number, "instrument": record.instrument, "sha256": record.sha256}
            columns = _columns(tuple(channel.heading for channel in trace.channels))
            yield Resource(f"log-{number}-{place}", record.name, trace_csv(trace), columns, about)
        for place, shot in enumerate(kept.captures, 1):
            capture = package.captures[shot.file]
            about = {"session": number, "instrument": shot.instrument, "sha256": shot.sha256, "step_s": shot.step_s}
            columns = _columns(tuple(channel.heading for channel in capture.channels))
            yield Resource(f"capture-{number}-{place}", shot.name, capture_csv(capture), columns, about)


def _photos(package: JobPackage) -> Iterator[tuple[dict[str, Any], bytes]]:
    """The part of the description of each photo, and its bytes."""
    for number, _, kept in _sessions(package.job):
        for place, record in enumerate(kept.photos, 1):
            data = package.photos[record.file].data
            yield (
                {
                    "name": f"photo-{number}-{place}",
                    "title": record.caption or f"Photo at entry {record.entry}",
                    "path": f"data/photo-{number}-{place}.jpg",
                    "format": "jpg",
                    "mediatype": "image/jpeg",
                    "bytes": len(data),
                    "hash": f"sha256:{record.sha256}",
                    "session": number,
                    "entry": record.entry,
                },
                data,
            )


def _columns(headings: tuple[str, ...]) -> tuple[tuple[str, str, str], ...]:
    times = (SECONDS, "number", "seconds after the session began")
    return (times, *((heading, "number", channel_named(heading).label) for heading in headings))
