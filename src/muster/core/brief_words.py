"""The brief in a few words: ``230 V 50 Hz, outage 24 h from 18, neighbour 30 m, 45 dB at night, 320 m up``."""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Any

from .brief import Brief, BringUp, Sky, Wiring
from .errors import MusterError
from .measures import CHOICES, FAHRENHEIT, FT_M, Measures
from .sources import Site
from .sources.panels import Location
from .supply import SYSTEMS, System

N = r"(\d+(?:[.,]\d+)?)"
WIRINGS = {
    r"(?:by )?(?:extension )?cords?(?: to the appliances)?": Wiring.CORDS,
    r"(?:inlet and )?interlock": Wiring.INTERLOCK,
    r"essential(?:s| circuits)?(?: panel)?": Wiring.ESSENTIAL,
    r"automatic(?: transfer)?|transfer switch": Wiring.AUTOMATIC,
}


def _n(text: str) -> float:
    return float(text.replace(",", "."))


def _hour(text: str, half: str | None) -> int:
    hour = int(text) % 24
    return hour % 12 + 12 if half == "p" else hour % 12 if half == "a" else hour


@dataclass
class _Said:
    brief: dict[str, Any]
    site: dict[str, Any]


Put = Callable[[_Said, re.Match[str]], None]


def _brief(name: str, factor: float = 1.0) -> Put:
    return lambda said, match: said.brief.__setitem__(name, _n(match[1]) * factor)


def _site(name: str, factor: float = 1.0) -> Put:
    return lambda said, match: said.site.__setitem__(name, _n(match[1]) * factor)


def _outage(said: _Said, match: re.Match[str]) -> None:
    said.brief["outage_h"] = _n(match[1]) * (24.0 if match[2].startswith("d") else 1.0)
    if match[3]:
        said.brief["outage_from_hour"] = _hour(match[3], match[4])


def _noise(said: _Said, match: re.Match[str]) -> None:
    """A limit of no hour holds by day and by night."""
    said.brief["noise_day_dba"] = said.brief["noise_night_dba"] = _n(match[1])
    if match[2]:
        said.brief["neighbour_m"] = _n(match[2]) * (1.0 if match[3] == "m" else FT_M)


def _quiet(said: _Said, match: re.Match[str]) -> None:
    said.brief["quiet_from_hour"], said.brief["quiet_to_hour"] = _hour(match[1], match[2]), _hour(match[3], match[4])


def _place(said: _Said, match: re.Match[str]) -> None:
    north = _n(match[1]) * (1 if match[2].lower() == "n" else -1)
    said.brief["place"] = Location(north, _n(match[3]) * (1 if match[4].lower() == "e" else -1))


def _reset(said: _Said, match: re.Match[str]) -> None:
    said.brief["reset_min"] = _n(match[1])
    if match[2]:
        said.brief["reset_night_min"] = _n(match[2])


MONTHS = [
    *("january", "february", "march", "april", "may", "june"),
    *("july", "august", "september", "october", "november", "december"),
]


def _system(said: _Said, match: re.Match[str]) -> None:
    said.brief["system"] = system_of(match[0])


def _units(said: _Said, match: re.Match[str]) -> None:
    chosen = {
        name: unit for name, pair in CHOICES.items() for unit in pair if re.search(SPOKEN_UNITS[unit], match[1], re.I)
    }
    said.brief["measures"] = Measures(**chosen)


