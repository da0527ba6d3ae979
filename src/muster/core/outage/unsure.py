"""A figure that is not known well, and how it is drawn."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from ..quantities import Grade, Value
from .layout import Floats

Z_90 = 1.645
"""A stated band is nine in ten: so many standard deviations."""
UNKNOWN_SHARE = {"w": 0.20, "wh": 0.20, "s": 0.20, "l": 0.05, "lph": 0.20}
"""Half-widths that nobody knows, a share of the figure (physics §10)."""

Drawer = Callable[[np.random.Generator, int], Floats]


@dataclass(frozen=True)
class UnsureFigure:
    """A figure that is not known well: its name as it is told, what settles it, and how it is drawn into the columns of a source.

    ``draw`` gives (draws, columns); ``stated`` what stands where doubt is left out.
    """

    name: str
    columns: tuple[int, ...]
    stated: tuple[float, ...]
    draw: Drawer
    grade: Grade
    settled_by: str = ""


def normal(value: float, half: float, low: float = 0.0) -> Drawer:
    """Drawn about a value with a half-width of nine in ten, never below ``low``."""
    return lambda rng, draws: np.maximum(low, rng.normal(value, half / Z_90, (draws, 1)))


def between(low: float, high: float) -> Drawer:
    """Drawn anywhere between two ends alike."""
    return lambda rng, draws: rng.uniform(low, high, (draws, 1))


def times(value: float, x: float) -> Drawer:
    """Drawn about a value that may be out by a factor either way, nine times in ten."""
    return lambda rng, draws: value * np.exp(rng.normal(0.0, math.log(x) / Z_90, (draws, 1)))


def known_figure(name: str, column: int, value: Value, settled_by: str, factor: float = 1.0) -> UnsureFigure:
    """A parameter as it is known: its own half-width, else that which nobody knows."""
    v = value.value * factor
    half = abs(value.u * factor) if value.u is not None else abs(v) * UNKNOWN_SHARE.get(value.unit, 0.20)
    return UnsureFigure(
        name=name,
        columns=(column,),
        stated=(v,),
        draw=normal(v, half),
        grade=value.grade,
        settled_by="" if value.grade.is_measured else settled_by,
    )
