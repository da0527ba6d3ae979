"""How much of the variation of an outcome one unknown makes."""

from __future__ import annotations

import numpy as np

from .layout import Floats

BINS = 10
"""The unknown's draws are cut into so many parts of equal number."""


def spread_of(unknown: Floats, outcome: Floats) -> float:
    """The share of an outcome's variance that goes with one unknown, all others as they come: 0 to 1.

    Parameters
    ----------
    unknown, outcome
        What was drawn and what came of it. (draws,)

    Returns
    -------
    float
        0 where either does not vary, or no more goes with it than chance makes.

    References
    ----------
    First-order variance share (Sobol 1993), by the means of bins; what so many bins catch by chance is taken off.
    """
    draws = outcome.size
    total = float(outcome.var())
    if draws < 2 * BINS or total <= 0 or float(np.ptp(unknown)) <= 0:
        return 0.0
    order = np.argsort(unknown, kind="stable")
    parts = np.array_split(outcome[order], BINS)
    size = np.array([part.size for part in parts])
    means = np.array([part.mean() for part in parts])
    between = float((size * (means - outcome.mean()) ** 2).sum() / draws)
    within = float(sum(((part - part.mean()) ** 2).sum() for part in parts) / (draws - BINS))
    return float(np.clip((between - (BINS - 1) / draws * within) / total, 0.0, 1.0))
