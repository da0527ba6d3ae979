"""A result's working: the formula in words, the numbers put in, what they were reached from, and where it comes from."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from enum import StrEnum


class Method(StrEnum):
    """How a result that is no single expression is reached from the rows of its working."""

    LINE = "line"
    """``y = a + b·x`` through rows of x and y, by least squares; the result is a, then b."""
    DECADES = "decades"
    """``y = a − n·log10(x)`` through rows of x and y, by least squares; the result is n."""
    LOSS = "loss"
    """``y = p₀ + p₁·x + p₂·x²`` through rows of x and y, by least squares with none below zero; the result is p₀, p₁, p₂."""
    HIGHEST = "highest"
    """The 99th percentile of the draws whose highest stand in the rows, so many above it; the rows fall."""
    ROOT_OF_SQUARES = "root_of_squares"
    """The root of the sum of squares of the last column."""
    LOWEST = "lowest"
    """The lowest of the last column."""
    MEAN = "mean"
    """The mean of the last column."""
    BACK = "back"
    """From when on the last column stays within a band of where it settles; the result is the first column there."""
    RISE = "rise"
    """``y = a + r·(1 − e^(−x ÷ τ))`` through rows of x and y, by least squares; the result is a + r."""
    SUM_OF_PRODUCTS = "sum_of_products"
    """The sum of the products of each row's columns."""

    @property
    def label(self) -> str:
        """What is done with the rows, in words."""
        return LABELS[self]


LABELS = {
    Method.LINE: "least squares through",
    Method.DECADES: "least squares, against the logarithm of the distance, through",
    Method.LOSS: "least squares with none below zero through",
    Method.HIGHEST: "the 99th percentile, between the first two of",
    Method.ROOT_OF_SQUARES: "the root of the sum of the squares of",
    Method.LOWEST: "the lowest of",
    Method.MEAN: "the mean of",
    Method.BACK: "from when on it stays there, of",
    Method.RISE: "least squares of a first-order rise through",
    Method.SUM_OF_PRODUCTS: "the sum of the products of",
}


@dataclass(frozen=True)
class Rows:
    """What a working is reached from where that is no single expression: columns by name, and rows of numbers as they were used."""

    method: Method
    columns: tuple[str, ...]
    rows: tuple[tuple[float, ...], ...]
    of: int = 0
    """How many draws there were in all, where the rows are the highest of them."""

    @property
    def text(self) -> tuple[str, ...]:
        """Each row as it is printed: its numbers, a space between them."""
        return tuple(" ".join(f"{value:g}" for value in row) for row in self.rows)


def rows_of(method: Method, columns: tuple[str, ...], rows: Iterable[Sequence[float]], of: int = 0) -> Rows:
    """Rows of a working, to six figures: enough to re-do a result of three.

    Parameters
    ----------
    method
        How the result is reached from them.
    columns
        Their names, with units.
    rows
        A value a column.
    of
        Draws in all, where the rows are the highest of them.
    """
    return Rows(method, columns, tuple(tuple(float(f"{value:.{SHOWN}g}") for value in row) for row in rows), of)


SHOWN = 6


@dataclass(frozen=True)
class Working:
    """One line of arithmetic that a reader can check by hand.

    ``formula`` is in words, ``put_in`` has the numbers in their places,
    ``result`` is the outcome with its unit, ``source`` the standard and clause
    or the textbook relation. ``rows`` are what it is reached from where
    ``put_in`` is no expression.
    """

    formula: str
    put_in: str
    result: str
    source: str = ""
    rows: Rows | None = None
