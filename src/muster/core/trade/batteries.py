"""Batteries: Peukert, and two runs that tell energy and idle apart."""

from __future__ import annotations

from dataclasses import dataclass

from ..errors import MusterError, require_above, require_between

PEUKERT_LEAD = 1.2
"""Peukert exponent of flooded and AGM lead-acid, unless its maker says (docs/method/energy.md#batteries)."""
COLD_FROM_C, FREEZING_C = 25.0, 0.0
COLD_SHARE_PER_K = {"lead": 0.008, "lithium": 0.004}
"""What is lost of a battery's energy a kelvin below 25 °C: ours, grade D (physics §6)."""
FROZEN_SHARE_PER_K = 0.0175
"""And of a lithium battery's a kelvin below 0 °C, besides."""
USE_TO_PCT = 50.0
"""Share of a lead-acid bank that is drawn in ordinary use."""


def peukert_h(rated_ah: float, rated_h: float, amps: float, exponent: float = PEUKERT_LEAD) -> float:
    """Hours from full to empty of a lead-acid battery at a current [h]: ``H · (C / (I·H))^k``.

    Raises
    ------
    OutOfRange
        If a figure is not above zero or the exponent not 1 to 2.

    References
    ----------
    Peukert (1897), in the form for a capacity rated over ``rated_h`` hours.
    """
    require_above(rated_ah, 0, "rated_ah")
    require_above(rated_h, 0, "rated_h")
    require_above(amps, 0, "amps")
    require_between(exponent, 1, 2, "exponent")
    return float(rated_h * (rated_ah / (amps * rated_h)) ** exponent)


@dataclass(frozen=True)
class TwoRuns:
    """What two runs say apart: the energy the battery gives [Wh, DC] and the idle draw [W]."""

    battery_wh: float
    idle_w: float


def two_runs(
    slow_wh: float,
    slow_h: float,
    fast_wh: float,
    fast_h: float,
    conversion_pct: float = 90.0,
    squared_wh: tuple[float, float] = (0.0, 0.0),
) -> TwoRuns:
    """Energy and idle draw from a slow and a fast run of a lithium battery, from full to empty.

    ``E_u = (1 + p₁)·e + s + P₀·t`` for both, with ``1 + p₁`` = 100 ÷ the
    load-dependent conversion and ``s`` what went with the square of the load
    in the slow and in the fast run (``squared_wh``). Not for lead-acid, whose
    capacity itself depends on the current.

    Raises
    ------
    MusterError
        If the slow run was not slower, or gave more than the fast one.
    """
    for name, value in (("slow_wh", slow_wh), ("slow_h", slow_h), ("fast_wh", fast_wh), ("fast_h", fast_h)):
        require_above(value, 0, name)
    require_above(conversion_pct, 0, "conversion_pct")
    require_between(conversion_pct, 0, 100, "conversion_pct")
    if slow_h <= fast_h:
        raise MusterError(f"got {slow_h:g} h against {fast_h:g} h", where="slow_h", want="longer than the fast run")
    if slow_wh > fast_wh:
        raise MusterError(
            f"got {slow_wh:g} Wh against {fast_wh:g} Wh",
            where="slow_wh",
            want="no more than the fast run gave: idle costs the slow one",
        )
    return told_apart((slow_wh, fast_wh), (slow_h, fast_h), 100 / conversion_pct, squared_wh)


def told_apart(
    delivered_wh: tuple[float, float], hours: tuple[float, float], x: float, squared_wh: tuple[float, float]
) -> TwoRuns:
    """The two equations of a slow and a fast run solved, whatever comes of them.

    Parameters
    ----------
    delivered_wh, hours
        Of the slow run and of the fast one. [Wh], [h]
    x
        ``1 + p₁``.
    squared_wh
        What went with the square of the load in each, inside the battery too. [Wh]

    Returns
    -------
    TwoRuns
        An idle draw below zero says that these were no two runs of one battery, or within their doubt that it is small.
    """
    (slow_wh, fast_wh), (slow_h, fast_h) = delivered_wh, hours
    idle_w = (x * (fast_wh - slow_wh) + squared_wh[1] - squared_wh[0]) / (slow_h - fast_h)
    return TwoRuns(x * slow_wh + squared_wh[0] + idle_w * slow_h, idle_w)


def cold_share(temp_c: float, *, lead: bool) -> float:
    """What is left of a battery's energy in the cold.

    Parameters
    ----------
    temp_c : float
        Of the air it stands in. [°C]
    lead : bool
        Lead-acid, or a chemistry that nobody said: it loses more above freezing.

    Returns
    -------
    float
        Between 0 and 1.

    References
    ----------
    physics §6, *Batteries, in full*; ours, grade D.
    """
    below_k = max(0.0, COLD_FROM_C - temp_c)
    frozen_k = 0.0 if lead else max(0.0, FREEZING_C - temp_c)
    loss = COLD_SHARE_PER_K["lead" if lead else "lithium"] * below_k + FROZEN_SHARE_PER_K * frozen_k
    return max(0.0, 1.0 - loss)


def faster_share(measured_w: float, wanted_w: float, exponent: float = PEUKERT_LEAD) -> float:
    """What a lead-acid battery still gives when it is emptied faster than it was measured at.

    Parameters
    ----------
    measured_w, wanted_w : float
        Mean load of the run, and that of the outage. [W]
    exponent : float
        Peukert's.

    Returns
    -------
    float
        At most 1: slower than it was measured it is not told to give more.

    References
    ----------
    Peukert: the capacity at a rate goes with ``I^(1 − k)``.
    """
    if measured_w <= 0 or wanted_w <= measured_w:
        return 1.0
    return float((measured_w / wanted_w) ** (exponent - 1.0))
