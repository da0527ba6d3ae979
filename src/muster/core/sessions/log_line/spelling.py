"""A line spelt out before it is read: what people leave away where everybody beside the engine would know."""

from __future__ import annotations

import re

from ...supply import System

WITH = re.compile(r"\bw/ ?(?=\S)", re.I)
KILOWATTS = re.compile(r"\b(\d+\.\d+)k(?![\w])", re.I)
AND_OFF = re.compile(r"\b(beep\w*|alarm\w*|click\w*|light|bang|flash\w*) ?(?:&|and) ?(off|out|dead|trip\w*)\b", re.I)
THREE_VOLTS = re.compile(r"(?<![\d/.])(\d{3})\s*/\s*(\d{2,3})\s*/\s*(\d{2,3})(?![\d/.])(?: ?v(?:olts?)?\b)?", re.I)
LOWEST = re.compile(
    r"(?<![\d.])(\d{2,3}(?:\.\d)?) min(?:imum)? (\d{2,3}(?:\.\d)?)(?= ?$| ?[,;]|\.(?!\d)| (?:then|and|back)\b)", re.I
)
OF_SOUND = re.compile(r"\b(?:noise|sound|loud\w*|background|db|dba|decibels?)\b", re.I)
LEVELS = re.compile(
    r"(?<![\d.])(\d+(?:\.\d+)?) ?(m|ft|feet|met(?:re|er)s?)[ :=-]+(\d{2,3}(?:\.\d)?)(?= ?$| ?[,;]|\.(?!\d)| (?:and|all|at|with|on)\b)",
    re.I,
)
LEGS_AGREE = 0.03
"""Volts of two legs make up those of both within so much."""
LEAST_V, MOST_V = 0.4, 1.15
"""Volts of a supply, as shares of its nominal: what is outside of them is something else."""


def spelt_out(line: str, system: System) -> str:
    """A line with its short hands written out.

    Parameters
    ----------
    line
        As it was jotted: ``244/122/122``, ``fridge start 237 min 231``, ``L1 2.9k``, ``pump w/ 3kw on``, ``noise 7m 72``.
    system
        The supply, by which volts are known.

    Returns
    -------
    str
        With units and words where they were left away; the same where nothing was.
    """
    line = AND_OFF.sub(r"\2, \1", KILOWATTS.sub(r"\1kw", WITH.sub("with ", line)))
    if system.legs == 2:
        line = THREE_VOLTS.sub(_three_volts, line)
    line = LOWEST.sub(lambda match: _lowest(match, system), line)
    return LEVELS.sub(r"\3 db at \1 \2", line) if OF_SOUND.search(line) else line


def _three_volts(match: re.Match[str]) -> str:
    both, first, other = (float(match[at]) for at in (1, 2, 3))
    if abs(both - first - other) > LEGS_AGREE * both:
        return match[0]
    return f"{match[1]}v l1 {match[2]}v l2 {match[3]}v"


def _lowest(match: re.Match[str], system: System) -> str:
    before, lowest = float(match[1]), float(match[2])
    fits = LEAST_V * system.v_nominal <= lowest <= before <= MOST_V * system.v_nominal * system.legs
    return f"{match[1]}v min {match[2]}v" if fits else match[0]
