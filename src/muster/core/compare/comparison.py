"""Which of several sources is enough for a home: what each carries, why it loses, what it asks, and the least costly that does."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

from ..outage.played import Chance, Failure, OutagePlayed
from ..verdict import Verdict, judge
from ..verdict.inputs import VerdictInputs
from ..verdict.must_change import MustChange
from ..verdict.requirement import PASSES, SHARE, Status
from .front import PricedMargin, front
from .ladder import MotorStep, ladder_of_motors
from .lines import ComparedLine, compared_lines


@dataclass(frozen=True)
class ComparedSource:
    """A source among others: its verdict with and without its rules, why it loses, and what an outage with it asks.

    ``worst`` is what goes wrong most often in the outages played, with its share; ``burnt_l`` the fuel that half of them
    burn, and ``refuels`` how often the tank is filled. What nobody said, or nothing was played for, is None.
    """

    name: str
    status: Status
    headline: str
    loses: tuple[str, ...]
    rules: tuple[str, ...]
    without: Status | None
    worst: tuple[Failure, float] | None
    burnt_l: float | None
    refuels: float | None
    price: float | None
    weight_kg: float | None
    neighbour_dba: float | None
    changes: tuple[MustChange, ...]
    through: Chance | None = None
    """In how many of the outages played nothing goes wrong; None where nothing was played."""
    tightest: float | None = None
    """The least margin of what is required of it, a share of the demand; None where no line has one."""
    short: tuple[str, ...] = ()
    """The lines that it falls short on: no test would change them."""

    @property
    def carries(self) -> bool:
        """Whether it can be relied upon: with or without rules, not only just."""
        return self.status in (Status.CARRIES, Status.WITH_RULES)

    @property
    def passes(self) -> bool:
        """Whether no line of it is open, though one may be tight."""
        return self.status in PASSES


@dataclass(frozen=True)
class Comparison:
    """Several sources on one home.

    ``enough`` is the place of the least costly that carries, None where none does; ``by`` says what it was chosen by.
    ``next_down`` is the place of the one with the fewest open lines among those that do not carry.
    """

    sources: tuple[ComparedSource, ...]
    lines: tuple[ComparedLine, ...]
    enough: int | None
    by: str
    next_down: int | None
    motors: tuple[MotorStep, ...] = ()
    front: tuple[PricedMargin, ...] = ()
    """The sources than which no other is both cheaper and better, the cheapest first."""

    @property
    def priced(self) -> tuple[PricedMargin, ...]:
        """Every source that has a price and a margin."""
        return tuple(
            PricedMargin(at, source.price, source.tightest)
            for at, source in enumerate(self.sources)
            if source.price is not None and source.tightest is not None
        )


def compare(cases: Sequence[VerdictInputs], verdict_of: Callable[[VerdictInputs], Verdict] = judge) -> Comparison:
    """Lay sources beside one another.

    Parameters
    ----------
    cases
        One a source, of the same home and the same loads.
    verdict_of
        Judges a case; whoever keeps verdicts gives its own.

    Returns
    -------
    Comparison
        Sources and lines in the order given.
    """
    verdicts = [verdict_of(case) for case in cases]
    bare = [None if case.without is None else verdict_of(case.without) for case in cases]
    sources = tuple(_source(case, verdict, plain) for case, verdict, plain in zip(cases, verdicts, bare, strict=True))
    enough, by = _enough(sources)
    comparison = Comparison(
        sources=sources,
        lines=compared_lines(verdicts, bare),
        enough=enough,
        by=by,
        next_down=_next_down(sources),
        motors=ladder_of_motors(cases[0].home.loads, verdicts, cases[0].home.brief.system.hz) if cases else (),
    )
    return replace(comparison, front=front(comparison.priced))


def _source(case: VerdictInputs, verdict: Verdict, bare: Verdict | None) -> ComparedSource:
    played, owning = case.played, case.source.owning
    names = case.without.home.by_key if case.without is not None else case.home.by_key
    engine = case.source.kind.has_engine
    loudest = max((band.p90 for band in played.neighbour_dba), default=None) if played is not None else None
    return ComparedSource(
        name=case.source.name,
        status=verdict.status,
        headline=verdict.headline,
        loses=tuple(row.label for row in verdict.requirements if row.must and row.status not in PASSES),
        rules=tuple(rule.described(names) for rule in case.rules),
        without=bare.status if bare is not None and bare.status is not verdict.status else None,
        worst=_worst(played),
        burnt_l=played.burnt_l.p50 if played is not None and engine else None,
        refuels=played.refuels.p50 if played is not None and engine else None,
        price=owning.price,
        weight_kg=owning.weight_kg,
        neighbour_dba=loudest if loudest else None,
        changes=verdict.changes,
        through=played.clean if played is not None else None,
        tightest=_tightest(verdict),
        short=short_of(verdict),
    )


def short_of(verdict: Verdict) -> tuple[str, ...]:
    """The lines required of a source that it falls short on, as they are labelled."""
    return tuple(row.label for row in verdict.requirements if row.must and row.status is Status.FALLS_SHORT)


def _tightest(verdict: Verdict) -> float | None:
    margins = (row.margin for row in verdict.requirements if row.must and row.margin is not None)
    shares = [margin.value for margin in margins if margin.unit == SHARE and math.isfinite(margin.value)]
    return min(shares, default=None)


def _worst(played: OutagePlayed | None) -> tuple[Failure, float] | None:
    if played is None:
        return None
    failure = max(played.chances, key=lambda item: played.chances[item].share, default=None)
    return None if failure is None else (failure, played.chances[failure].share)


def _enough(sources: Sequence[ComparedSource]) -> tuple[int | None, str]:
    """The least costly that carries: by price where every one of them has one, else by what it asks of the household."""
    carrying = [at for at, source in enumerate(sources) if source.carries]
    if not carrying:
        return None, ""
    if len(carrying) == 1:
        return carrying[0], "it alone carries"
    if all(sources[at].price is not None for at in carrying):
        return min(carrying, key=lambda at: (sources[at].price or 0.0, len(sources[at].rules))), "the lowest price"
    asks = {at: (len(sources[at].rules), sources[at].refuels or 0.0, sources[at].burnt_l or 0.0) for at in carrying}
    least = min(carrying, key=lambda at: asks[at])
    others = [asks[at] for at in carrying if at != least]
    if asks[least][0] < min(rules for rules, _, _ in others):
        return least, "the fewest rules; not every one has a price"
    return least, "as few rules and the least fuel; not every one has a price"


def _next_down(sources: Sequence[ComparedSource]) -> int | None:
    open_ = [at for at, source in enumerate(sources) if not source.passes]
    return min(open_, key=lambda at: (len(sources[at].loses), at), default=None)
