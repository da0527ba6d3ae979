"""Figures found in a line: numbers with their units, lengths of time, and numbers that only their neighbours explain."""

from __future__ import annotations

import re
from dataclasses import dataclass, field

from ...measures import FT_M
from .marks import MarkedLine
from .times import COUNT, LENGTH, ROUGH_FIGURE, WORDS, Span, length_of
from .units import SpeltUnit, named_before, unit_at

NUMBER = re.compile(
    r"(?<![\w.,:])(?<!\b[a-z]-)(?<!\d\+)(?P<sign>(?:(?<=\s)|^)[-−+])?(?P<n>\d{1,3}(?:[\u2009\u202f\u00a0]\d{3})+(?:\.\d+)?|\d{1,3}(?:,\d{3})+(?:\.\d+)?(?![\d,])|\d+(?:[.,]\d+)?|\.\d+)(?![\d.]*\+\d)(?!\d*:\d)"
)
ROUGHLY = re.compile(r"(?:about|around|roughly|approx\.?|nearly|almost|some|~|maybe|say)\s*$")
NUMBERED = re.compile(
    r"\b(?:pv|mppt|strings?|ports?|inputs?|bank|battery|batt|circuit|socket|outlet|heater|pump|kettle) $"
)
OF_NUMBERED = re.compile(r"\d(?: ?:| ?$| ?,| -| \d)")
"""``pv 2: 38 v``: which one, and no figure."""
ORDINAL = re.compile(r"\b(?:leg|line|unit|set|gen|genny|generator|inverter|source|step|day|no\.?) $")
"""Words whose single digit counts places or steps."""
AT = re.compile(r"(?:@|\bat|\bfrom|\baway)\s*$")
OF_WHAT = re.compile(
    r"\s*(?:of (?:the )?(?:claim|rat|name|plate|load|throttle|full)|load(?! ?\d+(?:\.\d+)? ?k?(?:w|va)\b)|throttle|humid|more|less|slower|louder|duty|off the)"
)
"""Words after a percentage that make it no charge."""
V_ALONE = re.compile(r"v(?:olts?)?")
MOST_DC_V = 70.0
"""Above it a household battery's volts are said to be DC."""
LEAST_HZ, MOST_HZ = 25.0, 90.0
"""No set that still runs makes less or more."""
THD = re.compile(r"\s*(?:thd[vi]?|distortion|harmonic)")
THD_BEFORE = re.compile(r"(?:thd[vi]?|distortion|harmonics?)\s*(?:is|was|of|at|under|below|about|around|near|:|=)?\s*$")
THD_SAID = re.compile(r"\b(?:thd[vi]?|distortion)\b")
CHARGE_SAID = re.compile(r"\b(?:soc|charge|charged|battery|gauge|left|full|empty)\b")
"""``thd 3.2% at no load and 5.8% with 2kw``: a second percent is of distortion too, where nothing speaks of charge."""
CORD = re.compile(r"\s*(?:of )?(?:cord|cable|lead|flex|wire|hose|extension)")
CORD_BEFORE = re.compile(r"\b(?:cord|cable|lead|flex|extension|wire|hose)\b[^,;.@]*$")
CONTAINER = re.compile(r"[ -](?:jerry ?)?(?:can|tank|bottle|drum|pot|bucket|kettle|jug|container|size)s?\b")
SPOKEN_WATER = re.compile(rf"(?<!\w)(?P<n>{COUNT})\s+(?:lit(?:re|er)s?|kilos?|kg)\s+(?:of\s+)?water\b")
SPOKEN_DISTANCE = re.compile(rf"(?<!\w)(?:at )?(?P<n>{COUNT})\s+(?P<unit>met(?:re|er)s|feet|yards)(?: away| off)?\b")
SPOKEN_M = {"m": 1.0, "f": FT_M, "y": 3 * FT_M}
"""``seven metres``."""
MINUTES_SECONDS = re.compile(
    r"\b(?:took|takes|lasted|for|in|within|held|ran)\s+(?P<m>\d{1,2}):(?P<s>[0-5]\d)(?!\s*[ap]\.?m\b)(?![:\d])"
)
"""``kettle took 3:50``: three minutes and fifty seconds."""
LASTING = re.compile(r"\b(?:gallons?|gal|lit(?:re|er)s?|tank\w*|charge|battery|overnight|full)\b")
"""``ran 2:10 on a gallon``: hours and minutes."""
CLOCK_S = (
    r"(?:the )?(?:mains |wall |synchronous |plug-in )?clock[^\d]{0,24}(?P<shown>\d+(?:\.\d+)?) ?(?:s|secs?|seconds?)? (?:in|per|over|for) (?P<true>(?:(?:a|one|the) )?minute|\d+(?:\.\d+)? ?(?:s|secs?|seconds?)?)(?! ?m)(?: \([^)]*\))?",
    r"(?P<shown>\d+(?:\.\d+)?) ?(?:s|secs?|seconds?) on (?:it|the (?:mains |wall )?clock)(?: in| per| over) (?P<true>(?:a|one|the) minute|\d+(?:\.\d+)? ?(?:s|secs?|seconds?)?)",
)
"""Seconds on a clock that runs by the mains, in so many true ones."""


