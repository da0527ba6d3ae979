"""When a line says it was, and how long things took."""

from __future__ import annotations

import re
from dataclasses import dataclass

from .marks import MarkedLine

WORDS = {
    "a": 1.0, "an": 1.0, "one": 1.0, "two": 2.0, "three": 3.0, "four": 4.0, "five": 5.0, "six": 6.0, "seven": 7.0,
    "eight": 8.0, "nine": 9.0, "ten": 10.0, "twelve": 12.0, "fifteen": 15.0, "twenty": 20.0, "thirty": 30.0,
    "forty": 40.0, "forty five": 45.0, "fifty": 50.0, "sixty": 60.0, "ninety": 90.0, "half a": 0.5, "half an": 0.5,
    "quarter of an": 0.25, "a quarter of an": 0.25, "three quarters of an": 0.75, "a couple of": 2.0, "couple of": 2.0,
}  # fmt: skip
COUNT = "|".join(sorted(WORDS, key=len, reverse=True)).replace(" ", r"\s+")
SECONDS = {"d": 86400.0, "h": 3600.0, "m": 60.0, "s": 1.0}
UNIT = r"(?:days?|hours?|hrs?|h|minutes?|mins?|m|seconds?|secs?|s)"
LENGTH = re.compile(
    rf"(?<![\w.,:])(?P<rough>(?:about|around|roughly|approx\.?|nearly|almost|some|~|c\.|maybe|over|under|just over|just under)\s*)?"
    rf"(?P<n>\d+(?:[.,]\d+)?|(?:{COUNT})(?=\s))\s*(?P<unit>{UNIT})(?:(?![\w'])|(?<=[hm])(?=\d{{1,2}}(?![\w.])))"
    rf"(?:\s*(?:and\s+)?(?P<half>a\s+half|half|a\s+quarter)\b|\s*(?:and\s*)?(?P<n2>\d{{1,2}})(?:\s*(?P<unit2>minutes?|mins?|m|seconds?|secs?|s)(?!\w)|(?![\w:%°/@]|[.,]\d|\s*(?:v|a|w|kw|hz|db|%|volts?|amps?|watts?|c|f|l|to|then)\b)))?"
    rf"(?:\s*(?P<n3>\d{{1,2}})\s*(?:s|secs?|seconds?)(?!\w))?"
)
ROUGH = 0.5
"""``about a minute`` is good to half of itself; a figure after ``about`` to a tenth."""
ROUGH_FIGURE = 0.1


@dataclass(frozen=True)
class Span:
    """A length of time that was said: seconds, and how far the last digit goes [s]."""

    seconds: float
    resolution_s: float
    start: int
    end: int
    bare_unit: str = ""


@dataclass(frozen=True)
class When:
    """When a jotting says it was; all None for now.

    ``ago_s`` seconds ago, or a ``clock`` time of the site, on a ``day`` of the session (1 its first), so many
    ``days_on`` from the entry before, or on a ``date`` (year or None, month, day).
    """

    ago_s: float | None = None
    clock: tuple[int, int, int] | None = None
    day: int | None = None
    days_on: int | None = None
    date: tuple[int | None, int, int] | None = None
    to_minute: bool = True

    @property
    def said(self) -> bool:
        """Whether anything was said."""
        return self != When()


