"""The kit: what each instrument can see, and what it must have missed."""

from __future__ import annotations

from dataclasses import dataclass

from .errors import OutOfRange, require_above
from .quantities import Bound


@dataclass(frozen=True)
class Instrument:
    """An instrument: a figure every ``refresh_s`` over a window of ``window_s``.

    Accuracy is ``accuracy_pct`` of reading (``accuracy_abs`` in the reading's
    own unit for decibels and degrees).
    """

    slug: str
    name: str
    reads: tuple[str, ...]
    refresh_s: float
    window_s: float
    accuracy_pct: float = 0.0
    accuracy_abs: float = 0.0

    def u(self, value: float, resolution: float = 0.0) -> float:
        """Half-width of the uncertainty of one reading, in the reading's unit."""
        return abs(value) * self.accuracy_pct / 100 + self.accuracy_abs + resolution / 2


KIT = (
    Instrument("meter", "panel meter", ("v", "a", "w", "va", "pf", "hz", "wh"), 1.0, 0.2, 1.0),
    Instrument("plug", "plug-in meter", ("v", "a", "w", "va", "pf", "hz", "wh"), 1.0, 0.2, 1.5),
    Instrument("clamp", "clamp meter with inrush hold", ("a", "dc_a"), 0.1, 0.1, 2.0),
    Instrument("multimeter", "multimeter with min/max hold", ("v", "hz", "dc_v"), 0.1, 0.1, 0.8),
    Instrument("scope", "scope with an isolated probe", ("v", "a", "hz"), 0.01, 0.02, 2.0),
    Instrument("sound", "sound level meter, slow", ("dba",), 1.0, 1.0, accuracy_abs=1.5),
    Instrument("display", "the source's own display", ("v", "a", "w", "hz", "soc_pct"), 1.0, 1.0, 3.0),
    Instrument("thermometer", "contact thermometer", ("temp_c",), 1.0, 1.0, accuracy_abs=1.0),
    Instrument("dipstick", "measuring can", ("fuel_l",), 60.0, 60.0, 3.0),
)
"""The usual kit: what such instruments are commonly good for."""
BY_SLUG = {instrument.slug: instrument for instrument in KIT}
DEFAULT_FOR = {
    "dba": "sound", "temp_c": "thermometer", "fuel_l": "dipstick", "soc_pct": "display",
    "dc_a": "clamp", "dc_v": "multimeter", "dc_w": "display", "rpm": "display",
}  # fmt: skip
"""Which instrument a reading is from when the line does not say; else the panel meter."""


def instrument_for(quantity: str, slug: str | None = None) -> Instrument:
    """The instrument a reading names, or the usual one for its quantity."""
    return BY_SLUG.get(slug or "", BY_SLUG[DEFAULT_FOR.get(quantity, "meter")])


def sure_held_s(window_s: float, refresh_s: float, event_s: float) -> float:
    """Seconds of an event that one window of a meter is sure to hold.

    ``max(0, min(W, d, (W + d - T) / 2))``: a window of W s, refreshed each
    T s, against an event of d s that falls as unluckily as it can.

    Raises
    ------
    OutOfRange
        If window or refresh is not above zero or the event is negative.
    """
    require_above(window_s, 0, "window_s")
    require_above(refresh_s, 0, "refresh_s")
    if event_s < 0:
        raise OutOfRange(f"got {event_s:g}", where="event_s", want="must be 0 or more")
    return max(0.0, min(window_s, event_s, (window_s + event_s - refresh_s) / 2))


def sees_whole(instrument: Instrument, event_s: float | None) -> bool:
    """Whether an instrument is sure to see an event's extreme: ``d >= W + T``.

    An event of unknown length is never sure to be seen.
    """
    return event_s is not None and event_s >= instrument.window_s + instrument.refresh_s


def bound_of(instrument: Instrument, event_s: float | None, *, lowest: bool) -> Bound | None:
    """Which way an extreme errs: a dip was at least this deep, a surge at least this high."""
    if sees_whole(instrument, event_s):
        return None
    return Bound.AT_MOST if lowest else Bound.AT_LEAST