CLOCK_OFF = re.compile(
    r"clock (?:has |had )?(?P<way>lost|loses|gained|gains) (?:about )?(?P<n>\d+(?:\.\d+)?) ?(?:s|secs?|seconds?) (?:in|over|per) (?P<true>\d+(?:\.\d+)?) ?(?P<unit>s|secs?|seconds?|m|mins?|minutes?)(?!\w)"
)


@dataclass
class Figure:
    """A number in the line: what it is of, its value in SI, and where it stands; ``quantity`` is empty while not known."""

    quantity: str
    value: float
    resolution: float
    start: int
    end: int
    number: float = 0.0
    step: float = 1.0
    factor: float = 1.0
    dc: bool = False
    distance_m: float | None = None
    clause: int = 0

    def of(self, quantity: str, factor: float = 1.0, zero: float = 0.0) -> None:
        """Say what a number is of."""
        self.quantity, self.factor = quantity, factor
        self.value, self.resolution = round((self.number - zero) * factor, 9), round(self.step * abs(factor), 12)


@dataclass
class Lexed:
    """All that is a number in a line: figures, lengths of time, distances."""

    figures: list[Figure] = field(default_factory=list)
    spans: list[Span] = field(default_factory=list)


def number_of(text: str, unit: SpeltUnit | None) -> tuple[float, float]:
    """A number as people write it, and its last digit's worth: ``2,200`` w is thousands, ``2,910`` kw a decimal comma."""
    plain = re.sub(r"[\u2009\u202f\u00a0]", "", text)
    if "," in plain:
        thousands = re.fullmatch(r"\d{1,3}(?:,\d{3})+(?:\.\d+)?", plain) and not (unit and unit.factor >= 1000)
        plain = plain.replace(",", "" if thousands else ".")
    decimals = len(plain.split(".")[1]) if "." in plain else 0
    return float(plain), 10.0**-decimals


def lex(line: MarkedLine, volts: tuple[float, float]) -> Lexed:
    """Find the numbers of a line, and cover them; ``volts`` bounds what may be volts of this supply."""
    lexed = Lexed()
    _take_clock_off(line, lexed)
    _take_clocks(line, lexed)
    _take_spoken_water(line, lexed)
    _take_minutes_and_seconds(line, lexed)
    _take_lengths(line, lexed, volts)
    distances = [
        (WORDS[" ".join(match["n"].split())] * SPOKEN_M[match["unit"][0]], match.start(), match.end())
        for match in SPOKEN_DISTANCE.finditer(line.low)
    ]
    for match in list(NUMBER.finditer(line.low)):
        if line.covered[match.start("n")] or (
            len(match["n"]) == 1
            and ORDINAL.search(line.low[: match.start()])
            and not line.low[match.end() : match.end() + 1].isalpha()
        ):
            continue
        if NUMBERED.search(line.low[: match.start()]) and OF_NUMBERED.match(line.low, match.start()):
            continue
        _take_number(line, match, lexed, distances, volts)
    _set_distances(line, lexed, distances)
    lexed.figures.sort(key=lambda figure: figure.start)
    clauses = line.clauses
    for figure in lexed.figures:
        figure.clause = next((i for i, (start, end) in enumerate(clauses) if start <= figure.start < end), 0)
    return lexed


