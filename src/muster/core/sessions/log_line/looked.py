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
    ("fuse", "none"): ("no fuse", "no fuse to be seen", "none seen", "none to see"),
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
_POINT = re.compile(
    rf"(?<![\w/])(?P<point>{_either(set(_POINTS))})(?:[ \t]*(?P<colon>:)[ \t]*|[ \t]+(?:(?:is|are|was|were|looks?|=|–|-)[ \t]+)?)",
    re.I,
)
_AFTER = r"(?:[ \t]*$|[ \t]*[,;.(][ \t]*(?P<note>.*)$)"
_ANSWER = {slug: re.compile(rf"(?P<answer>{_either(set(said))}){_AFTER}", re.I) for slug, said in _ANSWERS.items()}
BEFORE_POINT = {"leads": ("copper", "clad"), "lugs": ("loose",), "fuse": ("none",), "sockets": ("loose",)}
"""Answers that stand before their point: ``copper-clad leads``, ``no fuse on the battery side``."""
NO = "no"


def _turned_pattern(point: str, answers: tuple[str, ...]) -> re.Pattern[str]:
    words = {word for word, slug in _ANSWERS[point].items() if slug in answers} | ({NO} if "none" in answers else set())
    names = _either({word for word, slug in _POINTS.items() if slug == point})
    where = r"[ \t]+(?P<where>(?:on|at|in|by|to)\b.*)$"
    return re.compile(
        rf"(?<![\w/-])(?P<answer>{_either(words)})[ \t]+(?:{names})(?: to be seen| seen| to see| anywhere)?(?:{_AFTER}|{where})",
        re.I,
    )


_TURNED = {point: _turned_pattern(point, answers) for point, answers in BEFORE_POINT.items()}
_PARTS = re.compile(r"[,;.][ \t]+")


def looked_in(line: str) -> tuple[str, LookedAt, str] | None:
    """The point that a line answers, with what stands before it and the further points that stand behind it.

    Parameters
    ----------
    line
        As it was jotted: the point, one of its answers word for word, and a note after a comma; several points in a row.

    Returns
    -------
    tuple or None
        None where an answer is none of the point's: ``display: 1.2 kW`` is a reading.
    """
    answer = _straight(line) or _turned(line)
    if answer is None:
        return None
    before, looked = answer
    note, further = _parted(looked.note)
    return before, answered(looked.point, looked.answer, note), further


def _straight(line: str) -> tuple[str, LookedAt] | None:
    """The point first, then its answer; without a colon only where the answer is said of nothing else."""
    named = _POINT.search(line)
    if named is None:
        return None
    point = BY_SLUG[_POINTS[named["point"].lower()]]
    said = _ANSWER[point.slug].match(line, named.end())
    if said is None or (not named["colon"] and point.slug in LABELS_ALONE):
        return None
    return line[: named.start()], _answered(point.slug, said["answer"], said["note"])


def _turned(line: str) -> tuple[str, LookedAt] | None:
    for slug, pattern in _TURNED.items():
        said = pattern.search(line)
        if said is not None:
            return line[: said.start()], _answered(slug, said["answer"], said["note"] or said["where"])
    return None


def _answered(point: str, answer: str, note: str | None) -> LookedAt:
    slug = "none" if answer.lower() == NO else _ANSWERS[point][answer.lower()]
    return answered(point, slug, (note or "").strip().removesuffix(")"))


def _parted(note: str) -> tuple[str, str]:
    """A note, and the further points that it runs into."""
    for begin in (0, *(mark.end() for mark in _PARTS.finditer(note))):
        further = looked_in(note[begin:])
        if further is not None and not further[0].strip():
            return note[:begin].rstrip(" \t,;."), note[begin:]
    return note, ""
