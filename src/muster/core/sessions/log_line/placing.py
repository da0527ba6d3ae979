"""Where a figure was read, and with which instrument."""

from __future__ import annotations

import re
from collections.abc import Sequence

from ..places import Place, Stat
from .draft import ELECTRIC, IN, LEAST_BATTERY_V, NEAR_NOMINAL, OUT, Draft, Word
from .figures import MOST_DC_V, Figure

OF_AC = frozenset({"pf", "va", "thd_pct"})
"""Quantities that direct current does not have."""
LEAST_DC_SHARE = 0.97
"""Watts of the DC side make up volts times amps within what the two are read to."""
MOST_SAGGED = 0.3
"""Volts below this share of nominal, beside volts near it, are the battery's."""
CHARGING = re.compile(r"\b(?:dis)?charg(?:ing|es|ed)(?: it| now| at| with| by| about)*\s*$")
PLACE_WORDS: tuple[tuple[str, str], ...] = (
    (r"l(?:ine)? ?1 ?(?:-|–|/|to) ?l(?:ine)? ?2|l ?(?:-|–) ?l|line to line|leg to leg|hot to hot", Place.TOTAL),
    (r"l(?:ine)? ?1 ?(?:-|–|/|to) ?n(?:eutral)?|hot ?1", Place.LEG1),
    (r"l(?:ine)? ?2 ?(?:-|–|/|to) ?n(?:eutral)?|hot ?2", Place.LEG2),
    (r"(?:<!L>on )?(?:the )?(?:l1|leg ?1|leg ?a|line a|leg one|line 1|first leg)", Place.LEG1),
    (r"(?:<!L>on )?(?:the )?(?:l2|leg ?2|leg ?b|line b|leg two|line 2|second leg|other leg)", Place.LEG2),
    (r"(?:on |in )?(?:the )?neutral(?: carrying| carries)?|n(?=:? ?<F>|:? ?<N>)", Place.NEUTRAL),
    (r"(?:on |at )?(?:the )?(?:dc(?: side| volts| amps| current| input)?|battery (?:side|volts|voltage|amps|current|bank)|battery|batery|batt|bat|(?<!load )bank)", Place.DC),
    (r"(?:from |on )?(?:the )?(?:(?:pv|mppt|string)[1-4]?|(?<!on the )(?<!in the )panels?(?! meter)|solar|sun(?! (?:is |was )*(?:low|gone|set|down))|array|strings)(?: input| in| side| power| volts| voltage| current| watts)?", Place.PANELS),
    (r"(?:in )?(?:total|all up|all told|altogether|combined|in all)|(?:on |over |across )?both(?: legs)?|across(?: both| the legs| legs)?|sum", Place.TOTAL),
    (r"ua|unit ?a|set a|(?:unit|set|gen|genny|generator|inverter|source) ?(?:1|one)|first (?:set|unit|one)|left(?: hand)? (?:one|set|unit)", Place.UNIT_A),
    (r"ub|unit ?b|set b|(?:unit|set|gen|genny|generator|inverter|source) ?(?:2|two)|second (?:set|unit|one)|second(?= <F>| <N>)|right(?: hand)? (?:one|set|unit)|other (?:set|unit|one)", Place.UNIT_B),
    (r"(?:at the |going )?out(?:put)?(?=[ :=]*(?:<F>|<N>)| ?$|[,;])|ac side|ac|(?:while |whilst )?(?:making|producing|putting out)(?: about)?(?= <F>)|(?:while|whilst) (?:giving|making|feeding|supplying|delivering|putting out|serving)(?: about| out)?(?= <F>)|(?<!under )loads?(?=[ :=]*(?:is |at )?(?:<F>|<N>))|going out|to the house", OUT),
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


class Placing(Draft):
    """Gives the figures of a line their places and instruments."""

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

    def _give_instrument(self, slug: str, match: re.Match[str]) -> None:
        start, end = self.line.clause(match.start())
        after = [i for i, f in enumerate(self.figures) if match.end() <= f.start < end]
        before = [i for i, f in enumerate(self.figures) if start <= f.start < match.start()]
        postfix = re.match(r"(?:on|by|with|from|at) ", match[0]) and before
        chosen = before[-1:] if postfix or not after else after
        if (
            not before
            and not after
            and self.line.text[start:end].strip(" ,;.") == self.line.text[match.start() : match.end()]
        ):
            # ``pump start, scope, 122 to 104``: a clause of its own, of every figure that nothing else read
            chosen = [
                i for i, f in enumerate(self.figures) if i not in self.instruments and f.quantity in (*ELECTRIC, "")
            ]
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
        words = [word for word in words if not self._made_by_the_panels(word, words)]
        if self.system.legs == 1 and any(figure.dc for figure in self.figures):
            words = [word for word in words if "both" not in self.line.text[word.start : word.end].lower()]
            # ``both 1480w dc 24.6v 70a``: loads, where there is one leg and one unit
        for i, figure in enumerate(self.figures):
            if figure.dc and i not in self.places:
                self.places[i] = Place.DC
        current = ""
        for number, (start, end) in enumerate(self.line.clauses):
            if start and self.line.text[start - 1] in ".!?":
                current = ""  # a sentence of its own
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
            if any(self.figures[i].dc for i in mine):
                self._spread_dc(mine)  # ``23.1v dc 88a 226v out``
            if not mine and "plugged" in self.line.text[start:end].lower():
                current = ""  # ``panels unplugged, …``: the place of nothing that follows
                continue
            current = self._place_clause(inside, mine, current)

    def _made_by_the_panels(self, word: Word, words: Sequence[Word]) -> bool:
        """``panels making 640 w``: the verb says nothing of the output."""
        start = self.line.clause(word.start)[0]
        verb = re.match(r"(?:making|producing|putting)", self.line.text[word.start :].lower())
        return bool(verb) and any(start <= w.start < word.start and w.meant == Place.PANELS for w in words)

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
            if current in (Place.DC, Place.PANELS) and not self._can_be_of_dc(self.figures[i]):
                continue
            if current and i not in self.places:
                self.places[i] = current

    def _can_be_of_dc(self, figure: Figure) -> bool:
        """Whether a figure of a clause after DC may be of the same side."""
        return figure.quantity not in OF_AC and not (figure.quantity == "v" and not self._can_be_dc(figure.value))

    def _is_postfix(self, inside: Sequence[Word], mine: Sequence[int], *, has_before: bool, has_after: bool) -> bool:
        if not has_before:
            return False
        if not has_after:
            return True
        if len(inside) > 1 or inside[0].meant == OUT:
            return False
        word = inside[0]
        before = [self.figures[i] for i in mine if self.figures[i].start < word.start]
        after = [self.figures[i] for i in mine if self.figures[i].start > word.start]
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
        if i in self.places or (word.meant in (Place.DC, Place.PANELS) and figure.quantity in OF_AC):
            return
        if word.meant == OUT:
            if figure.quantity == "v" and figure.value < MOST_SAGGED * self.system.v_nominal and self._other_volts(i):
                return  # ``11.2v 112v out``: of the battery
            self.places[i] = OUT
        elif word.meant == IN:
            if any(f.quantity == "v" and self._can_be_dc(f.value) and f.clause == figure.clause for f in self.figures):
                self.places[i] = Place.DC
                self.line.mark(word.start, word.end, "X")
        elif word.meant == Place.DC and figure.quantity == "v" and not self._can_be_dc(figure.value):
            return
        else:
            self.places[i] = word.meant

    def _other_volts(self, i: int) -> bool:
        return any(
            j != i and figure.quantity == "v" and not self._can_be_dc(figure.value)
            for j, figure in enumerate(self.figures)
        )

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

    def _watts_beside_dc(self) -> None:
        """``25.1v dc 22a 0.5kw``: less than volts times amps is what went out, after what the inverter keeps."""
        of_dc = {
            q: [f for i, f in enumerate(self.figures) if f.quantity == q and self.places.get(i) == Place.DC]
            for q in "va"
        }
        if not of_dc["v"]:
            return
        for i, figure in enumerate(self.figures):
            if figure.quantity != "w" or self.places.get(i) != Place.DC:
                continue
            if figure.dc and not (of_dc["a"] and of_dc["v"][0].start > figure.start):
                continue  # ``520w dc 26v 22a``: the word heads what follows, where that makes more than the watts
            if of_dc["a"]:
                dc_w = of_dc["v"][-1].value * of_dc["a"][-1].value
                out = figure.value < LEAST_DC_SHARE * dc_w
            else:
                out = of_dc["v"][0].start < figure.start
            if out:
                self.places[i] = OUT

    def _charging(self) -> None:
        """``charging at 14 a``: amps of the battery, with no volts of the output beside them."""
        if not self.battery or any(f.quantity == "v" and not self._can_be_dc(f.value) for f in self.figures):
            return
        for i, figure in enumerate(self.figures):
            if figure.quantity == "a" and i not in self.places and CHARGING.search(self._before(i)):
                self.places[i] = Place.DC

    def _amps_of_the_battery(self) -> None:
        """``12.1 volts at the battery, 95 amps``: with no volts of the output beside them."""
        volts = [self.places.get(i) for i, f in enumerate(self.figures) if f.quantity == "v"]
        if volts and all(place == Place.DC for place in volts):
            self.places |= {
                i: Place.DC for i, f in enumerate(self.figures) if f.quantity == "a" and i not in self.places
            }