SPOKEN_UNITS = {
    "m": r"\bmet(?:re|er)s?\b|(?<![\w])m(?!\w)",
    "ft": r"\b(?:feet|ft)\b",
    "c": r"°c|celsius",
    "f": r"°f|fahrenheit",
    "l": r"\blit(?:re|er)s?\b",
    "gal": r"\bgal(?:lons?)?\b",
    "mm2": r"mm²|mm2",
    "awg": r"\bawg\b",
    "kg": r"\bkilos?(?:grams?)?\b|\bkg\b",
    "lb": r"\bpounds?\b|\blbs?\b",
}
"""How a unit is called where units are chosen."""
UNITS_SAID = re.compile(
    rf"\b(?:in )?units:? (as is usual|(?:(?:us |and )?(?:{'|'.join(SPOKEN_UNITS.values())})[, ]*)+)", re.I
)
NEIGHBOUR = r"(?:the )?(?:nearest |next )?(?:neighbou?rs?(?: house)?|(?:nearest|next) (?:house|home|window|cottage))"
OUTAGE_SAID = re.compile(
    r"\b(?:outages?|cuts?|black-?outs?|must last|neighbou?rs?)\b|\d ?(?:h|hours?|hrs?)\b,? from \d", re.I
)
"""Words of what a home must go through."""
CLOCK = r"(\d{1,2})(?::00)? ?(?:([ap])m)?"
PHRASES: tuple[tuple[str, Put], ...] = (
    (r"(?:120 ?/ ?240 ?v?|split[- ]phase|\d{3} ?v(?:olts?)?)(?:[, ]+(?:50|60) ?hz)?(?:[, ]+(?:split|single)[- ]phase)?|(?:50|60) ?hz[, ]+\d{3} ?v(?:olts?)?", _system),
    (rf"(?:outages?|cuts?|must last|has to last|for)(?::| of| is| lasts?| up to)* {N} ?(h|hours?|hrs?|days?|d)\b(?:,? from {CLOCK})?", _outage),
    (rf"{N}[- ]?(h|hours?|hrs?|days?)(?: of)? (?:outages?|cuts?)\b(?:,? from {CLOCK})?", _outage),
    (rf"{N} ?(h|hours?|hrs?),? from {CLOCK}", _outage),
    (rf"(?:reserve|headroom|margin)(?: of)? {N} ?%", _brief("reserve_pct")),
    (rf"quiet(?: hours)?(?: from)? {CLOCK} ?(?:-|–|to|till|until) ?{CLOCK}", _quiet),
    (rf"(?:night|at night)(?: limit)?:? {N} ?db\w*|(?:(?:noise|sound):? )?{N} ?db\w* (?:at night|by night)", lambda said, m: said.brief.__setitem__("noise_night_dba", _n(m[1] or m[2]))),
    (rf"(?:day|by day)(?: limit)?:? {N} ?db\w*|(?:(?:noise|sound):? )?{N} ?db\w* (?:by day|in the day)", lambda said, m: said.brief.__setitem__("noise_day_dba", _n(m[1] or m[2]))),
    (rf"(?:(?:noise|sound) limit(?: of| is)?:? |(?:noise|sound):? (?:at most|max\.?|under|below|no more than) ){N}(?: ?db\w*)?(?:,? at {N} ?(m|ft|feet)\b)?(?: limit| max)?", _noise),
    (rf"{NEIGHBOUR}(?: at| is)? {N} ?m(?:et(?:re|er)s?)?\b(?: away| off)?", _brief("neighbour_m")),
    (rf"{NEIGHBOUR}(?: at| is)? {N} ?(?:ft|feet)\b(?: away| off)?", _brief("neighbour_m", FT_M)),
    (rf"{N} ?m (?:up|above sea(?: level)?|altitude|high)|(?:altitude|height) {N} ?m\b", lambda said, m: said.site.__setitem__("altitude_m", _n(m[1] or m[2]))),
    (rf"{N} ?(?:ft|feet) (?:up|above sea(?: level)?|altitude|high|elevation)|(?:altitude|elevation) {N} ?(?:ft|feet)\b", lambda said, m: said.site.__setitem__("altitude_m", _n(m[1] or m[2]) * FT_M)),
    (r"(-?\d+(?:[.,]\d+)?) ?(?:°|deg(?:rees)? ?)? ?c\b(?! (?:inside|indoors|in the))", _site("temp_c")),
    (r"(-?\d+(?:[.,]\d+)?) ?(?:°|deg(?:rees)? ?)? ?f\b", lambda said, m: said.site.__setitem__("temp_c", FAHRENHEIT.si(_n(m[1])))),
    (r"(?:zone|time ?zone):? ([A-Z]\w+(?:/\w+)*)", lambda said, m: said.brief.__setitem__("zone", m[1])),
    (UNITS_SAID.pattern, _units),
    (rf"{N} ?°? ?([ns])\b,? ?{N} ?°? ?([ew])\b", _place),
    (r"lat(?:itude)?:? (-?\d+(?:[.,]\d+)?),? lon(?:gitude)?:? (-?\d+(?:[.,]\d+)?)", lambda said, m: said.brief.__setitem__("place", Location(_n(m[1]), _n(m[2])))),
    (rf"(?:in|for|month:?) ({'|'.join(MONTHS)})\b", lambda said, m: said.brief.__setitem__("month", MONTHS.index(m[1].lower()) + 1)),
    (r"clear sk(?:y|ies)", lambda said, _: said.brief.__setitem__("sky", Sky.CLEAR)),
    (r"overcast(?: sk(?:y|ies))?", lambda said, _: said.brief.__setitem__("sky", Sky.OVERCAST)),
    (r"clouds and sun|mixed sk(?:y|ies)|sun and clouds", lambda said, _: said.brief.__setitem__("sky", Sky.MIXED)),
    (rf"(?:somebody )?resets? (?:it )?(?:by hand )?(?:with)?in {N} ?min(?:utes?)?(?: by day)?(?:,? {N} ?min(?:utes?)? (?:at|by) night)?", _reset),
    (r"all at once", lambda said, _: said.brief.__setitem__("bring_up", BringUp.AT_ONCE)),
    (r"one by one", lambda said, _: said.brief.__setitem__("bring_up", BringUp.ONE_BY_ONE)),
    *((words, lambda said, _, wiring=wiring: said.brief.__setitem__("wiring", wiring)) for words, wiring in WIRINGS.items()),
)  # fmt: skip
SPOKEN = tuple((re.compile(rf"(?<![\w.]){words}", re.I), put) for words, put in PHRASES)


def system_of(words: str) -> System:
    """The supply that words name: ``230 V``, ``120/240``, ``split-phase``; hertz as is usual with the volts where none are said."""
    low = words.lower()
    if ("240" in low and "120" in low) or "split" in low:
        return SYSTEMS["split-120-240-60"]
    volts = re.search(r"(\d{3}) ?v", low)
    v_nominal = float(volts[1]) if volts else 230.0
    hertz = re.search(r"(50|60) ?hz", low)
    return System(v_nominal, float(hertz[1]) if hertz else 60.0 if v_nominal < 150 else 50.0)


def read_brief(words: str, brief: Brief) -> tuple[Brief, str]:
    """What words say of a brief.

    Parameters
    ----------
    words
        In any order, commas between them.
    brief
        What holds where they say nothing.

    Returns
    -------
    tuple
        The brief, and the words that were not understood.

    Raises
    ------
    MusterError
        If a figure cannot be.
    """
    left, said = words, _Said({}, {})
    for spoken, put in SPOKEN:
        while match := spoken.search(left):
            put(said, match)
            left = f"{left[: match.start()]}\N{WHITE SQUARE}{left[match.end() :]}"
    site: Site = replace(brief.site, **said.site)
    rest = " ".join(re.sub(r"\N{WHITE SQUARE}|[,;]+", " ", left).split()).strip(" .,:;-–")
    if not said.brief and not said.site:
        return brief, words.strip()
    try:
        return replace(brief, site=site, **said.brief), rest
    except MusterError as error:
        raise MusterError(error.what, where=error.where or "brief", want=error.want) from None
