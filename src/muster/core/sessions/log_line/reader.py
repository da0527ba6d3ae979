"""A jotted line understood: it never refuses, and what it can't read stays a note, word for word."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace

from ...kit import Kit
from ...supply import System
from ..model import Event, EventName, Item, Note, Reading, Start, Switch
from ..places import Place, Stat
from .draft import NEAR_NOMINAL
from .endings import before_the_trip, drop_listed_watts, ended_by_a_code
from .events import EXPLICIT_ALIASES, Happened, Until, take_events
from .figures import MOST_DC_V, Lexed, lex
from .leftover import Leftover
from .lengths import BURNT, Lengths
from .loads import Mention, Talk, Unknown, take_mentions, take_signed, unknown_in
from .looked import looked_in
from .marks import FIRST, MARK, REST, MarkedLine
from .parting import parted, several_times
from .readings import Reader
from .spelling import spelt_out
from .stats import LEAST_SETTLED
from .telling import slow_meters, tell, tell_when
from .times import When, take_when
from .unreal import PLANNED, shield_claims, shield_falls

LONGEST_LINE = 1000
"""Nobody jots more in one line; to read one takes time that grows with its length."""
NOTE = re.compile(r"(?:^|[·,;|])\s*note:\s*", re.I)
MARKED = re.compile(r"(?:(?<=\s)|^)!(?P<name>[a-z_]+)(?P<rest>[^!@;]*)")
DETAIL_STOPS = re.compile(r"\s[+@!-](?=\w)|(?<![\w.])\d+(?:[.,]\d+)?\s?(?:v|a|w|kw|hz|%|c|f|db|dba|kwh|wh|l)\b")
EMPTY_PCT = 1.0
TIME_MARK = re.compile(f"{FIRST['T']}{REST['T']}*[,:]?")
TOOK = re.compile(r"\b(?:took|takes|needed|swallowed|drank)\b", re.I)
STRUGGLES = frozenset({EventName.BOG, EventName.DIP, EventName.FLICKER, EventName.STALL})
"""What is said of a start beside volts far below nominal: those are the lowest of its dip."""
TO_THE_TOP = re.compile(r"\bto (?:the )?(?:brim|top|neck|fill)(?: it| up)*\b|\bto (?:be )?full\b")
"""``took 2.4 l to the brim``: it is full again."""
RECOVERED = r"(?:and |but |then |it )*(?:recovered|picked (?:back )?up|pulled through|came (?:back )?up|got going|start(?:ed|s)(?: up)?|ok|okay|fine|all good|easily|no (?:trouble|problem|bother))(?: ok| fine| again| quickly| slowly| in the end)?(?= ?$| ?[,;.–-])"
FAILED = r"(?:and |but |it )*(?:failed|fails?|no go|no joy|gave up|would not go)(?: to start)?(?= ?$| ?[,;.–-])"
NOT_QUITE = re.compile(r"(?:\b(?:not|never|barely|nearly|almost|hardly|wasn.?t|isn.?t|hasn.?t|didn.?t|no))\s*$", re.I)
"""Before a good word it says the contrary."""
OF_ELSE = re.compile(r"[a-z']\s*$")
"""A word left before it says of what it was good: ``lights ok`` is no start that held."""
BENEATH = re.compile(
    r"[\d.,\s]+k?w(?:atts?)?\b (?:of (?:load|base) )?(?:is |was )?(?:already )?(?:on(?! (?:the|its|my|a|an|leg|l[12]|screen|display|meter)\b)|running|base|beneath|underneath|already)\b",
    re.I,
)
ON_TOP_OF = re.compile(r"\b(?:on top of|over a base of|on a base of|with a base of)(?: about)? $", re.I)
"""Watts that ran already when something started: its base."""
SO_FAR = r"(?:since the start|so far|in all|all told|altogether|in total)"
HOT_AGAIN = re.compile(r"\b(?:hot|while (?:still )?warm)\b", re.I)
TOLD_BURNT = re.compile(r"\bburnt(?: so far)? · $")
"""As it is told back before the litres."""
AGAIN = re.compile(
    r"^[^a-z0-9]*(?:and |then |try |tried |once |same |now |hot,? |warm,? )*(?:again|once more|(?:a )?(?:2nd|3rd|4th|second|third|fourth|another)(?: (?:time|try|go|start|one))?)\b"
)
"""How a line begins that is of the load started last, tried once more."""
ADDED = re.compile(r"\b(?:put (?=[^,;]* in\b)|added|adding|put in|tipped in|poured in|chucked in)\b")


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
    again: str = "",
) -> Jotting:
    """Understand a jotted line; never refuses.

    ``names`` maps the keys of the home's loads to their names, ``start_s`` to
    how long their start lasts [s]; with it the telling says what a meter must
    have missed. Each reading names its instrument: the one said, else the
    first of the ``kit`` that reads its quantity. ``on`` are the loads that run
    by the record, ``alone`` the loads that the plan now starts with nothing else
    on; ``heats`` if water is being heated, so that litres and seconds are of that;
    ``battery`` if the source has one, so that volts far from nominal are the battery's;
    ``again`` is the load that was started last, of which a line speaks that begins so.
    """
    kit = kit or Kit()
    line = spelt_out(line, system)
    looked = _looked_at(line, names, system, kit)
    if looked is not None:
        return looked
    noted = NOTE.search(line)
    text = (line[noted.end() :].strip() or line.strip()) if noted else ""
    if noted:
        line = line[: noted.start()]
    if len(line) > LONGEST_LINE:
        return _kept_and_asked(line, "This line is too long to be read: say it in several.")
    if several_times(line) and len(parted(line)) == 1:
        return _kept_and_asked(line, "Several times stand in this line: say each in a line of its own.")
    reader = _LineReader(
        MarkedLine(line), names, system, kit, on=on, alone=alone, heats=heats, battery=battery, again=again
    )
    items = tuple(_named_by(item, kit) for item in _with_note(reader.run(), text))
    if not items and line.strip():
        items = (Note(line.strip()),)
    told = [*_told(items, names, system, kit), *slow_meters(items, start_s or {}, kit)]
    if reader.when.said:
        told = [tell_when(reader.when), *told]
    return Jotting(items, reader.when, tuple(told), reader.doubt, reader.unknown)


def _looked_at(line: str, names: Mapping[str, str], system: System, kit: Kit) -> Jotting | None:
    """A line that answers a point of an inspection, with nothing before it but when that was; what was read in its note counts too."""
    answer = looked_in(line) if len(line) <= LONGEST_LINE else None
    if answer is None:
        return None
    before, looked, further = answer
    marked = MarkedLine(before)
    when = take_when(marked)
    if MARK.sub("", marked.low).strip(" \t,;:-–"):
        return None
    noted = read_line(looked.note, names, system, kit=kit) if looked.note else Jotting(())
    others = read_line(further, names, system, kit=kit) if further else Jotting(())
    items = (looked, *_of_a_run(noted.items), *others.items)
    told = _told(items, names, system, kit)
    return Jotting(
        items,
        when,
        (*((tell_when(when),) if when.said else ()), *told),
        noted.doubt or others.doubt,
        noted.unknown or others.unknown,
    )


def _of_a_run(items: Sequence[Item]) -> list[Item]:
    """What was read in the note of a point; amps alone are what a part is rated for."""
    own: list[Item] = [item for item in items if not isinstance(item, Note)]
    rated = all(isinstance(item, Reading) and item.quantity == "a" for item in own)
    return [] if rated else own


def _kept_and_asked(line: str, question: str) -> Jotting:
    """A line kept word for word, with a question about all of it."""
    said = line.strip()
    return Jotting((Note(said),), told=(f"note: {said}",), doubt=Doubt(question, ()))


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


class _LineReader(Lengths, Leftover):
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
        again: str,
    ) -> None:
        self.line, self.names, self.system, self.kit = line, names, system, kit
        self.on, self.alone, self.heats, self.battery, self.again = on, alone, heats, battery, again
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
        ended_by_a_code(line, happened)
        self._cut_offs(happened, readings)
        self._refilled(happened, readings)
        if not any(event.name is EventName.REFILL for event in happened):
            self._burnt(readings)
        self._lengths(lexed, happened, readings)
        self._ask_bare_off()
        if strangers:
            self._ask_whose_end(strangers[0])
        self._loads(mentions, happened, readings)
        self._of_a_start(happened, readings)
        self._events(happened)
        self._own_watts(mentions, readings)
        self._warm_spot(happened, readings)
        if not any(isinstance(item, Start) for _, item in self.said):
            before_the_trip(line, happened, readings)
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
        """``added 1.5 gal``: of fuel, though nobody says so; ``filled to the brim, took 1.85 l``: what was burnt."""
        took = any(reading.quantity == "fuel_l" for _, reading in readings) and TOOK.search(self.line.text)
        for index, event in enumerate(happened):
            if took and event.name is EventName.REFILL:
                happened[index] = replace(event, detail="took")
        filled = TO_THE_TOP.search(self.line.text.lower()) if took else None
        if filled and not any(event.name is EventName.REFILL for event in happened):
            happened.append(Happened(EventName.REFILL, "took", filled.start(), filled.end(), Until.NOTHING))
            self.line.done(filled)
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

    def _burnt(self, readings: Sequence[tuple[int, Reading]]) -> None:
        """``used 1.3 gal in 4 h``: fuel that is gone, and no look at what is left of it."""
        for at, reading in readings:
            low = self.line.text.lower()
            verb = BURNT.search(low, *self.line.clause(at)) or TOLD_BURNT.search(low, 0, at)
            if reading.quantity == "fuel_l" and verb:
                in_all = self.line.first(SO_FAR)
                self.said.append((at, Event(EventName.BURNT, "so far" if in_all else "")))
                self.line.mark(verb.start(), verb.end(), "X")
                if in_all:
                    self.line.done(in_all)

    # what was switched and started

    def _while_it_bogged(self, happened: Sequence[Happened], readings: list[tuple[int, Reading]]) -> None:
        """``saw bogged it to 53 hz, 98 v``: with no watts beside them such volts are the lowest of a moment, and no steady state."""
        if EventName.BOG not in {event.name for event in happened} or any(r.quantity == "w" for _, r in readings):
            return
        for index, (at, reading) in enumerate(readings):
            low = (
                reading.quantity == "v"
                and not reading.place.is_dc
                and reading.value < LEAST_SETTLED * self.system.v_nominal
            )
            if low and reading.stat is Stat.STEADY:
                readings[index] = (at, replace(reading, stat=Stat.LOWEST))

    def _of_a_start(self, happened: list[Happened], readings: list[tuple[int, Reading]]) -> None:
        """``pump start, bogged hard, 97v, recovered``: the volts are the lowest of the dip, and it held."""
        self._while_it_bogged(happened, readings)
        started = [item for _, item in self.said if isinstance(item, Start)]
        if not started:
            return
        if any(start.hot for start in started) and not any(r.quantity == "temp_c" for _, r in readings):
            happened[:] = [event for event in happened if event.name is not EventName.WARM or event.detail]
        for index, (at, reading) in enumerate(readings):
            steady_w = reading.quantity == "w" and reading.stat is Stat.STEADY and not reading.place.is_dc
            if steady_w and (BENEATH.match(self.line.text, at) or ON_TOP_OF.search(self.line.text[:at])):
                readings[index] = (at, replace(reading, stat=Stat.BEFORE))
        names = {event.name for event in happened}
        volts = [i for i, (_, r) in enumerate(readings) if r.quantity == "v" and not r.place.is_dc]
        if len(volts) == 1 and names & STRUGGLES:
            at, reading = readings[volts[0]]
            if reading.stat is Stat.STEADY and reading.value < LEAST_SETTLED * self.system.v_nominal:
                readings[volts[0]] = (at, replace(reading, stat=Stat.LOWEST))
        failed = self.line.first(FAILED)
        if failed and not names & {EventName.TRIP, EventName.STALL, EventName.HELD}:
            happened.append(Happened(EventName.STALL, "", failed.start(), failed.end(), Until.NOTHING))
            self.line.done(failed)
            return
        match = self.line.first(RECOVERED)
        if match and self._of_something_else(match.start(), happened):
            return
        if match and not names & {EventName.TRIP, EventName.STALL, EventName.HELD}:
            happened.append(Happened(EventName.HELD, "", match.start(), match.end(), Until.NOTHING))
            self.line.done(match)

    def _of_something_else(self, at: int, happened: Sequence[Happened]) -> bool:
        """Whether a good word is denied, or said of what stands before it: ``not ok``, ``lights ok``, ``smoke started``."""
        before = len(self.line.text[:at].rstrip())
        named = OF_ELSE.search(self.line.low[:at]) or any(event.start < before <= event.end + 1 for event in happened)
        return bool(named or NOT_QUITE.search(self.line.text[:at]))

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
        fell = {Stat.BEFORE, Stat.LOWEST} <= stats
        if self.again and not mentions and fell and (once_more := AGAIN.match(self.line.low)):
            starts = [Start(self.again, hot=bool(HOT_AGAIN.search(self.line.text)))]
            self.said.append((once_more.start(), starts[0]))
            self.line.mark(*once_more.span(), "X")
            if hot := self.line.first(r"(?:hot|while(?: still)? warm)"):
                self.line.done(hot)
        if starts:
            for match in list(
                self.line.find(
                    r"alone|on its own|by itself|on top of(?= ?<F>)|on top(?: of (?:the )?(?:<L>|it|that|them|<X>))?"
                )
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
        drop_listed_watts(self.line, readings)
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


def _said_of(said: Sequence[tuple[int, Item]], at: int) -> Item | None:
    """What is said of the load that stands at a place: switched or started."""
    return next((item for place, item in said if place == at and isinstance(item, Switch | Start)), None)


def _named_by(item: Item, kit: Kit) -> Item:
    """A reading with its instrument's name on it; anything else as it is."""
    if not isinstance(item, Reading) or item.instrument:
        return item
    return replace(item, instrument=kit.usual_for(item.measured).slug)
