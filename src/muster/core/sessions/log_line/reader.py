"""A jotted line understood: it never refuses, and what it can't read stays a note, word for word."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace

from ...kit import Kit
from ...supply import System
from ..model import Event, EventName, Item, Length, LengthOf, Note, Reading, Start, Switch
from ..places import Place, Stat
from .draft import NEAR_NOMINAL
from .events import EXPLICIT_ALIASES, THING, Happened, Until, take_events
from .figures import MOST_DC_V, Lexed, lex
from .loads import DUTY, Mention, Talk, Unknown, take_mentions, take_signed, unknown_in
from .marks import FIRST, MARK, REST, MarkedLine
from .parting import parted, several_times
from .readings import Reader
from .telling import LENGTH_WORDS, slow_meters, tell, tell_when
from .times import Span, When, take_when
from .unreal import PLANNED, shield_claims, shield_falls

NOTE = re.compile(r"(?:^|[·,;|])\s*note:\s*", re.I)
MARKED = re.compile(r"(?:(?<=\s)|^)!(?P<name>[a-z_]+)(?P<rest>[^!@;]*)")
DETAIL_STOPS = re.compile(r"\s[+@!-](?=\w)|(?<![\w.])\d+(?:[.,]\d+)?\s?(?:v|a|w|kw|hz|%|c|f|db|dba|kwh|wh|l)\b")
FILLERS = frozenset(
    ["it", "its", "it's", "is", "was", "are", "were", "be", "at", "on", "the", "a", "an", "now", "so", "far", "and", "then", "of", "in", "to", "about", "around", "approx", "approximately", "roughly", "just", "still", "says", "say", "said", "reads", "read", "reading", "shows", "showing", "show", "pulling", "pulls", "drawing", "draws", "draw", "drawn", "sitting", "steady", "running", "giving", "gives", "give", "with", "left", "here", "i", "we", "got", "get", "from", "by", "for", "all", "up", "only", "dot", "total", "used", "using", "measured", "measures", "that", "this", "there", "than", "some", "me", "my", "he", "she", "they", "them", "output", "outlet", "out", "load", "loads", "source", "meter", "ok", "okay", "yes", "well", "also", "but", "again", "when", "as", "before", "after", "while", "or", "down", "over", "under", "near", "nearly", "almost", "currently", "presently", "today", "counter", "tank", "fuel", "left", "remaining", "gauge", "battery", "charge", "charger", "dc", "ac", "pv", "both", "leg", "each", "per", "per-leg", "minute", "cord", "plus", "minus", "around", "good", "fine", "meanwhile", "too", "she", "she's", "he's", "they're", "lasted", "we're", "took", "needed", "gen", "genset", "genny", "hz", "volts", "amps", "watts", "speed", "power", "frequency", "voltage", "roughly", "maybe", "between", "display"]
)  # fmt: skip
"""Words that carry nothing by themselves once the rest of the line is understood."""
SPOTTED = {"temp_c", "fuel_l", "dba"}
LONGEST_SPOT = 40
TO_HEAT = r"(?:took |takes |heated |boiled |it took )*(?P<d><D>)(?: to| for)*(?: heat| warm)(?: up)?|(?:took|heated (?:for|in)|heat(?:ing)? (?:for|time)) (?P<e><D>)(?: to (?:heat|warm)(?: up)?)?"
BOILED = (
    r"(?:<L> )?(?:boil(?:ed|s|ing)?|heated|took)(?: <F>(?: of water)?)?(?: in| after| for)? (?P<d><D>)(?: to boil)?"
)


EMPTY_PCT = 1.0
TIME_MARK = re.compile(f"{FIRST['T']}{REST['T']}*[,:]?")
ENDED_AFTER = re.compile(
    r"\b(?:off|out|down|back|trip\w*|died|quit|dark|held|itself|minute)(?: after| in| within| for)(?: about| around)*\s*$"
)
STILL_TO_COME = re.compile(
    r"\s*(?:left|remaining|to go|to (?:full|empty|charge|recharge|fill)|(?:un)?till? (?:full|empty|flat))\b"
)
"""``6.2 hours left``: what a display predicts, and nothing that was held."""
BURNT = re.compile(r"\b(?:used|burn(?:ed|t)|drank|drunk|went through)\b")
ADDED = re.compile(r"\b(?:put (?=[^,;]* in\b)|added|adding|put in|tipped in|poured in|chucked in)\b")
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


@dataclass(frozen=True)
class Doubt:
    """One question about a line: what is not sure, and lines that would say it plainly, each with its meaning."""

    question: str
    choices: tuple[tuple[str, str], ...]


@dataclass(frozen=True)
class Jotting:
    """A line understood: its items, when it was, and the understanding told back phrase by phrase.

    ``doubt`` is a question about it, ``unknown`` a load spoken of that is not on the list.
    """

    items: tuple[Item, ...]
    when: When = field(default_factory=When)
    told: tuple[str, ...] = ()
    doubt: Doubt | None = None
    unknown: str = ""

    @property
    def sentence(self) -> str:
        """The whole understanding as one line."""
        return " · ".join(self.told)


def read_line(
    line: str,
    names: Mapping[str, str],
    system: System,
    start_s: Mapping[str, float] | None = None,
    kit: Kit | None = None,
    *,
    on: Sequence[str] = (),
    alone: Sequence[str] = (),
    heats: bool = False,
    battery: bool = True,
) -> Jotting:
    """Understand a jotted line; never refuses.

    ``names`` maps the keys of the home's loads to their names, ``start_s`` to
    how long their start lasts [s]; with it the telling says what a meter must
    have missed. Each reading names its instrument: the one said, else the
    first of the ``kit`` that reads its quantity. ``on`` are the loads that run
    by the record, ``alone`` the loads that the plan now starts with nothing else
    on; ``heats`` if water is being heated, so that litres and seconds are of that;
    ``battery`` if the source has one, so that volts far from nominal are the battery's.
    """
    kit = kit or Kit()
    noted = NOTE.search(line)
    text = (line[noted.end() :].strip() or line.strip()) if noted else ""
    if noted:
        line = line[: noted.start()]
    if several_times(line) and len(parted(line)) == 1:
        return _of_several_times(line)
    reader = _LineReader(MarkedLine(line), names, system, kit, on=on, alone=alone, heats=heats, battery=battery)
    items = tuple(_named_by(item, kit) for item in _with_note(reader.run(), text))
    if not items and line.strip():
        items = (Note(line.strip()),)
    told = [*_told(items, names, system, kit), *slow_meters(items, start_s or {}, kit)]
    if reader.when.said:
        told = [tell_when(reader.when), *told]
    return Jotting(items, reader.when, tuple(told), reader.doubt, reader.unknown)


def _of_several_times(line: str) -> Jotting:
    """Figures of several times in one line: kept word for word, and asked."""
    said = line.strip()
    doubt = Doubt("Several times stand in this line: say each in a line of its own.", ())
    return Jotting((Note(said),), told=(f"note: {said}",), doubt=doubt)


def _with_note(items: Sequence[Item], text: str) -> list[Item]:
    """The items with a note said as such, in one with what was not understood."""
    texts = [item.text for item in items if isinstance(item, Note)] + ([text] if text else [])
    others: list[Item] = [item for item in items if not isinstance(item, Note)]
    return [*others, Note(", ".join(texts))] if texts else others


def _told(items: Sequence[Item], names: Mapping[str, str], system: System, kit: Kit) -> list[str]:
    """Each item told; everything switched together is told as one."""
    told = []
    for on in (False, True):
        alike = [item for item in items if isinstance(item, Switch) and item.on is on]
        if len(alike) > 2 and len(alike) == len(names):
            told.append(f"everything {'on' if on else 'off'}")
            items = [item for item in items if item not in alike]
    was_dc = False
    for item in items:
        words = tell(item, names, system, kit)
        if isinstance(item, Reading) and item.place is not Place.NONE:
            told.append(f"output {words}" if was_dc and item.place is Place.LEG1 and system.legs == 1 else words)
            was_dc = item.place.is_dc
        else:
            told.append(words)
    return told


class _LineReader:
    """Reads one line: times, loads, figures, events, and what is left."""

    def __init__(
        self,
        line: MarkedLine,
        names: Mapping[str, str],
        system: System,
        kit: Kit,
        *,
        on: Sequence[str],
        alone: Sequence[str],
        heats: bool,
        battery: bool,
    ) -> None:
        self.line, self.names, self.system, self.kit = line, names, system, kit
        self.on, self.alone, self.heats, self.battery = on, alone, heats, battery
        self.said: list[tuple[int, Item]] = []
        self.doubt: Doubt | None = None
        self.unknown = ""
        self.when = When()
        self.passed: list[Mention] = []

    def run(self) -> list[Item]:
        line = self.line
        if not PLANNED.match(line.low):
            self.when = take_when(line)
        shield_claims(line)
        shield_falls(line, self.system.v_nominal)
        self._explicit()
        for at, item in take_signed(line, self.names):
            if isinstance(item, Unknown):
                self.unknown = item.name
            else:
                self.said.append((at, item))
        mentions = take_mentions(line, self.names)
        nominal = self.system.v_nominal
        lexed = lex(line, (0.4 * nominal, 1.15 * nominal))
        if self.system.hz != 60:
            for figure in (figure for figure in lexed.figures if figure.quantity == "degrees"):
                figure.of("temp_c")  # where mains is 50 Hz nobody reads Fahrenheit
        reader = Reader(
            line=line,
            figures=lexed.figures,
            system=self.system,
            kit=self.kit,
            held=bool(lexed.spans),
            battery=self.battery,
            heats=self.heats,
        )
        self._mark_dc(lexed)
        strangers: list[str] = []
        happened = list(take_events(line, strangers))
        lexed.figures[:] = [
            f for f in lexed.figures if f.quantity or self.line.low[f.start] == FIRST["N"]
        ]  # ``error 12``
        readings = reader.run()
        self._ask_which_leg(reader.of_no_leg)
        self._off_when_empty(happened, readings)
        happened = self._engine_stalls(happened, mentions, readings)
        self._cut_offs(happened, readings)
        self._refilled(happened, readings)
        self._lengths(lexed, happened, readings)
        self._ask_bare_off()
        if strangers:
            self._ask_whose_end(strangers[0])
        self._loads(mentions, happened, readings)
        self._events(happened)
        self._own_watts(mentions, readings)
        self._warm_spot(happened, readings)
        self.said += readings
        notes = self._notes(readings)
        self.said.sort(key=lambda pair: pair[0])
        self._degrees(lexed)
        return [item for _, item in self.said] + notes

    # !words, as the keys of the bench write them

    def _explicit(self) -> None:
        for match in list(MARKED.finditer(self.line.low)):
            name = match["name"]
            rest = self.line.text[match.start("rest") : match.end("rest")]
            stop = DETAIL_STOPS.search(rest.lower())
            detail = rest[: stop.start()] if stop else rest
            self.said.append((match.start(), Event(EXPLICIT_ALIASES.get(name, name), " ".join(detail.split()))))
            self.line.mark(match.start(), match.start("rest") + len(detail), "X")

    # what the figures are marked as before the phrases are looked for

    def _mark_dc(self, lexed: Lexed) -> None:
        nominal = self.system.v_nominal
        for figure in lexed.figures:
            of_output = any(abs(figure.value - times * nominal) <= NEAR_NOMINAL * nominal for times in (1, 2))
            if figure.quantity == "v" and not of_output and figure.value <= MOST_DC_V:
                self.line.mark(figure.start, figure.end, "V")
            elif (
                not figure.quantity
                and re.search(
                    r"\b(?:off|back|cut|cut[- ]?off|out|reached|reaches|hit|hits|got)(?: at| by| to)?\s*$",
                    self.line.low[: figure.start],
                )
                and figure.value <= MOST_DC_V
                and figure.step < 1
            ):
                figure.of("v")
                self.line.mark(figure.start, figure.end, "V")

    def _cut_offs(self, happened: Sequence[Happened], readings: list[tuple[int, Reading]]) -> None:
        """Volts at which the output went or came back are of the DC side."""
        for event in happened:
            if event.name not in (EventName.CUT_OFF, EventName.BACK):
                continue
            for index, (at, reading) in enumerate(readings):
                if reading.quantity == "v" and 0 <= at - event.end <= 1 and reading.value <= MOST_DC_V:
                    readings[index] = (at, replace(reading, place=Place.DC))

    def _off_when_empty(self, happened: list[Happened], readings: Sequence[tuple[int, Reading]]) -> None:
        """``0% 1.93kwh off``, ``shows F11, off``: a battery at its end, or a fault, and the bare word are the end of the run."""
        empty = any(reading.quantity == "soc_pct" and reading.value <= EMPTY_PCT for _, reading in readings)
        empty = empty or any(event.name is EventName.CODE for event in happened)
        if not empty or any(event.name is EventName.TRIP for event in happened):
            return
        match = self.line.first(r"(?:and |then |went )*off(?= ?$| ?[,;.])")
        if match and not re.search(
            r"[\ue004\ue005]|\b(?:turned|switched|the|plugged)\b", self._clause_before(match.start())
        ):
            happened.append(Happened(EventName.TRIP, "", match.start(), match.end(), Until.NOTHING))
            self.line.done(match)

    def _clause_before(self, at: int) -> str:
        """What stands in the clause before a place."""
        return self.line.low[self.line.clause(at)[0] : at]

    def _engine_stalls(
        self, happened: Sequence[Happened], mentions: Sequence[Mention], readings: Sequence[tuple[int, Reading]]
    ) -> list[Happened]:
        """``stalled at 3.8kw``: of no motor, and so the engine."""
        loaded = any(reading.quantity in ("w", "va") and reading.value > 0 for _, reading in readings)
        if mentions or not loaded:
            return list(happened)
        return [
            replace(event, name=EventName.TRIP, detail="engine stopped", until=Until.TRIP)
            if event.name is EventName.STALL and self.line.text[event.start :].lower().startswith("stall")
            else event
            for event in happened
        ]

    def _refilled(self, happened: list[Happened], readings: Sequence[tuple[int, Reading]]) -> None:
        """``added 1.5 gal``: of fuel, though nobody says so."""
        match = next(
            (
                verb
                for at, reading in readings
                if reading.quantity == "fuel_l" and (verb := ADDED.search(self.line.low, *self.line.clause(at)))
            ),
            None,
        )
        if match and not any(event.name is EventName.REFILL for event in happened):
            happened.append(Happened(EventName.REFILL, "", match.start(), match.end(), Until.NOTHING))
            self.line.done(match)

    # how long

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
            led = [s for s in spans if s.end <= event.start and not self.line.low[s.end : event.start].strip(" /")] or [
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

    # what was switched and started

    def _loads(
        self, mentions: Sequence[Mention], happened: Sequence[Happened], readings: list[tuple[int, Reading]]
    ) -> None:
        names = {event.name for event in happened}
        failed = bool(names & {EventName.STALL, EventName.TRIP})
        marked = {item.name for _, item in self.said if isinstance(item, Event)}
        failed = failed or bool(marked & {"stall", "trip"})
        dipped = any(
            reading.stat in (Stat.LOWEST, Stat.HIGHEST, Stat.SETTLED, Stat.BEFORE)
            and reading.quantity in ("v", "a", "hz", "w", "va")
            for _, reading in readings
        )
        talk = Talk(self.line, mentions, self.names, self.on)
        for event in happened:
            if event.name is EventName.REPLUG:
                back = [m for m in mentions if event.start <= m.start < event.end]
                self.said += [(m.start, Switch(m.key, on=True)) for m in back]
            if event.name in (EventName.FLICKER, EventName.REPLUG):
                talk.used |= {m.start for m in mentions if event.start <= m.start < event.end}
        stats = {reading.stat for _, reading in readings if reading.quantity == "v"}
        flickered = EventName.FLICKER in names
        talk.run(
            flickered=flickered,
            failed=failed,
            dipped=dipped,
            fell=Stat.LOWEST in stats and bool(stats & {Stat.BEFORE, Stat.SETTLED}),
        )
        self.said += talk.items
        self.passed = [m for m in mentions if m.start not in talk.used]
        if (
            talk.held_by
            and not {EventName.HELD, EventName.STALL, EventName.TRIP} & names
            and not marked & {"held", "stall", "trip"}
        ):
            self.said.append((talk.held_by[0], Event(EventName.HELD)))
        starts = [item for _, item in talk.items if isinstance(item, Start)]
        if starts:
            for match in list(
                self.line.find(r"alone|on its own|by itself|on top(?: of (?:the )?(?:<L>|it|that|them|<X>))?")
            ):
                self.line.done(match)
        if starts and EventName.STALL in names:
            self._stalled_at(readings)
        if self.unknown == "" and (unknown := unknown_in(self.line)):
            self.unknown = unknown.name
        self._ask_alone(starts)

    def _stalled_at(self, readings: list[tuple[int, Reading]]) -> None:
        """Volts read while a motor stood still are the lowest of its start."""
        volts = [
            index for index, (_, reading) in enumerate(readings) if reading.quantity == "v" and not reading.place.is_dc
        ]
        if len(volts) == 1 and readings[volts[0]][1].stat is Stat.STEADY:
            at, reading = readings[volts[0]]
            readings[volts[0]] = (at, replace(reading, stat=Stat.LOWEST))

    def _ask_whose_end(self, stranger: str) -> None:
        """``mains side dead``: something went off that may not be the source."""
        raw = self.line.text.strip()
        self.doubt = Doubt(
            f"Was it the source that went off, or the {stranger} alone?",
            (("the source tripped", f"{raw} !trip"), ("not the source", f"note: {raw}")),
        )

    def _ask_which_leg(self, stretches: Sequence[tuple[int, int]]) -> None:
        """``heavy leg 112, other 127``: of which leg each is, asked and not guessed."""
        if len(stretches) != 2:
            return
        raw = self.line.text
        (a, b), (c, d) = stretches
        choices = tuple(
            (f"leg {first}, then leg {second}", f"l{first} {raw[a:b].strip()}, l{second} {raw[c:d].strip()}")
            for first, second in ((1, 2), (2, 1))
        )
        self.doubt = Doubt("Which leg is each of?", choices)

    def _ask_bare_off(self) -> None:
        """``06:02 off``: by itself, or by somebody's hand?"""
        if not re.fullmatch(r"(?:and |then )*off\W*", TIME_MARK.sub("", self.line.low).strip()):
            return
        raw = self.line.text.strip()
        self.doubt = Doubt(
            "Did it go off by itself, or was it switched off?",
            (("by itself", f"{raw} !trip"), ("switched off", f"{raw} by hand")),
        )

    def _ask_alone(self, starts: Sequence[Start]) -> None:
        """A start that the plan wants alone, while others run by the record: asked, not guessed."""
        started = [start.load for start in starts]
        others = [self.names.get(key, key) for key in self.on if key not in started]
        if len(starts) == 1 and starts[0].load in self.alone and others and not starts[0].alone:
            raw = self.line.text.strip()
            if re.search(r"\b(?:on top|over|with|on) \b", raw):
                return
            self.doubt = Doubt(
                f"{', '.join(others)} {'is' if len(others) == 1 else 'are'} still on by the record.",
                (("started alone", f"{raw} alone"), ("started on top", f"{raw} on top")),
            )

    def _events(self, happened: Sequence[Happened]) -> None:
        """Each event once; a trip by a breaker or an engine says so."""
        kept: dict[str, tuple[int, Event]] = {}
        back = any(event.name is EventName.BACK for event in happened)
        for event in sorted(happened, key=lambda e: e.start):
            if event.name is EventName.RESET and back:
                continue
            name = event.name.value
            before = kept.get(name)
            if before is None:
                kept[name] = (event.start, Event(name, event.detail))
            elif event.detail and event.detail not in before[1].detail and name != EventName.DISPLAY:
                both = f"{before[1].detail}, {event.detail}".strip(", ")
                kept[name] = (before[0], Event(name, both))
        given = {item.name for _, item in self.said if isinstance(item, Event)}
        self.said += [(at, event) for at, event in kept.values() if event.name not in given]

    def _own_watts(self, mentions: Sequence[Mention], readings: list[tuple[int, Reading]]) -> None:
        """``2kw kettle on``: the kettle's own watts, as words before its name; asked, and until then no reading."""
        for index, (at, reading) in enumerate(readings):
            start, stop = self.line.clause(at)
            later = any(other.quantity == "w" and place > stop for place, other in readings)
            after_load = any(m.end == len(self.line.low[:at].rstrip()) for m in mentions)
            if reading.quantity == "w" and later and after_load and self.line.low[stop : stop + 1] == ":":
                del readings[index]  # ``added heater 1kw: 3.3kw``: what the load is, and then what was read
                self.line.shield(at, stop)
                return
            if reading.quantity != "w" or reading.place.is_dc or TIME_MARK.sub("", self.line.low[start:at]).strip():
                continue
            end = at + len(re.match(r"[\ue000-\ue00d]*", self.line.low[at:])[0])  # type: ignore[index]
            mention = next((m for m in mentions if m.start > at and not self.line.low[end : m.start].strip()), None)
            if mention is None or _said_of(self.said, mention.start) is None:
                continue
            raw = self.line.text
            figure, name = raw[at:end].strip(), raw[mention.start : mention.end]
            rest = (raw[:at] + raw[mention.start :]).strip()
            self.doubt = self.doubt or Doubt(
                f"{figure}: measured, or the {name}'s own?",
                (("measured", f"{raw[:at]}{figure}, {raw[mention.start :]}".strip()), (f"the {name}'s own", rest)),
            )
            del readings[index]
            self.line.shield(at, end)
            return

    def _warm_spot(self, happened: Sequence[Happened], readings: list[tuple[int, Reading]]) -> None:
        """``plug warm, 48 degrees``: the degrees are of the plug."""
        warm = [event.detail for event in happened if event.name is EventName.WARM and event.detail]
        temps = [index for index, (_, r) in enumerate(readings) if r.quantity == "temp_c" and not r.spot]
        if len(warm) == len(temps) == 1 and readings[temps[0]][1].stat is Stat.STEADY:
            at, reading = readings[temps[0]]
            readings[temps[0]] = (at, replace(reading, spot=warm[0]))

    # what is left

    def _degrees(self, lexed: Lexed) -> None:
        """Degrees of no scale, where mains is 60 Hz: taken for Celsius, and asked."""
        for figure in (f for f in lexed.figures if f.quantity == "degrees"):
            figure.of("temp_c")
            reading = Reading(quantity="temp_c", value=figure.value, resolution=figure.resolution)
            self.said.append((figure.start, reading))
            raw, number = self.line.text.strip(), f"{figure.number:g}"
            bare = rf"{re.escape(number)}\s*(?:degrees?|deg|°)"
            choices = tuple((f"°{scale}", re.sub(bare, f"{number} {scale}", raw, count=1)) for scale in "CF")
            self.doubt = self.doubt or Doubt(f"{number} degrees: Celsius or Fahrenheit?", choices)

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


def _said_of(said: Sequence[tuple[int, Item]], at: int) -> Item | None:
    """What is said of the load that stands at a place: switched or started."""
    return next((item for place, item in said if place == at and isinstance(item, Switch | Start)), None)


def _named_by(item: Item, kit: Kit) -> Item:
    """A reading with its instrument's name on it; anything else as it is."""
    if not isinstance(item, Reading) or item.instrument:
        return item
    return replace(item, instrument=kit.usual_for(item.measured).slug)
