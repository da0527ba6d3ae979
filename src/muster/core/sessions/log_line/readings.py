"""From figures to readings: of what, where, with which instrument, and at which moment."""

from __future__ import annotations

import re
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field, replace

from ...kit import Kit
from ...supply import System
from ..model import Reading
from ..places import Place, Stat
from .figures import MOST_DC_V, Figure
from .marks import MarkedLine

ELECTRIC = {"v", "a", "w", "va", "pf", "thd_pct"}
NEAR_NOMINAL = 0.25
"""Volts this near nominal, as a share, are the supply's own and not a battery's."""
SURE_V, SURE_HZ = 0.15, 0.09
"""A bare number this near nominal is volts, or hertz."""
LEAST_BATTERY_V = 9.0
"""A 12 V battery is cut off above this; less is what is left at the output of a set that makes nothing."""
KW_MOST = 30.0
"""A bare number after ``at`` up to this is kilowatts."""

OUT, IN = "out", "in"
PLACE_WORDS: tuple[tuple[str, str], ...] = (
    (r"(?:<!L>on )?(?:the )?(?:l1|leg ?1|leg ?a|line a|leg one|line 1|first leg)", Place.LEG1),
    (r"(?:<!L>on )?(?:the )?(?:l2|leg ?2|leg ?b|line b|leg two|line 2|second leg|other leg)", Place.LEG2),
    (r"(?:on |in )?(?:the )?neutral(?: carrying| carries)?|n(?=:? ?<F>|:? ?<N>)", Place.NEUTRAL),
    (r"(?:on |at )?(?:the )?(?:dc(?: side| volts| amps| current| input)?|battery (?:side|volts|voltage|amps|current|bank)|battery|batery|batt|bat|(?<!load )bank)", Place.DC),
    (r"(?:from |on )?(?:the )?(?:pv|panels?(?! meter)|solar|sun|array|string|mppt)(?: input| in| side| power| volts| voltage| current| watts)?", Place.PANELS),
    (r"(?:in )?(?:total|all up|all told|altogether|combined|in all)|(?:on |over |across )?both(?: legs)?|across(?: both| the legs| legs)?|sum", Place.TOTAL),
    (r"ua|unit ?a|set a|unit 1|set 1|first (?:set|unit|one)|left(?: hand)? (?:one|set|unit)", Place.UNIT_A),
    (r"ub|unit ?b|set b|unit 2|set 2|second (?:set|unit|one)|second(?= <F>| <N>)|right(?: hand)? (?:one|set|unit)|other (?:set|unit|one)", Place.UNIT_B),
    (r"(?:at the |going )?out(?:put)?(?=[ :=]*(?:<F>|<N>)| ?$|[,;])|ac side|ac|loads?(?=[ :=]*(?:is |at )?(?:<F>|<N>))|going out|to the house", OUT),
    (r"[uvi] ?(?:in|dc|bat|batt)(?=[ :=]*<F>)", Place.DC),
    (r"[uvip] ?pv(?=[ :=]*<F>)", Place.PANELS),
    (r"[uvip] ?(?:o|out|ac)(?=[ :=]*<F>)", OUT),
    (r"(?:going )?in(?= ?$|[,;]| <N>)|input", IN),
)  # fmt: skip
"""Words that say where a figure was read; tried in this order."""
INSTRUMENT_WORDS: tuple[tuple[str, str], ...] = (
    (r"(?:on |by |from |at )?(?:the |its |source's |own )*(?:display|screen|readout|front panel|panel(?= (?:shows?|says|reads)))(?: says| shows| reads| said)?", "display"),
    (r"(?:on |by |with )?(?:the )?clamp(?: meter)?(?: says| shows| reads)?", "clamp"),
    (r"(?:on |by )?(?:the )?(?:plug[- ]?in |plug |wall |socket )meter(?: says| shows| reads)?", "plug"),
    (r"(?:on |by )?(?:the )?(?:multi ?meter|dmm)(?: says| shows| reads)?", "multimeter"),
    (r"(?:on |by )?(?:the )?(?:panel )?meter(?: says| shows| reads)?", "meter"),
    (r"(?:on |by )?(?:the )?scope(?: says| shows| reads)?", "scope"),
    (r"(?:on |by )?(?:the )?recorder(?: says| shows| reads)?", "recorder"),
)  # fmt: skip
BARE_OF_INSTRUMENT = {"clamp": "a"}
STAT_WORDS: tuple[tuple[Stat, str], ...] = (
    (Stat.LOWEST, r"(?:at |the |its )*(?:min|minimum|lowest|low|at worst|worst|as low as|(?:never|not) (?:under|below)|no lower than)(?: (?:i|we|it) (?:saw|got|read|went|ever saw))?(?: of| at| was)?"),
    (Stat.HIGHEST, r"(?:at |the |its |a |start(?:ing)? )*(?:max|maximum|peak(?:ed|s|ing)?|as high as|(?:never|not) (?:over|above)|no higher than|(?:at|on) (?:the )?(?:<L> )?start(?:ing|up|-up)?|to start(?: up)?|hits?|touched|touches|jump(?:ed|s)(?= to)|shot up(?= to)|highest|surg(?:e|ed|es)(?: current| amps| power| watts)?|start(?:ing|up|-up)? (?:current|amps|surge|peak|watts|power)|inrush(?: current| amps)?|spik(?:e|ed|es)|tops? out|topped out)(?: (?:i|we|it) (?:saw|got|read|went|ever saw))?(?: of| at| to| was)?"),
    (Stat.BEFORE, r"(?:just )?before(?: it| that| the start)?"),
    (Stat.SETTLED, r"(?:and |then |it )*(?:settl(?:ed|es|ing)|after(?:wards)?|recover(?:ed|s)|(?:came|come|comes|went|climbed|crept|got|picked|picks|rose|built) (?:back |right )?up(?= to)|runs?|running|back(?: up| down)?(?! in))(?: at| to| on)?"),
    (Stat.BACKGROUND, r"(?:the )?(?:background|bg|ambient)(?: noise| is| was| level)*|(?:when|with|while) (?:it|it's|the (?:set|engine|generator|source|inverter))(?: was| is)? off|(?:with )?(?:nothing|everything) (?:running|off)|(?:engine|set|source) off"),
)  # fmt: skip
DIPPED = r"(?:volts|voltage)(?: down| straight)* to (?:about |around )?|(?:it |volts |voltage |lights )*(?:dip(?:s|ped)?|drop(?:s|ped)?|sag(?:s|ged)?|fell|falls|pulled|dragged|sank|sinks|down|knocked|went)(?: it| them| down| right| straight| the volts| the voltage| volts| voltage| all the way)*(?: down)? to (?:about |around )?"
TO = re.compile(r"\s*(?:down |up |dips? |dipped |drop(?:s|ped) )*(?:to|-+>|=+>|→|>|»|-|–|into|\.\.+)\s*(?:about\s+)?")
THEN = re.compile(
    r"\s*,?\s*(?:and |then |,\s*)*(?:then|back(?: up)?(?: to)?|settl\w+(?: at| to)?|recover\w*(?: to)?|up to|to)\s*"
)
RANGED = re.compile(
    r"\b(?:between|wander\w*|swing\w*|hunt\w*|var(?:y|ies|ied|ying)|drift\w*|jump\w* (?:around|about)|bounc\w*|fluctuat\w*|moves|moving|ranging|anywhere|all over)\b[^,;]*$"
)
"""``wandering 221 to 233``: the lowest and the highest of a steady state, and no start."""
NO_LOAD = r"(?:at |on |with )?(?:no[- ]load|off[- ]load|unloaded|nothing (?:connected|plugged in|attached|on it)|zero load|not loaded|nothing (?:on|running)(?! it))"
IDLE = r"idle|idling|standby|standing by"


