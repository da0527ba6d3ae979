"""A line that tells of several moments: parted where each begins with its own time, else asked about."""

from __future__ import annotations

import re

from .times import NO_CLOCK_AFTER

CLOCK = (
    r"(?:(?:@|at|by)\s*)?(?:\d{1,2}:\d{2}(?::\d{2})?(?:\s?[ap]\.?m?\b\.?)?|\d{1,2}(?:\.\d{2})?\s?[ap]\.?m\b\.?"
    r"|(?:noon|midday|midnight)\b)"
)
"""A time of day, wherever in a line."""
SPOKEN = re.compile(rf"(?<![\w.:]){CLOCK}(?![\w:])")
LEADING = re.compile(rf"(?:(?:then|and|next day|day \d+)\s+)*{CLOCK}(?![\w:])[\s,:-]*\S", re.I)
"""A part that begins with a time and says something of it."""
STRETCH = re.compile(rf"{CLOCK}\s*(?:to|till|until|-|–|and)\s*{CLOCK}")
"""``18:05 to 21:40``: from when to when."""
BREAK = re.compile(r"\s*[;,/·]\s+|\s+-\s+")


def parted(line: str) -> tuple[str, ...]:
    """The parts of a line, each with its own time: ``22:00 78%, 06:00 31%``; the whole where it is of one moment.

    Parameters
    ----------
    line
        As it was written down.

    Returns
    -------
    tuple of str
        The parts in their order. A part that says no time belongs to the one before it.
    """
    parts: list[str] = []
    last = 0
    for gap in BREAK.finditer(line):
        if LEADING.match(line[gap.end() :]) and not STRETCH.match(line[gap.end() :].lower()):
            parts.append(line[last : gap.start()])
            last = gap.end()
    parts.append(line[last:])
    if len(parts) == 1 or not all(LEADING.match(part) for part in parts):
        return (line,)
    return tuple(part.strip() for part in parts)


def several_times(line: str) -> bool:
    """Whether more than one time of day stands in a line, so that nothing of it can be put at its moment."""
    low = STRETCH.sub(" ", line.lower())
    clocks = [clock for clock in SPOKEN.finditer(low) if not NO_CLOCK_AFTER.search(low[: clock.start()] + " ")]
    return len(clocks) > 1
