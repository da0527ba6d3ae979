"""What a home asks of a source over an outage."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Any, Protocol

from ..brief import Brief
from ..loads import Load
from ..quantities import Grade
from ..working import Method, Rows, rows_of
from .rules import NO_RULES, Rules

METHOD = 9
"""Raised when the simulation changes, so that kept results are made again."""
DRAWS = 400
SEED = 1911
UPPER_X = 1.25
"""A demand at grade C or D enters the verdict at its upper figure, +25 % (docs/method/outage.md)."""


@dataclass(frozen=True)
class HighestDraws:
    """The highest of so many draws, falling, down to the first below their 99th percentile: what it is reached from."""

    highest: tuple[float, ...] = ()
    of: int = 0

    def rows(self, column: str) -> Rows | None:
        """They as the rows of a working; None where nothing was drawn."""
        return rows_of(Method.HIGHEST, (column,), ((value,) for value in self.highest), self.of) if self.of else None


@dataclass(frozen=True)
class StartDemand:
    """The worst moment at which a load starts, over all draws (99th percentile of each day's worst).

    ``base_w`` and ``base_va`` run beneath it on the whole source; ``moment_va``
    holds its own start and no other's; ``leg_moment_va`` is that on its worst leg.
    """

    load: str
    base_w: float
    base_va: float
    moment_va: float
    leg_moment_va: float
    base_tail_w: HighestDraws = field(default_factory=HighestDraws)
    moment_tail_va: HighestDraws = field(default_factory=HighestDraws)


RARE_SHARE = 0.01
"""What befalls fewer outages than this is not asked of a source (physics §10)."""
Z_95 = 1.96


def wilson(hits: int, draws: int) -> tuple[float, float]:
    """Lower and upper end of a share that was seen so often, at 95 %.

    Parameters
    ----------
    hits, draws
        How often, and of how many.

    Returns
    -------
    tuple of float
        (0, 1) without a draw.

    References
    ----------
    Wilson 1927, score interval of a binomial share.
    """
    if draws <= 0:
        return 0.0, 1.0
    share, z2 = hits / draws, Z_95**2
    middle = (share + z2 / (2 * draws)) / (1 + z2 / draws)
    half = Z_95 / (1 + z2 / draws) * math.sqrt(share * (1 - share) / draws + z2 / (4 * draws**2))
    return max(0.0, min(share, middle - half)), min(1.0, max(share, middle + half))


@dataclass(frozen=True)
class StartsTogether:
    """Two loads whose starts fall together: in what share of the outages, and the VA of that moment with both.

    ``share_low`` is the lower end of that share; ``leg_moment_va`` on the worst leg of the first.
    """

    load: str
    other: str
    share: float
    share_low: float
    moment_va: float
    leg_moment_va: float
    moment_tail_va: HighestDraws = field(default_factory=HighestDraws)


@dataclass(frozen=True)
class OutageDemand:
    """What a home asks over an outage, over all draws.

    Powers are the 99th percentile over draws of each outage's highest 60 s
    mean; ``leg_w`` is by leg; ``hour_wh`` the mean energy of each hour from
    the start of the outage, with P50 and P90 beside it; ``load_wh`` the mean energy by load.
    """

    draws: int
    seed: int
    hours: tuple[int, ...]
    peak_w: float
    peak_p50_w: float
    peak_va: float
    longest_hour_w: float
    leg_w: tuple[float, ...]
    leg_va: tuple[float, ...]
    leg_hour_w: tuple[float, ...]
    neutral_a: float
    stretch_s: float
    total_wh: float
    hour_wh: tuple[float, ...]
    hour_p50_wh: tuple[float, ...]
    hour_p90_wh: tuple[float, ...]
    leg_hour_wh: tuple[tuple[float, ...], ...]
    load_wh: dict[str, float]
    starts: tuple[StartDemand, ...]
    all_at_once_va: float
    grade: Grade
    together: tuple[StartsTogether, ...] = ()
    peak_tail_w: HighestDraws = field(default_factory=HighestDraws)
    peak_tail_va: HighestDraws = field(default_factory=HighestDraws)
    leg_tail_w: tuple[HighestDraws, ...] = ()
    leg_tail_va: tuple[HighestDraws, ...] = ()
    neutral_tail_a: HighestDraws = field(default_factory=HighestDraws)

    @property
    def worst_start(self) -> StartDemand | None:
        """The start with the highest moment."""
        return max(self.starts, key=lambda start: start.moment_va, default=None)


class Simulate(Protocol):
    """Whatever simulates, or finds what was simulated before."""

    def __call__(self, loads: tuple[Load, ...], brief: Brief, rules: Rules = NO_RULES, /) -> OutageDemand:
        """What loads ask over an outage, with the rules of the household."""


NOT_REQUIRED = (
    "question",
    "notes",
    "of_units",
    "measures",
    "reserve_pct",
    "noise_day_dba",
    "noise_night_dba",
    "neighbour_m",
    "reset_min",
    "reset_night_min",
    "place",
    "month",
    "sky",
    "swing_k",
)
"""What of a brief the demand does not hang on."""


def demand_key(
    loads: Sequence[Any], brief: Mapping[str, Any], draws: int, seed: int, rules: Rules = NO_RULES
) -> dict[str, Any]:
    """All that a demand hangs on, as plain values: the same question has the same answer."""
    relevant = {name: value for name, value in brief.items() if name not in NOT_REQUIRED}
    asked = {"loads": list(loads), "brief": relevant, "of": [METHOD, draws, seed]}
    if rules.apart or rules.first:
        asked["rules"] = {"apart": [list(pair) for pair in rules.apart], "first": list(rules.first)}
    return asked


def upper(loads: Sequence[Load]) -> tuple[Load, ...]:
    """The loads at their upper figures: those not measured raised by 25 %."""
    return tuple(
        load
        if load.run_grade.is_measured
        else replace(
            load, run_w=load.run_w * UPPER_X, start_va=None if load.start_va is None else load.start_va * UPPER_X
        )
        for load in loads
    )