MONTHS = ("jan", "feb", "mar", "apr", "may", "jun", "jul", "aug", "sep", "oct", "nov", "dec")
MONTH = rf"(?P<month>{'|'.join(MONTHS)})[a-z]*\.?"
DATES = (
    re.compile(r"(?P<year>\d{4})-(?P<mm>\d{2})-(?P<dd>\d{1,2})t?\s*"),
    re.compile(
        rf"(?:on\s+)?(?:(?:mon|tue|wed|thu|fri|sat|sun)[a-z]*,?\s+)?(?P<dd>\d{{1,2}})(?:st|nd|rd|th)?\s+(?:of\s+)?{MONTH}(?:\s+(?P<year>\d{{4}}))?(?!\w)\s*"
    ),
    re.compile(rf"{MONTH}\s+(?P<dd>\d{{1,2}})(?:st|nd|rd|th)?(?:,?\s+(?P<year>\d{{4}}))?(?![\w:.])\s*"),
)
DAY = re.compile(r"(?:on\s+)?day\s*(?P<n>\d{1,3})(?!\w)\s*[,:]?\s*")
NEXT = re.compile(r"(?:(?:the\s+)?(?:next|following)\s+(?:day|morning|afternoon|evening)|tomorrow)(?!\w)\s*[,:]?\s*")
HALF = r"\s*(?:(?P<half>[ap])\.?m\b\.?|(?:in the |at |of an )?(?P<part>morning|afternoon|evening|night)\b)"
HALF_OF_PART = {"morning": "a", "afternoon": "p", "evening": "p", "night": "p"}
END = r"(?=\s|$|[,;:]|\.(?:\s|$))"
CLOCKS = (
    re.compile(rf"(?P<h>\d{{1,2}}):(?P<m>\d{{2}})(?::(?P<s>\d{{2}}))?(?!\d)(?:{HALF}|(?P<short>[ap]))?{END}"),
    re.compile(rf"(?P<h>\d{{1,2}})\.(?P<m>\d{{2}}){HALF}{END}"),
    re.compile(
        r"(?P<h>\d{1,2})(?:h(?P<m>\d{2})(?=[\s,;:]|$)(?! (?:at|on|of|running|in|total|with))|\.(?P<mm>\d{2})(?=\s+\d))"
    ),
    re.compile(r"(?P<h>\d{1,2})[.:](?P<m>\d{2})\s?(?:h|hrs|hours|uhr)(?=\s|$|[,;:])"),
    re.compile(r"(?P<h>\d{2})(?P<m>\d{2})\s?(?:h|hrs|hours)(?=\s|$|[,;:])"),
    re.compile(rf"(?P<h>\d{{1,2}}){HALF}(?=\s|$|[,;:])"),
    re.compile(r"(?P<h>0\d)\.(?P<m>\d{2})(?=\s+(?!(?:v|a|w|kw|kwh|hz|l|s|volts?|amps?)\b)[a-z-])"),
)
SPOKEN_HOURS = ["one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten", "eleven", "twelve"]
SPOKEN_CLOCK = re.compile(
    rf"(?:at\s+)?(?:(?P<named>midnight|noon|midday)|(?P<part>half past|quarter past|quarter to)\s+(?P<hour>{'|'.join(SPOKEN_HOURS)}|\d{{1,2}}))(?=\s|$|[,;:])"
)
"""``at midnight``, ``half past six``: of the morning, as a clock of twenty-four hours has it."""
BEFORE_CLOCK = re.compile(r"(?:at|from(?!\s+\S+\s+(?:to|till|until|-)\s)|around|about|by)\s+")
LATER_CLOCKS = (
    re.compile(
        rf"(?<![\w'.:])(?:at\s+)?(?P<h>\d{{1,2}}):(?P<m>\d{{2}})(?::(?P<s>\d{{2}}))?(?:{HALF}|(?P<short>[ap]))?{END}"
    ),
    re.compile(rf"(?<![\w'.:])(?:at\s+)?(?P<h>\d{{1,2}})\.(?P<m>\d{{2}}){HALF}{END}"),
    re.compile(rf"(?<![\w'.:])at\s+(?P<h>\d{{1,2}}){HALF}{END}"),
)
NO_CLOCK_AFTER = re.compile(
    r"\b(?:took|takes|lasted|for|in|within|held|ran|until|till|to|from|since|after|before|mains|grid)\s+$"
)
AGO = re.compile(r"\s*ago(?!\w)\s*:?")
TAIL = re.compile(r"\s*[:,;-]?\s*")


def length_of(match: re.Match[str]) -> tuple[float, float]:
    """Seconds, and how far the last digit goes [s], of a matched length."""
    unit_s = SECONDS[match["unit"][0]]
    said = " ".join(match["n"].split())
    digits = WORDS.get(said) is None
    count = float(said.replace(",", ".")) if digits else WORDS[said]
    decimals = len(re.split(r"[.,]", said)[1]) if digits and re.search(r"[.,]", said) else 0
    seconds, step_s = count * unit_s, 10.0**-decimals * unit_s
    if match["half"]:
        seconds += (0.25 if "quarter" in match["half"] else 0.5) * unit_s
    lower_s = {86400.0: 3600.0, 3600.0: 60.0}.get(unit_s, 1.0)
    if match["n2"]:
        lower_s = SECONDS[match["unit2"][0]] if match["unit2"] else lower_s
        seconds, step_s = seconds + float(match["n2"]) * lower_s, lower_s
    if match["n3"]:
        seconds, step_s = seconds + float(match["n3"]), 1.0
    if match["rough"] or not digits:
        step_s = max(step_s, (ROUGH_FIGURE if digits else ROUGH) * seconds)
    return seconds, step_s