def _take_clocks(line: MarkedLine, lexed: Lexed) -> None:
    for words in CLOCK_S:
        for match in list(line.find(words)):
            if CLOCK_OFF.search(match[0]):
                continue
            true_s = 60.0 if "minute" in match["true"] else float(re.split(r"[ s]", match["true"])[0])
            shown, step = number_of(match["shown"], None)
            if not true_s:
                continue
            figure = Figure(
                quantity="clock_s",
                value=0.0,
                resolution=0.0,
                start=match.start(),
                end=match.end(),
                number=shown,
                step=step,
            )
            figure.of("clock_s", 60.0 / true_s)
            lexed.figures.append(figure)
            line.mark(match.start(), match.end(), "F")


def _take_clock_off(line: MarkedLine, lexed: Lexed) -> None:
    """``clock lost 2 s in 10 min``."""
    for match in list(CLOCK_OFF.finditer(line.low)):
        true_s = float(match["true"]) * (60.0 if match["unit"].startswith("m") else 1.0)
        if true_s <= 0:
            continue
        off_s, step = number_of(match["n"], None)
        shown_s = true_s + (off_s if match["way"].startswith("gain") else -off_s)
        figure = Figure(
            quantity="", value=0.0, resolution=0.0, start=match.start(), end=match.end(), number=shown_s, step=step
        )
        figure.of("clock_s", 60.0 / true_s)
        lexed.figures.append(figure)
        line.mark(match.start(), match.end(), "F")


def _take_lengths(line: MarkedLine, lexed: Lexed, volts: tuple[float, float]) -> None:
    for match in list(LENGTH.finditer(line.low)):
        if any(line.covered[match.start() : match.end()]) or _is_distance(line, match):
            continue
        if re.search(r"(?:every|each|per)\s+(?:few )?$", line.low[: match.start()]) or (
            match["n"] in ("a", "an")
            and (
                match["unit"].startswith("day")
                or re.search(r"\d\s*(?:l|lit\w+|gal\w*|kwh|wh|%|percent|points?)\s+$", line.low[: match.start()])
            )
        ):
            continue
        if _is_lowest_volts(line, match, volts):
            continue
        if match["unit"] == "h" and re.match(r"\s*z", line.low[match.end() :]):
            continue
        seconds, step_s = length_of(match)
        lexed.spans.append(Span(seconds, step_s, match.start(), match.end(), match["unit"]))
        line.mark(match.start(), match.end(), "D")


def _take_spoken_water(line: MarkedLine, lexed: Lexed) -> None:
    """``a litre of water``."""
    for match in list(SPOKEN_WATER.finditer(line.low)):
        count = WORDS[" ".join(match["n"].split())]
        figure = Figure(
            quantity="", value=count, resolution=0.1, start=match.start(), end=match.end(), number=count, step=0.1
        )
        figure.of("water_kg")
        lexed.figures.append(figure)
        line.mark(match.start(), match.end(), "F")


def _take_minutes_and_seconds(line: MarkedLine, lexed: Lexed) -> None:
    for match in list(MINUTES_SECONDS.finditer(line.low)):
        start = match.start("m")
        if not any(line.covered[start : match.end()]):
            unit_s = 60.0 if LASTING.search(line.low) else 1.0
            seconds = unit_s * (60 * float(match["m"]) + float(match["s"]))
            lexed.spans.append(Span(seconds, unit_s, start, match.end(), "h" if unit_s > 1 else "m"))
            line.mark(start, match.end(), "D")


