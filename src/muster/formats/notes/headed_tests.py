"""A line that heads a test: what it was, on which day, under which conditions."""

from __future__ import annotations

import re
from dataclasses import dataclass

from muster.core.sessions import PROTOCOLS, Conditions
from muster.core.sessions.condition_words import read_conditions
from muster.core.sessions.log_line.spelling import LEVELS

PROTOCOL_WORDS = {
    "baseline": r"base ?lines?",
    "idle": r"idle(?: draw)?|no[- ]load draw",
    "ladder": r"(?:load )?ladder|levels|load test",
    "starts": r"starts|start(?:ing)? tests?|motor starts",
    "load_steps": r"load steps?|step loads?",
    "overload": r"over-?loads?(?: test)?",
    "legs": r"legs|leg balance",
    "parallel": r"parallel(?: test)?",
    "set_point": r"set[- ]?points?|governor",
    "waveform": r"wave-?forms?",
    "transfer": r"transfer|change-?over",
    "noise_walk": r"noise(?: walk| test)?|sound",
    "endurance": r"endurance|run ?time|run to empty|run-?down|discharge",
    "recharge": r"re-?charge|charging",
    "solar_input": r"solar(?: input)?|panels|pv",
    "cut_offs": r"cut-?offs?",
    "heating_check": r"heating(?: check)?|water test|boil(?:ing)? test",
    "dedicated": r"dedicated(?: circuit)?",
    "inspection": r"inspection|looked over|look-?over",
    "short_test": r"short tests?|series of units",
    "outage": r"(?:a |the )?real outage|power cut|black-?out|outage as it happened",
}
"""How a protocol is called in a heading."""
assert set(PROTOCOL_WORDS) == set(PROTOCOLS)
PROTOCOL = re.compile("|".join(rf"(?P<{slug}>\b(?:{words})\b)" for slug, words in PROTOCOL_WORDS.items()), re.I)
TEST_HEAD = re.compile(
    rf"(?P<word>tests?)(?:\s*\d*\s*(?::|-|–|,|$)|\s*\d+\b)\s*(?P<rest>.*)$|(?P<named>{PROTOCOL.pattern.replace('?P<', '?P<n_')})(?:\s*(?::|-|–|,|$)|(?=\s))\s*(?P<after>.*)$",
    re.I,
)
SAME_DAY = re.compile(
    r"(?:the )?(?:same|that|next|following)(?: \w+)? (?:day|morning|afternoon|evening|night|sitting)|straight after(?:wards)?|right after|later(?: on| that day)?|tonight|today|yesterday",
    re.I,
)
"""When a test was run, said by the one before it."""
WEEKDAYS = ("mon", "tue", "wed", "thu", "fri", "sat", "sun")
WEEKDAY = re.compile(
    r"\b(?P<day>mon|tue|wed|thu|fri|sat|sun(?=day))(?:s|nes|rs|ur)?(?:day)?\b(?: (?:morning|afternoon|evening|night))?(?:,?\s*(?:at\s*)?\d{1,2}(?:[:.]\d{2})?\s?[ap]m\b|,?\s*(?:at\s*)?\d{1,2}[:.]\d{2})?",
    re.I,
)
SLASHED = re.compile(r"(?<![\d/.])(?P<first>\d{1,2})[/.](?P<second>\d{1,2})[/.](?P<year>(?:20)?\d{2})(?![\d/.])")
"""``6/11/26``: the day first, or the month where mains is 60 Hz."""
DATE_IN = re.compile(
    rf"{SLASHED.pattern}|"
    r"\b(?:(?:mon|tue|wed|thu|fri|sat|sun)[a-z]*,? )?(?:\d{4}-\d{2}-\d{2}|\d{1,2}(?:st|nd|rd|th)?\s+(?:jan|feb|mar|apr|may|jun|jul|aug|sep|oct|nov|dec)[a-z]*\.?(?:\s+\d{4})?|(?:jan|feb|mar|apr|may|jun|jul|aug|sep|oct|nov|dec)[a-z]*\.?\s+\d{1,2}(?:,?\s+\d{4})?)(?:,?\s*(?:at\s*)?\d{1,2}[:.]\d{2})?"
    rf"|{WEEKDAY.pattern}",
    re.I,
)


@dataclass(frozen=True)
class HeadedTest:
    """What a heading says of its test; ``tells``: its first readings stand in it too."""

    protocol: str
    dated: str
    conditions: Conditions
    tells: bool = False


def dated_alone(line: str, *, first: bool) -> HeadedTest | None:
    """``Mon 23 Nov, 4 °C, 410 m up``: a test whose name nobody wrote, None where the line is another.

    Parameters
    ----------
    line
        Without its marks.
    first
        Whether its source has no test yet: then its date alone is enough.
    """
    lead = _leading_date(line)
    if lead is None:
        return None
    conditions, besides = read_conditions(line[lead.end() :].strip(" ,:–-"))
    if besides.strip(" ,.:") or not (first or conditions != Conditions()):
        return None
    return HeadedTest("", lead[0], conditions)


def heading_of_test(line: str, *, marked: bool) -> HeadedTest | None:
    """What a line heads, None where it is a line of a test or of something else.

    Parameters
    ----------
    line
        Without its marks.
    marked
        Whether it was marked as a heading.
    """
    lead = _leading_date(line)
    match = _head(line, lead)
    if match is None:
        return None
    rest = (match["rest"] if match["word"] else match["after"]) or ""
    named = PROTOCOL.search(line)
    dated = DATE_IN.search(rest) or lead
    conditions, besides = read_conditions(DATE_IN.sub("", rest))
    bare = PROTOCOL.sub("", besides).strip(" ,.:-–")
    tells = named is not None and named.lastgroup == "noise_walk" and len(LEVELS.findall(bare)) > 1
    headed = dated or not rest.strip() or line.rstrip().endswith(":") or _goes_on(line, rest, named)
    headed = headed or (_says_where(conditions) and not besides)
    if not (match["word"] or marked or headed or tells):
        return None  # ``noise - 64 db at 7m``: a line of a test
    if re.search(r"\d", bare) and not tells:
        return None
    protocol = named.lastgroup or "" if named else ""
    return HeadedTest(protocol, dated[0] if dated else "", conditions, tells)


def heads_like_a_test(line: str) -> bool:
    """Whether a line begins as the heading of a test does, whatever follows."""
    return _head(line, _leading_date(line)) is not None


def _leading_date(line: str) -> re.Match[str] | None:
    """The date that a line begins with; none where a time stands with it: ``2 Nov 10:05 starts well`` is of a test."""
    lead = DATE_IN.match(line)
    timed = lead is not None and not SLASHED.match(lead[0]) and re.search(r"\d[:.]\d{2}", lead[0])
    return None if timed else lead


def _head(line: str, lead: re.Match[str] | None) -> re.Match[str] | None:
    return TEST_HEAD.match(line[lead.end() :].lstrip(" ,:–-") if lead is not None else line)


def _goes_on(line: str, rest: str, named: re.Match[str] | None) -> bool:
    """``recharge, same evening``: of the day of the test before it."""
    parted = named is not None and line[named.end() :].lstrip()[:1] in (",", ":", "-", "–")
    return parted and SAME_DAY.fullmatch(rest.strip(" .:")) is not None


def _says_where(conditions: Conditions) -> bool:
    return conditions.altitude_m is not None or conditions.temp_c is not None or bool(conditions.fuel)
