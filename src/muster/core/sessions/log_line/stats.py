"""At which moment a figure was read: before, lowest, highest, settled; chains such as ``115v to 104 then 114``."""

from __future__ import annotations

import re
from collections.abc import Callable, Sequence

from ..places import Stat
from .draft import Draft
from .figures import Figure

STAT_WORDS: tuple[tuple[Stat, str], ...] = (
    (Stat.LOWEST, r"(?:at |the |its )*(?:dip(?:s|ped)?(?= (?:<F>|<N>))|min|minimum|lowest|low|at worst|worst|as low as|(?:never|not|n't)(?: dropped| went| go| fell| sagged| dipped| drop| got)?(?: to)? (?:under|below)|no lower than)(?: (?:i|we|it) (?:saw|got|read|went|ever saw))?(?: of| at| was)?"),
    (Stat.HIGHEST, r"(?:at |the |its |a |start(?:ing)? )*(?:max|maximum|peak(?:ed|s|ing| hold)?(?: shows| says| reads)?|as high as|(?:never|not) (?:over|above)|no higher than|(?:at|on) (?:the )?(?:<L> )?start(?:ing|up|-up)?|to start(?: up)?|hits?|touched|touches|jump(?:ed|s)(?= to)|shot up(?= to)|highest|high(?= (?:of )?(?:<F>|<N>))|surg(?:e|ed|es)(?: current| amps| power| watts)?|start(?:ing|up|-up)? (?:current|amps|surge|peak|watts|power)|inrush(?: current| amps)?|spik(?:e|ed|es)|tops? out|topped out)(?: (?:i|we|it) (?:saw|got|read|went|ever saw))?(?: of| at| to| was)?"),
    (Stat.BEFORE, r"(?:just )?before(?: it| that| the start)?"),
    (Stat.SETTLED, r"(?:and |then |it )*(?:settl(?:ed|es|ing)|after(?:wards)?|recover(?:ed|s)|(?:came|come|comes|went|climbed|crept|got|picked|picks|rose|built) (?:back |right )?up(?= to)|runs?|running|back(?: up| down)?(?! in))(?: at| to| on)?"),
    (Stat.BACKGROUND, r"(?:the )?(?:background|bg|ambient)(?: noise| is| was| level)*|(?:when|with|while) (?:it|it's|the (?:set|engine|generator|source|inverter))(?: was| is)? off|(?:with )?(?:nothing|everything) (?:running|off)|(?:engine|set|source|generator|genny|inverter)(?: is| was)? off"),
)  # fmt: skip
DIPPED = r"(?:volts|voltage)(?: down| straight)* to (?:about |around )?|(?:it |volts |voltage |lights )*(?:falling|sagging|dipping|dropping|dip(?:s|ped)?|drop(?:s|ped)?|sag(?:s|ged)?|fell|falls|pulled|dragged|sank|sinks|down|knocked|went)(?: it| them| down| right| straight| the volts| the voltage| volts| voltage| all the way)*(?: down)? to (?:about |around )?"
LOW_THEN = 0.97
"""``104 v then 116``: volts lower than this share of the next are the lowest of a dip, and the next where it settled."""
LEAST_SETTLED = 0.95
"""Volts below this share of nominal, at a start, are those of its dip."""
OF_POWER = frozenset(
    [
        "a",
        "and",
        "at",
        "draw",
        "fell",
        "its",
        "it",
        "load",
        "now",
        "of",
        "on",
        "power",
        "the",
        "to",
        "va",
        "w",
        "was",
        "watts",
        "went",
    ]
)
"""Words before ``low 300 w`` that name nothing with a setting."""
FOR_A_MOMENT = re.compile(
    r" for (?:just )?(?:a|one|half a) (?:split |fraction of a )?(?:second|sec|moment|blink|instant|flash|heartbeat)\b"
)
TO = re.compile(
    r"\s*(?:down |up |falling |sagging |dipping |dropping |dips? |dipped |drop(?:s|ped) )*(?:to|-+>|=+>|→|>|»|-|–|into|\.\.+)\s*(?:about\s+)?"
)
THEN = re.compile(
    r"\s*,?\s*(?:and |then |,\s*)*(?:then|back(?: up)?(?: to)?|settl\w+(?: at| to)?|recover\w*(?: to)?|up to|to)\s*"
)
DASHED = re.compile(r"\s*[-–]\s*")
"""``58-62 hz``: rising, and so no dip: a range."""
RANGED = re.compile(
    r"\b(?:between|wander\w*|swing\w*|hunt\w*|surg(?:ing|es)|var(?:y|ies|ied|ying)|drift\w*|jump\w* (?:around|about)|bounc\w*|fluctuat\w*|moves|moving|ranging|anywhere|all over)\b[^,;]*$"
)
"""``wandering 221 to 233``: the lowest and the highest of a steady state, and no start."""


