"""Which column is what: chosen by the user, guessed from the headings, remembered by the instrument."""

from __future__ import annotations

import hashlib
import re
from dataclasses import dataclass
from enum import StrEnum
from itertools import pairwise

from muster.core.errors import MusterError, UnknownChoice, require_between
from muster.core.sessions import Place
from muster.core.supply import System
from muster.core.timeline.traces.trace import ELECTRIC, Channel, channel_named

from .layout import NUMBERISH, LogLayout


class TimeForm(StrEnum):
    """How a file writes its times."""

    ISO = "iso"
    DAY_FIRST = "day_first"
    MONTH_FIRST = "month_first"
    EPOCH_S = "epoch_s"
    EPOCH_MS = "epoch_ms"
    ELAPSED_S = "elapsed_s"
    ELAPSED_CLOCK = "elapsed_clock"
    CLOCK = "clock"

    @property
    def label(self) -> str:
        """The form as it is written on screen."""
        return {
            "iso": "date and time, year first (2026-10-12 09:05:00, with or without a zone)",
            "day_first": "date and time, day first (12/10/2026 09:05:00)",
            "month_first": "date and time, month first (10/12/2026 9:05:00 AM)",
            "epoch_s": "seconds since 1970",
            "epoch_ms": "milliseconds since 1970",
            "elapsed_s": "seconds since the log began",
            "elapsed_clock": "time since the log began (1:02:03.5)",
            "clock": "clock time without a date (09:05:00)",
        }[self.value]


class Backwards(StrEnum):
    """What to do where the time goes backwards."""

    REFUSE = "refuse"
    SORT = "sort"
    SET_BACK = "set_back"

    @property
    def label(self) -> str:
        """The choice as it is written on screen."""
        return {
            "refuse": "stop, and say in which row",
            "sort": "put the rows in order of time",
            "set_back": "the clock was set back: go on from the row before",
        }[self.value]


FACTORS = {"as it is": 1.0, "milli": 1e-3, "kilo": 1e3, "reversed": -1.0, "fahrenheit": 5 / 9, "share of 1": 100.0}
"""What a column's figures are multiplied by; Fahrenheit has its zero moved too."""


@dataclass(frozen=True)
class Column:
    """A column of the file (counted from 0) that becomes a channel; ``scale`` is a key of ``FACTORS``."""

    index: int
    channel: Channel
    scale: str = "as it is"

    def __post_init__(self) -> None:
        require_between(self.index, 0, 10_000, "index")
        if self.scale not in FACTORS:
            raise UnknownChoice(f"no scale “{self.scale}”", where="scale", want=", ".join(FACTORS))


@dataclass(frozen=True)
class Mapping:
    """How a file is read.

    ``time`` are the time's columns, a date and a clock time joined by a blank.
    ``missing`` are words and numbers that mean that nothing was read.
    ``ahead_s`` is how much the logger's clock was ahead of the site's [s].
    """

    time: tuple[int, ...]
    form: TimeForm
    columns: tuple[Column, ...]
    missing: tuple[str, ...] = ()
    backwards: Backwards = Backwards.REFUSE
    ahead_s: float = 0.0

    def __post_init__(self) -> None:
        if not 1 <= len(self.time) <= 2:
            raise MusterError(
                f"got {len(self.time)} columns", where="time", want="one column, or a date and a clock time"
            )
        if not self.columns:
            raise MusterError("no column is read", where="columns", want="say of at least one column what it is")
        channels = [column.channel for column in self.columns]
        for channel in channels:
            if channels.count(channel) > 1:
                raise MusterError(f"two columns are {channel.label}", where="columns", want="one column a channel")
        require_between(self.ahead_s, -1e8, 1e8, "ahead_s")


def headings_digest(layout: LogLayout) -> str:
    """A digest of a file's headings: files alike in it are read alike."""
    return hashlib.sha256("\n".join((layout.separator, *layout.headings)).encode()).hexdigest()


