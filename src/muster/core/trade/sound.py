"""Sound levels: background, distance, sums."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ..errors import NotEnoughReadings, require_above
from ..fits import Line, fit_line
from ..quantities import Bound

CLEAR_DB, LEAST_DB = 10.0, 3.0
"""Differences over background: from 10 dB no correction, below 3 dB only an upper bound
(ISO 3744 allows corrections from 6 dB; the trade goes to 3 and says so)."""
OPEN_FIELD_N = 20.0
"""Decibels per decade of distance from a point source in the open (inverse square law)."""


@dataclass(frozen=True)
class Corrected:
    """A level less its background [dBA]; ``bound`` is set when only an upper bound can be said."""

    dba: float
    bound: Bound | None


def less_background(level_dba: float, background_dba: float) -> Corrected:
    """A measured level less the background beneath it.

    From 10 dB above: unchanged. From 3 to 10: ``10·log10(10^(L/10) − 10^(B/10))``.
    Less than 3: the level itself, as an upper bound.
    """
    gap_db = level_dba - background_dba
    if gap_db >= CLEAR_DB:
        return Corrected(level_dba, None)
    if gap_db < LEAST_DB:
        return Corrected(level_dba, Bound.AT_MOST)
    return Corrected(10 * math.log10(10 ** (level_dba / 10) - 10 ** (background_dba / 10)), None)


def sum_of_levels(levels_dba: Sequence[float]) -> float:
    """Several sources together: the sum of their energies [dBA].

    Raises
    ------
    NotEnoughReadings
        If there is no level.
    """
    if not levels_dba:
        raise NotEnoughReadings("no level to sum", where="levels_dba")
    return 10 * math.log10(sum(10 ** (level / 10) for level in levels_dba))


def mean_level(levels_dba: Sequence[float]) -> float:
    """Mean of several readings of one thing, by energy [dBA].

    Raises
    ------
    NotEnoughReadings
        If there is no level.
    """
    return sum_of_levels(levels_dba) - 10 * math.log10(len(levels_dba))


def at_distance(level_dba: float, r0_m: float, r_m: float, n: float = OPEN_FIELD_N) -> float:
    """Level at another distance: ``L − n·log10(r/r0)`` [dBA].

    Raises
    ------
    OutOfRange
        If a distance is not above zero.
    """
    require_above(r0_m, 0, "r0_m")
    require_above(r_m, 0, "r_m")
    return level_dba - n * math.log10(r_m / r0_m)


def fit_distance(distances_m: Sequence[float], levels_dba: Sequence[float]) -> Line:
    """Line of level against log10 of distance; its slope is ``−n``.

    Raises
    ------
    NotEnoughReadings
        If there are not two different distances.
    """
    return fit_line(np.log10(np.asarray(distances_m, float)).tolist(), list(levels_dba))
