"""Units as people write them, and what each is of."""

from __future__ import annotations

import re
from dataclasses import dataclass

from ...measures import FT_M, GALLON_L


@dataclass(frozen=True)
class SpeltUnit:
    """A unit: the quantity it is of, and how many SI units it holds; ``dc`` if it says that it is direct current."""

    quantity: str
    factor: float = 1.0
    zero: float = 0.0
    dc: bool = False


SPELT = {
    r"kv": SpeltUnit("v", 1e3),
    r"mv": SpeltUnit("v", 1e-3),
    r"v(?:olts?)? ?(?:dc|d\.c\.)|vdc": SpeltUnit("v", dc=True),
    r"a(?:mps?)? ?dc|adc": SpeltUnit("a", dc=True),
    r"w(?:atts?)? ?dc|wdc": SpeltUnit("w", dc=True),
    r"v(?:olts?)? ?ac(?! ?\d+(?:\.\d+)? ?v)|vac|v|volts?|vlts?|votls?|vrms": SpeltUnit("v"),
    r"ma|milliamps?": SpeltUnit("a", 1e-3),
    r"a(?:mps?)? ?ac(?! ?\d+(?:\.\d+)? ?v)|aac|amps?|amperes?|a": SpeltUnit("a"),
    r"kwh|kw-h|kilowatt[ -]?hours?": SpeltUnit("wh", 1e3),
    r"wh|watt[ -]?hours?": SpeltUnit("wh"),
    r"kva": SpeltUnit("va", 1e3),
    r"va|volt[ -]?amps?": SpeltUnit("va"),
    r"kw|kilowatts?|kws": SpeltUnit("w", 1e3),
    r"w(?! ?/(?! ?\d))|watts?": SpeltUnit("w"),
    r"pf|power factor": SpeltUnit("pf"),
    r"hz|hertz|cycles": SpeltUnit("hz"),
    r"dba|db ?\(a\)|dbs?|decibels?": SpeltUnit("dba"),
    r"%|percent|per cent|pct": SpeltUnit("soc_pct"),
    r"ml|millilit(?:re|er)s?": SpeltUnit("fuel_l", 1e-3),
    r"l|lit(?:re|er)s?|ltrs?": SpeltUnit("fuel_l"),
    r"gal|gals|gallons?": SpeltUnit("fuel_l", GALLON_L),
    r"kg|kilos?|kilograms?": SpeltUnit("water_kg"),
    r"g|grams?|grammes?": SpeltUnit("water_kg", 1e-3),
    r"(?:°|deg(?:rees?)?|º) ?f(?:ahrenheit)?|f|fahrenheit": SpeltUnit("temp_c", 5 / 9, 32),
    r"(?:°|deg(?:rees?)?|º) ?c(?:elsius)?|c|℃|celsius": SpeltUnit("temp_c"),
    r"degrees?|deg|°": SpeltUnit("degrees"),
    r"rpm|revs": SpeltUnit("rpm"),
    r"ms|milliseconds?|msec": SpeltUnit("gap_ms"),
    r"s|secs?|seconds?": SpeltUnit("time_s"),
    r"mins?|minutes?": SpeltUnit("time_s", 60),
    r"h|hrs?|hours?": SpeltUnit("time_s", 3600),
    r"days?": SpeltUnit("time_s", 86400),
    r"m": SpeltUnit("metres_or_minutes"),
    r"met(?:re|er)s?": SpeltUnit("distance_m"),
    r"ft|feet|foot": SpeltUnit("distance_m", FT_M),
    r"yds?|yards?": SpeltUnit("distance_m", 3 * FT_M),
}
"""Every spelling, as a pattern; the first that fits the longest stretch counts."""
WRITTEN = [(re.compile(rf"(?:{spelt})(?![a-z0-9_%])"), unit) for spelt, unit in SPELT.items()]
NOT_AFTER = re.compile(
    r"\s*(?:/\s?(?:h|hr|hour|day|kwh|min)\b|per (?:h|hour|day|kwh)\b|an? (?:hour|h|day|minute|year|week|month|night)\b)"
)
"""``3 l/h`` is a rate, and no content of a tank."""
A_WHAT = re.compile(r"\s+(?:minute|second|hour|day|year|week|month|night|bit|while|time|side|piece|go|few|couple)\b")
"""``2 a side`` is no amps."""


def unit_at(low: str, at: int) -> tuple[SpeltUnit, int] | None:
    """The unit that stands at a place of a line in lower case, and where it ends."""
    best: tuple[SpeltUnit, int] | None = None
    for spelt, unit in WRITTEN:
        match = spelt.match(low, at)
        if match and (best is None or match.end() > best[1]):
            best = unit, match.end()
    if best is None or NOT_AFTER.match(low, best[1]):
        return None
    if low[at : best[1]] == "a" and A_WHAT.match(low, best[1]):
        return None
    return best


NAMED = {
    r"volts|voltage|votls|vlts|volt|v|u(?=\s*=)": "v",
    r"amps|current|amp|(?<!unit )(?<!set )(?<!leg )(?<!line )a|i(?=\s*=)": "a",
    r"watts|power|w|p(?=\s*=)": "w",
    r"kw|kilowatts": "kw",
    r"hz|hertz|freq|frequency|f(?=\s*=)": "hz",
    r"pf|power factor|cos ?phi": "pf",
    r"soc|charge|state of charge": "soc_pct",
    r"rpm|revs|tacho?|tachometer": "rpm",
    r"db|dba|noise": "dba",
    r"va": "va",
    r"kwh(?: meter| counter)?": "kwh",
    r"kva": "kva",
    r"gap": "gap_ms",
}
"""Words before a bare figure that say what it is of."""
FACTOR_OF_NAMED = {"kw": ("w", 1e3), "kwh": ("wh", 1e3), "kva": ("va", 1e3)}
OF_A_START = re.compile(r"\b(?:start(?:ing|up|-up)?|inrush|surge|peak)\s+$")
"""``start current 38 a``: which moment it was belongs to the words before."""


def named_before(low: str, at: int) -> tuple[str, float, int] | None:
    """What the words that end just before a place say a bare figure is of: quantity, factor, and where they begin."""
    before = low[:at]
    for spelt, quantity in NAMED.items():
        match = re.search(
            rf"(?<![\w'])(?:{spelt})\s*(?::|=|is|at|of|was|reads?|says?|shows?|now)?\s*(?:about|around|roughly|~|some)?\s*$",
            before,
        )
        if match:
            quantity, factor = FACTOR_OF_NAMED.get(quantity, (quantity, 1.0))
            return quantity, factor, at if OF_A_START.search(before[: match.start()]) else match.start()
    return None