MISSING_WORDS = (
    "",
    "nan",
    "na",
    "n/a",
    "null",
    "none",
    "-",
    "--",
    "---",
    "ol",
    "o.l",
    "o.l.",
    "err",
    "error",
    "inf",
    "-inf",
    "#n/a",
)
"""Cells that mean nothing was read, in any file."""
USUAL_SENTINELS = ("-999", "-9999", "9999", "99999", "32767", "-32768", "65535")
"""Numbers that loggers write when they read nothing; taken as missing where the user agrees."""
TIME_WORDS = re.compile(
    r"\b(time|date|datetime|timestamp|zeit|datum|uhrzeit|epoch|elapsed|utc|clock|seconds?|secs?|t_s|t)(\b|_)", re.I
)
DATE_ONLY = re.compile(r"^\d{1,4}[-/.]\d{1,2}[-/.]\d{1,4}$")
CLOCK_ONLY = re.compile(r"^\d{1,3}:\d{2}(:\d{2}([.,]\d+)?)?(\s*[ap]m)?$", re.I)
YEAR_FIRST = re.compile(r"^\d{4}[-/.]\d{1,2}[-/.]\d{1,2}([T ]|$)")
DAY_OR_MONTH = re.compile(r"^(\d{1,2})[-/.](\d{1,2})[-/.](\d{2}|\d{4})\b")

WORDS = (
    ("pf", r"\b(pf|power ?factor|cos ?phi|cosφ)\b"),
    ("va", r"\b(k?va|apparent)\b"),
    ("wh", r"\b(k?wh|energy|consumption)\b"),
    ("w", r"\b(k?w|m?w|watts?|power|active power|leistung|p)\b"),
    ("v", r"\b(m?v|k?v|volts?|voltage|spannung|u|vrms|v_?rms)\b"),
    ("a", r"\b(m?a|amps?|amperes?|current|strom|i|irms)\b"),
    ("dba", r"\b(db|dba|db\(a\)|spl|laf|las|sound|noise|level)\b"),
    ("soc_pct", r"\b(soc|state of charge|charge|battery ?%|%)(\b|$)|%"),
    ("temp_c", r"\b(temp|temperature|°?c|degc|°f|degf)\b|°"),
    ("hz", r"\b(hz|freq|frequency|frequenz|f)\b"),
    ("rpm", r"\b(rpm|speed)\b"),
    ("fuel_l", r"\b(fuel|litres?|liters?)\b"),
)
"""Words of a heading that give its quantity away, the surest first."""
LEG_WORDS = (
    (Place.PANELS, r"\b(pv|panels?|solar)\b"),
    (Place.DC, r"\b(dc|batt?(ery)?|bat)\b"),
    (Place.NEUTRAL, r"\b(neutral|n)\b"),
    (Place.LEG2, r"(\b|_)(l2|leg ?2|ch ?2|line ?2|phase ?b|b)(\b|_)|(?<=[vaiu])2\b"),
    (Place.LEG1, r"(\b|_)(l1|leg ?1|ch ?1|line ?1|phase ?a)(\b|_)|(?<=[viu])1\b"),
    (Place.TOTAL, r"\b(total|sum|both|combined|ac out)\b"),
)


def guess_channel(heading: str, system: System) -> tuple[Channel, str] | None:
    """The channel and scale that a heading gives away, None if it says nothing known."""
    try:
        return channel_named(heading.strip().lower()), "as it is"
    except UnknownChoice:
        pass
    low = heading.lower().replace("db(a)", "dba")
    text = re.sub(r"[_\[\]()/:,.]+", " ", low).strip()
    unit = re.search(r"[\[(]\s*([^\])]+?)\s*[\])]", low)
    quantity = None
    if unit is not None:
        quantity = next((q for q, words in WORDS if re.fullmatch(words.replace(r"\b", ""), unit[1].strip())), None)
    quantity = quantity or next((q for q, words in WORDS if re.search(words, text)), None)
    if quantity is None:
        return None
    place = next((place for place, words in LEG_WORDS if re.search(words, text)), None)
    if quantity not in ELECTRIC:
        place = Place.NONE
    elif place is None:
        place = Place.LEG1 if system.legs == 1 or quantity in ("v", "a") else Place.TOTAL
    elif place.is_dc and quantity not in ("v", "a", "w"):
        place = Place.TOTAL
    elif system.legs == 1 and place in (Place.LEG2, Place.TOTAL):
        place = Place.LEG1 if place is Place.TOTAL else Place.LEG2
    return Channel(quantity, place), _scale(quantity, text)


