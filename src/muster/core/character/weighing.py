"""One parameter from what several sessions say of it."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import replace

from ..quantities import Bound, Value, plain, worst_grade
from .character import Parameter, SessionEstimate

TWO_POINTS = 2
APART_X = 1.0
"""Sessions disagree when their estimates lie further apart than their half-widths together allow."""
U_LEAST_SHARE = 0.005
"""An estimate with no known uncertainty weighs as one of so much."""


def combine(key: str, name: str, estimates: Sequence[SessionEstimate]) -> Parameter:
    """One parameter from the estimates of several sessions.

    Weighted by the inverse square of each half-width, a line through two
    points never above one through more. The half-width of the result is never
    below the best estimate's own (a meter read twice is no truer), and is
    widened by the Birge ratio where the sessions scatter more than their
    half-widths allow, which is said. Bounds give way to values; of bounds
    alone the tightest stands.

    Parameters
    ----------
    key, name
        Of the parameter.
    estimates
        What each session says of it, at least one.

    Returns
    -------
    Parameter
        Each of its estimates bears its weight, a share of one.

    Raises
    ------
    ValueError
        If there is no estimate.

    References
    ----------
    Weighted mean with the Birge ratio (Birge 1932; as CODATA uses it).
    """
    sure = [estimate for estimate in estimates if estimate.value.bound is None]
    if not sure:
        pick = max if estimates[0].value.bound is Bound.AT_LEAST else min
        return Parameter(
            key=key,
            name=name,
            value=pick(estimates, key=lambda item: item.value.value).value,
            estimates=tuple(estimates),
        )
    if len(sure) == 1:
        return Parameter(key=key, name=name, value=sure[0].value, estimates=tuple(estimates))
    values = [item.value.value for item in sure]
    widths = [item.value.u or abs(item.value.value) * U_LEAST_SHARE or 1e-9 for item in sure]
    widths = _no_two_points_above_more(sure, widths)
    weights = [1 / u**2 for u in widths]
    mean = sum(v * w for v, w in zip(values, weights, strict=True)) / sum(weights)
    # Half-widths are of 95 %: their sigma is half of that.
    chi2 = sum(((v - mean) / (u / 2)) ** 2 for v, u in zip(values, widths, strict=True))
    birge = math.sqrt(chi2 / (len(sure) - 1))
    u = max(min(widths), 1 / math.sqrt(sum(weights)) * max(1.0, birge))
    unit = sure[0].value.unit
    grade = worst_grade(*(item.value.grade for item in sure))
    shares = {id(item): weight / sum(weights) for item, weight in zip(sure, weights, strict=True)}
    weighed = tuple(replace(item, weight=shares.get(id(item))) for item in estimates)
    return Parameter(
        key=key, name=name, value=Value(mean, unit, u, None, grade), estimates=weighed, apart=_apart(sure, widths)
    )


def _no_two_points_above_more(sure: Sequence[SessionEstimate], widths: Sequence[float]) -> list[float]:
    """The half-widths, a line through two points never surer than the surest through more: it cannot show its own scatter."""
    more = [u for item, u in zip(sure, widths, strict=True) if item.points > TWO_POINTS]
    if not more:
        return list(widths)
    return [max(u, min(more)) if item.points == TWO_POINTS else u for item, u in zip(sure, widths, strict=True)]


def _apart(sure: Sequence[SessionEstimate], widths: Sequence[float]) -> str:
    low = min(range(len(sure)), key=lambda i: sure[i].value.value)
    high = max(range(len(sure)), key=lambda i: sure[i].value.value)
    gap = sure[high].value.value - sure[low].value.value
    if gap <= APART_X * (widths[low] + widths[high]):
        return ""
    unit = sure[low].value.unit
    told = (
        f"{plain(sure[i].value.value, unit)} in the {sure[i].session.lower()} of {sure[i].at[:10]}" for i in (low, high)
    )
    return f"the sessions disagree: {' against '.join(told)}"
