"""Two sources together where none alone is enough: a battery that an engine charges by day."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass

from ..outage.household import HouseholdRule, RuleKind
from ..quantities import plain
from ..verdict import Verdict, judge
from ..verdict.inputs import VerdictInputs
from ..verdict.requirement import PASSES, Status

FROM_HOUR, TO_HOUR = 10, 16
"""Charged by day: outside any usual quiet hours. Ours."""
CHARGES_C = 0.2
"""A charger that nobody named gives a fifth of the battery's energy an hour. Planning figure, ours."""
ENGINE_SHARE = 0.8
"""An engine runs a charger at no more than so much of what it is known to give: it is to last for hours."""


@dataclass(frozen=True)
class Combination:
    """A battery by its place, the engine that charges it, and the rule by which it does."""

    battery: int
    engine: int
    rule: HouseholdRule


@dataclass(frozen=True)
class CombinationJudged:
    """How the battery carries the home when it is charged so, and what the engine gives beside what it needs, in words."""

    combination: Combination
    status: Status
    headline: str
    engine_basis: str

    @property
    def carries(self) -> bool:
        """Whether no line of it is open."""
        return self.status in PASSES


def combinations(cases: Sequence[VerdictInputs]) -> Iterator[Combination]:
    """Every battery with every engine that is known to run its charger.

    Parameters
    ----------
    cases
        One a source, of one home.

    Yields
    ------
    Combination
        Not of a battery that is charged by a rule already.
    """
    for at, case in enumerate(cases):
        claims = case.source.claims
        if not case.source.kind.has_battery or any(rule.kind is RuleKind.CHARGE for rule in case.rules):
            continue
        charger_w = claims.charge_w or (CHARGES_C * claims.battery_wh if claims.battery_wh else 0.0)
        if charger_w <= 0:
            continue
        rule = HouseholdRule(kind=RuleKind.CHARGE, w=charger_w, from_hour=FROM_HOUR, to_hour=TO_HOUR)
        for other, engine in enumerate(cases):
            if engine.source.kind.has_engine and _gives_w(engine) * ENGINE_SHARE >= charger_w:
                yield Combination(at, other, rule)


def _gives_w(engine: VerdictInputs) -> float:
    """What an engine is known to give: held where that was read, else its claim here. [W]"""
    held = engine.character.held
    if held is not None:
        return held.w
    return next((limit.w for limit in engine.limits if limit.key == "continuous" and limit.leg is None), 0.0)


def judged(
    combination: Combination,
    case: VerdictInputs,
    engine: VerdictInputs,
    verdict_of: Callable[[VerdictInputs], Verdict] = judge,
) -> CombinationJudged:
    """How a battery carries the home with its charging rule.

    Parameters
    ----------
    combination
        What was tried.
    case
        Of the battery, with the rule among its rules.
    engine
        Of the engine.
    verdict_of
        Judges a case.
    """
    verdict = verdict_of(case)
    held = engine.character.held
    basis = f"held {plain(held.w, 'w')}" if held is not None else "by its nameplate alone: a ladder would prove it"
    return CombinationJudged(combination, verdict.status, verdict.headline, basis)
