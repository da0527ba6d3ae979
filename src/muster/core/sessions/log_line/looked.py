"""A point of an inspection as it is written down: ``leads: copper-clad aluminium, by the print``."""

from __future__ import annotations

import re

from ..inspection import BY_SLUG, POINTS, InspectionPoint, answered
from ..model import LookedAt

ALSO_POINTS = {
    "leads": ("cables",),
    "gauge": ("wire gauge", "gauge of leads"),
    "lugs": ("lugs", "bolts"),
    "fuse": ("fuse", "dc fuse"),
    "sockets": ("outlets", "receptacles"),
    "live_off": ("sockets when off", "outlets when off"),
    "protection": ("rcd", "gfci", "rcd/gfci"),
    "counts": ("display counts",),
    "covers": ("cover",),
    "returns": ("returns", "warranty"),
}
"""What a point is called besides its title."""
ALSO_ANSWERS = {
    ("leads", "clad"): ("copper clad aluminium", "copper-clad aluminum", "copper clad aluminum", "cca"),
    ("gauge", "thin"): ("too thin",),
    ("fuse", "none"): ("no fuse", "none seen"),
    ("fuse", "at_battery"): ("at the battery",),
    ("lugs", "loose"): ("badly crimped",),
    ("covers", "before"): ("opened before", "seal broken"),
}
"""What an answer is called besides its label and slug."""
LABELS_ALONE = ("protection", "display", "counts")
"""Points whose short answers are said of a run as well: ``rcd: trips`` is a trip, ``display: watts`` heads a reading."""


def _either(words: set[str]) -> str:
    """One of some words, the longest first."""
    return "|".join(re.escape(word) for word in sorted(words, key=lambda word: (-len(word), word)))


def _answers(point: InspectionPoint) -> dict[str, str]:
    """Every way to say an answer of a point, in lower case, with its slug."""
    said: dict[str, str] = {}
    for answer in point.answers:
        short = () if point.slug in LABELS_ALONE else (answer.slug.replace("_", " "),)
        for word in (answer.label, *short, *ALSO_ANSWERS.get((point.slug, answer.slug), ())):
            said[word.lower()] = answer.slug
    return said


_POINTS = {word.lower(): point.slug for point in POINTS for word in (point.title, *ALSO_POINTS.get(point.slug, ()))}
_ANSWERS = {point.slug: _answers(point) for point in POINTS}
_POINT = re.compile(rf"(?<![\w/])(?P<point>{_either(set(_POINTS))})[ \t]*:[ \t]*", re.I)
_ANSWER = {
    slug: re.compile(rf"(?P<answer>{_either(set(said))})(?:[ \t]*$|[ \t]*[,;.(][ \t]*(?P<note>.*)$)", re.I)
    for slug, said in _ANSWERS.items()
}


def looked_in(line: str) -> tuple[str, LookedAt] | None:
    """The point that a line answers, with what stands before it.

    Parameters
    ----------
    line
        As it was jotted: the point, a colon, one of its answers word for word, and a note after a comma.

    Returns
    -------
    tuple or None
        None where an answer is none of the point's: ``display: 1.2 kW`` is a reading.
    """
    named = _POINT.search(line)
    if named is None:
        return None
    point = BY_SLUG[_POINTS[named["point"].lower()]]
    said = _ANSWER[point.slug].match(line, named.end())
    if said is None:
        return None
    note = (said["note"] or "").strip().removesuffix(")")
    return line[: named.start()], answered(point.slug, _ANSWERS[point.slug][said["answer"].lower()], note)