def take_when(line: MarkedLine) -> When:
    """When the line says it was; its words are covered."""
    at = len(line.low) - len(line.low.lstrip())
    if (match := LENGTH.match(line.low, at)) and (ago := AGO.match(line.low, match.end())):
        _cover(line, at, ago.end())
        return When(ago_s=length_of(match)[0])
    when, end = _date_and_clock(line.low, at)
    if when.said:
        _cover(line, at, TAIL.match(line.low, end).end())  # type: ignore[union-attr]
        return when
    for match in LENGTH.finditer(line.low):
        if ago := AGO.match(line.low, match.end()):
            _cover(line, match.start(), ago.end())
            return When(ago_s=length_of(match)[0])
    return _later_clock(line)


def _is_clock(line: MarkedLine, match: re.Match[str]) -> bool:
    """``at 14:22`` is; ``in 14:22`` is a length."""
    return match[0].startswith("at") or not NO_CLOCK_AFTER.search(line.low[: match.start()])


def read_when(text: str) -> When | None:
    """When words on a page say that a look was taken; an empty When for none, None where they aren't understood."""
    line = MarkedLine(text.strip())
    when = take_when(line)
    left = [char for char, taken in zip(line.text, line.covered, strict=True) if not taken and not char.isspace()]
    return when if not left else None


def _later_clock(line: MarkedLine) -> When:
    """A time of day further on in the line, if it is the only one and no length or limit."""
    matches = [match for spelt in LATER_CLOCKS for match in spelt.finditer(line.low)]
    if len(matches) == 1 and (clock := _clock(matches[0])) and _is_clock(line, matches[0]):
        _cover(line, matches[0].start(), matches[0].end())
        return When(clock=clock, to_minute=not matches[0].groupdict().get("s"))
    return When()


def _cover(line: MarkedLine, start: int, end: int) -> None:
    line.mark(start, start + len(line.text[start:end].rstrip()), "T")


def _date_and_clock(low: str, at: int) -> tuple[When, int]:
    day = days_on = date = None
    start = at
    if match := DAY.match(low, at):
        day, at = int(match["n"]), match.end()
    elif match := NEXT.match(low, at):
        days_on, at = 1, match.end()
    else:
        for spelt in DATES:
            if (match := spelt.match(low, at)) and (date := _date(match)):
                at = match.end()
                break
    if match := SPOKEN_CLOCK.match(low, at):
        return When(clock=_spoken(match), day=day, days_on=days_on, date=date), match.end()
    if match := BEFORE_CLOCK.match(low, at):
        at = match.end()
    for spelt in CLOCKS:
        if (match := spelt.match(low, at)) and (clock := _clock(match)):
            groups = match.groupdict()
            return When(clock=clock, day=day, days_on=days_on, date=date, to_minute=not groups.get("s")), match.end()
    if day is None and days_on is None and date is None:
        return When(), start
    return When(day=day, days_on=days_on, date=date), at


def _spoken(match: re.Match[str]) -> tuple[int, int, int]:
    if match["named"]:
        return (0 if match["named"] == "midnight" else 12, 0, 0)
    said = match["hour"]
    hour = SPOKEN_HOURS.index(said) + 1 if said in SPOKEN_HOURS else int(said)
    back, minute = {"half past": (0, 30), "quarter past": (0, 15), "quarter to": (1, 45)}[match["part"]]
    return ((hour - back) % 24, minute, 0)


def _date(match: re.Match[str]) -> tuple[int | None, int, int] | None:
    groups = match.groupdict()
    month = int(groups["mm"]) if groups.get("mm") else MONTHS.index(groups["month"]) + 1
    day = int(groups["dd"])
    if not (1 <= month <= 12 and 1 <= day <= 31):
        return None
    return (int(groups["year"]) if groups.get("year") else None), month, day


def _clock(match: re.Match[str]) -> tuple[int, int, int] | None:
    groups = match.groupdict()
    hour, minute, second = int(groups["h"]), int(groups.get("m") or groups.get("mm") or 0), int(groups.get("s") or 0)
    half = groups.get("half") or groups.get("short") or HALF_OF_PART.get(groups.get("part") or "", "")
    if groups.get("part") == "night" and (hour == 12 or hour < 5):
        half = "a"
    if half:
        if not 1 <= hour <= 12:
            return None
        hour = hour % 12 + (12 if half == "p" else 0)
    return (hour, minute, second) if hour < 24 and minute < 60 and second < 60 else None
