"""What of a line was not understood: notes, word for word, and where a lone temperature or level was read."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import replace

from ..model import Item, Note, Reading
from .events import THING
from .loads import Mention
from .marks import FIRST, MARK, MarkedLine

FILLERS = frozenset(
    ["it", "its", "it's", "is", "was", "are", "were", "be", "at", "on", "the", "a", "an", "now", "so", "far", "and", "then", "of", "in", "to", "about", "around", "approx", "approximately", "roughly", "just", "still", "says", "say", "said", "reads", "read", "reading", "shows", "showing", "show", "pulling", "pulls", "drawing", "draws", "draw", "drawn", "sitting", "steady", "running", "giving", "gives", "give", "with", "left", "here", "i", "we", "got", "get", "from", "by", "for", "all", "up", "only", "dot", "total", "used", "using", "measured", "measures", "that", "this", "there", "than", "some", "me", "my", "he", "she", "they", "them", "output", "outlet", "out", "load", "loads", "source", "meter", "ok", "okay", "yes", "well", "also", "but", "again", "when", "as", "before", "after", "while", "or", "down", "over", "under", "near", "nearly", "almost", "currently", "presently", "today", "counter", "tank", "fuel", "left", "remaining", "gauge", "battery", "charge", "charger", "dc", "ac", "pv", "both", "leg", "each", "per", "per-leg", "minute", "cord", "plus", "minus", "around", "good", "fine", "meanwhile", "too", "she", "she's", "he's", "they're", "lasted", "we're", "took", "needed", "gen", "genset", "genny", "hz", "volts", "amps", "watts", "speed", "power", "frequency", "voltage", "roughly", "maybe", "between", "display"]
)  # fmt: skip
"""Words that carry nothing by themselves once the rest of the line is understood."""
SPOTTED = {"temp_c", "fuel_l", "dba"}
LONGEST_SPOT = 40


class Leftover:
    """Keeps what nobody understood."""

    line: MarkedLine
    said: list[tuple[int, Item]]
    passed: list[Mention]

    def _notes(self, readings: list[tuple[int, Reading]]) -> list[Item]:
        """Words that were not understood, clause by clause; beside a lone temperature or level they say where."""
        notes: list[Item] = []
        for start, end in self.line.clauses:
            left = self._left_in(start, end)
            if left is None:
                self._spot(start, end, self._thing_in(start, end), readings)
                continue
            text = self.line.text[left[0] : left[1]].strip(" ,;·:.-–—")
            if self._spot(start, end, text, readings):
                continue
            notes.append(Note(text))
        return [Note(self._joined(notes))] if len(notes) > 1 else notes

    def _joined(self, notes: Sequence[Item]) -> str:
        """Notes that stood side by side, as they stood."""
        texts = [note.text for note in notes if isinstance(note, Note)]
        begin, finish = self.line.text.find(texts[0]), self.line.text.find(texts[-1])
        between = self.line.text[begin : finish + len(texts[-1])] if 0 <= begin <= finish else ""
        covered = any(self.line.covered[begin : finish + len(texts[-1])]) if between else True
        return between if between and not covered else ", ".join(texts)

    def _left_in(self, start: int, end: int) -> tuple[int, int] | None:
        words = [
            m
            for m in re.finditer(r"[^\s,;·:!?()\"]+", self.line.low[start:end])
            if not MARK.search(m[0]) or self._uncovered(start + m.start(), start + m.end())
        ]
        content = [m for m in words if self._is_content(start + m.start(), m[0])]
        if not content:
            return None
        first, last = start + content[0].start(), start + content[-1].end()
        index = words.index(content[0])
        while index and self._goes_on(start + words[index - 1].start(), first):
            index -= 1
            first = start + words[index].start()
        index = words.index(content[-1])
        while index < len(words) - 1 and self._goes_on(last, start + words[index + 1].end()):
            index += 1
            last = start + words[index].end()
        return first, last

    def _goes_on(self, start: int, end: int) -> bool:
        """Whether a stretch belongs to the note beside it: not understood, or a load of which nothing was said."""
        loads = [i for m in self.passed for i in range(m.start, m.end)]
        return not any(self.line.covered[i] and i not in loads for i in range(start, end))

    def _thing_in(self, start: int, end: int) -> str:
        """The thing a clause names in words that else carry nothing: ``41c cord``."""
        match = re.search(rf"\b{THING}\b", self.line.low[start:end])
        return self.line.text[start + match.start() : start + match.end()] if match else ""

    def _uncovered(self, start: int, end: int) -> bool:
        """Whether it is a load or a number that nothing was made of."""
        return self.line.low[start] == FIRST["L"] or any(FIRST[kind] in self.line.low[start:end] for kind in "NS")

    def _is_content(self, at: int, word: str) -> bool:
        """Whether a word carries something by itself; the name of a load does not."""
        plain = word.strip(".'~=-–—<>/@&+*")
        return bool(plain) and plain not in FILLERS and self.line.low[at] != FIRST["L"]

    def _spot(self, start: int, end: int, text: str, readings: list[tuple[int, Reading]]) -> bool:
        mine = [index for index, (at, _) in enumerate(readings) if start <= at < end]
        others = [item for at, item in self.said if start <= at < end and not isinstance(item, Reading)]
        if not text or len(mine) != 1 or others or len(text) >= LONGEST_SPOT:
            return False
        at, reading = readings[mine[0]]
        if reading.quantity not in SPOTTED or re.search(r"\d", text):
            return False
        spotted = replace(reading, spot="" if text == "fuel" else text)
        readings[mine[0]] = (at, spotted)
        self.said = [(a, spotted if item is reading else item) for a, item in self.said]
        return True
