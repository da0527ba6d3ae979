"""How long things took in a line, and of what each length is."""

from __future__ import annotations

import re
from collections.abc import Sequence

from ..model import Item, Length, LengthOf, Reading
from ..places import Stat
from .events import Happened, Until
from .figures import Lexed
from .leftover import FILLERS
from .loads import DUTY
from .marks import FIRST, REST, MarkedLine
from .telling import LENGTH_WORDS
from .times import Span

TO_HEAT = r"(?:took |takes |heated |boiled |it took )*(?P<d><D>)(?: to| for)*(?: heat| warm)(?: up)?|(?:took|heated (?:for|in)|heat(?:ing)? (?:for|time)) (?P<e><D>)(?: to (?:heat|warm)(?: up)?)?"
BOILED = (
    r"(?:<L> )?(?:boil(?:ed|s|ing)?|heated|took)(?: <F>(?: of water)?)?(?: in| after| for)? (?P<d><D>)(?: to boil)?"
)


ENDED_AFTER = re.compile(
    r"\b(?:off|out|down|back|trip\w*|died|quit|dark|held|itself|minute)(?: after| in| within| for)(?: about| around)*\s*$"
)
STILL_TO_COME = re.compile(
    r"\s*(?:left|remaining|to go|to (?:full|empty|charge|recharge|fill)|(?:un)?till? (?:full|empty|flat))\b"
)
"""``6.2 hours left``: what a display predicts, and nothing that was held."""
NEARLY_HELD = re.compile(r"\b(?:nearly|almost|not|never|didn.?t) (?:quite )?(?:held|hold)\b[^,;.]*$")
"""``nearly held 5 min``: it was not held so long."""
BURNT = re.compile(r"\b(?:used|burn(?:ed|t)(?! (?:smell|plastic|out))|drank|drunk|went through)\b")
INTO_IT = re.compile(r"\s*(?:in|into)\b(?! total)")
"""``40 mins in``: when it was, since the start."""
WATERY = re.compile(r"\b(?:water|kettle|microwave|boil\w*|heat(?:ed|ing)?|tea|cup|pan)\b")
WAITED = re.compile(
    r"\b(?:in|at|after|by|until|till|from|every|warmed up|warm[ -]up|waited|wait|rest(?:ed)?|cooled|cool(?:ing)?(?: down)?"
    r"|paused?|break|stopped|off|idle|idling|later|needed)(?: for| of| about)*\s*$"
)
"""What stands before a length that nothing was held for: ``at 10 min``, ``off 12 min``."""
CYCLES = re.compile(r"\b(?:runs|cycles)(?: for| about)*\s*$")
THEN_OFF = re.compile(r"[\s,]*(?:then|and)?[\s,]*off\b")
RAN = re.compile(
    r"\b(?:for|ran|run|running|runs|on|been|held|over|lasted|stood|carried|kept|going)(?: for| about| a good)*\s*$"
)

LED_TO = re.compile(r"[ /,]*(?:(?:and )?(?:then|until|till|before)(?: it| all)?)?[ /,]*")
"""Between a length of time and the trip that ended it."""


