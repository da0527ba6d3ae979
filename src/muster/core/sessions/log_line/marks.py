"""A line being read: its words as typed, and marks over what was already understood.

A mark is as long as what it covers, so that every place in the line stays
where it was; patterns are written with a letter in angle brackets for a mark:
``<D>`` a length of time, ``<F>`` a figure, ``<V>`` one in volts that can't be
of the output, ``<L>`` a load, ``<T>`` a time of day, ``<N>`` a number without
a unit; ``<!L>`` and ``<=D>`` look at what stands before.
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass, field
from functools import lru_cache

FIRST = {
    "F": "\ue000",
    "D": "\ue002",
    "L": "\ue004",
    "T": "\ue006",
    "N": "\ue008",
    "X": "\ue00a",
    "V": "\ue00c",
    "S": "\ue00e",
}
"""The character a mark begins with; ``X`` is understood and of no more use, ``S`` is not to be read at all."""
REST = {kind: chr(ord(char) + 1) for kind, char in FIRST.items()}
MARK = re.compile("[\ue000-\ue00f]")

ODD_SPACE = re.compile(r"[\u2009\u202f\u00a0](?!(?<=\d.)\d{3}(?!\d))")
RUN_TOGETHER = re.compile(
    r"(?<=\d)(v|a|w|kw|hz|%|va|kva|wh|kwh|db)(?=\d+(?:[.,]\d+)?(?:v|a|w|kw|hz|%|va|kva|wh|kwh|db|rpm)(?![a-z]|\d*[a-z]?-))",
    re.I,
)
"""``221v49.2hz2.4kw``."""
AS_WRITTEN = re.compile(r"(\(\?<[=!][^)]*\)|\[[^\]]*\])")
"""What looks back must know how far, and a set holds single characters: their spaces stay as they are."""
MARKS = {
    **{f"<{kind}>": f"(?:{char}{REST[kind]}*)" for kind, char in FIRST.items()},
    "<F>": f"(?:[{FIRST['F']}{FIRST['V']}][{REST['F']}{REST['V']}]*)",
    "<!L>": f"(?<![{FIRST['L']}{REST['L']}] )",
    "<=L>": f"(?<=[{FIRST['L']}{REST['L']}] )",
    "<=D>": f"(?<=[{FIRST['D']}{REST['D']}] )",
    "<=D,>": f"(?<=[{FIRST['D']}{REST['D']}], )",
}
"""How each mark is written in a pattern."""


@lru_cache(maxsize=512)
def pattern(text: str) -> re.Pattern[str]:
    """A pattern over whole words: a space stands for any space, ``<F>`` for a mark."""
    text = text.replace("n't", "n'?t")
    for mark, meant in MARKS.items():
        text = text.replace(mark, meant)
    parts = AS_WRITTEN.split(text)
    spaced = "".join(part if AS_WRITTEN.fullmatch(part) else _spaced(part) for part in parts)
    return re.compile(rf"(?<![\w'])(?:{spaced})(?![\w'])")


def _spaced(words: str) -> str:
    return words.replace(" ?", r"[ \t]*").replace(" ", r"[ \t]+").replace(r"[[ \t]+\t]*", r"[ \t]*")


def lower(text: str) -> str:
    """Lower case, every character at its place; odd spaces are spaces unless they part thousands."""
    plain = (char.lower() for char in ODD_SPACE.sub(" ", text.replace("’", "'")))
    return "".join(low if len(low) == 1 else char for low, char in zip(plain, text, strict=True))


@dataclass
class MarkedLine:
    """The words as ``text``; ``low`` the same in lower case with marks over what was understood."""

    text: str
    low: str = ""
    covered: list[bool] = field(default_factory=list)

    def __post_init__(self) -> None:
        self.text = RUN_TOGETHER.sub(r"\1 ", MARK.sub(" ", self.text))
        self.low = lower(self.text)
        self.covered = [False] * len(self.text)

    def find(self, words: str) -> Iterator[re.Match[str]]:
        """Every place where a pattern stands in what is not yet understood, marks included."""
        yield from pattern(words).finditer(self.low)

    def first(self, words: str) -> re.Match[str] | None:
        """The first of them."""
        return pattern(words).search(self.low)

    def mark(self, start: int, end: int, kind: str) -> None:
        """Cover a stretch that was understood as such a thing."""
        if end > start:
            self.low = self.low[:start] + FIRST[kind] + REST[kind] * (end - start - 1) + self.low[end:]
            self.covered[start:end] = [True] * (end - start)

    def done(self, match: re.Match[str]) -> None:
        """Cover the words of a phrase; figures, loads and lengths in it stay what they are."""
        for index in range(match.start(), match.end()):
            if not MARK.match(self.low[index]):
                self.low = self.low[:index] + FIRST["X"] + self.low[index + 1 :]
                self.covered[index] = True

    def shield(self, start: int, end: int) -> None:
        """Keep words from being read: they stay a note, word for word."""
        for match in re.finditer(r"\S+", self.low[start:end]):
            first, last = start + match.start(), start + match.end()
            marks = FIRST["S"] + REST["S"] * (last - first - 1)
            self.low = self.low[:first] + marks + self.low[last:]
            self.covered[first:last] = [False] * (last - first)

    def undo(self, start: int, end: int) -> None:
        """Uncover words that were taken for a phrase and came to nothing."""
        plain = lower(self.text[start:end])
        kept = [
            char if MARK.match(char) and char != FIRST["X"] else said
            for char, said in zip(self.low[start:end], plain, strict=True)
        ]
        self.low = self.low[:start] + "".join(kept) + self.low[end:]
        for index in range(start, end):
            self.covered[index] = bool(MARK.match(self.low[index]))

    def clause(self, at: int) -> tuple[int, int]:
        """The bounds of the clause that holds a place of the line."""
        return next(((start, end) for start, end in self.clauses if start <= at < end), (0, len(self.text)))

    @property
    def clauses(self) -> list[tuple[int, int]]:
        """The line cut at commas, semicolons, full stops and dots in the middle."""
        bounds, start = [], 0
        for match in re.finditer(r"[,;·•|]|[.:!?](?=\s|$)|\s[-–—]\s", self.low):
            bounds.append((start, match.start()))
            start = match.end()
        bounds.append((start, len(self.text)))
        return [(start, end) for start, end in bounds if end > start]
