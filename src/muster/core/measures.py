"""Units of measure: SI inside and in files; on screen as the job and what was typed have it."""

from __future__ import annotations

import re
from collections.abc import Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from dataclasses import dataclass, fields, replace

from .errors import UnknownChoice

FT_M = 0.3048
"""International foot. [m]"""
GALLON_L = 3.785411784
"""US liquid gallon. [L]"""
LB_KG = 0.45359237
"""Avoirdupois pound. [kg]"""
F_PER_K, F_AT_0_C = 1.8, 32.0
"""Degrees Fahrenheit a kelvin, and at 0 °C."""


@dataclass(frozen=True)
class UnitScale:
    """How a quantity in SI is shown: ``shown = si * factor + zero``, and the unit's word."""

    label: str
    factor: float = 1.0
    zero: float = 0.0

    def shown(self, si: float) -> float:
        """A value in SI as it is shown."""
        return si * self.factor + self.zero

    def si(self, shown: float) -> float:
        """A value as it was typed in SI: of those that are shown so, the one with the fewest decimals."""
        exact = (shown - self.zero) / self.factor
        if self.factor == 1.0 and not self.zero:
            return shown
        for decimals in range(10):
            near = round(exact, decimals)
            if round(self.shown(near), TYPED_DECIMALS) == round(shown, TYPED_DECIMALS):
                return near
        return exact


TYPED_DECIMALS = 4
"""So many decimals of a typed figure come back as they were typed."""

CHOICES: dict[str, tuple[str, str]] = {
    "length": ("m", "ft"),
    "temperature": ("c", "f"),
    "volume": ("l", "gal"),
    "wire": ("mm2", "awg"),
    "mass": ("kg", "lb"),
}
"""What is measured, and in what: of the metric system, and of the United States."""
CHOICE_WORDS = {
    "m": "metres",
    "ft": "feet",
    "c": "°C",
    "f": "°F",
    "l": "litres",
    "gal": "US gallons",
    "mm2": "mm²",
    "awg": "AWG",
    "kg": "kilograms",
    "lb": "pounds",
}
FAHRENHEIT = UnitScale("°F", F_PER_K, F_AT_0_C)
OTHERWISE: dict[str, dict[str, UnitScale]] = {
    "ft": {"m": UnitScale("ft", 1 / FT_M)},
    "f": {"c": FAHRENHEIT, "k": UnitScale("°F", F_PER_K)},
    "gal": {
        "l": UnitScale("gal", 1 / GALLON_L),
        "lph": UnitScale("gal/h", 1 / GALLON_L),
        "lph_kw": UnitScale("gal/h/kW", 1 / GALLON_L),
    },
    "lb": {"kg": UnitScale("lb", 1 / LB_KG)},
}
"""Units of SI that a choice shows in another."""


@dataclass(frozen=True)
class Measures:
    """In what each thing is shown; empty where nobody chose, and it goes by the supply."""

    length: str = ""
    temperature: str = ""
    volume: str = ""
    wire: str = ""
    mass: str = ""

    def __post_init__(self) -> None:
        for field in fields(self):
            chosen = getattr(self, field.name)
            if chosen and chosen not in CHOICES[field.name]:
                raise UnknownChoice(
                    f"got “{chosen}”", where=f"measures.{field.name}", want=" or ".join(CHOICES[field.name])
                )

    def filled(self, other: Measures) -> Measures:
        """These, and where nothing was chosen those of ``other``."""
        return replace(self, **{f.name: getattr(other, f.name) for f in fields(self) if not getattr(self, f.name)})

    def scale(self, unit: str) -> UnitScale | None:
        """How a unit of SI is shown, None if as it is."""
        return next((OTHERWISE[choice][unit] for choice in self._choices if unit in OTHERWISE.get(choice, {})), None)

    @property
    def _choices(self) -> tuple[str, ...]:
        return (self.length, self.temperature, self.volume, self.mass)


METRIC = Measures(**{name: metric for name, (metric, _) in CHOICES.items()})
US = Measures(**{name: us for name, (_, us) in CHOICES.items()})
_SHOWN_IN: ContextVar[Measures] = ContextVar("shown in", default=METRIC)


@contextmanager
def showing_in(measures: Measures) -> Iterator[None]:
    """Show every figure in these units until the block ends."""
    token = _SHOWN_IN.set(measures)
    try:
        yield
    finally:
        _SHOWN_IN.reset(token)


def show_in(measures: Measures) -> None:
    """Show every figure in these units until the surrounding ``showing_in`` ends."""
    _SHOWN_IN.set(measures)


def shown_in() -> Measures:
    """The units that figures are shown in at present."""
    return _SHOWN_IN.get()


def scale_of(unit: str) -> UnitScale | None:
    """How a unit of SI is shown at present, None if as it is."""
    return _SHOWN_IN.get().scale(unit)


TYPED = {
    "ft": r"\d ?(?:ft|feet|foot|yds?|yards?)\b",
    "m": r"\d ?(?:m|met(?:re|er)s?)\b(?! ?(?:in|s)\b)",
    "f": r"\d ?(?:°|deg(?:rees?)? ?)?f(?:ahrenheit)?\b",
    "c": r"\d ?(?:°|deg(?:rees?)? ?)?c(?:elsius)?\b",
    "gal": r"\d ?gal(?:s|lons?)?\b",
    "l": r"\d ?(?:l|lit(?:re|er)s?|ltrs?)\b",
    "awg": r"\bawg\b|\d ?gauge\b",
    "mm2": r"\d ?(?:mm2|mm²|sq ?mm)",
    "lb": r"\d ?(?:lbs?|pounds?)\b",
    "kg": r"\d ?(?:kg|kilos?)\b",
}
"""How each is written after a figure; ``5 m`` may be minutes and is taken for a length beside decibels alone."""
LENGTH_ONLY_BESIDE = re.compile(r"\d ?db|neighbou?r|cord|lead|altitude|above sea", re.I)


def typed_measures(text: str) -> Measures:
    """What a text was typed in; where it says both, or nothing, nobody chose."""
    said = {}
    for name, pair in CHOICES.items():
        seen = [unit for unit in pair if re.search(TYPED[unit], text, re.I)]
        if seen == ["m"] and not LENGTH_ONLY_BESIDE.search(text):
            continue
        if len(seen) == 1:
            said[name] = seen[0]
    return Measures(**said)
