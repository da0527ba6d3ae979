"""The latest figure of each channel, and what follows from them at once: watts in all, volt-amperes a leg."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from ...sessions import Place
from .trace import Channel, Trace

LEGS = (Place.LEG1, Place.LEG2)


@dataclass(frozen=True)
class Latest:
    """What each channel showed last."""

    figures: Mapping[Channel, float]

    def of(self, quantity: str, place: Place = Place.NONE) -> float | None:
        """A channel's figure, None if it was not read."""
        value = self.figures.get(Channel(quantity, place))
        return None if value is None or value != value else value

    def total_w(self, legs: int) -> float | None:
        """Watts of the whole source, None where a leg is not read: as a trace has it."""
        channels = tuple(self.figures)
        samples = np.array([[value] for value in self.figures.values()], dtype=np.float32).reshape(len(channels), 1)
        total = Trace("", "", channels, np.zeros(1), samples).total_w(legs) if channels else None
        return None if total is None or total[0] != total[0] else float(total[0])

    def leg_va(self, legs: int) -> tuple[float | None, ...]:
        """Volt-amperes of each leg: read, else volts times amps; None where neither is."""
        result = []
        for place in LEGS[:legs]:
            volts, amps = self.of("v", place), self.of("a", place)
            product = None if volts is None or amps is None else volts * amps
            result.append(self.of("va", place) or product)
        return tuple(result)
