"""The job file: a whole job as plain JSON values, versioned.

Friendly to a text editor: indented, in the words of the trade, units in the
names. The schema stands in docs/jobfile.schema.json.
"""

from __future__ import annotations

import json
from dataclasses import dataclass, field
from datetime import datetime
from typing import Any

from muster.core.brief import Brief
from muster.core.card.written import CardWords
from muster.core.character import Character
from muster.core.errors import MusterError, UnknownChoice, require_above, require_between
from muster.core.loads import Load
from muster.core.outage.household import HouseholdRule
from muster.core.plan import Changes
from muster.core.plan.series import SeriesPlan
from muster.core.safety.checks import KNOWN
from muster.core.sessions import LONGEST_S, PROTOCOLS, Session
from muster.core.shelf.measured import TakenSource
from muster.core.sources import Source

from .bounds import plain_json
from .codec import dump, json_schema, load
from .upgrades import upgraded

VERSION = 2
READ = (1, VERSION)
"""Versions that are read: in version 1 some fields had other names (``upgrades.RENAMED``)."""
FIRST_YEAR, LAST_YEAR = 1970, 2200


@dataclass(frozen=True)
class TraceRecord:
    """A recorded log of a session: its samples stand in ``file``, a CSV beside the job file inside a zip."""

    name: str
    instrument: str
    file: str
    rows: int
    sha256: str = ""
    notes: tuple[str, ...] = ()


@dataclass(frozen=True)
class CaptureRecord:
    """A scope's capture of a session, the first sample ``t_s`` after it began: its samples stand in ``file``, a CSV inside the zip."""

    name: str
    instrument: str
    file: str
    t_s: float
    step_s: float
    samples: int
    sha256: str = ""
    why: str = ""

    def __post_init__(self) -> None:
        require_between(self.t_s, -LONGEST_S, LONGEST_S, "t_s")
        require_between(require_above(self.step_s, 0, "step_s"), 0, LONGEST_S, "step_s")


@dataclass(frozen=True)
class PhotoRecord:
    """A photo of a session, at the entry ``entry``: its picture stands in ``file``, a JPEG inside the zip."""

    entry: int
    file: str
    sha256: str
    caption: str = ""


@dataclass(frozen=True)
class AmendmentRecord:
    """An amendment of a sealed session: when (ISO 8601), why, who, and the seal that stood before it."""

    at: str
    reason: str
    who: str = ""
    sealed: str = ""

    def __post_init__(self) -> None:
        _checked_time(self.at, "at")


@dataclass(frozen=True)
class SessionRecord:
    """A session with when it began and was closed (ISO 8601, UTC; None while it runs), its logs, captures and photos, its seal, and what was amended after it was sealed."""

    session: Session
    started_at: str
    closed_at: str | None = None
    sha256: str = ""
    traces: tuple[TraceRecord, ...] = ()
    captures: tuple[CaptureRecord, ...] = ()
    amendments: tuple[AmendmentRecord, ...] = ()
    photos: tuple[PhotoRecord, ...] = ()

    def __post_init__(self) -> None:
        for name in ("started_at", "closed_at"):
            _checked_time(getattr(self, name), name)
        seen = 0
        for entry in self.session.entries:
            if entry.seq <= seen:
                raise MusterError(f"got {entry.seq}", where="session.entries.seq", want=f"must be above {seen}")
            if entry.supersedes is not None and not 0 < entry.supersedes < entry.seq:
                raise MusterError(
                    f"got {entry.supersedes}", where="session.entries.voids", want=f"must be 1 to {entry.seq - 1}"
                )
            if entry.amendment > len(self.amendments):
                raise MusterError(
                    f"got {entry.amendment}",
                    where="session.entries.amendment",
                    want=f"must be 0 to {len(self.amendments)}, the amendments there are",
                )
            seen = entry.seq
        entries = {entry.seq for entry in self.session.entries}
        for photo in self.photos:
            if photo.entry not in entries:
                raise MusterError(f"got {photo.entry}", where="session.photos.entry", want="the number of an entry")


def _checked_time(text: str | None, where: str) -> None:
    """Refuse what is not an ISO 8601 time with its zone."""
    if text is None:
        return
    try:
        at = datetime.fromisoformat(text)
        sensible = at.tzinfo is not None and FIRST_YEAR <= at.year <= LAST_YEAR
    except ValueError:
        sensible = False
    if not sensible:
        raise MusterError(f"got {text!r}", where=where, want="must be a time such as 2026-10-12T09:05:00+00:00")


@dataclass(frozen=True)
class SafetyCheckRecord:
    """A safety check confirmed for a source: by whom, and when (ISO 8601, UTC)."""

    slug: str
    at: str
    who: str = ""
    note: str = ""

    def __post_init__(self) -> None:
        if self.slug not in KNOWN:
            raise UnknownChoice(f"got “{self.slug}”", where="slug", want=", ".join(KNOWN))
        _checked_time(self.at, "at")


@dataclass(frozen=True)
class CharacterRecord:
    """All that was known of a source by a day, as it was saved, with a note."""

    at: str
    who: str
    character: Character
    note: str = ""

    def __post_init__(self) -> None:
        _checked_time(self.at, "characters.at")


@dataclass(frozen=True)
class DataPart:
    """A piece of a job by name, with the digest of what it holds."""

    name: str
    digest: str


@dataclass(frozen=True)
class CardGiven:
    """When a household's card was last given out (ISO 8601, UTC), by whom, and the data it was made from, part by part."""

    at: str
    parts: tuple[DataPart, ...]
    who: str = ""

    def __post_init__(self) -> None:
        _checked_time(self.at, "card_given.at")


