"""A requirement, its margin, and the rules that give its status."""

from __future__ import annotations

import math
from dataclasses import dataclass
from enum import StrEnum

from ..outage.played import RowChance
from ..quantities import Grade, signed
from ..working import Working

SHARE = "share"
"""Unit of a margin that is a share of its demand."""
NO_HEAVIER, NO_LIGHTER = 1.05, 0.95
"""Bases of a start within this of one another are alike."""
UNKNOWN_SHARE = 0.20
"""Where the uncertainty is unknown, the low end of a ratio lies this far below it."""


class Status(StrEnum):
    """How a requirement stands, in the order in which a verdict takes the worst."""

    FALLS_SHORT = "falls_short"
    NOT_PROVEN = "not_proven"
    TIGHT = "tight"
    WITH_RULES = "carries_with_rules"
    CARRIES = "carries"
    NOT_REQUIRED = "not_required"

    @property
    def label(self) -> str:
        """The status as it is written on screen."""
        return self.value.replace("_", " ")


ORDER = tuple(Status)
"""Worst first."""
PASSES = (Status.CARRIES, Status.WITH_RULES, Status.TIGHT)


@dataclass(frozen=True)
class Margin:
    """Room to spare: ``value`` with its low and high end.

    A share of the demand (unit ``share``: 0.2 is a fifth to spare) for capacity
    and energy, else in the row's own unit. ``high`` is infinite where nothing
    bounds it from above.
    """

    value: float
    low: float
    high: float
    unit: str = SHARE

    def __str__(self) -> str:
        if not math.isfinite(self.value):
            return "–"  # nothing is asked
        return signed(self.value * 100, "pct") if self.unit == SHARE else signed(self.value, self.unit)


@dataclass(frozen=True)
class PassOrFail:
    """What takes the place of a margin where nothing is measured: how many of so many things that must be so are."""

    met: int
    of: int

    @property
    def passed(self) -> bool:
        """Whether all of them are."""
        return self.met == self.of

    def __str__(self) -> str:
        return f"{self.met} of {self.of}"


def ratio(demand: float, capability: float, u: float | None, demand_low: float | None = None) -> Margin:
    """Margin of a capability over a demand as a share of the demand.

    ``u`` is the capability's half-width; unknown takes 0.20 off the low end
    alone. ``demand_low`` is the demand at its planning figure where
    ``demand`` is raised: the high end is judged on it, so that nothing falls
    short for being unmeasured.
    """
    if demand <= 0:
        return Margin(math.inf, math.inf, math.inf)
    value = (capability - demand) / demand
    base = demand_low if demand_low else demand
    high = (capability + (u or 0.0) - base) / base
    low = value - UNKNOWN_SHARE if u is None else (capability - u - demand) / demand
    return Margin(value, low, max(value, high))


def room(limit: float, value: float, u: float | None, unit: str, *, below: bool) -> Margin:
    """Margin in the row's own unit: ``limit − value`` (``below``: value must stay under), or the reverse."""
    gap = limit - value if below else value - limit
    spread = u or 0.0
    return Margin(gap, gap - spread, gap + spread, unit)


@dataclass(frozen=True)
class Evidence:
    """What a capability rests on.

    ``flatters``: it is a bound that errs to the source's favour.
    ``missing``: the deciding reading is not there at all.
    ``with_rules``: it holds only with household rules on.
    """

    grade: Grade | None = None
    flatters: bool = False
    missing: bool = False
    with_rules: bool = False


def status_of(margin: Margin | None, evidence: Evidence, *, asked: bool = True) -> Status:
    """The status of a requirement: the first rule that applies (docs/method/verdict.md#status).

    1 nothing asked; 2 the deciding reading missing or a bound that flatters;
    3 the high end below 0; 4 capability at grade C or D; 5 the low end above 0;
    6 margin at least 0; 7 otherwise not proven.
    """
    if not asked:
        return Status.NOT_REQUIRED
    if margin is None or evidence.missing or evidence.flatters:
        return Status.NOT_PROVEN
    if margin.high < 0:
        return Status.FALLS_SHORT
    if evidence.grade is None or not evidence.grade.is_measured:
        return Status.NOT_PROVEN
    if margin.low > 0:
        return Status.WITH_RULES if evidence.with_rules else Status.CARRIES
    return Status.TIGHT if margin.value >= 0 else Status.NOT_PROVEN


@dataclass(frozen=True)
class Requirement:
    """A line of the verdict; ``load`` is the name of the load it is about, where it is about one.

    ``label`` and ``settle_by`` (the protocol to settle it by) are filled in from
    the table of rows where a judge leaves them empty. ``passed`` is set in the
    place of a margin where the line is passed or not.
    """

    key: str
    demand: str
    capability: str
    margin: Margin | None
    grade: Grade | None
    status: Status
    sentence: str
    label: str = ""
    passed: PassOrFail | None = None
    settle_by: str = ""
    workings: tuple[Working, ...] = ()
    seqs: tuple[int, ...] = ()
    findings: tuple[object, ...] = ()
    """The very findings it rests on: whoever holds the sessions knows where they stand."""
    load: str = ""
    evidence: Evidence | None = None
    """What its capability rests on, where it can be judged by chance; None where its margin decides."""
    chance: RowChance | None = None
    rules: tuple[str, ...] = ()
    """What the household must do for it to hold, where it carries with rules alone."""
    chance_key: str = ""
    """Its key among what was played, where that is another than its own."""

    @property
    def must(self) -> bool:
        """Whether it counts towards the verdict."""
        return self.status is not Status.NOT_REQUIRED


def not_required(key: str, sentence: str) -> Requirement:
    """A line that nobody needs."""
    return Requirement(
        key=key, demand="–", capability="–", margin=None, grade=None, status=Status.NOT_REQUIRED, sentence=sentence
    )


def unproven(
    key: str, demand: str, sentence: str, *, capability: str = "not measured", label: str = "", load: str = ""
) -> Requirement:
    """A line whose deciding reading is missing."""
    return Requirement(
        key=key,
        demand=demand,
        capability=capability,
        margin=None,
        grade=None,
        status=Status.NOT_PROVEN,
        sentence=sentence,
        label=label,
        load=load,
    )