def _is_distance(line: MarkedLine, match: re.Match[str]) -> bool:
    """``7 m``: metres beside a sound level, after ``@`` or of a cord; minutes elsewhere."""
    if match["unit"] != "m" or match["n2"]:
        return False
    start, end = line.clause(match.start())
    beside = line.low[start : match.start()] + " " + line.low[match.end() : end]
    if re.search(r"\d\s*(?:dba?|decibels?)\b", beside) or CORD.match(line.low, match.end()):
        return True
    before = line.low[: match.start()]
    if CORD_BEFORE.search(before):
        return True  # ``cord is 15 m``
    if re.search(r"\d\s*(?:dba?|decibels?)(?: ?\(a\))?[^,;\d]*[,;]\s*$", before):
        return True  # ``57 dB, about 12 m``
    return bool(re.search(r"@\s*$", before) or re.search(r"\d\s+at\s+$", before)) or bool(
        re.match(r"\s*(?:away|from|off|down|up)\b", line.low[match.end() :])
    )


def _is_lowest_volts(line: MarkedLine, match: re.Match[str], volts: tuple[float, float]) -> bool:
    """``104 min``: the lowest volts where it can be, and nothing says that it is a time."""
    if match["unit"] != "min" or match["n2"] or match["rough"] or not match["n"][0].isdigit():
        return False
    value = float(match["n"].replace(",", "."))
    if not volts[0] <= value <= volts[1]:
        return False
    if re.search(r"(?:held|ran|run|for|after|in|on|stood|over|been)\s*$", line.low[: match.start()]):
        return False
    beside = line.low[: match.start()] + line.low[match.end() :]
    return bool(re.search(r"start|before|settled|\bto\b|dip|\bl[12]\b|leg", beside)) or (
        not re.search(r"\d", beside) and value % 5 != 0
    )


def _take_number(
    line: MarkedLine,
    match: re.Match[str],
    lexed: Lexed,
    distances: list[tuple[float, int, int]],
    volts: tuple[float, float],
) -> None:
    end = match.end()
    gap = re.match(r"[ \t]*", line.low[end:]).end()  # type: ignore[union-attr]
    unit_found = unit_at(line.low, end + gap)
    unit, unit_end = unit_found if unit_found and unit_found[0].quantity != "time_s" else (None, end)
    if unit and gap and re.match(r"\s*\d", line.low[unit_end:]) and _is_named_other(line, match.start(), unit):
        unit, unit_end = None, end  # ``va 3200 w 2900``: each unit before its figure
    number, step = number_of(match["n"], unit)
    if (
        unit
        and gap
        and unit.quantity == "hz"
        and not LEAST_HZ <= number <= MOST_HZ
        and re.match(r"\s*\d", line.low[unit_end:])
    ):
        unit, unit_end = None, end  # ``at 7.05 hz 52.3 volts 236``: the unit is of what follows
        number, step = number_of(match["n"], None)
    if unit and unit.dc and unit.quantity == "v" and volts[0] <= number <= volts[1] and number > MOST_DC_V:
        unit = SpeltUnit("v")  # ``231v dc 62a``: no battery has it, and the word is of what follows
        unit_end = end + gap + len(V_ALONE.match(line.low, end + gap)[0])  # type: ignore[index]
    if match["sign"] in ("-", "−"):
        number = -number
    figure = Figure(
        quantity="", value=number, resolution=step, start=match.start(), end=unit_end, number=number, step=step
    )
    if ROUGHLY.search(line.low[: match.start()]):
        figure.step = max(step, abs(number) * ROUGH_FIGURE)
    if unit is None:
        if re.match(r"[a-z_%°]", line.low[end : end + 1]):
            return  # stuck to a word that is no unit: left as it was said
        if (named := named_before(line.low, match.start())) is not None and not line.covered[named[2]]:
            figure.of(named[0], named[1])
            figure.start = named[2]
        if re.match(r"\s*@", line.low[end:]) and not figure.quantity:
            figure.end = end
    elif unit.quantity in ("distance_m", "metres_or_minutes"):
        metres = number * (1.0 if unit.quantity == "metres_or_minutes" else unit.factor)
        start = match.start()
        if before := AT.search(line.low[:start]):
            start = before.start()
        if CORD.match(line.low, unit_end) or CORD_BEFORE.search(line.low[: match.start()]):
            return
        distances.append((metres, start, unit_end))
        return
    elif unit.quantity == "fuel_l" and CONTAINER.match(line.low, unit_end):
        return  # ``5 gal can``: how much it holds
    else:
        _with_unit(line, figure, unit, unit_end)
        if figure.quantity == "":
            return
    lexed.figures.append(figure)
    line.mark(figure.start, figure.end, "F" if figure.quantity else "N")