@dataclass(frozen=True)
class SourceRecord:
    """A source with its sessions, the safety checks that were confirmed, what was changed in plans, by protocol, and its saved characters.

    ``rules`` are what the household does in an outage on it, as the assessor accepted them; ``card`` the words of its
    card, and ``card_given`` when that was last given out. ``elsewhere`` is what was measured of it on another job.
    """

    source: Source
    sessions: tuple[SessionRecord, ...] = ()
    safety_checks: tuple[SafetyCheckRecord, ...] = ()
    plans: dict[str, Changes] = field(default_factory=dict)
    characters: tuple[CharacterRecord, ...] = ()
    rules: tuple[HouseholdRule, ...] = ()
    card: CardWords = CardWords()
    card_given: CardGiven | None = None
    elsewhere: TakenSource | None = None

    def __post_init__(self) -> None:
        for protocol in self.plans:
            if protocol not in PROTOCOLS:
                raise UnknownChoice(f"got “{protocol}”", where="plans", want=", ".join(PROTOCOLS))


@dataclass(frozen=True)
class CalculationRecord:
    """A calculation saved with the job: what was typed by the name of each input, and the sentence that came of it."""

    slug: str
    typed: dict[str, str]
    sentence: str = ""


@dataclass(frozen=True)
class SeriesFigure:
    """A cell of a series: the entry of its unit's record that holds it, by its number, and the figure as it was typed."""

    entry: int
    text: str


@dataclass(frozen=True)
class SeriesUnitRecord:
    """A unit of a series: which source of the job it is, and which of its sessions; both counted from 1.

    ``session`` is None where it was not begun; ``cells`` are its figures by cell.
    """

    source: int
    session: int | None = None
    cells: dict[str, SeriesFigure] = field(default_factory=dict)


@dataclass(frozen=True)
class SeriesRecord:
    """A series: what is read of each unit, its units in their order, and what was read or confirmed once for all.

    ``at`` is when it was laid out, ``closed_at`` when it was closed (ISO 8601, UTC).
    """

    plan: SeriesPlan
    units: tuple[SeriesUnitRecord, ...]
    at: str
    shared: dict[str, str] = field(default_factory=dict)
    confirmed: tuple[str, ...] = ()
    closed_at: str | None = None

    def __post_init__(self) -> None:
        _checked_time(self.at, "series.at")
        _checked_time(self.closed_at, "series.closed_at")


@dataclass(frozen=True)
class JobFile:
    """A whole job."""

    name: str
    brief: Brief
    loads: tuple[Load, ...] = ()
    sources: tuple[SourceRecord, ...] = ()
    version: int = field(default=VERSION)
    calculations: tuple[CalculationRecord, ...] = ()
    series: tuple[SeriesRecord, ...] = ()

    def __post_init__(self) -> None:
        for unit in (unit for series in self.series for unit in series.units):
            self._require_there(unit)
        keys = [load.key for load in self.loads]
        for key in keys:
            if keys.count(key) > 1:
                raise MusterError(f"“{key}” is used twice", where="loads.key", want="one key a load")
        files = [trace.file for trace in self.traces]
        files += [capture.file for capture in self.captures]
        files += [photo.file for photo in self.photos]
        for file in files:
            if files.count(file) > 1:
                raise MusterError(
                    f"“{file}” is used twice", where="traces.file", want="one file a log, capture or photo"
                )

    def _require_there(self, unit: SeriesUnitRecord) -> None:
        """Refuse a unit of a series that is no source here, or a session or entry that it has not."""
        if not 0 < unit.source <= len(self.sources):
            raise MusterError(f"got {unit.source}", where="series.units.source", want=f"1 to {len(self.sources)}")
        sessions = self.sources[unit.source - 1].sessions
        if unit.session is None and not unit.cells:
            return
        if unit.session is None or not 0 < unit.session <= len(sessions):
            raise MusterError(f"got {unit.session}", where="series.units.session", want=f"1 to {len(sessions)}")
        entries = {entry.seq for entry in sessions[unit.session - 1].session.entries}
        for key, figure in unit.cells.items():
            if figure.entry not in entries:
                raise MusterError(f"got {figure.entry}", where=f"series.units.cells.{key}", want="a number of an entry")

    @property
    def traces(self) -> tuple[TraceRecord, ...]:
        """Every recorded log of the job."""
        return tuple(trace for source in self.sources for kept in source.sessions for trace in kept.traces)

    @property
    def captures(self) -> tuple[CaptureRecord, ...]:
        """Every capture of the job."""
        return tuple(capture for source in self.sources for kept in source.sessions for capture in kept.captures)

    @property
    def photos(self) -> tuple[PhotoRecord, ...]:
        """Every photo of the job."""
        return tuple(photo for source in self.sources for kept in source.sessions for photo in kept.photos)


def write_job(job: JobFile) -> dict[str, Any]:
    """A job as plain JSON values."""
    data: dict[str, Any] = dump(job)
    return data


def job_text(job: JobFile) -> str:
    """A job as the text of its file."""
    return json.dumps(write_job(job), indent=1, ensure_ascii=False) + "\n"


def parse_job(text: str | bytes) -> JobFile:
    """A job from the text of its file.

    Raises
    ------
    MusterError
        As ``plain_json`` and ``read_job``.
    """
    return read_job(plain_json(text, "a .muster.json file"))


def schema() -> dict[str, Any]:
    """The JSON Schema of a job file."""
    return json_schema(JobFile)


def read_job(data: Any) -> JobFile:
    """A job from plain JSON values.

    Raises
    ------
    MusterError
        If the version is not known here, or something in it does not fit.
    """
    version = data.get("version") if isinstance(data, dict) else None
    if version not in READ:
        raise MusterError(f"got {version!r}", where="version", want=f"this Muster reads versions up to {VERSION}")
    return load(JobFile, {**upgraded(data), "version": VERSION})
