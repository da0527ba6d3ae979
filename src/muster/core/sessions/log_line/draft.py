"""A line while its figures are being read: what is known of each so far, and what stands around it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field

from ...kit import Kit
from ...supply import System
from ..places import Stat
from .figures import Figure
from .marks import MarkedLine

ELECTRIC = {"v", "a", "w", "va", "pf", "thd_pct"}
NEAR_NOMINAL = 0.25
"""Volts this near nominal, as a share, are the supply's own and not a battery's."""
SURE_V, SURE_HZ = 0.15, 0.09
"""A bare number this near nominal is volts, or hertz."""
LEAST_BATTERY_V = 9.0
"""A 12 V battery is cut off above this; less is what is left at the output of a set that makes nothing."""
OUT, IN = "out", "in"


@dataclass
class Word:
    """A place, instrument or stat word and where it stands."""

    meant: str
    start: int
    end: int


@dataclass
class Draft:
    """The figures of a line, with what is known of each: its moment, place and instrument, by its number."""

    line: MarkedLine
    figures: list[Figure]
    system: System
    kit: Kit
    held: bool = False
    battery: bool = True
    heats: bool = False
    stats: dict[int, Stat] = field(default_factory=dict)
    places: dict[int, str] = field(default_factory=dict)
    instruments: dict[int, str] = field(default_factory=dict)
    zero_at: list[int] = field(default_factory=list)
    of_no_leg: list[tuple[int, int]] = field(default_factory=list)
    stat_words: dict[int, tuple[int, int]] = field(default_factory=dict)

    def _known(self, figure: Figure, quantity: str, factor: float = 1.0) -> None:
        figure.of(quantity, factor)
        self.line.mark(figure.start, figure.end, "F")

    def _between(self, i: int, j: int) -> str:
        return self.line.low[self.figures[i].end : self.figures[j].start]

    def _before(self, i: int) -> str:
        return self.line.low[: self.figures[i].start]

    def _near_nominal(self, number: float) -> str:
        for times in range(1, self.system.legs + 1):
            if abs(number - times * self.system.v_nominal) <= SURE_V * times * self.system.v_nominal:
                return "v"
        return "hz" if abs(number - self.system.hz) <= SURE_HZ * self.system.hz else ""

    def _plausible_v(self, number: float) -> bool:
        return 0.3 * self.system.v_nominal <= number <= 1.2 * self.system.legs * self.system.v_nominal

    def _words_before(self, i: int) -> str:
        return self.line.text[: self.figures[i].start].lower()

    def kit_slug(self, word: str) -> str:
        """The instrument of the kit that a word names."""
        named = self.kit.named(word)
        return named.slug if named else ""

    def _in_clause(self, at: int) -> list[int]:
        start, end = self.line.clause(at)
        return [i for i, f in enumerate(self.figures) if start <= f.start < end and f.quantity in ELECTRIC]

    def _clause_has(self, at: int, quantities: Sequence[str]) -> bool:
        return any(self.figures[i].quantity in quantities for i in self._in_clause(at))