def _is_named_other(line: MarkedLine, at: int, unit: SpeltUnit) -> bool:
    """Whether the words before a figure name another quantity than its unit is of."""
    named = named_before(line.low, at)
    return named is not None and named[0] != unit.quantity


def _with_unit(line: MarkedLine, figure: Figure, unit: SpeltUnit, unit_end: int) -> None:
    low = line.low
    figure.dc = unit.dc
    if unit.quantity == "soc_pct":
        if THD.match(low, unit_end):
            figure.end = THD.match(low, unit_end).end()  # type: ignore[union-attr]
            figure.of("thd_pct")
        elif thd := THD_BEFORE.search(low[: figure.start]):
            figure.start = thd.start()
            figure.of("thd_pct")
        elif THD_SAID.search(low[: figure.start]) and not CHARGE_SAID.search(low):
            figure.of("thd_pct")
        elif not OF_WHAT.match(low, unit_end):
            figure.of("soc_pct")
        return
    if unit.quantity in ("fuel_l", "water_kg"):
        after = re.match(r"\s*(?:of )?water\b", low[unit_end:])
        before = re.search(r"\bwater\s+$", low[: figure.start])
        if after or before:
            figure.end = unit_end + after.end() if after else unit_end
            figure.start = figure.start if after or not before else before.start()
            figure.of("water_kg", unit.factor)
            return
    figure.of(unit.quantity, unit.factor, unit.zero)
    named = named_before(low, figure.start)
    if named is not None and named[0] == figure.quantity:
        figure.start = named[2]


def _set_distances(line: MarkedLine, lexed: Lexed, distances: list[tuple[float, int, int]]) -> None:
    """Each distance belongs to the sound level nearest to it in its clause; a bare number at a distance is one."""
    for metres, start, end in distances:
        low, high = line.clause(start)
        if not any(low <= f.start < high and f.quantity in ("dba", "") for f in lexed.figures):
            low, high = 0, len(line.text)  # ``at 25 feet: 64 dB``
        near = [
            f for f in lexed.figures if low <= f.start < high and f.distance_m is None and f.quantity in ("dba", "")
        ]
        near.sort(key=lambda f: (f.quantity == "", min(abs(f.end - start), abs(end - f.start))))
        chosen = next((f for f in near if f.quantity == "dba"), None)
        if chosen is None:
            bare = [
                f
                for f in near
                if f.end <= start
                and re.fullmatch(
                    r"\s*(?:(?:at|by|near|from|in) the [a-z]+(?: [a-z]+)?,? *(?:at|about)?\s*)?",
                    line.low[f.end : start].replace("@", " "),
                )
            ]
            chosen = bare[0] if bare and 20 <= bare[0].number <= 140 else None
        if chosen is None:
            continue
        chosen.of("dba")
        chosen.distance_m = metres
        line.mark(chosen.start, chosen.end, "F")
        line.mark(start, end, "X")
