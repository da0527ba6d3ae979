"""Where a reading is of, and at which moment."""

from __future__ import annotations

from enum import StrEnum


class Place(StrEnum):
    """Where an electrical reading was taken."""

    LEG1 = "1"
    LEG2 = "2"
    TOTAL = "total"
    NEUTRAL = "n"
    DC = "dc"
    PANELS = "pv"
    UNIT_A = "ua"
    UNIT_B = "ub"
    NONE = "-"

    @property
    def label(self) -> str:
        """The place as it is written on screen."""
        return {
            "1": "leg 1",
            "2": "leg 2",
            "total": "both legs",
            "n": "neutral",
            "dc": "DC",
            "pv": "panels",
            "ua": "unit A",
            "ub": "unit B",
            "-": "",
        }[self.value]

    @property
    def is_dc(self) -> bool:
        """Whether it is direct current that is read there."""
        return self in (Place.DC, Place.PANELS)


class Stat(StrEnum):
    """What a reading stands for: a steady figure unless said otherwise."""

    STEADY = "steady"
    LOWEST = "lowest"
    HIGHEST = "highest"
    BEFORE = "before"
    SETTLED = "settled"
    BACKGROUND = "background"
