"""What a paper speaks of: the data of a job in parts, each with its digest, so that it can be told later what has changed.

A part is a session as its seal has it, or a piece of the job as its file holds it: SHA-256 over JSON with sorted keys and no
spaces. What only says how figures are shown, or how a card is worded, is in no part.
"""

from __future__ import annotations

import hashlib
from collections.abc import Iterable, Iterator, Sequence
from typing import Any

from muster.core.sessions import PROTOCOLS

from .codec import canonical, dump
from .jobfile import DataPart, JobFile, SessionRecord, SourceRecord
from .seals import seal_of

FORM = "1:"
SHOWN_ALONE = ("measures",)
"""What of a brief says how figures are shown."""
SHORT = 12
"""So many hex figures are printed where a person reads them."""


def data_parts(job: JobFile, source: str = "") -> tuple[DataPart, ...]:
    """The pieces of a job that a verdict rests on.

    Parameters
    ----------
    job
        The whole job, from its file or as it would be written to one.
    source
        Name of the one source that a paper is about; empty for all.

    Returns
    -------
    tuple of DataPart
        The brief, the loads, and of each source its nameplate and wiring, its rules, its safety checks and each session.
    """
    brief = {name: value for name, value in dump(job.brief).items() if name not in SHOWN_ALONE}
    return (
        DataPart("the brief", _digest([job.name, brief])),
        DataPart("the loads", _digest([dump(load) for load in job.loads])),
        *(part for record in job.sources if source in ("", record.source.name) for part in _of_source(record)),
    )


def _of_source(record: SourceRecord) -> Iterator[DataPart]:
    name = record.source.name
    yield DataPart(f"{name}: nameplate and wiring", _digest(dump(record.source)))
    yield DataPart(f"{name}: rules of the household", _digest([dump(rule) for rule in record.rules]))
    yield DataPart(f"{name}: safety checks", _digest([dump(check) for check in record.safety_checks]))
    if record.elsewhere is not None:
        yield DataPart(f"{name}: measured elsewhere", _digest(dump(record.elsewhere)))
    for session in record.sessions:
        yield DataPart(f"{name}: {session_name(session)}", seal_of(session))


def session_name(record: SessionRecord) -> str:
    """A session by its protocol and when it began."""
    return f"{PROTOCOLS[record.session.protocol].name} of {record.started_at[:16].replace('T', ' ')}"


def _digest(value: Any) -> str:
    return hashlib.sha256(canonical(value).encode()).hexdigest()


def digest_of_data(parts: Iterable[DataPart]) -> str:
    """One digest over all parts, with its form."""
    return FORM + _digest([[part.name, part.digest] for part in parts])


def short_digest(digest: str) -> str:
    """A digest as a person compares it: its first figures, in fours."""
    bare = digest.removeprefix(FORM)[:SHORT]
    return " ".join(bare[at : at + 4] for at in range(0, len(bare), 4))


def changed_parts(before: Sequence[DataPart], now: Sequence[DataPart]) -> tuple[str, ...]:
    """What differs between two states of a job, in words: changed, gone or new; empty where nothing does.

    Parameters
    ----------
    before, now
        The parts that a paper speaks of, and those of a job.

    Returns
    -------
    tuple of str
        One line a part. Two parts of one name are told apart by their order.
    """
    old, new = _numbered(before), _numbered(now)
    return (
        *(f"{name} was changed" for name, digest in old.items() if name in new and new[name] != digest),
        *(f"{name} is gone" for name in old if name not in new),
        *(f"{name} is new" for name in new if name not in old),
    )


def _numbered(parts: Sequence[DataPart]) -> dict[str, str]:
    result: dict[str, str] = {}
    for part in parts:
        name, count = part.name, 2
        while name in result:
            name, count = f"{part.name} ({count})", count + 1
        result[name] = part.digest
    return result
