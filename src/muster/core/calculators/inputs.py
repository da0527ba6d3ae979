"""Figures as they are typed into a calculator, with what is not known of them."""

from __future__ import annotations

import re
from dataclasses import dataclass

from ..errors import MusterError

FIGURE = re.compile(
    r"^\s*([+−-]?(?:\d+(?:[.,]\d*)?|[.,]\d+))\s*(?:(?:±|\+/?-)\s*(\d+(?:[.,]\d*)?|[.,]\d+)\s*(%)?)?\s*[^\d\s±+-]{0,6}\s*$"
)


@dataclass(frozen=True)
class Input:
    """A figure with the half-width of what is not known of it."""

    value: float
    u: float = 0.0


def _float(text: str) -> float:
    return float(text.replace(",", ".").replace("−", "-"))


def read_input(text: str, where: str, *, exact: bool = False) -> Input:
    """A figure such as ``12.4``, ``12,4 ± 0,2`` or ``230 ±1%``.

    Where nothing is said, half the last digit typed is not known; of an
    ``exact`` figure (a count, a nominal) nothing is.

    Raises
    ------
    MusterError
        If it is no figure.
    """
    match = FIGURE.match(text)
    if match is None:
        raise MusterError(f"got “{text.strip()[:30]}”", where=where, want="a figure such as 12.4, or 12.4 ± 0.2")
    value = _float(match[1])
    if match[2] is not None:
        u = _float(match[2])
        return Input(value, abs(value) * u / 100 if match[3] else u)
    decimals = len(re.split(r"[.,]", match[1])[1]) if re.search(r"[.,]", match[1]) else 0
    return Input(value, 0.0 if exact else 0.5 * 10.0**-decimals)


def read_many(text: str, where: str) -> tuple[Input, ...]:
    """Several figures, with blanks or semicolons between.

    Raises
    ------
    MusterError
        If one is no figure, or there is none.
    """
    inputs = tuple(read_input(part, where) for part in re.split(r"[;\s]+", text.strip()) if part)
    if not inputs:
        raise MusterError("nothing given", where=where, want="figures with blanks between")
    return inputs
