"""The parts of a character: parameters, each with what it rests on, and the forms fitted through many readings."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from ..quantities import Bound, Value, plain, worst_grade
from .hold_curve import HoldCurve
from .impedance import StartModel

APART_X = 1.0
"""Sessions disagree when their estimates lie further apart than their half-widths together allow."""
U_LEAST_SHARE = 0.005
"""An estimate with no known uncertainty weighs as one of so much."""


@dataclass(frozen=True)
class SessionEstimate:
    """What one session says of a parameter: the value, the session's name and date, and what it was read from."""

    value: Value
    session: str
    at: str
    basis: str


@dataclass(frozen=True)
class Parameter:
    """One parameter: ``value`` with band and grade, ``at`` the date of its latest estimate.

    ``apart`` says in words how the sessions disagree, empty where they do not.
    """

    key: str
    name: str
    value: Value
    estimates: tuple[SessionEstimate, ...]
    apart: str = ""

    @property
    def at(self) -> str:
        """The date of the latest estimate."""
        return max((estimate.at for estimate in self.estimates), default="")

    @property
    def rests_on(self) -> str:
        """What it rests on, in words."""
        said: dict[str, str] = {}
        for estimate in self.estimates:
            said.setdefault(
                f"{estimate.session} of {estimate.at[:10]}" if estimate.at else estimate.session, estimate.basis
            )
        return "; ".join(f"{session}: {basis}" for session, basis in said.items())

    @property
    def band(self) -> tuple[float, float]:
        """Lowest and highest that it may be (a bound is open on one side)."""
        u = self.value.u or 0.0
        low = -math.inf if self.value.bound is Bound.AT_MOST else self.value.value - u
        high = math.inf if self.value.bound is Bound.AT_LEAST else self.value.value + u
        return low, high


@dataclass(frozen=True)
class Character:
    """Everything known of a source by measuring it: parameters by key, what starts meet on each leg, how long it holds.

    ``start_models`` is keyed by leg (``1``, ``2``, ``both``).
    """

    source: str
    kind: str
    parameters: tuple[Parameter, ...]
    start_models: Mapping[str, StartModel]
    hold: HoldCurve | None = None
    sessions: tuple[str, ...] = ()

    @property
    def by_key(self) -> dict[str, Parameter]:
        """The parameters by their key."""
        return {parameter.key: parameter for parameter in self.parameters}

    def get(self, key: str) -> Value | None:
        """The value of a parameter, None where it is not known."""
        value_found = self.by_key.get(key)
        return value_found.value if value_found else None


def combine(key: str, name: str, estimates: Sequence[SessionEstimate]) -> Parameter:
    """One parameter from the estimates of several sessions.

    Weighted by the inverse square of each half-width. The half-width of the
    result is never below the best estimate's own (a meter read twice is no
    truer), and is widened by the Birge ratio where the sessions scatter more
    than their half-widths allow, which is said. Bounds give way to values; of
    bounds alone the tightest stands.

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
        return Parameter(key, name, pick(estimates, key=lambda item: item.value.value).value, tuple(estimates))
    if len(sure) == 1:
        return Parameter(key, name, sure[0].value, tuple(estimates))
    values = [item.value.value for item in sure]
    widths = [item.value.u or abs(item.value.value) * U_LEAST_SHARE or 1e-9 for item in sure]
    weights = [1 / u**2 for u in widths]
    mean = sum(v * w for v, w in zip(values, weights, strict=True)) / sum(weights)
    # Half-widths are of 95 %: their sigma is half of that.
    chi2 = sum(((v - mean) / (u / 2)) ** 2 for v, u in zip(values, widths, strict=True))
    birge = math.sqrt(chi2 / (len(sure) - 1))
    u = max(min(widths), 1 / math.sqrt(sum(weights)) * max(1.0, birge))
    unit = sure[0].value.unit
    grade = worst_grade(*(item.value.grade for item in sure))
    return Parameter(key, name, Value(mean, unit, u, None, grade), tuple(estimates), _apart(sure, widths))


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


def apart(parameter: Parameter, other: Parameter) -> bool:
    """Whether two estimates of one parameter differ by more than their half-widths together; bounds are not held against each other."""
    if parameter.value.bound or other.value.bound:
        return False
    return abs(parameter.value.value - other.value.value) > (parameter.value.u or 0.0) + (other.value.u or 0.0)
