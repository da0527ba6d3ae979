"""The kit against itself: what every instrument reads of one supply, and which stands apart."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass

from ..errors import MusterError
from .instruments import Apart, Kit

CHECKED = ("v", "hz")
"""What is read of the mains by each."""


@dataclass(frozen=True)
class CrossChecked:
    """What an instrument read beside the others: its figure, theirs, each with its half-width, and whether it stands apart."""

    slug: str
    quantity: str
    value: float
    u: float
    others: float
    u_others: float

    @property
    def gap(self) -> float:
        """How far it reads from the others, in the quantity's unit."""
        return self.value - self.others

    @property
    def is_apart(self) -> bool:
        """Whether that is more than both half-widths together make likely."""
        return abs(self.gap) > math.hypot(self.u, self.u_others)

    @property
    def apart(self) -> Apart:
        """The gap as a share of what the others read, as it widens every later reading."""
        return Apart(quantity=self.quantity, share=abs(self.gap / self.others))


def cross_check(read: Mapping[str, Mapping[str, float]], kit: Kit) -> tuple[CrossChecked, ...]:
    """Hold each instrument against all the others that read the same.

    Parameters
    ----------
    read
        By the instrument's word, by quantity (``v`` [V], ``hz`` [Hz]): what it showed at one moment.
    kit
        The instruments.

    Returns
    -------
    tuple of CrossChecked
        Of every quantity that two or more read. The others' figure is the mean, weighted by 1/u², of those
        that agree. Of two that disagree neither is known to be right: both stand apart.

    Raises
    ------
    MusterError
        If no two instruments read the same.

    References
    ----------
    JCGM 100:2008 (GUM), 5.1: combined uncertainty of independent readings.
    """
    checked = [
        seen
        for quantity in CHECKED
        for seen in _one_another(
            {slug: told[quantity] for slug, told in read.items() if quantity in told}, quantity, kit
        )
    ]
    if not checked:
        raise MusterError("nothing to hold against another", where="check", want="the same figure from two instruments")
    return tuple(checked)


def _one_another(figures: Mapping[str, float], quantity: str, kit: Kit) -> list[CrossChecked]:
    """Each against the others that agree: the one furthest out is left out of what is gone by, until those left do."""
    if len(figures) < 2:
        return []
    agreeing = dict(figures)
    while len(agreeing) > 2:
        seen = [_against(slug, value, quantity, agreeing, kit) for slug, value in agreeing.items()]
        furthest = max(seen, key=lambda each: abs(each.gap) / math.hypot(each.u, each.u_others))
        if not furthest.is_apart:
            break
        del agreeing[furthest.slug]
    return [_against(slug, value, quantity, agreeing, kit) for slug, value in figures.items()]


def _against(slug: str, value: float, quantity: str, figures: Mapping[str, float], kit: Kit) -> CrossChecked:
    others = {other: figure for other, figure in figures.items() if other != slug}
    weights = {other: 1 / max(kit.u(quantity, other, figure), 1e-9) ** 2 for other, figure in others.items()}
    total = sum(weights.values())
    mean = sum(weights[other] * figure for other, figure in others.items()) / total
    return CrossChecked(
        slug=slug,
        quantity=quantity,
        value=value,
        u=kit.u(quantity, slug, value),
        others=mean,
        u_others=1 / math.sqrt(total),
    )