def _scale(quantity: str, text: str) -> str:
    if quantity in ("w", "va", "wh") and re.search(r"\bk(w|va|wh)\b", text):
        return "kilo"
    if quantity in ("v", "a") and re.search(r"\bm(v|a)\b", text):
        return "milli"
    return "fahrenheit" if quantity == "temp_c" and re.search(r"°f|degf|\bf\b", text) else "as it is"


def guess_mapping(layout: LogLayout, system: System) -> Mapping | None:
    """A first mapping from headings and sample, None if no column can be taken for a time or a channel."""
    time = _guess_time(layout)
    if time is None:
        return None
    columns: list[Column] = []
    for index, heading in enumerate(layout.headings):
        result = guess_channel(heading, system) if index not in time[0] else None
        if result is None or result[0] in [column.channel for column in columns]:
            continue
        columns.append(Column(index, *result))
    if not columns:
        return None
    cells = {cell for row in layout.sample for cell in row}
    return Mapping(
        time=time[0],
        form=time[1],
        columns=tuple(columns),
        missing=tuple(word for word in USUAL_SENTINELS if word in cells),
    )


def _guess_time(layout: LogLayout) -> tuple[tuple[int, ...], TimeForm] | None:
    named = [i for i, heading in enumerate(layout.headings) if TIME_WORDS.search(heading)]
    order = [*named, *(i for i in range(len(layout.headings)) if i not in named)]
    for index in order:
        cells = [row[index] for row in layout.sample if row[index]]
        form = guess_form(cells, layout.headings[index])
        if form is None:
            continue
        if form in (TimeForm.ISO, TimeForm.DAY_FIRST, TimeForm.MONTH_FIRST) and _mostly(cells, DATE_ONLY):
            clock = next((i for i in order if i != index and _all(layout, i, CLOCK_ONLY)), None)
            return ((index, clock), form) if clock is not None else ((index,), form)
        if form is TimeForm.CLOCK:
            date = next((i for i in order if i != index and _all(layout, i, DATE_ONLY)), None)
            if date is not None:
                day = guess_form([row[date] for row in layout.sample if row[date]], "") or TimeForm.ISO
                return (date, index), day
        return (index,), form
    return None


def _all(layout: LogLayout, index: int, pattern: re.Pattern[str]) -> bool:
    cells = [row[index] for row in layout.sample if row[index]]
    return bool(cells) and _mostly(cells, pattern)


MOST = 2 / 3
"""A form is taken when this share of the sample is written in it: a bad cell is told later, by its row."""


def _mostly(cells: list[str], pattern: re.Pattern[str]) -> bool:
    return sum(1 for cell in cells if pattern.match(cell)) >= MOST * len(cells)


def guess_form(cells: list[str], heading: str) -> TimeForm | None:
    """The form in which most of these cells write times, None if they do not."""
    cells = [cell for cell in cells if cell != heading]
    if not cells:
        return None
    if _mostly(cells, YEAR_FIRST):
        return TimeForm.ISO
    if _mostly(cells, DAY_OR_MONTH):
        days = [match for match in map(DAY_OR_MONTH.match, cells) if match]
        return TimeForm.MONTH_FIRST if any(int(day[2]) > 12 for day in days) else TimeForm.DAY_FIRST
    if _mostly(cells, CLOCK_ONLY):
        return TimeForm.ELAPSED_CLOCK if re.search(r"elapsed|since|duration|run", heading, re.I) else TimeForm.CLOCK
    numbers = [float(cell.replace(",", ".")) for cell in cells if NUMBERISH.match(cell)]
    if len(numbers) < MOST * len(cells):
        return None
    middle = sorted(numbers)[len(numbers) // 2]
    if middle > 1e12:
        return TimeForm.EPOCH_MS
    if middle > 5e8:
        return TimeForm.EPOCH_S
    rising = sum(1 for a, b in pairwise(numbers) if a <= b) >= 0.5 * (len(numbers) - 1)
    return TimeForm.ELAPSED_S if TIME_WORDS.search(heading) and rising else None
