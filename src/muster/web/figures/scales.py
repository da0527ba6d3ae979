"""Axes: round ticks, and numbers to coordinates."""

from __future__ import annotations

import math
from dataclasses import dataclass


@dataclass(frozen=True)
class Scale:
    """A straight scale from values ``low..high`` to coordinates ``start..end``."""

    low: float
    high: float
    start: float
    end: float

    def __call__(self, value: float) -> float:
        span = self.high - self.low or 1.0
        return round(self.start + (value - self.low) / span * (self.end - self.start), 1)


@dataclass(frozen=True)
class Tick:
    """A tick: where, and what it says."""

    at: float
    label: str


def step_for(span: float, count: int) -> float:
    """A round step (1, 2 or 5 times a power of ten) that cuts a span into about ``count``."""
    if span <= 0 or not math.isfinite(span):
        return 1.0
    rough = span / max(count, 1)
    power = 10 ** math.floor(math.log10(rough))
    return next(m * power for m in (1, 2, 5, 10) if m * power >= rough * 0.999)


def ticks(scale: Scale, count: int = 5, divide: float = 1.0) -> tuple[Tick, ...]:
    """Round ticks within a scale; ``divide`` turns watts into kilowatts for the label."""
    step = step_for(scale.high - scale.low, count)
    first = math.ceil(scale.low / step - 1e-9)
    last = math.floor(scale.high / step + 1e-9)
    return tuple(Tick(scale(i * step), f"{i * step / divide:g}") for i in range(first, last + 1))


def spread(wanted: list[float], gap: float, low: float = float("-inf")) -> list[float]:
    """Move positions apart to at least ``gap`` and not below ``low``, keeping their order.

    First each is pushed past its neighbour from the top down; then each block
    of touching positions is drawn back towards where it was wanted.
    """
    order = sorted(range(len(wanted)), key=lambda i: wanted[i])
    blocks: list[tuple[float, int]] = []
    for i in order:
        centre, count = wanted[i], 1
        while blocks and blocks[-1][0] + (blocks[-1][1] + count) * gap / 2 > centre:
            before, members = blocks.pop()
            centre = (before * members + centre * count) / (members + count)
            count += members
        blocks.append((centre, count))
    placed: list[float] = []
    for centre, count in blocks:
        first = max(centre - (count - 1) * gap / 2, placed[-1] + gap if placed else low)
        placed += [first + k * gap for k in range(count)]
    result = [0.0] * len(wanted)
    for position, index in zip(placed, order, strict=True):
        result[index] = round(position, 1)
    return result
