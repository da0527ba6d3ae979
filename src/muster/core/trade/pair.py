"""Two units in parallel: how they share, and what the pair can carry."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from ..errors import MusterError, NotEnoughReadings, require_above
from ..fits import Line, fit_line


@dataclass(frozen=True)
class PairCapacity:
    """Capacity of a pair by three schools [A]; ``first`` is the unit (0 or 1) that meets its limit first."""

    lines: tuple[Line, Line]
    measured_a: float
    first: int
    beyond: bool
    twice_smaller_a: float
    sum_a: float


def pair_capacity(
    totals_a: Sequence[float], one_a: Sequence[float], other_a: Sequence[float], limits_a: tuple[float, float]
) -> PairCapacity:
    """A line per unit of its amps against the total; the lowest total at which one meets its limit.

    ``beyond`` says that the lines were followed past the highest total read.

    Raises
    ------
    NotEnoughReadings
        If there are not two totals, or the series differ in length.
    MusterError
        If no unit takes more as the total rises.

    References
    ----------
    Current sharing of sources with straight characteristics; least squares.
    """
    if len(totals_a) < 2 or not len(totals_a) == len(one_a) == len(other_a):
        raise NotEnoughReadings(
            f"{len(totals_a)}, {len(one_a)} and {len(other_a)} figures",
            where="totals_a",
            want="at least two of each, as many of each",
        )
    for limit in limits_a:
        require_above(limit, 0, "limits_a")
    lines = (fit_line(list(totals_a), list(one_a)), fit_line(list(totals_a), list(other_a)))
    reached = [
        (limit - line.a) / line.b if line.b > 0 else float("inf") for line, limit in zip(lines, limits_a, strict=True)
    ]
    first = 0 if reached[0] <= reached[1] else 1
    if reached[first] == float("inf"):
        raise MusterError(
            "no unit takes more as the total rises", where="one_a", want="the amps of each unit at each total"
        )
    return PairCapacity(
        lines=lines,
        measured_a=reached[first],
        first=first,
        beyond=reached[first] > max(totals_a),
        twice_smaller_a=2 * min(limits_a),
        sum_a=sum(limits_a),
    )
