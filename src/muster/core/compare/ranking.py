"""An order of figures that knows their doubt: what lies within it is no difference."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass


@dataclass(frozen=True)
class Banded:
    """A figure with its low and high end; larger is better."""

    value: float
    low: float
    high: float

    def __post_init__(self) -> None:
        object.__setattr__(self, "low", min(self.low, self.value))
        object.__setattr__(self, "high", max(self.high, self.value))


def places(figures: Sequence[Banded | None]) -> tuple[int | None, ...]:
    """The place of each among the others, from 1; those that no doubt tells apart share the better one.

    Parameters
    ----------
    figures
        Larger is better; None where nothing is known.

    Returns
    -------
    tuple
        A figure stands behind as many as surely lie above it: whose low end is above its high end. So of two that share
        a place neither surely lies above the other, and adding a third moves none of them past one another.
    """
    return tuple(
        None if figure is None else 1 + sum(1 for other in figures if other is not None and other.low > figure.high)
        for figure in figures
    )


def all_alike(figures: Sequence[Banded | None]) -> bool:
    """Whether no two of them can be told apart."""
    known = [figure for figure in figures if figure is not None]
    return len(known) > 1 and max(f.low for f in known) <= min(f.high for f in known)


def flipped(figure: Banded) -> Banded:
    """A figure of which less is better, as one of which more is."""
    return Banded(-figure.value, -figure.high, -figure.low)


def is_open_ended(figure: Banded) -> bool:
    """Whether nothing bounds it on one side."""
    return math.isinf(figure.low) or math.isinf(figure.high)
