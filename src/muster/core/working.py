"""A result's working: the formula in words, the numbers put in, and where it comes from."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Working:
    """One line of arithmetic that a reader can check by hand.

    ``formula`` is in words, ``put_in`` has the numbers in their places,
    ``result`` is the outcome with its unit, ``source`` the standard and clause
    or the textbook relation.
    """

    formula: str
    put_in: str
    result: str
    source: str = ""
