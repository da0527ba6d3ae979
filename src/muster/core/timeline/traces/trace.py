"""A trace: channels sampled on one time axis, gaps left open."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from ...errors import MusterError, UnknownChoice
from ...kit import QUANTITIES
from ...sessions import Place

Floats = NDArray[np.float64]
Samples = NDArray[np.float32]

GAP_X = 4.0
"""A pause longer than so many usual steps is a gap: nothing is known across it."""
GAP_LEAST_S = 2.0
PREFIXES = {
    Place.LEG1: "l1_",
    Place.LEG2: "l2_",
    Place.TOTAL: "total_",
    Place.NEUTRAL: "n_",
    Place.DC: "dc_",
    Place.PANELS: "pv_",
    Place.UNIT_A: "ua_",
    Place.UNIT_B: "ub_",
    Place.NONE: "",
}
HEADINGS = {"hz": "f_hz", "dba": "spl_dba"}
"""Headings that say more than the unit alone."""
ELECTRIC = ("v", "a", "w", "va", "pf")


@dataclass(frozen=True)
class Channel:
    """One quantity at one place: ``v`` on leg 1, ``w`` of both legs, ``soc_pct`` nowhere in particular."""

    quantity: str
    place: Place = Place.NONE

    def __post_init__(self) -> None:
        if self.measured not in QUANTITIES:
            raise UnknownChoice(f"no quantity “{self.quantity}”", where="quantity", want=", ".join(QUANTITIES))
        if (self.quantity in ELECTRIC) == (self.place is Place.NONE):
            want = "a leg, the total, the neutral or DC" if self.quantity in ELECTRIC else "no place"
            raise MusterError(f"{self.quantity} at “{self.place.label}”", where="place", want=want)

    @property
    def measured(self) -> str:
        """The quantity as an instrument's range names it."""
        return f"dc_{self.quantity}" if self.place.is_dc and self.quantity in ("v", "a", "w") else self.quantity

    @property
    def heading(self) -> str:
        """The column heading of open formats: ``l1_v``, ``f_hz``, ``dc_a``."""
        return PREFIXES[self.place] + HEADINGS.get(self.quantity, self.quantity)

    @property
    def unit(self) -> str:
        """The unit suffix its figures are written with."""
        return QUANTITIES[self.measured][1]

    @property
    def label(self) -> str:
        """The channel as it is written on screen."""
        where = "" if self.place in (Place.DC, Place.NONE) else self.place.label
        return f"{QUANTITIES[self.measured][0]}{', ' if where else ''}{where}"


def channel_named(heading: str) -> Channel:
    """The channel of a heading such as ``l2_w``.

    Raises
    ------
    UnknownChoice
        If there is no such heading.
    """
    for place, prefix in PREFIXES.items():
        for quantity in QUANTITIES:
            if quantity.startswith("dc_") or (quantity in ELECTRIC) == (place is Place.NONE):
                continue
            if heading == prefix + HEADINGS.get(quantity, quantity):
                return Channel(quantity, place)
    raise UnknownChoice(f"no channel “{heading}”", where="heading", want="such as l1_v, total_w, f_hz, dc_a, soc_pct")


def gap_of(step_s: float) -> float:
    """The pause that counts as a gap in a log of this usual step [s]."""
    return max(GAP_LEAST_S, GAP_X * step_s)


def stood_s(t_s: Floats, next_s: float, step_s: float) -> Floats:
    """How long each sample stands [s]: to the next (``next_s`` after the last); across a gap one usual step."""
    steps = np.diff(np.append(t_s, next_s))
    return np.where(steps > gap_of(step_s), step_s, steps)


@dataclass(frozen=True, eq=False)
class Trace:
    """Samples of ``channels`` at ``t_s`` seconds after the session began.

    ``t_s`` is (n,) and rises; ``values`` is (channels, n), NaN where nothing
    was read. ``instrument`` is the word of the instrument in the kit.
    """

    name: str
    instrument: str
    channels: tuple[Channel, ...]
    t_s: Floats
    values: Samples

    def __post_init__(self) -> None:
        if self.values.shape != (len(self.channels), self.t_s.size):
            raise MusterError(f"got {self.values.shape}", where="values", want="one row a channel, one column a time")
        if len(set(self.channels)) != len(self.channels):
            raise MusterError("a channel stands twice", where="channels", want="each once")

    def __eq__(self, other: object) -> bool:
        """The same channels and samples; what was not read equals what was not read."""
        if not isinstance(other, Trace):
            return NotImplemented
        named = (self.name, self.instrument, self.channels) == (other.name, other.instrument, other.channels)
        return (
            named and np.array_equal(self.t_s, other.t_s) and np.array_equal(self.values, other.values, equal_nan=True)
        )

    __hash__ = None  # type: ignore[assignment]

    @cached_property
    def step_s(self) -> float:
        """The usual time between samples [s]: the median, 0 for a single sample."""
        return float(np.median(np.diff(self.t_s))) if self.t_s.size > 1 else 0.0

    @property
    def gap_s(self) -> float:
        """A pause longer than this is a gap [s]."""
        return gap_of(self.step_s)

    @property
    def span(self) -> tuple[float, float]:
        """First and last time [s]."""
        return (float(self.t_s[0]), float(self.t_s[-1])) if self.t_s.size else (0.0, 0.0)

    def has(self, quantity: str, place: Place) -> bool:
        """Whether there is such a channel."""
        return Channel(quantity, place) in self.channels

    def of(self, quantity: str, place: Place = Place.NONE) -> Floats | None:
        """The samples of a channel, None if it was not recorded."""
        channel = Channel(quantity, place)
        if channel not in self.channels:
            return None
        samples: Floats = self.values[self.channels.index(channel)].astype(np.float64)
        return samples

    def place_w(self, place: Place) -> Floats | None:
        """Watts at a place: recorded, else volts × amps × power factor (DC: volts × amps)."""
        read = self.of("w", place)
        if read is not None:
            return read
        volts, amps = self.of("v", place), self.of("a", place)
        if volts is None or amps is None:
            return None
        factor = self.of("pf", place) if not place.is_dc else None
        watts: Floats = volts * amps * (1.0 if factor is None else factor)
        return watts

    def total_w(self, legs: int) -> Floats | None:
        """Watts of the whole source: recorded as a total, else the sum of its legs."""
        read = self.of("w", Place.TOTAL)
        if read is not None:
            return read
        parts = [self.place_w(place) for place in (Place.LEG1, Place.LEG2)[:legs]]
        known = [part for part in parts if part is not None]
        if len(known) < len(parts):
            return None
        total: Floats = np.sum(known, axis=0)
        return total

    def durations_s(self) -> Floats:
        """How long each sample stands: to the next one; across a gap and at the end one usual step."""
        if self.t_s.size < 2:
            return np.zeros(self.t_s.size)
        return stood_s(self.t_s, float(self.t_s[-1]) + self.step_s, self.step_s)

    def gaps(self) -> tuple[tuple[float, float], ...]:
        """Stretches in which nothing was recorded."""
        if self.t_s.size < 2:
            return ()
        at = np.flatnonzero(np.diff(self.t_s) > self.gap_s)
        return tuple((float(self.t_s[i]), float(self.t_s[i + 1])) for i in at)
