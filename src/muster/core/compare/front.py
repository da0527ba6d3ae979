"""Price against what it gives: those sources than which no other is both cheaper and better."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass


@dataclass(frozen=True)
class PricedMargin:
    """A source by its place: what it costs, and the tightest margin of what is required of it, a share of the demand."""

    at: int
    price: float
    margin: float


def front(priced: Sequence[PricedMargin]) -> tuple[PricedMargin, ...]:
    """Those than which no other is both cheaper and better, the cheapest first.

    Parameters
    ----------
    priced
        Sources that have a price and a margin.

    Returns
    -------
    tuple of PricedMargin
        Of two that cost and give the same both; each that follows costs more and gives more.
    """
    kept = [own for own in priced if not any(_beats(other, own) for other in priced)]
    return tuple(sorted(kept, key=lambda item: (item.price, item.margin, item.at)))


def _beats(other: PricedMargin, own: PricedMargin) -> bool:
    no_worse = other.price <= own.price and other.margin >= own.margin
    return no_worse and (other.price < own.price or other.margin > own.margin)