class Lengths:
    """Gives the lengths of a line what they are of."""

    line: MarkedLine
    said: list[tuple[int, Item]]
    heats: bool

    def _lengths(self, lexed: Lexed, happened: Sequence[Happened], readings: list[tuple[int, Reading]]) -> None:
        shielded = FIRST["S"] + REST["S"]
        spans = [
            span for span in lexed.spans if self.line.low[span.start] not in shielded and not self._told_length(span)
        ]
        self._heating(spans, readings)
        for event in sorted(happened, key=lambda e: e.start):
            span = self._span_of(event, spans)
            if span is not None:
                spans.remove(span)
                self._length(span, LengthOf(event.until.value))
        cycles = [match.span() for match in self.line.find(DUTY)]
        spans = [span for span in spans if not any(start <= span.start < end for start, end in cycles)]
        powers = [at for at, reading in readings if reading.quantity in ("w", "a", "va")]
        for span in spans:
            before = self.line.text[: span.start].lower()
            beside = bool(
                (WAITED.search(before) and not self._of_fuel(readings, before))
                or INTO_IT.match(self.line.low, span.end)
                or STILL_TO_COME.match(self.line.low, span.end)
            )
            if NEARLY_HELD.search(before):
                beside = True
            if CYCLES.search(before) and THEN_OFF.match(self.line.low, span.end):
                beside = True  # ``runs 4 min then off``: how it cycles
            if not beside and (
                powers or self._of_fuel(readings, before) or RAN.search(before) or self._nothing_else(span)
            ):
                self._length(span, LengthOf.HELD)
            else:
                self.line.shield(span.start, span.end)  # ``let it rest 10 min``: no length of what ran

    def _of_fuel(self, readings: Sequence[tuple[int, Reading]], before: str) -> bool:
        """``used 0.4 gal in 1 h``: how long the fuel lasted for."""
        return bool(BURNT.search(before)) and any(reading.quantity == "fuel_l" for _, reading in readings)

    def _told_length(self, span: Span) -> bool:
        """``until it tripped: 38 s``: a length as it is told back."""
        before = self.line.text[: span.start].lower().rstrip(" :")
        of = next(
            (of for of, words in LENGTH_WORDS.items() if before.endswith(words.rstrip(":")) and " " in words), None
        )
        if of is not None:
            self._length(span, of)
            self.line.mark(len(before) - len(LENGTH_WORDS[of].rstrip(":")), span.start, "X")
        return of is not None

    def _span_of(self, event: Happened, spans: Sequence[Span]) -> Span | None:
        """The length of time that belongs to an event: right after it, else before it in a way that says so."""
        if event.until is Until.NOTHING:
            return None
        gap = r"[\s,/–\ue000-\ue00d-]*(?:(?:after|in|within|for|about|around|at|fine|ok|only|and|it|just|again)[\s,/–\ue000\ue001\ue008-\ue00d-]*)*"
        after = [s for s in spans if s.start >= event.end - 1 and re.fullmatch(gap, self.line.low[event.end : s.start])]
        if after:
            return after[0]
        if event.until is Until.HELD:
            before = [
                s
                for s in spans
                if s.end <= event.start
                and re.fullmatch(
                    r"[\s,]*(?:(?:and|to|until|then|before|when)(?: it)?[\s,]*)?",
                    self.line.text[s.end : event.start].lower(),
                )
            ]
            return before[-1] if before else None
        if event.until is Until.TRIP:
            led = [
                s for s in spans if s.end <= event.start and LED_TO.fullmatch(self.line.low[s.end : event.start])
            ] or [
                s
                for s in spans
                if s.end <= event.start
                and re.search(
                    r"\b(?:ran|held|lasted|managed|stood|on|after|only|for|got)(?: for| about| only| just)*\s*$",
                    self.line.text[: s.start].lower(),
                )
                and not re.search(r"[,;·]", self.line.text[s.end : event.start].replace(", then", " then"))
            ]
            return led[-1] if led else None
        return None

    def _heating(self, spans: list[Span], readings: list[tuple[int, Reading]]) -> None:
        """Seconds that water was heated for."""
        quantities = [reading.quantity for _, reading in readings]
        pair = (
            sum(reading.stat in (Stat.BEFORE, Stat.SETTLED) and reading.quantity == "temp_c" for _, reading in readings)
            == 2
        )
        for words, heated in ((TO_HEAT, True), (BOILED, False)):
            for match in list(self.line.find(words)):
                at = match.start("d") if match["d"] else match.start("e")
                span = next((s for s in spans if s.start == at), None)
                of_water = self.heats or pair or "water_kg" in quantities or WATERY.search(self.line.text.lower())
                if span is None or not of_water:
                    continue  # ``left it 5 min to warm``
                spans.remove(span)
                if heated:
                    readings.append((span.start, self._heat_s(span)))
                else:
                    self._length(span, LengthOf.HEATED)
                self.line.done(match)
        for span in list(spans):
            if ENDED_AFTER.search(self.line.text[: span.start].lower()):
                continue
            seconds = span.bare_unit.startswith("s")
            alone = seconds and not readings and self._nothing_else(span)
            if (
                (seconds and ("water_kg" in quantities or pair))
                or (pair and "water_kg" in quantities)
                or alone
                or (pair and re.search(r"\b(?:in|took|after)\s*$", self.line.text[: span.start].lower()))
                or (self.heats and (pair or "water_kg" in quantities or alone))
            ):
                spans.remove(span)
                readings.append((span.start, self._heat_s(span)))
                self.line.mark(span.start, span.end, "X")

    def _heat_s(self, span: Span) -> Reading:
        return Reading(quantity="heat_s", value=span.seconds, resolution=span.resolution_s)

    def _nothing_else(self, span: Span) -> bool:
        rest = self.line.text[: span.start] + self.line.text[span.end :]
        return all(word in FILLERS for word in re.findall(r"[\w']+", rest.lower()))

    def _length(self, span: Span, of: LengthOf) -> None:
        self.said.append((span.start, Length(round(span.seconds, 9), of, round(span.resolution_s, 9))))
        self.line.mark(span.start, span.end, "X")
