"""The parts of a furnace or boiler as they are jotted in one line: ``furnace: blower 310 W, inducer 55 W, igniter 380 W for 35 s``."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import replace

from .kinds import SEQUENCE_PARTS
from .parts import Part

NAMES = {
    "inducer": r"inducer|draught fan|draft fan|combustion fan",
    "igniter": r"igniter|ignitor|glow ?plug|hot surface",
    "burner": r"burner|oil pump|auger",
    "blower": r"blower|main fan|circulat\w+ fan",
    "circulator": r"circulator|circulation pump|circulating pump",
    "board": r"control board|controls?|board",
}
"""The parts of a heating appliance, and how each is called."""
PART = re.compile(
    r"(?:(?<=[\s:,;(])|^)(?:the )?"
    + "(?:"
    + "|".join(rf"(?P<{name}>{words})" for name, words in NAMES.items())
    + r")\s*:?\s*(?P<w>\d+(?:[.,]\d+)?)\s*(?P<kilo>k?)w(?:atts?)?\b"
    r"(?:\s*(?:for|,)?\s*(?P<for>\d+(?:[.,]\d+)?)\s*s(?:ec(?:onds?)?)?\b)?(?:\s*(?:at|on|in|of)?\s*(?:each|every|a) (?:call|start|cycle)\b)?",
    re.I,
)
LEAST = 2
"""One part named alone is a load of that name."""
USUAL = {part.name: part for part in SEQUENCE_PARTS}


def parts_said(line: str) -> tuple[str, tuple[Part, ...]]:
    """The parts that a line names with their watts, and what is left of the line.

    Parameters
    ----------
    line
        A load as it is jotted.

    Returns
    -------
    tuple
        The line without its parts, and the parts: each with the watts typed, the usual timing of a control board where
        none was typed. The line as it was and no part where fewer than two are named.
    """
    matches = list(PART.finditer(line))
    if len(matches) < LEAST:
        return line, ()
    left = re.sub(r"[\s,;:()]+", " ", PART.sub(" ", line)).strip()
    return left or "furnace", tuple(_part(match) for match in matches)


def parts_words(parts: Sequence[Part]) -> str:
    """Parts as ``parts_said`` reads them: what their usual timing has is not said."""
    said = []
    for part in parts:
        usual = USUAL.get(part.name)
        timed = part.for_s is not None and (usual is None or usual.for_s != part.for_s)
        said.append(f"{part.name} {part.run_w:.12g}w{f' for {part.for_s:.12g}s' if timed else ''}")
    return ", ".join(said)


def _part(match: re.Match[str]) -> Part:
    name = next(name for name in NAMES if match[name])
    usual = USUAL.get(name, Part(name=name, run_w=1.0))
    w = float(match["w"].replace(",", ".")) * (1000 if match["kilo"] else 1)
    for_s = float(match["for"].replace(",", ".")) if match["for"] else usual.for_s
    return replace(usual, run_w=w, for_s=for_s)