class Stats(Draft):
    """Gives the figures of a line their moments."""

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
                if not link or not self._alike(chain[-1], chain[-1] + 1) or self._parts(chain[-1], gap):
                    break
                links.append(link)
                chain.append(chain[-1] + 1)
            if len(chain) > 1:
                self._share(chain)
                self._roles(chain, links)
            i = chain[-1] + 1 if len(chain) > 1 else i + 1

    def _parts(self, i: int, gap: str) -> bool:
        """Whether a dash between two figures parts them, and is no ``to``: ``at 1.8 - amps 7.7``."""
        before, after = self.figures[i], self.figures[i + 1]
        if gap.strip() not in ("-", "–"):
            return False
        named = not self.line.text[after.start].isdigit()
        return named or not 0.5 <= after.number / max(before.number, 1e-9) <= 2.0

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
        after = self.line.text[figures[-1].end : self.line.clause(figures[-1].start)[1]].lower()
        ranged = (
            RANGED.search(self.line.text[: figures[0].start].lower())
            or RANGED.match(after.strip())
            or (DASHED.fullmatch(self._between(chain[0], chain[1])) and figures[0].value < figures[1].value)
        )
        if quantity in ("v", "hz") and len(chain) == 2 and ranged:
            low, high = sorted(chain, key=lambda i: self.figures[i].value)
            self.stats[low], self.stats[high] = Stat.LOWEST, Stat.HIGHEST
            return
        if quantity == "a" and links == ["then"] and figures[0].value > figures[1].value:
            self.stats[chain[0]], self.stats[chain[1]] = Stat.HIGHEST, Stat.SETTLED
            return
        if quantity == "v" and links == ["then"] and figures[0].value < LOW_THEN * figures[1].value:
            self.stats[chain[0]], self.stats[chain[1]] = Stat.LOWEST, Stat.SETTLED
            return
        if quantity in ("w", "va") and links == ["to"] and figures[0].value == 0:
            figures[0].quantity = ""  # ``0 to 3.6 kw in one go``: the load is what it came to
            self.line.shield(figures[0].start, figures[0].end)
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

    def _for_a_moment(self) -> None:
        """``109 v for a second``: the lowest, and no length that anything was held for."""
        for i, figure in enumerate(self.figures):
            if i in self.stats or figure.quantity not in ("v", "w", "va", "a"):
                continue
            if match := FOR_A_MOMENT.match(self.line.text.lower(), figure.end):
                self.stats[i] = Stat.LOWEST if figure.quantity == "v" else Stat.HIGHEST
                self.line.shield(figure.end + 1, match.end())

    def _stat_words(self) -> None:
        for stat, words in STAT_WORDS:
            for match in sorted(self.line.find(words), key=lambda m: m.start()):
                self._give_stat(stat, match)
        self._then_settled()

    def _give_stat(self, stat: Stat, match: re.Match[str]) -> None:
        left, right = self._beside(stat, match)
        if self._is_no_moment(match, left, right):
            return
        points_on = right is not None and re.search(r" (?:to|at|of|was)$", match[0])
        points_on = points_on or (right is not None and re.match(r" to\b", self.line.low[match.end() :]))
        chosen = right if left is None or points_on or (stat is Stat.BACKGROUND and right is not None) else left
        chosen = self._extreme_of(stat, left, right, chosen)
        if chosen is not None:
            self.stats[chosen] = Stat.LOWEST if self._is_dip_at_start(match, chosen) else stat
            self.stat_words[chosen] = match.span()
            self.line.done(match)

    def _extreme_of(self, stat: Stat, left: int | None, right: int | None, chosen: int | None) -> int | None:
        """``231v min 224v``: of two alike on either side the lower is the lowest, the higher the highest."""
        if left is None or right is None or stat not in (Stat.LOWEST, Stat.HIGHEST) or not self._alike(left, right):
            return chosen
        low, high = sorted((left, right), key=lambda i: self.figures[i].value)
        extreme, other = (low, high) if stat is Stat.LOWEST else (high, low)
        if extreme == right and self.figures[left].quantity == "v" and stat is Stat.LOWEST:
            self.stats[other] = Stat.BEFORE
        return extreme

    def _beside(self, stat: Stat, match: re.Match[str]) -> tuple[int | None, int | None]:
        """The figures left and right of a word in its clause that it can be said of."""
        start, end = self.line.clause(match.start())
        if stat is Stat.BACKGROUND and sum(figure.quantity in ("dba", "") for figure in self.figures) == 1:
            start, end = 0, len(self.line.text)
        numbers = range(len(self.figures))
        left = next((i for i in reversed(numbers) if start <= self.figures[i].start < match.start()), None)
        right = next((i for i in numbers if match.end() <= self.figures[i].start < end), None)
        adjoins = stat is Stat.BACKGROUND  # which may stand anywhere in its clause
        if left is not None and not (adjoins or self._only_marks(self.figures[left].end, match.start())):
            left = None
        start_at = match.end()
        if stat is Stat.SETTLED and (
            slow := re.match(r" (?:in|within|after) (?:about )?\ue002\ue003* to(?= )", self.line.low[start_at:])
        ):
            start_at += slow.end()  # ``recovered in half a second to 226v``
        if right is not None and not (adjoins or self._only_marks(start_at, self.figures[right].start)):
            right = None
        takes = self._takes(stat)
        free = [i if i is not None and i not in self.stats and takes(self.figures[i]) else None for i in (left, right)]
        return free[0], free[1]

    def _is_no_moment(self, match: re.Match[str], left: int | None, right: int | None) -> bool:
        """Whether a word that may name a moment does not here: ``runs 4 min``, ``off after 38 s``, ``hits 11.4 volts``."""
        word, of_left = match[0].split()[0], self._quantity(left)
        if word in ("hit", "hits", "touched", "touches") and right is not None:
            return self._quantity(right) == "v" and self.figures[right].value < self.system.v_nominal
        if word in ("run", "runs", "running"):
            return not (self._after_highest(right) or self._after_highest(left))
        if word == "high" and self._quantity(right) not in ("v", "hz"):
            return True
        if match[0] == "after" and re.match(
            r" (?!it\b|that\b|the start|start\b|then\b)[a-z]+", self.line.low[match.end() :]
        ):
            return True  # ``26.3 after charging``, ``12.8 v after a night off``
        if word in ("low", "min", "max") and "w" in (self._quantity(right) or of_left).replace("va", "w"):
            return self._is_a_setting(match)
        if re.match(r"(?:at|on|to) .*start", match[0]):
            return of_left not in ("a", "w", "va") and not (left is not None and self._is_dip_at_start(match, left))
        of_length = match[0] == "after" and re.match(r" *(?:about )?\ue002", self.line.low[match.end() :])
        return bool(of_length) and not (of_left == "temp_c" and self._of_heating())

    def _is_a_setting(self, match: re.Match[str]) -> bool:
        """``heater low 620w``, ``fan heater on low, 780 w``: the setting of what is named before it, and no lowest of anything."""
        said = self.line.low[self.line.clause(match.start())[0] : match.start()]
        if re.search(r"[\ue004\ue005]", said):
            return bool(re.search(r"[\ue004\ue005] (?:on |at )?$", said))
        return bool(set(re.findall(r"[a-z]+", said)) - OF_POWER)

    def _is_dip_at_start(self, match: re.Match[str], i: int) -> bool:
        """``pump started, 193 v on start``: volts below nominal at a start are the lowest of its dip."""
        figure = self.figures[i]
        below = LEAST_SETTLED * self.system.v_nominal
        of_start = re.match(r"(?:at|on) .*start", match[0])
        return bool(of_start) and figure.quantity == "v" and figure.start < match.start() and figure.value < below

    def _of_heating(self) -> bool:
        """Whether the temperatures of the line are of something that is heated."""
        temps = [figure for figure in self.figures if figure.quantity == "temp_c"]
        return self.heats or len(temps) > 1 or bool(re.search(r"\b(?:water|kettle|boil\w*)\b", self.line.text.lower()))

    def _quantity(self, i: int | None) -> str:
        return "" if i is None else self.figures[i].quantity

    def _after_highest(self, i: int | None) -> bool:
        """Whether the highest or the lowest of the same quantity stands before a figure."""
        if i is None:
            return False
        before = [j for j in range(i) if self._alike(j, i)]
        return any(self.stats.get(j) in (Stat.HIGHEST, Stat.LOWEST) for j in before)

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
