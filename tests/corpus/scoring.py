"""How well the log line understands a corpus: ``python -m tests.corpus.scoring first.txt``."""

from __future__ import annotations

import sys
from collections.abc import Iterable
from dataclasses import dataclass

from muster.core.sessions import Event, Item, Length, Reading, Start, Stat, Switch
from muster.core.sessions.log_line import When, parted, read_line
from muster.core.sessions.log_line.times import MONTHS

from .reading import HOUSE, Jotting, jottings

CLOSE = 0.005
"""Figures this near one another, as a share, are one figure: feet and Fahrenheit are rounded in the corpus."""
WRONG_X = 10
"""Something understood that was not meant weighs so many times what was missed."""

EVENTS = {"cut": "through", "cut_off": "cut"}
"""Events that the corpora call otherwise: the output cut while charging is *through off*, a cut-off of the DC side *cut*."""


def understood(jotting: Jotting) -> list[str]:
    """What the log line makes of a jotting, in the corpus's own form."""
    names = {name: name for name in HOUSE}
    said: list[str] = []
    for part_of_line in parted(jotting.text):
        read = read_line(part_of_line, names, jotting.system)
        said += [*_time(read.when), *(part for item in read.items for part in _said(item))]
    for sign in "-+":
        alike = {f"{sign}{name}" for name in HOUSE}
        if alike <= set(said):
            said = [f"{sign}all", *(part for part in said if part not in alike)]
    return said


def _time(when: When) -> list[str]:
    if when.ago_s is not None:
        return [f"t +{when.ago_s:g} s ago"]
    if when.clock is None:
        return []
    hour, minute, second = when.clock
    day = f" day {when.day}" if when.day else " next day" if when.days_on == 1 else ""
    if when.date is not None:
        day = f" {when.date[2]} {MONTHS[when.date[1] - 1]}"
    return [f"t {hour:02}:{minute:02}" + (f":{second:02}" if second else "") + day]


def _said(item: Item) -> Iterable[str]:
    if isinstance(item, Reading):
        distance = f" @{item.distance_m:g}" if item.distance_m is not None else ""
        stat = "" if item.stat is Stat.STEADY else f" {item.stat.value}"
        yield f"{item.quantity} {item.place.value} {item.value:g}{distance}{stat}"
    elif isinstance(item, Event):
        yield f"!{EVENTS.get(item.name, item.name)} {item.detail}".strip()
    elif isinstance(item, Length):
        yield f"for {item.for_s:g}"
    elif isinstance(item, Switch):
        yield f"{'+' if item.on else '-'}{item.load}"
    elif isinstance(item, Start):
        yield f"start {item.load}"


def same(meant: str, said: str) -> bool:
    """Whether two parts are one: figures by nearness, an event by its name."""
    if meant.startswith("!") or said.startswith("!"):
        return meant.split()[0] == said.split()[0]
    one, other = meant.split(), said.split()
    return len(one) == len(other) and all(_alike(a, b) for a, b in zip(one, other, strict=True))


def _alike(a: str, b: str) -> bool:
    if a == b:
        return True
    try:
        x, y = float(a.lstrip("@")), float(b.lstrip("@"))
    except ValueError:
        return False
    return a.startswith("@") == b.startswith("@") and abs(x - y) <= CLOSE * max(abs(x), abs(y))


def compared(jotting: Jotting) -> tuple[list[str], list[str]]:
    """What was meant and missed, and what was understood and not meant."""
    missed = [part for part in jotting.meant if part != "note"]
    wrong = []
    for part in understood(jotting):
        match = next((meant for meant in missed if same(meant, part)), None)
        if match is None:
            wrong.append(part)
        else:
            missed.remove(match)
    return missed, wrong


@dataclass(frozen=True)
class Score:
    """How much of a corpus was meant, missed and understood wrongly; ``odd`` is each jotting that was not whole."""

    meant: int
    missed: int
    wrong: int
    odd: tuple[tuple[str, list[str], list[str]], ...]

    @property
    def score(self) -> float:
        """1 for all of it."""
        return 1 - (self.missed + WRONG_X * self.wrong) / self.meant


def score(name: str) -> Score:
    """Read a corpus."""
    meant, odd = 0, []
    for jotting in jottings(name):
        missed, wrong = compared(jotting)
        meant += sum(part != "note" for part in jotting.meant)
        if missed or wrong:
            odd.append((jotting.text, missed, wrong))
    return Score(meant, sum(len(m) for _, m, _ in odd), sum(len(w) for _, _, w in odd), tuple(odd))


def main() -> None:
    """Print every jotting that was not wholly understood, and the score."""
    result = score(sys.argv[1] if len(sys.argv) > 1 else "first.txt")
    for text, missed, wrong in result.odd:
        print(f"{text!r}: missed {missed}, wrong {wrong}")
    print(f"meant {result.meant}, missed {result.missed}, wrong {result.wrong}: score {result.score:.3f}")


if __name__ == "__main__":
    main()
