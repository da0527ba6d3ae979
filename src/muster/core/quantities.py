"""Values with their unit, uncertainty, bound and evidence grade, and how they are written."""

from __future__ import annotations

import math
from dataclasses import dataclass
from enum import StrEnum

from .measures import scale_of

THIN = "\u202f"
"""Narrow no-break space: between thousands, and between a number and its unit."""
MINUS = "\u2212"

UNIT_WORDS = {
    "v": "V", "a": "A", "w": "W", "va": "VA", "wh": "Wh", "hz": "Hz", "s": "s", "min": "min",
    "h": "h", "pct": "%", "pt": "pt", "dba": "dBA", "db": "dB", "k": "K", "c": "°C", "m": "m", "l": "L",
    "lph": "L/h", "mm2": "mm²", "ohm": "Ω", "ms": "ms", "pf": "", "x": "×", "n": "", "rpm": "rpm", "kg": "kg",
    "v_kw": "V/kW", "hz_kw": "Hz/kW", "lph_kw": "L/h/kW",
}  # fmt: skip
"""How each unit suffix used in names is written, in SI."""

SIGNIFICANT = 3
"""Significant figures unless the instrument earns more."""
FIXED_DECIMALS = {"hz": 1, "dba": 1, "db": 1, "pf": 2, "n": 1, "v_kw": 2, "hz_kw": 2}
"""Units read to a fixed decimal by the trade, however large the number."""


class Grade(StrEnum):
    """Evidence grade of a value, best first.

    A measured here with an instrument able to see it; B measured, but
    indirectly or by an instrument that can miss it; C nameplate or booklet;
    D planning figure.
    """

    A = "A"
    B = "B"
    C = "C"
    D = "D"

    @property
    def label(self) -> str:
        """What the grade rests on, in words."""
        return {
            "A": "measured here, by an instrument able to see it",
            "B": "measured, but indirectly or by an instrument that can miss it",
            "C": "nameplate or booklet",
            "D": "planning figure",
        }[self.value]

    @property
    def is_measured(self) -> bool:
        """Whether the value was measured here at all."""
        return self in (Grade.A, Grade.B)


def worst_grade(*grades: Grade) -> Grade:
    """Return the weakest of the grades: a chain is as good as its worst link."""
    return max(grades, key=lambda grade: grade.value)


class Bound(StrEnum):
    """Which way a value is known to err when the instrument could have missed the extreme."""

    AT_LEAST = "at_least"
    AT_MOST = "at_most"


@dataclass(frozen=True)
class Value:
    """A number with all that is known about it.

    ``u`` is the half-width of its uncertainty in the same unit, None if
    unknown. It is never written smaller than the last digit shown.
    """

    value: float
    unit: str
    u: float | None = None
    bound: Bound | None = None
    grade: Grade = Grade.D

    def __str__(self) -> str:
        sign = {Bound.AT_LEAST: "≥" + THIN, Bound.AT_MOST: "≤" + THIN, None: ""}[self.bound]
        if not self.u:
            return sign + plain(self.value, self.unit)
        scale = scale_of(self.unit)
        u = self.u * scale.factor if scale is not None else self.u
        decimals = 1 if self.unit == "v" else FIXED_DECIMALS.get(self.unit)
        if decimals is not None:
            half = f"{max(u, 10**-decimals):.{decimals}f}"
        else:
            half = f"{u:.2g}" if u < 10 else f"{u:.0f}"
        word = unit_word(self.unit)
        return f"{sign}{number(self.value, self.unit)} ±{THIN}{half}{THIN + word if word else ''}"


def unit_word(unit: str) -> str:
    """How a unit is written on screen: as the job and what was typed have it."""
    scale = scale_of(unit)
    return scale.label if scale is not None else UNIT_WORDS.get(unit, unit)


def shown(x: float, unit: str) -> float:
    """A value in SI as it is shown: metres as feet where a job is in feet."""
    scale = scale_of(unit)
    return scale.shown(x) if scale is not None else x


def number(x: float, unit: str = "") -> str:
    """Write a number as the trade reads it: three figures, thin-spaced thousands, a true minus.

    ``x`` is in SI; it is written in the units that are shown at present. Volts keep one decimal (the meters do), hertz and decibels too.
    """
    if not math.isfinite(x):
        return "–"
    x = shown(x, unit)
    size = abs(x)
    if unit in FIXED_DECIMALS:
        decimals = FIXED_DECIMALS[unit]
    elif unit == "v":
        decimals = 1 if size < 1000 else 0
    elif size == 0:
        decimals = 0
    else:
        decimals = max(0, SIGNIFICANT - 1 - math.floor(math.log10(size)))
    decimals = min(decimals, 4)
    text = f"{size:,.{decimals}f}".replace(",", THIN)
    if "." in text and unit not in FIXED_DECIMALS and unit != "v":
        text = text.rstrip("0").rstrip(".")
    return (MINUS if x < 0 and float(text.replace(THIN, "")) else "") + text


def plain(x: float, unit: str = "") -> str:
    """Write a number and its unit (``2 750 W``), a thin no-break space between."""
    word = unit_word(unit)
    return number(x, unit) + (THIN + word if word else "")


LONGEST_IN_S = 100.0
"""Nobody speaks of longer times in seconds."""


def signed(x: float, unit: str = "") -> str:
    """Write a margin with its sign always shown (``+19 %``); a length of time in minutes and hours where it has them."""
    if unit == "s" and abs(x) >= LONGEST_IN_S and math.isfinite(x):
        return (MINUS if x < 0 else "+") + duration(abs(x))
    text = plain(x, unit)
    return text if text.startswith(MINUS) else "+" + text


def duration(seconds: float) -> str:
    """Write a length of time as a person says it: ``41 s``, ``12 min``, ``1 h 40 min``."""
    if seconds < 100:
        return plain(round(seconds, 1) if seconds < 10 else round(seconds), "s")
    minutes = round(seconds / 60)
    if minutes < 100:
        return plain(minutes, "min")
    hours, rest = divmod(minutes, 60)
    return plain(hours, "h") + (f" {plain(rest, 'min')}" if rest else "")