@dataclass
class Word:
    """A place, instrument or stat word and where it stands."""

    meant: str
    start: int
    end: int


@dataclass
class Reader:
    """Makes readings of the figures of a line."""

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
    stat_words: dict[int, tuple[int, int]] = field(default_factory=dict)

    def run(self) -> list[tuple[int, Reading]]:
        """Every figure that came to be known, as a reading, with its place in the line."""
        self._no_load()
        self._in_and_out()
        self._pairs()
        self._instrument_words()
        self._place_words()
        self._listed()
        self._bare_by_nominal()
        self._chains()
        self._dips()
        self._stat_words()
        self._bare_by_context()
        self._chains()
        self._ends_of_heating()
        self._water()
        self._oil()
        self._idle()
        self._far_from_nominal()
        self._amps_of_the_battery()
        for i, span in self.stat_words.items():
            if not self.figures[i].quantity:
                self.line.undo(*span)
        readings = [
            (f.start, reading)
            for i, f in enumerate(self.figures)
            if f.quantity and f.quantity != "degrees"
            for reading in self._of_both_legs(self._reading(i, f))
        ]
        nowhere = Place.LEG1 if self.system.legs == 1 else Place.TOTAL
        return sorted(
            [*readings, *((at, Reading(quantity="w", value=0.0, place=nowhere)) for at in self.zero_at)],
            key=lambda pair: pair[0],
        )

    # of what

    def _known(self, figure: Figure, quantity: str, factor: float = 1.0) -> None:
        figure.of(quantity, factor)
        self.line.mark(figure.start, figure.end, "F")

    def _between(self, i: int, j: int) -> str:
        return self.line.low[self.figures[i].end : self.figures[j].start]

    def _before(self, i: int) -> str:
        return self.line.low[: self.figures[i].start]

    def _pairs(self) -> None:
        """``61/56 a``: leg 1 and leg 2."""
        for i in range(len(self.figures) - 1):
            left, right = self.figures[i], self.figures[i + 1]
            if left.quantity or not re.fullmatch(r"\s*/\s*", self._between(i, i + 1)) or self.system.legs != 2:
                continue
            near = self._near_nominal(left.number) == "v"
            if right.quantity in ELECTRIC or (not right.quantity and near):
                self._known(left, right.quantity or "v", right.factor)
                if not right.quantity:
                    self._known(right, "v")
                self.places[i], self.places[i + 1] = Place.LEG1, Place.LEG2

    def _in_and_out(self) -> None:
        """``in 620 out 300``: watts of the panels, watts of the output."""
        for match in list(self.line.find(r"in (?P<in><N>)[, ]+out (?P<out><N>)")):
            for name, place in (("in", Place.PANELS), ("out", OUT)):
                index = next(i for i, f in enumerate(self.figures) if f.start == match.start(name))
                self._known(self.figures[index], "w")
                self.places[index] = place
            self.line.done(match)

    def _near_nominal(self, number: float) -> str:
        for times in range(1, self.system.legs + 1):
            if abs(number - times * self.system.v_nominal) <= SURE_V * times * self.system.v_nominal:
                return "v"
        return "hz" if abs(number - self.system.hz) <= SURE_HZ * self.system.hz else ""

    def _bare_by_nominal(self) -> None:
        """A number that stands alone near the nominal volts or hertz, beside nothing that says otherwise."""
        for i, figure in enumerate(self.figures):
            if figure.quantity or figure.number < 0:
                continue
            after = self.line.low[figure.end : figure.end + 12]
            if (
                re.match(r"\s*(?:\d|[a-z]+)", after)
                and not re.match(
                    r"\s*(?:to|then|and|min|max|low|high|lowest|highest|peak|before|after|settled|at|on|with|no|l[12]\b|leg|across|now|steady|out|for)\b",
                    after,
                )
                and not re.match(r"\s*[\ue000-\ue00d]", after)
            ):
                continue
            guess = self._near_nominal(figure.number)
            integer_hz = guess == "hz" and figure.step >= 1
            if guess and not (integer_hz and not self._hz_wanted(i)) and not self._spoken_of(i):
                self._known(figure, guess)

    def _hz_wanted(self, i: int) -> bool:
        start, end = self.line.clause(self.figures[i].start)
        return bool(re.search(r"no[- ]load|unloaded", self.line.text[start:end].lower())) or any(
            f.quantity in ("w", "v") and f.clause == self.figures[i].clause for f in self.figures
        )

    def _spoken_of(self, i: int) -> bool:
        """Whether words before it say that it is of something else."""
        return bool(
            re.search(
                r"(?:background|ambient|bg|batt(?:ery)?|bank|charge|wind|page|step|day|no\.?|number|took|every|clock)\s*(?:at|is|was|of|:)?\s*$",
                self._words_before(i),
            )
        )

    def _words_before(self, i: int) -> str:
        return self.line.text[: self.figures[i].start].lower()

    def _bare_by_context(self) -> None:
        for i, figure in enumerate(self.figures):
            if figure.quantity:
                continue
            quantity, factor = self._context_of(i, figure)
            if quantity:
                self._known(figure, quantity, factor)

    def _context_of(self, i: int, figure: Figure) -> tuple[str, float]:
        before = self._words_before(i)
        if self.stats.get(i) is Stat.BACKGROUND and 15 <= figure.number <= 110:
            return "dba", 1.0
        if self.instruments.get(i) in BARE_OF_INSTRUMENT:
            return BARE_OF_INSTRUMENT[self.instruments[i]], 1.0
        if self.places.get(i) == Place.DC and re.search(r"batt?(?:ery)?\s*(?:is |now )?(?:at|:|=)?\s*$", before):
            return ("v", 1.0) if figure.step < 1 or figure.number > 100 else ("soc_pct", 1.0)
        if re.search(r"(?:charge|gauge|soc)\s*(?:is |at |now |says |shows )*$", before) and 0 <= figure.number <= 100:
            return "soc_pct", 1.0
        if self.places.get(i) == Place.DC and figure.step < 1 and LEAST_BATTERY_V <= figure.number <= MOST_DC_V:
            return "v", 1.0
        if self.stats.get(i) in (Stat.LOWEST, Stat.SETTLED, Stat.BEFORE):
            like = next((f for f in self.figures if f.quantity == "v"), None)
            if like is not None or self._plausible_v(figure.number):
                return "v", 1.0
        if i in self.places and (like := self._like(i)) is not None:
            return like.quantity, like.factor
        if (
            re.search(r"\b(?:at|on|up to|past)\s*$", before)
            and figure.number <= KW_MOST
            and figure.step < 1
            and (self.held or re.search(r"good|fine|ran|run|held|happy|load", before))
        ):
            return "w", 1000.0
        if re.search(r"\d\s*(?:hz|hertz)\b.*\b(?:at|on)\s*$", before) and figure.number <= KW_MOST and figure.step < 1:
            return "w", 1000.0
        return "", 1.0

    def _plausible_v(self, number: float) -> bool:
        return 0.3 * self.system.v_nominal <= number <= 1.2 * self.system.legs * self.system.v_nominal

    def _like(self, i: int) -> Figure | None:
        """The figure of another place in the line that a bare one stands beside."""
        mine = self.figures[i]
        others = [f for j, f in enumerate(self.figures) if j != i and f.quantity in ELECTRIC and j in self.places]
        return next((f for f in reversed(others) if f.number and 1 / 4 <= abs(mine.number / f.number) <= 4), None)

    def _chains(self) -> None:
        """``115v to 104 then 114``: one unit for all, before, lowest and settled."""
        i = 0
        while i < len(self.figures) - 1:
            chain, links = [i], []
            while chain[-1] + 1 < len(self.figures):
                gap = self._between(chain[-1], chain[-1] + 1)
                if not gap.strip():
                    break
                link = (
                    "to" if TO.fullmatch(gap) or self._ranged(chain[-1], gap) else "then" if THEN.fullmatch(gap) else ""
                )
                if not link or not self._alike(chain[-1], chain[-1] + 1):
                    break
                links.append(link)
                chain.append(chain[-1] + 1)
            if len(chain) > 1:
                self._share(chain)
                self._roles(chain, links)
            i = chain[-1] + 1 if len(chain) > 1 else i + 1

    def _listed(self) -> None:
        """``pump: 224, 171, 218 V``: before, lowest and settled of a start, one after the other."""
        for i in range(len(self.figures) - 2):
            three = range(i, i + 3)
            gaps = [self._between(j, j + 1).strip() for j in (i, i + 1)]
            numbers = [self.figures[j].number for j in three]
            fell = numbers[1] < 0.92 * min(numbers[0], numbers[2]) and all(
                self._near_nominal(numbers[k]) == "v" for k in (0, 2)
            )
            units = [self.figures[j].quantity for j in three]
            if (
                gaps == [",", ","]
                and fell
                and set(units) <= {"", "v"}
                and "v" in units
                and not set(three) & set(self.stats)
            ):
                for j, stat in zip(three, (Stat.BEFORE, Stat.LOWEST, Stat.SETTLED), strict=True):
                    self._known(self.figures[j], "v")
                    self.stats[j] = stat

    def _ranged(self, i: int, gap: str) -> bool:
        slashed = re.search(r"(?:[\ue000\ue008][\ue001\ue009]*/){2}[\ue000\ue008]", self.line.low)
        if gap == "/" and slashed:
            return True
        return gap.strip() == "and" and bool(re.search(r"\bbetween\s+$", self._before(i)))

    def _alike(self, i: int, j: int) -> bool:
        mine, other = self.figures[i].quantity, self.figures[j].quantity
        return mine == other or not mine or not other

    def _share(self, chain: Sequence[int]) -> None:
        like = next((self.figures[i] for i in chain if self.figures[i].quantity), None)
        if like is None:
            if all(self._plausible_v(self.figures[i].number) for i in chain) and len(chain) > 2:
                for i in chain:
                    self._known(self.figures[i], "v")
            return
        for i in chain:
            figure = self.figures[i]
            if not figure.quantity:
                zero = 32.0 if like.quantity == "temp_c" and like.factor != 1.0 else 0.0
                figure.of(like.quantity, like.factor, zero)
                self.line.mark(figure.start, figure.end, "F")

    def _roles(self, chain: Sequence[int], links: Sequence[str]) -> None:
        figures = [self.figures[i] for i in chain]
        quantity = figures[0].quantity
        if any(i in self.stats for i in chain):
            if (
                links
                and links[-1] == "then"
                and chain[-1] not in self.stats
                and quantity in ("v", "hz", "a")
                and self.stats.get(chain[0]) in (Stat.LOWEST, Stat.HIGHEST)
            ):
                self.stats[chain[-1]] = Stat.SETTLED
            return
        if quantity in ("v", "hz") and len(chain) == 2 and RANGED.search(self.line.text[: figures[0].start].lower()):
            low, high = sorted(chain, key=lambda i: self.figures[i].value)
            self.stats[low], self.stats[high] = Stat.LOWEST, Stat.HIGHEST
            return
        if quantity == "a" and links == ["then"] and figures[0].value > figures[1].value:
            self.stats[chain[0]], self.stats[chain[1]] = Stat.HIGHEST, Stat.SETTLED
            return
        if quantity == "soc_pct" and links[0] == "to":
            for i in chain[:-1]:  # a gauge stands at the last
                self.figures[i].quantity = ""
                self.line.shield(self.figures[i].start, self.figures[i].end)
            return
        if quantity == "temp_c" and links[0] == "to":
            self.stats[chain[0]], self.stats[chain[1]] = Stat.BEFORE, Stat.SETTLED
        elif quantity in ("v", "hz", "a") and links[0] == "to":
            self.stats[chain[0]] = Stat.BEFORE
            self.stats[chain[1]] = Stat.LOWEST if figures[1].value < figures[0].value else Stat.HIGHEST
            if len(chain) > 2:
                self.stats[chain[2]] = Stat.SETTLED

    def _dips(self) -> None:
        for match in list(self.line.find(rf"{DIPPED}(?=<F>|<N>)")):
            i = next((i for i, f in enumerate(self.figures) if f.start == match.end()), None)
            if i is None or (i in self.stats and self.stats[i] is not Stat.SETTLED):
                continue
            figure = self.figures[i]
            if not figure.quantity and self._plausible_v(figure.number):
                self._known(figure, "v")
            if figure.quantity in ("v", "hz") and not (
                re.match(r"went", match[0]) and figure.value > self.system.v_nominal
            ):
                self.stats[i] = Stat.LOWEST
                self.line.done(match)

    # at which moment

    def _stat_words(self) -> None:
        for stat, words in STAT_WORDS:
            for match in sorted(self.line.find(words), key=lambda m: m.start()):
                self._give_stat(stat, match)
        self._then_settled()

    def _give_stat(self, stat: Stat, match: re.Match[str]) -> None:
        start, end = self.line.clause(match.start())
        if stat is Stat.BACKGROUND and len(self.figures) == 1:
            start, end = 0, len(self.line.text)
        left = next(
            (i for i in reversed(range(len(self.figures))) if start <= self.figures[i].start < match.start()), None
        )
        right = next((i for i in range(len(self.figures)) if match.end() <= self.figures[i].start < end), None)
        if stat is not Stat.BACKGROUND:
            left = left if left is not None and self._only_marks(self.figures[left].end, match.start()) else None
            right = right if right is not None and self._only_marks(match.end(), self.figures[right].start) else None
        takes = self._takes(stat)
        if left is not None and (left in self.stats or not takes(self.figures[left])):
            left = None
        if right is not None and (right in self.stats or not takes(self.figures[right])):
            right = None
        words = match[0].split()[0]
        hit = self.figures[right] if right is not None and words in ("hit", "hits", "touched", "touches") else None
        if hit is not None and hit.quantity == "v" and hit.value < self.system.v_nominal:
            return  # ``hits 11.4 volts``: on the way down
        if words in ("run", "runs", "running") and not self._after_highest(right):
            return  # ``freezer start 6.2 A peak, runs 0.8 A``
        if re.match(r"(?:at|on|to) .*start", match[0]) and (
            left is None or self.figures[left].quantity not in ("a", "w", "va")
        ):
            return
        of_length = match[0] == "after" and re.match(r" *(?:about )?\ue002", self.line.low[match.end() :])
        if of_length and (left is None or self.figures[left].quantity != "temp_c"):
            return  # ``at 4.1kw after 38 s``
        chosen = left if left is not None and not (stat is Stat.BACKGROUND and right is not None) else right
        if chosen is None:
            return
        self.stats[chosen] = stat
        self.stat_words[chosen] = match.span()
        self.line.done(match)

    def _after_highest(self, i: int | None) -> bool:
        """Whether the highest of the same quantity stands before a figure."""
        if i is None:
            return False
        before = [j for j in range(i) if self.figures[j].quantity == self.figures[i].quantity]
        return any(self.stats.get(j) is Stat.HIGHEST for j in before)

    def _only_marks(self, start: int, end: int) -> bool:
        """Whether between two places stands nothing but what was understood and small words."""
        gap = re.sub(r"\b(?:at|of|for|a|the|was|is|on|about|it)\b", " ", self.line.low[start:end])
        return not re.search(r"[a-z0-9]", gap)

    def _takes(self, stat: Stat) -> Callable[[Figure], bool]:
        if stat is Stat.BACKGROUND:
            return lambda f: f.quantity in ("dba", "")
        if stat is Stat.BEFORE:
            return lambda f: f.quantity in ("v", "hz", "a", "w", "temp_c", "")
        if stat is Stat.SETTLED:
            return lambda f: f.quantity in ("v", "hz", "a", "w", "va", "temp_c", "rpm", "")
        return lambda f: f.quantity in ("v", "hz", "a", "w", "va", "dba", "temp_c", "rpm", "")

    def _then_settled(self) -> None:
        """``… 198v lowest then 226``."""
        for i in range(len(self.figures) - 1):
            if self.stats.get(i) in (Stat.LOWEST, Stat.HIGHEST) and i + 1 not in self.stats and self._alike(i, i + 1):
                gap = self._between(i, i + 1)
                if re.search(r"(?:then|back|settl|recover)", gap) and self._only_marks_but_then(gap):
                    self.stats[i + 1] = Stat.SETTLED
                    if not self.figures[i + 1].quantity and self.figures[i].quantity:
                        self._known(self.figures[i + 1], self.figures[i].quantity, self.figures[i].factor)

    def _only_marks_but_then(self, gap: str) -> bool:
        return not re.search(r"[a-z0-9]", re.sub(r"\b(?:then|and|back|up|to|settl\w+|recover\w*|at|it)\b", " ", gap))

    # where, and with what

    def _instrument_words(self) -> None:
        said = [
            Word(self.kit_slug(m.group(1)), m.start(), m.end())
            for m in re.finditer(r"(?:(?<=\s)|^)@([a-z][\w-]*)", self.line.low)
            if self.kit_slug(m.group(1))
        ]
        for word in said:
            self.line.mark(word.start, word.end, "X")
            for i, figure in enumerate(self.figures):
                if figure.start > word.end:
                    self.instruments[i] = word.meant
        self._told_instruments()
        for words, slug in INSTRUMENT_WORDS:
            for match in list(self.line.find(words)):
                self._give_instrument(slug, match)

    def _told_instruments(self) -> None:
        """``, by the clamp meter with inrush hold``: an instrument by its whole name, of the figure before it."""
        for instrument in self.kit.instruments:
            name = re.escape(instrument.name.lower().removeprefix("the ")).replace("\\ ", " ")
            for match in list(self.line.find(rf"by (?:the )?{name}")):
                before = [i for i, f in enumerate(self.figures) if f.start < match.start()]
                if before:
                    self.instruments[before[-1]] = instrument.slug
                    self.line.done(match)

    def kit_slug(self, word: str) -> str:
        """The instrument of the kit that a word names."""
        named = self.kit.named(word)
        return named.slug if named else ""

    def _give_instrument(self, slug: str, match: re.Match[str]) -> None:
        start, end = self.line.clause(match.start())
        after = [i for i, f in enumerate(self.figures) if match.end() <= f.start < end]
        before = [i for i, f in enumerate(self.figures) if start <= f.start < match.start()]
        postfix = re.match(r"(?:on|by|with|from|at) ", match[0]) and before
        chosen = before[-1:] if postfix or not after else after
        named = self.kit_slug(slug) or slug
        for i in chosen:
            self.instruments[i] = named
        if chosen:
            self.line.done(match)

    def _place_words(self) -> None:
        words: list[Word] = []
        for pattern_text, meant in PLACE_WORDS:
            for match in list(self.line.find(pattern_text)):
                if (
                    meant == Place.DC
                    and re.match(r"(?:the )?(?:bat|bank)", match[0])
                    and not self._battery_volts(match)
                ):
                    continue
                words.append(Word(meant, match.start(), match.end()))
                if meant != IN:
                    self.line.done(match)
        words.sort(key=lambda word: word.start)
        for i, figure in enumerate(self.figures):
            if figure.dc and i not in self.places:
                self.places[i] = Place.DC
        current = ""
        for number, (start, end) in enumerate(self.line.clauses):
            inside = [w for w in words if start <= w.start < end]
            mine = [
                i
                for i, f in enumerate(self.figures)
                if f.clause == number and (f.quantity in ELECTRIC or not f.quantity)
            ]
            if not inside and any(self.places.get(i) == Place.DC for i in mine):
                self._spread_dc(mine)
                current = ""
                continue
            if not mine:
                heads = self.line.low[end : end + 1] == ":" and inside and inside[-1].end == end
                for word in inside[:-1] if heads else inside:
                    self.line.undo(word.start, word.end)  # ``both breakers up``: of no figure
            current = self._place_clause(inside, mine, current)

    def _battery_volts(self, match: re.Match[str]) -> bool:
        """Whether ``battery`` is said of volts, amps or watts: of a percentage it says nothing about a place."""
        start, end = self.line.clause(match.start())
        near = [f for f in self.figures if start <= f.start < end]
        return bool(near) and any(f.quantity in ("v", "a", "w", "") for f in near)

    def _spread_dc(self, mine: Sequence[int]) -> None:
        """``24.8 vdc 0.8 a``: what follows in the clause is of the same side, until volts of the output."""
        on = False
        for i in mine:
            figure = self.figures[i]
            if self.places.get(i) == Place.DC:
                on = True
            elif on and figure.quantity == "v":
                on = False
            elif on and figure.quantity in ("a", "w"):
                self.places[i] = Place.DC

    def _place_clause(self, inside: Sequence[Word], mine: Sequence[int], current: str) -> str:
        """Give the figures of a clause their places; the place that the next clause goes on with."""
        if not inside:
            self._inherit(mine, current)
            return current
        first, last = inside[0], inside[-1]
        has_before = any(self.figures[i].start < first.start for i in mine)
        has_after = any(self.figures[i].start > last.start for i in mine)
        if self._is_postfix(inside, mine, has_before=has_before, has_after=has_after):
            self._postfix(inside, mine)
            return ""
        for word, following in zip(inside, [*inside[1:], None], strict=True):
            stop = following.start if following else len(self.line.text)
            for i in mine:
                if word.start < self.figures[i].start < stop:
                    self._put(i, word)
        self._inherit([i for i in mine if self.figures[i].start < first.start], current)
        if last.meant == IN:
            return ""
        return last.meant if last.meant not in (OUT,) else ""

    def _inherit(self, mine: Sequence[int], current: str) -> None:
        """The place of the clause before, until a quantity that it had already comes again."""
        seen = {self.figures[i].quantity for i in self.places if self.places[i] == current}
        for i in mine:
            if self.figures[i].quantity in seen and current in (Place.DC, Place.PANELS):
                return
            if current and i not in self.places:
                self.places[i] = current

    def _is_postfix(self, inside: Sequence[Word], mine: Sequence[int], *, has_before: bool, has_after: bool) -> bool:
        if not has_before:
            return False
        if not has_after:
            return True
        if len(inside) > 1:
            kinds = {word.meant for word in inside}
            return OUT in kinds and inside[-1].meant != OUT and False
        word = inside[0]
        before = [self.figures[i] for i in mine if self.figures[i].start < word.start]
        after = [self.figures[i] for i in mine if self.figures[i].start > word.start]
        if word.meant in (OUT,):
            return False
        if {f.quantity for f in before} & {f.quantity for f in after}:
            return False
        if word.meant == Place.DC:
            return before[-1].quantity == "v" and self._can_be_dc(before[-1].value)
        return True

    def _can_be_dc(self, volts: float) -> bool:
        nominal = self.system.v_nominal
        return not any(abs(volts - times * nominal) <= NEAR_NOMINAL * nominal for times in (1, 2))

    def _postfix(self, inside: Sequence[Word], mine: Sequence[int]) -> None:
        start = -1
        for word in inside:
            for i in mine:
                if start < self.figures[i].start < word.start:
                    self._put(i, word)
            start = word.start
        for i in mine:
            if self.figures[i].start > start and self.figures[i].quantity in ELECTRIC | {""}:
                self._put(i, inside[-1])

    def _put(self, i: int, word: Word) -> None:
        figure = self.figures[i]
        if i in self.places:
            return
        if word.meant == OUT:
            self.places[i] = OUT
        elif word.meant == IN:
            if any(f.quantity == "v" and self._can_be_dc(f.value) and f.clause == figure.clause for f in self.figures):
                self.places[i] = Place.DC
                self.line.mark(word.start, word.end, "X")
        elif word.meant == Place.DC and figure.quantity == "v" and not self._can_be_dc(figure.value):
            return
        else:
            self.places[i] = word.meant

    def _ends_of_heating(self) -> None:
        """``water 12c start 41c end``."""
        temps = [i for i, f in enumerate(self.figures) if f.quantity == "temp_c" and i not in self.stats]
        if len(temps) != 2:
            return
        for words, stat in (
            (r"(?:at )?(?:the )?(?:start|first|beginning)", Stat.BEFORE),
            (r"(?:at )?(?:the )?(?:end|finish|last)", Stat.SETTLED),
        ):
            if (match := self.line.first(words)) is None:
                return
            near = min(
                temps,
                key=lambda i: min(abs(self.figures[i].end - match.start()), abs(match.end() - self.figures[i].start)),
            )
            self.stats[near] = stat
            self.line.done(match)

    def _far_from_nominal(self) -> None:
        """Volts no output would have, beside a source with a battery, are the battery's; the amps beside them too."""
        if not self.battery:
            return
        for i, figure in enumerate(self.figures):
            far = figure.quantity == "v" and figure.value <= min(MOST_DC_V, 0.6 * self.system.v_nominal)
            if (
                not far
                or figure.value < LEAST_BATTERY_V
                or i in self.places
                or self.stats.get(i, Stat.STEADY) is not Stat.STEADY
            ):
                continue
            self.places[i] = Place.DC
            of_output = any(f.quantity == "v" and j != i and not self.places.get(j) for j, f in enumerate(self.figures))
            if not of_output:
                amps = (j for j, f in enumerate(self.figures) if f.quantity == "a" and j not in self.places)
                self.places.update(dict.fromkeys(amps, Place.DC))

    def _amps_of_the_battery(self) -> None:
        """``12.1 volts at the battery, 95 amps``: with no volts of the output beside them."""
        volts = [self.places.get(i) for i, f in enumerate(self.figures) if f.quantity == "v"]
        if volts and all(place == Place.DC for place in volts):
            self.places |= {
                i: Place.DC for i, f in enumerate(self.figures) if f.quantity == "a" and i not in self.places
            }

    def _oil(self) -> None:
        """``oil changed 0.6 l``: litres of oil are no fuel."""
        for figure in self.figures:
            start, end = self.line.clause(figure.start)
            if figure.quantity == "fuel_l" and re.search(r"\boil\b", self.line.text[start:end].lower()):
                figure.quantity = ""
                self.line.shield(figure.start, figure.end)

    def _water(self) -> None:
        """Litres beside a heating are of water: as many kilograms, and no fuel."""
        pair = self.heats or (
            sum(
                self.stats.get(i) in (Stat.BEFORE, Stat.SETTLED) and f.quantity == "temp_c"
                for i, f in enumerate(self.figures)
            )
            == 2
        )
        for figure in self.figures:
            if figure.quantity == "fuel_l" and (
                pair or figure.factor == 1e-3 or re.search(r"\bwater\b", self.line.text.lower())
            ):
                figure.of("water_kg", figure.factor)
            elif figure.quantity == "water_kg" and not (
                pair or re.search(r"\bwater\b|\bkettle\b", self.line.text.lower())
            ):
                figure.quantity = ""  # kilograms of a gas bottle, and of anything else
                self.line.shield(figure.start, figure.end)

    def _no_load(self) -> None:
        for match in list(self.line.find(NO_LOAD)):
            if match[0].endswith(("on", "running")) and self._beside_noise(match.start()):
                continue
            if not self._clause_has(match.start(), ("w", "va")):
                self.zero_at.append(match.start())
            self.line.done(match)

    def _beside_noise(self, at: int) -> bool:
        """Whether a sound level stands in the clause: ``46 db with nothing running`` is of the background."""
        start, end = self.line.clause(at)
        return any(start <= f.start < end and f.quantity == "dba" for f in self.figures)

    def _idle(self) -> None:
        for match in list(self.line.find(IDLE)):
            mine = self._in_clause(match.start())
            if (
                mine
                and all(self.places.get(i) == Place.DC for i in mine)
                and any(self.figures[i].quantity == "a" for i in mine)
            ):
                self.zero_at.append(match.start())
            if mine:
                self.line.done(match)

    def _in_clause(self, at: int) -> list[int]:
        start, end = self.line.clause(at)
        return [i for i, f in enumerate(self.figures) if start <= f.start < end and f.quantity in ELECTRIC]

    def _clause_has(self, at: int, quantities: Sequence[str]) -> bool:
        return any(self.figures[i].quantity in quantities for i in self._in_clause(at))

    def _reading(self, i: int, figure: Figure) -> Reading:
        place = self._place_of(i, figure)
        return Reading(
            quantity=figure.quantity,
            value=figure.value,
            place=place,
            stat=self.stats.get(i, Stat.STEADY),
            instrument=self.instruments.get(i, ""),
            resolution=figure.resolution,
            distance_m=figure.distance_m,
        )

    def _of_both_legs(self, reading: Reading) -> list[Reading]:
        """``both legs 120 volts``: each of them."""
        across = reading.value > (1 + NEAR_NOMINAL) * self.system.v_nominal
        if self.system.legs != 2 or reading.quantity != "v" or reading.place is not Place.TOTAL or across:
            return [reading]
        return [replace(reading, place=place) for place in (Place.LEG1, Place.LEG2)]

    def _place_of(self, i: int, figure: Figure) -> Place:
        """Where an electrical reading was taken when the line does not say.

        One leg: that leg. Two legs: watts are the total; volts near twice the
        nominal are across both; the rest is leg 1, and is told back as such.
        """
        if figure.quantity not in ELECTRIC:
            return Place.NONE
        said = self.places.get(i, "")
        if self.system.legs == 1 and said in ("", OUT, Place.TOTAL):
            return Place.LEG1
        if said and said != OUT:
            return Place(said)
        if figure.quantity == "a" and i and self.figures[i - 1].quantity == "v":
            return self._place_of(i - 1, self.figures[i - 1])
        if figure.quantity in ("w", "va", "pf"):
            return Place.TOTAL
        return Place.TOTAL if figure.quantity == "v" and figure.value > 1.5 * self.system.v_nominal else Place.LEG1
