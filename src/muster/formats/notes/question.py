"""One question in one line: ``1kVA 24V inverter, 2x100Ah lead-acid: fridge 0.9A, lights 60W``."""

from __future__ import annotations

import re

from muster.core.brief import Brief
from muster.core.errors import MusterError
from muster.core.loads import Load, short_name
from muster.core.measures import typed_measures
from muster.core.sources.nameplate import kind_in, read_nameplate
from muster.core.supply import System

from ..jobfile import JobFile, SourceRecord
from .headings import listed
from .model import NotesFile, Section, ToldLine
from .reading import read_loads

PARTS = re.compile(r"\s*(?::(?!\d)|\?|\b(?:for|run(?:s|ning)?|carr(?:y|ies)|with|on)\b(?= ))\s*", re.I)
ASKING = re.compile(
    r"^(?:(?:can|will|does|do|would|could|is|run)\b\s*)?(?:(?:i|it|we|you)\b\s*)?(?:run\s+)?(?:(?:an?|the|my|our)\b\s*)?",
    re.I,
)
"""``can I run a …``: the question's own words."""
LONGEST = 500


def read_question(line: str, system: System) -> NotesFile:
    """Read a question into a job: a source, then what it is to carry.

    Parameters
    ----------
    line
        The source and the loads in either order, a colon or *for* between them.
    system
        The supply, as the line does not say it.

    Returns
    -------
    NotesFile
        A job of one source without a test, with each part told back.

    Raises
    ------
    MusterError
        If it names no source, or no load.
    """
    source_words, loads_words = _parted(line)
    plate = read_nameplate(source_words)
    told = [
        ToldLine(
            number=1,
            text=source_words,
            section=Section.SOURCE,
            told=plate.told,
            asked=f"not said: {', '.join(plate.asked)}" if plate.asked else "",
        )
    ]
    kept: list[str] = []
    loads = read_loads([(1, part, False) for part in listed(loads_words)], system, told, kept)
    if not loads:
        raise MusterError(
            "it names no load with its watts",
            where="question",
            want="such as “2 kW generator: fridge 120 W, kettle 2.2 kW”",
        )
    brief = Brief(system=system, question=line.strip(), measures=typed_measures(line))
    job = JobFile(
        name=_named(source_words, loads), brief=brief, loads=loads, sources=(SourceRecord(source=plate.source),)
    )
    return NotesFile(job, tuple(told))


def _parted(line: str) -> tuple[str, str]:
    """The words of the source and those of the loads."""
    if len(line) > LONGEST:
        raise MusterError("too long for a question", where="question", want="one line; paste longer notes")
    for gap in PARTS.finditer(line):
        before, after = line[: gap.start()].strip(" ,.?"), line[gap.end() :].strip(" ,.?")
        if not before or not after:
            continue
        if kind_in(before) is not None:
            return ASKING.sub("", before), after
        if kind_in(after) is not None:
            return after, ASKING.sub("", before)
    raise MusterError(
        "it names no source and what it is to carry",
        where="question",
        want="such as “1 kVA 24 V inverter, 2x100 Ah lead-acid: fridge 0.9 A, lights 60 W”",
    )


def _named(source_words: str, loads: tuple[Load, ...]) -> str:
    names = ", ".join(short_name(load) for load in loads[:3]) + (" …" if len(loads) > 3 else "")
    return f"{names} on {source_words}"[:120]
