"""The kit: what each instrument can see, and what it must have missed."""

from .instruments import (
    AVERAGE_ON_STEPPED_PCT,
    QUANTITIES,
    UNKNOWN_INSTRUMENT,
    USUAL_KIT,
    Instrument,
    Kit,
    Measure,
    bound_of,
    sees_whole,
    sure_held_s,
)

__all__ = [
    "AVERAGE_ON_STEPPED_PCT",
    "QUANTITIES",
    "UNKNOWN_INSTRUMENT",
    "USUAL_KIT",
    "Instrument",
    "Kit",
    "Measure",
    "bound_of",
    "sees_whole",
    "sure_held_s",
]
