"""The loads of a house in what somebody says: which is meant, and whether it was switched or started."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache

from ..model import Start, Switch
from .marks import MarkedLine
from .unreal import is_denied

LONGEST_NAME = 5
GRAMMAR = frozenset(
    [
        "a",
        "an",
        "and",
        "or",
        "of",
        "on",
        "off",
        "in",
        "out",
        "at",
        "to",
        "the",
        "start",
        "starts",
        "low",
        "high",
        "light",
        "oil",
        "code",
        "battery",
        "charger",
        "charge",
        "meter",
        "display",
        "screen",
        "clock",
        "water",
        "fuel",
        "main",
        "mains",
        "source",
        "tank",
        "with",
        "for",
        "min",
        "max",
        "leg",
        "unit",
        "total",
        "panel",
        "socket",
        "plug",
        "cord",
        "lead",
        "cable",
        "all",
        "per",
    ]
)
"""Words of the log line itself: alone they name no load unless that is its whole name."""
ON = r"(?:on(?! (?:loan|another|hire|order|wheels|legs|castors|a (?:different|separate|shelf|table)|the (?:other|same|next) (?:circuit|wall|side|phase))\b)|running|in(?! [a-z]))"
STARTED = r"(?:tried(?: to start| starting)?|tries(?: to start)?|started|started up|did start|kicked (?:in|on)|came (?:on|in)|comes (?:on|in)|coming (?:on|in)|kicks (?:in|on)|kick(?:s|ed)(?= ?$| ?[,;.])|cuts in|cut in)"
STARTS = r"(?:re-?starts?|starts?|starting|start up|start-up|startup)"
HOW = r"(?:alone|by itself|on its own|hot|warm|cold|again|eased|soft|twice|once|then|also|both|second|first|third|next|straight after|right after|immediately after)"
TOGETHER = r"(?:together|at once|at the same time|simultaneously|in one go|both at once|both together)"
JOIN = r"(?:,? and |,? plus | ?[+&] ?| with |, )"
DUTY = r"<L> (?:runs?|cycles?|ran|on)(?: for)? (?:<D>|<N>)[, ]*(?:then |and )*off (?:for )?(?:<D>|<N>)?"
"""``freezer runs 12 min, off 20``: how it cycles, and nothing that was held."""
PRONOUN = re.compile(r"\b(?:i|we|he|she|they|you|who|ever|never|just)\s+$")
EASED = re.compile(r"\b(?:eased|soft(?:[- ]?start(?:er|ed)?)?)\b")
HOT = re.compile(r"\bhot\b(?! start fail)")
INRUSH = re.compile(
    r"\b(?:inrush|to start(?= ?$| then| ?[,;])|surged?|(?:at|on) (?:the )?(?!the\b)\w+ start(?:ing|up|-up)?(?= ?$| ?[,;])|start(?:ing|up|-up)? (?:current|amps|watts|power))\b"
)
STOOD = re.compile(r"\b(?:after|for|in|lasted)(?: about| only| just)* ?\d")
"""``went off after 6 s``: it was on for so long."""
ALONE = re.compile(r"\b(?:alone|by itself|on its own|from nothing|nothing else on)\b")


@dataclass(frozen=True)
class Mention:
    """A load spoken of: its key and where its words stand."""

    key: str
    start: int
    end: int


@dataclass(frozen=True)
class Unknown:
    """A name spoken of as a load is, that no load has."""

    name: str
    start: int


def match_load(words: Sequence[str], names: Mapping[str, str]) -> tuple[str | None, int]:
    """The load that the first words name, and how many words that took.

    ``names`` maps each load's key to its name. A key, a whole name, or a
    run of words that only one name holds (``freezer``) will do; the longest
    match wins; none gives ``(None, 0)``.
    """
    if not words:
        return None, 0
    for count in range(min(LONGEST_NAME, len(words)), 0, -1):
        said = " ".join(words[:count]).lower().strip(" ,;:.")
        if count == 1 and said in names:
            return said, 1
        exact = [key for key, name in names.items() if bare(name) == bare(said)]
        if len(exact) == 1:
            return exact[0], count
        held = [key for key, name in names.items() if said and f" {said} " in f" {bare(name)} "]
        if len(held) == 1:
            return held[0], count
    return None, 0


@lru_cache(maxsize=4096)
def bare(name: str) -> str:
    """A name without its punctuation."""
    return " ".join(re.sub(r"[,;()]", " ", name.lower()).split())


def take_mentions(line: MarkedLine, names: Mapping[str, str]) -> list[Mention]:
    """The loads spoken of by name, covered; a key alone names one only after a sign."""
    words = [(m.start(), m.end()) for m in re.finditer(r"[^\s,;:/|&+\ue000-\ue00f]+", line.low)]
    mentions: list[Mention] = []
    index = 0
    spoken = {key: name for key, name in names.items() if name.strip()}
    while index < len(words):
        used = _mention(line, words, index, spoken, mentions)
        index += used or 1
    return mentions


def _mention(
    line: MarkedLine, words: Sequence[tuple[int, int]], index: int, names: Mapping[str, str], mentions: list[Mention]
) -> int:
    for count in range(min(LONGEST_NAME, len(words) - index), 0, -1):
        start, end = words[index][0], words[index + count - 1][1]
        said = " ".join(line.low[a:b] for a, b in words[index : index + count]).strip(" .!?'\"()")
        if count == 1 and PRONOUN.search(line.low[:start]):
            continue  # ``lowest i saw``: a verb, and no saw
        plain = [said, said.removesuffix("s"), said.removesuffix("'s")]
        bares = {bare(word) for word in plain}
        exact = [key for key, name in names.items() if bare(name) in bares]
        key = exact[0] if len(exact) == 1 else None
        if key is None and not (set(said.split()) <= GRAMMAR) and len(said) > 1 and not re.search(r"\d", said[:1]):
            held = [k for k, name in names.items() if _holds(bare(name), plain)]
            key = (
                held[0]
                if len(held) == 1 and said.split()[0] not in GRAMMAR and said.split()[-1] not in GRAMMAR
                else None
            )
        if key is not None:
            stop = start + len(line.low[start:end].rstrip(" .!?'\"()"))
            if part := re.match(r" (?:compressor|motor)(?!\w)", line.low[stop:]):
                stop += part.end()
            mentions.append(Mention(key, start, stop))
            line.mark(start, stop, "L")
            return count
    return 0


def _holds(name: str, said: Sequence[str]) -> bool:
    return any(f" {word} " in f" {name} " for word in said)


def take_signed(line: MarkedLine, names: Mapping[str, str]) -> Iterator[tuple[int, Switch | Unknown]]:
    """``+kettle -heater``: switched on, switched off."""
    for match in list(re.finditer(r"(?:(?<=\s)|^)([+-])(?=[^\s\d+-]|\d)", line.low)):
        rest = line.text[match.end() :]
        words = rest.split()
        key, used = match_load(words, names)
        number = re.match(r"\d+(?:[.,]\d+)?[a-z%°]*(?=\s|$)", rest.lower())
        if key is None or (number and number[0] not in names):
            name = re.match(r"[^\d+,;!@-][^\d+,;!@]*", rest)
            if key is None and not number and name and match[1] == "+":
                yield match.start(), Unknown(_name(name[0]), match.start())
            continue
        end = match.end()
        for word in words[:used]:
            end = line.text.index(word, end) + len(word)
        yield match.start(), Switch(key, on=match[1] == "+")
        line.mark(match.start(), end, "X")


def _name(text: str) -> str:
    return re.split(r"\s(?:start|on|off|at|is|and)\b", text.strip(), maxsplit=1)[0].strip(" .:")


class Talk:
    """What a line says of loads: which start, which are switched."""

    def __init__(
        self, line: MarkedLine, mentions: Sequence[Mention], names: Mapping[str, str], on: Sequence[str]
    ) -> None:
        self.line, self.mentions, self.names, self.on = line, list(mentions), names, on
        self.items: list[tuple[int, Start | Switch]] = []
        self.held_by: list[int] = []
        self.used: set[int] = set()

    def run(self, *, flickered: bool, failed: bool, dipped: bool, fell: bool) -> None:
        """Read it.

        ``failed``: something stalled or tripped; ``dipped``: volts or amps of a start were read;
        ``fell``: volts before and the lowest after, as of a start that nobody names.
        """
        self._all_but()
        self._all_off()
        self._passing(dipped=dipped, flickered=flickered)
        self._starts(failed=failed, dipped=dipped)
        self._unsaid(fell=fell)
        self._swapped()
        self._off()
        self._only()
        self._switched_on()
        self._beside_figures()
        if failed:
            self._named_of_a_failure()

    def _free(self, match: re.Match[str]) -> list[Mention]:
        if is_denied(self.line, match.start()):
            return []
        return [m for m in self.mentions if match.start() <= m.start < match.end() and m.start not in self.used]

    def _unsaid(self, *, fell: bool) -> None:
        """``pump inrush 38 amps``, ``pump: 221 > 176 > 219``: its start, though nobody says so."""
        free = [mention for mention in self.mentions if mention.start not in self.used]
        if any(isinstance(item, Start) for _, item in self.items) or len(free) != 1:
            return
        switched = re.match(r" (?:on|off)(?!\w)", self.line.low[free[0].end :])
        if (fell and not switched) or INRUSH.search(self.line.text.lower()):
            self.items.append((free[0].start, Start(free[0].key)))
            self.used.add(free[0].start)

    def _all_off(self) -> None:
        for match in list(
            self.line.find(
                r"(?:everything|(?<!at )all(?: the)?(?: loads)?|the lot|all of (?:it|them))(?: is| was| are| switched| turned)* (?:off|disconnected|unplugged)|(?:unplugged|disconnected|pulled|shed|killed) (?:everything|all(?: of it| the loads| loads)?|the lot)|(?:switched|turned) (?:everything|it all|all|the lot) off|dropped (?:all|everything)"
            )
        ):
            keys = self.on or self.names
            self.items += [(match.start(), Switch(key, on=False)) for key in keys]
            self.line.done(match)
        for match in list(
            self.line.find(
                r"(?:everything|(?<!at )all(?: the)?(?: loads)?|the (?:whole )?lot)(?: is| was| switched| turned| now| back)* (?:on|running|going)|(?:put|switched|turned|plugged) (?:everything|it all|all|the lot) (?:back )?(?:on|in)"
            )
        ):
            if not is_denied(self.line, match.start()):
                self.items += [(match.start(), Switch(key, on=True)) for key in self.names]
                self.line.done(match)

    def _all_but(self) -> None:
        """``everything but the freezer off``."""
        for match in list(
            self.line.find(
                r"(?:everything|all)(?: loads)? (?:but|except)(?: for)?(?: the)? <L>(?: is| was| switched| turned)* (?:off|unplugged)"
            )
        ):
            kept = {mention.key for mention in self._free(match)}
            self.items += [(match.start(), Switch(key, on=False)) for key in self.on or self.names if key not in kept]
            self.used |= {mention.start for mention in self._free(match)}
            self.line.done(match)
        for match in list(
            self.line.find(
                r"(?:everything|all)(?: loads)? (?:but|except)(?: for)?(?: the)? <L>(?: on| running)?(?= ?[:=]? ?<F>| ?$| ?[,;])"
            )
        ):
            kept = {mention.key for mention in self._free(match)}
            self.items += [(match.start(), Switch(key, on=key not in kept)) for key in self.names]
            self.used |= {mention.start for mention in self._free(match)}
            self.line.done(match)

    def _passing(self, *, dipped: bool, flickered: bool) -> None:
        """``when the pump kicks in``: named in passing; ``freezer runs 12 min, off 20``: how it cycles.

        With the dip of a start read beside it, it is that start.
        """
        starts = "" if flickered else r"|starts?|started|starts up|spins up"
        of_a_start = (
            rf"(?:when|whenever|each time|every time|as|if|once|while|before|until)(?: the| a)? <L> (?:kick(?:s|ed) (?:in|on)|c[ao]me?s? (?:in|on)|runs?|is on|goes on|cuts in|was on{starts})",
            r"(?:when|as|after|once|each time) (?:i|we|he|she|they) (?:plugged|switched|turned|put|tried)(?: in| on)?(?: the| a)? <L>(?: in| on)?",
        )
        always = (DUTY, r"kept (?:the |my )?<L>(?: and (?:the |my )?<L>)* (?:going|running|cold|on)")
        for words in always if dipped else (*of_a_start, *always):
            for match in list(self.line.find(words)):
                self.used |= {m.start for m in self._free(match)}

    def _starts(self, *, failed: bool, dipped: bool) -> None:
        joined = r"(?:,? and |,? plus | ?[+&] ?| with )"
        several = rf"(?:both |the )*<L>(?:, (?:the )?<L>)*{joined}(?:the )?<L>(?:{joined}(?:the )?<L>)*"
        verbs = rf"(?:{HOW} )*(?:{STARTS}|{STARTED}|{TOGETHER})(?: {HOW})*"
        group = [
            rf"{several} {verbs}(?: {TOGETHER})?(?: up)?",
            rf"(?:{STARTS}|started) (?:the )?{several}(?: {TOGETHER})?",
        ]
        single = [
            rf"(?:{HOW} )*(?:when |whenever |as |each time |every time )?(?:the |my |{HOW} )*<L> (?:{HOW} )*{STARTS}(?: up)?(?: {HOW})*",
            rf"(?:{HOW} )*(?:{STARTS}|started)(?: of| up)*(?: the)? <L>(?: {HOW})*",
            rf"(?:the )?<L>(?:{JOIN}<X>)* (?:{HOW} )*{STARTED}(?: up)?(?: {HOW})*",
            r"(?:the )?<L> <X>",
            r"(?:the )?<L>(?=,? (?:took|takes|pulled|pulls it|drags it|dragged|brought|dipped|stalled|won't|wouldn't|hums))",
            rf"(?:at|on) (?:the )?<L> {STARTS}",
            r"(?:the )?<L>(?= (?:on top of|over) (?:about )?(?:a base of )?<F>)",
        ]
        for match in list(
            self.line.find(rf"(?:{STARTS}|started)(?: {HOW})* on (?:the |my )?<L>(?:{joined}(?:the )?<L>)*")
        ):
            beneath = self.line.low.index(" on ", match.start())
            self.used |= {mention.start for mention in self._free(match) if mention.start > beneath}
        for words in group:
            for match in list(self.line.find(words)):
                past = re.search(r"started", match[0]) or (re.search(r"came|kicked", match[0]) and not dipped)
                self._start(match, held=not failed and bool(past))
        for number, words in enumerate(single):
            for match in list(self.line.find(words)):
                if number in (3, 4) and not failed and not self._said_start(match):
                    continue
                if number == 2 and not dipped and not failed and not re.search(r"started", match[0]):
                    continue
                if number == len(single) - 1 and not dipped:
                    continue
                past = bool(re.search(r"\bstarted\b", match[0])) and not self._in_passing(match)
                self._start(match, held=past and not failed)

    def _in_passing(self, match: re.Match[str]) -> bool:
        """``sagged when the pump started``: that it started says no more than when."""
        words = self.line.low[: match.start()] + match[0]
        return bool(re.search(r"\b(?:when|whenever|as|each time|every time)(?: the| a| my)? ?[\ue004]", words))

    def _said_start(self, match: re.Match[str]) -> bool:
        """``pump started fine``: the words after the load begin with its start."""
        load = re.match(r"[^\ue00a]*", match[0])
        return load is not None and self.line.text[match.start() + load.end() :].lower().startswith("start")

    def _start(self, match: re.Match[str], *, held: bool) -> None:
        loads = self._free(match)
        for mention in loads:
            said = (
                self.line.low[match.start() : match.end()] + self.line.low[max(0, match.start() - 24) : match.start()]
            )
            self.items.append(
                (
                    mention.start,
                    Start(
                        mention.key,
                        bool(HOT.search(said)),
                        bool(EASED.search(self.line.low)),
                        alone=bool(ALONE.search(self.line.low)),
                    ),
                )
            )
            self.used.add(mention.start)
        if loads and held:
            self.held_by.append(match.end())
        if loads:
            self.line.done(match)

    def _off(self) -> None:
        several = rf"(?:the )?<L>(?:{JOIN}(?:the )?<L>)*"
        for words in (
            rf"(?:took|switched|turned|knocked|put)(?: off| out) {several}|(?:took|switched|turned|knocked|put|take|switch|turn) {several}(?: off| out)",
            rf"(?:unplugged|pulled|shed|dropped|killed|lost)(?: off| out)? {several}(?: off| out)?",
            rf"(?:off|minus|without|less) {several}",
            rf"{several}(?: is| was| went| goes| gone| boiled| done| finished| and| now| both| all| then| cut| cycled| clicked| switched| turned| back| itself)* (?:off|out)(?! (?:it|the|that|this|of)\b)(?: again| by itself| on its own| itself)*",
            rf"{several} (?:has |is |was |now |all )*(?:done|boiled|finished|unplugged|disconnected)(?= ?$| ?[,;.·]| <T>)",
        ):
            for match in list(self.line.find(words)):
                self._switch(match, on=False)

    def _swapped(self) -> None:
        """``heater high instead``: on in the place of one like it, or of the only one that was on."""
        for match in list(self.line.find(r"(?:the |my )?<L> (?:on )?instead(?: of (?:the |my )?<L>)?")):
            taken = self._free(match)
            if not taken:
                continue
            new, *others = taken
            words = set(self.names[new.key].lower().split())
            like = [key for key in self.on if key != new.key and words & set(self.names.get(key, "").lower().split())]
            off = [mention.key for mention in others] or like or (list(self.on) if len(self.on) == 1 else [])
            self.items += [(match.start(), Switch(key, on=False)) for key in off if key != new.key]
            self.items.append((match.start(), Switch(new.key, on=True)))
            self.used |= {mention.start for mention in taken}
            self.line.done(match)

    def _named_of_a_failure(self) -> None:
        """``well pump - groaned, tripped straight away``: what the line begins or ends with did it, unless it was on before.

        With a time that it stood it was on; without one it was its start.
        """
        if self.items:
            return
        for match in list(
            self.line.find(
                r"^(?:<T>[ ,:–-]*)?(?:the |my )?<L>(?: again)?(?=,? ?[-–:,;])|(?<=[-–:,;] )(?:the |my )?<L>(?: again)?$"
            )
        ):
            for mention in self._free(match)[:1]:
                if mention.key in self.on:
                    continue
                stood = STOOD.search(self.line.text.lower())
                self.items.append((mention.start, Switch(mention.key, on=True) if stood else Start(mention.key)))
                self.used.add(mention.start)
                self.line.done(match)

    def _only(self) -> None:
        """``just the lights now``: on, and nothing else is."""
        for match in list(
            self.line.find(r"(?:just|only|nothing but)(?: the| my)* <L>(?: now| on| running| left| still)*")
        ):
            kept = {mention.key for mention in self._free(match)}
            if kept:
                self.items += [(match.start(), Switch(key, on=False)) for key in self.on if key not in kept]
                self._switch(match, on=True)

    def _switched_on(self) -> None:
        several = rf"(?:the |a )*<L>(?:{JOIN}(?:the |a )?<L>)*"
        for words in (
            r"(?:the )?<L>(?: ?(?:\+|&|plus|and|with) ?(?:the )?<L>)+(?=[ :,=]+(?:<F>|<N>|<X>)|$)",
            r"(?:the )?<L>(?:,? (?:and |plus )?(?:the )?<L>)+(?= ?[:=])",
            r"(?:the )?<L>(?: and (?:the )?<L>)? (?:too|as well|also|only(?=,? ?<F>))",
            rf"(?:switched|turned|turn|put|plugged|brought|flicked) {several} (?:on|in)|(?:switched|turned|turn|put|plugged) (?:on|in) {several}",
            rf"(?:added|add|adding|plus|then|and then|with|on with|now|also|next|on comes|in comes|still) {several}(?: too| as well| on| in| running| added)*",
            rf"{several}(?: is| are| was| now| both| all| came| just| switched| turned| still| now| back| put)* {ON}",
            rf"{several} (?:on |at |set to )?(?:low|high|medium|med|full|max)(?: setting| heat| power)?(?= ?<F>| ?,)",
            r"(?:the )?<L>(?= ?[+&] ?(?:the )?(?:[a-z]|<L>))",
            r"(?<=[+&] )(?:the )?<L>(?: runs?| running)?",
            rf"{several} (?:fired|fires|lit|firing|boiling|heating|cooking|going|plugged in|added|connected)(?: up| on)?",
        ):
            for match in list(self.line.find(words)):
                self._switch(match, on=True)

    def _switch(self, match: re.Match[str], *, on: bool) -> None:
        loads = self._free(match)
        for mention in loads:
            self.items.append((mention.start, Switch(mention.key, on=on)))
            self.used.add(mention.start)
        if loads:
            self.line.done(match)

    def _beside_figures(self) -> None:
        """``microwave 1420w``: figures read with it on."""
        for match in list(
            self.line.find(
                r"<L>(?: on leg [12]| alone(?: again)?| again| only| (?:on |at )?(?:low|high|medium|full|max)(?: setting| heat| power)?)?[ :=]+(?:at |draws |pulls |drawing |pulling |takes |is |= ?)?<F>"
            )
        ):
            for mention in self._free(match):
                self.items.append((mention.start, Switch(mention.key, on=True)))
                self.used.add(mention.start)


UNKNOWN = re.compile(
    rf"^(?:the |switched |turned |\+ ?)*(?P<name>[a-z][a-z' -]{{2,24}}?) (?:on|off|{STARTS}|{STARTED}|started)\b|^(?:switched|turned|put|added|plugged in) (?:on )?(?:the )?(?P<other>[a-z][a-z' -]{{2,24}}?)(?: on| in)?$"
)
UNDERSTOOD_FIRST = re.compile(r"^[\ue000-\ue00f\s:,–-]+")
"""What was understood before the words of a clause: its time, a reading."""
NO_LOADS = frozenset(
    [
        "it",
        "its",
        "it's",
        "eco",
        "quiet",
        "mode",
        "fan",
        "fans",
        "light",
        "lamp",
        "back",
        "came",
        "went",
        "still",
        "cold",
        "hot",
        "output",
        "outlets",
        "outlet",
        "sockets",
        "socket",
        "all",
        "everything",
        "screen",
        "display",
        "engine",
        "set",
        "genny",
        "generator",
        "inverter",
        "charger",
        "panels",
        "pv",
        "grid",
        "mains",
        "first",
        "second",
        "both",
        "breaker",
        "nothing",
        "she",
        "she's",
        "girl",
        "thing",
        "beast",
        "one",
        "everything",
        "we",
        "we're",
        "i",
        "something",
        "sun",
        "power",
        "key",
        "choke",
        "oil",
        "switch",
        "note",
        "no",
        "not",
    ]
)


NO_NAME = {"the", "a", "to", "it", "ran", "fell", "put", "took", "started", "moved", "over", "restarted"}
"""Words that stand in no name of a load."""
LAMPS = {"lamp", "light", "fan", "fans"}
"""Words that end the name of a load as well as of a thing of the source."""


def unknown_in(line: MarkedLine) -> Unknown | None:
    """A name spoken of as a load is, in what was not understood."""
    for start, end in line.clauses:
        text = UNDERSTOOD_FIRST.sub("", line.low[start:end]).strip()
        if (match := UNKNOWN.match(text)) and (name := match["name"] or match["other"]):
            words = name.split()
            strange = not set(words) & NO_NAME and words[0] not in NO_LOADS and words[-1] not in NO_LOADS - LAMPS
            if strange and not set(words) <= GRAMMAR | NO_LOADS:
                return Unknown(_name(name), start)
    return None
