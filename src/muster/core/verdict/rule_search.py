"""The smallest set of household rules that brings every line to carry, with what each buys and what it costs."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace

from ..loads import Tier, short_name
from ..outage import Simulate
from ..outage.candidates import SourceFits, candidates
from ..outage.household import HouseholdRule, RuledHome, with_rules
from ..outage.played import OutagePlayed, pair_key
from ..outage.search import Open, RuleSet, SearchResult, smallest_set
from ..quantities import duration
from .by_chance import RARE
from .inputs import VerdictInputs, under_rules
from .judge import judged_rows, judged_starts
from .requirement import Requirement, Status
from .ruled import starved

PlayRuled = Callable[[RuledHome], OutagePlayed]
"""Plays outages of a home with its rules on the source."""
SETTLED = (Status.CARRIES, Status.WITH_RULES)
LEAST_TOLD_S = 60.0
"""Less time than this lost in an outage is not told. Ours."""
BY_CHANCE = ("steady-total", "steady-1", "steady-2", "energy", "noise-day", "noise-night")


@dataclass(frozen=True)
class RuleWorth:
    """A rule of a set that was found: what it buys (lines that are open again without it, and how many outages fail then), and what it costs."""

    rule: HouseholdRule
    buys: tuple[tuple[str, float | None], ...]
    costs: tuple[str, ...]


@dataclass(frozen=True)
class RulesFound:
    """What a search for rules ended with.

    ``open_before`` are the lines that rules might close and ``beyond`` those that stay open with the set and none can
    close (they want a test first, or something else changed); ``still_open`` what is left of the first with the set kept. ``exact``: every set of at most
    three was weighed, of ``proposed`` rules.
    """

    worth: tuple[RuleWorth, ...]
    open_before: tuple[str, ...]
    still_open: tuple[str, ...]
    beyond: tuple[str, ...]
    proposed: int
    weighed: int
    exact: bool

    @property
    def rules(self) -> RuleSet:
        """The set."""
        return tuple(item.rule for item in self.worth)


@dataclass(frozen=True)
class Searching:
    """A search: the home without rules, and how it is simulated and played, each with few draws (``glance``) and with all."""

    case: VerdictInputs
    demand_of: Simulate
    glance_demand: Simulate
    glance: PlayRuled
    play: PlayRuled

    def ruled(self, rules: RuleSet) -> RuledHome:
        """The home with a set of rules."""
        return with_rules(self.case.home.loads, self.case.home.brief, rules)

    def judged(self, rules: RuleSet) -> tuple[VerdictInputs, OutagePlayed]:
        """The case with a set of rules, played in full."""
        home = self.ruled(rules)
        case = under_rules(self.case, home, self.demand_of) if rules else self.case
        played = self.play(home)
        return replace(case, played=played), played


def line_key(row: Requirement, case: VerdictInputs) -> str:
    """What names a line in a search: its key, of a start with its load or its two loads behind it."""
    if row.key != "starting":
        return row.key
    if row.chance_key:
        return row.chance_key
    names = {short_name(load): load.key for load in case.home.loads}
    if row.load in names:
        return f"starting:{names[row.load]}"
    pairs = (pair for pair in case.demand.together if pair.load in case.loads and pair.other in case.loads)
    return next((pair_key(p.load, p.other) for p in pairs if short_name(case.loads[p.load]) in row.load), row.key)


def lines_of(case: VerdictInputs) -> dict[str, Requirement]:
    """Every line by its name in a search: the rows, and each start for itself."""
    rows = [row for row in judged_rows(case) if row.key != "starting"]
    return {line_key(row, case): row for row in (*rows, *judged_starts(case)) if row.must}


def is_closable(row: Requirement) -> bool:
    """Whether rules might bring a line to carry: it is not open for want of a reading."""
    if row.status in (Status.FALLS_SHORT, Status.TIGHT):
        return True
    if row.chance is None and (row.key in BY_CHANCE or row.key == "starting"):
        return False  # it is not played: a reading is what it wants
    measured = row.grade is not None and row.grade.is_measured
    missing = row.evidence is not None and (row.evidence.missing or row.evidence.flatters)
    return row.status is Status.NOT_PROVEN and measured and not missing and row.margin is not None


def search_rules(searching: Searching, fits: SourceFits, seen: Callable[[int, int], None] | None = None) -> RulesFound:
    """Search the smallest set of rules.

    Parameters
    ----------
    searching
        The home without rules, and how it is simulated and played.
    fits
        What of the source decides which rules fit.
    seen
        Told how many sets are weighed, of how many at most.

    Returns
    -------
    RulesFound
        Compared on the same draws: few for every set, all for what looks right on few.
    """
    case, _ = searching.judged(())
    lines = lines_of(case)
    open_rows = {key: row for key, row in lines.items() if row.status not in SETTLED}
    closable = {key: row for key, row in open_rows.items() if is_closable(row)}
    proposed = candidates(case.home.loads, case.home.brief, fits, case.demand, tuple(closable))
    reachable = {key: row for key, row in closable.items() if any(rule.bears_on(key) for rule in proposed)}
    proper = _proper(searching, lines, frozenset(reachable))
    result = (
        smallest_set(proposed, reachable, _stages(searching, tuple(reachable)), proper, seen)
        if reachable
        else SearchResult((), frozenset(), exact=True, weighed=0, proved=0)
    )
    after = {**lines, **lines_of(searching.judged(result.rules)[0])}
    return RulesFound(
        worth=tuple(_worth(searching, result.rules)),
        open_before=tuple(_label(row) for row in reachable.values()),
        still_open=tuple(_label(after[key]) for key in sorted(result.still_open)),
        beyond=tuple(
            _label(row) for key, row in open_rows.items() if key not in reachable and after[key].status not in SETTLED
        ),
        proposed=len(proposed),
        weighed=result.weighed,
        exact=result.exact,
    )


def _label(row: Requirement) -> str:
    return row.label or row.key


def _stages(searching: Searching, wanted: Sequence[str]) -> tuple[Callable[[RuleSet], Open], ...]:
    """What of some lines stays open with a set, on few draws: by how many of them fail, then by margins where no chance is played."""
    by_chance = {key for key in wanted if key in BY_CHANCE or key.startswith("starting:")}
    by_margin = {key for key in wanted if key not in by_chance}

    def chances(rules: RuleSet) -> Open:
        rows = searching.glance(searching.ruled(rules)).rows
        return frozenset(key for key in by_chance if key in rows and rows[key].failed.share > RARE)

    def margins(rules: RuleSet) -> Open:
        lines = lines_of(under_rules(searching.case, searching.ruled(rules), searching.glance_demand))
        return frozenset(key for key in by_margin if key in lines and lines[key].status not in SETTLED)

    return (*((chances,) if by_chance else ()), *((margins,) if by_margin else ()))


def _proper(searching: Searching, before: dict[str, Requirement], reachable: Open) -> Callable[[RuleSet], Open]:
    """What stays open with a set, or is opened by it, judged in full; what was open and no rule can close does not count."""
    counted = reachable | {key for key, row in before.items() if row.status in SETTLED}

    def judged(rules: RuleSet) -> Open:
        case, _ = searching.judged(rules)
        if starved(case):
            return reachable  # it would carry by taking from what must run
        return frozenset(
            key
            for key, row in lines_of(case).items()
            if row.status not in SETTLED and (key in counted or key not in before)
        )

    return judged


def _worth(searching: Searching, rules: RuleSet) -> Iterator[RuleWorth]:
    """What each rule of a set buys: what is open again without it; and what it costs the household."""
    if not rules:
        return
    whole, played = searching.judged(rules)
    kept = lines_of(whole)
    for rule in rules:
        others = tuple(item for item in rules if item is not rule)
        case, without = searching.judged(others)
        buys = [
            (_label(row), row.chance.failed.share if row.chance is not None else None)
            for key, row in lines_of(case).items()
            if row.status not in SETTLED and (key not in kept or kept[key].status in SETTLED)
        ]
        yield RuleWorth(rule=rule, buys=tuple(buys), costs=(rule.kind.asks, *_lost(played, without)))


def _lost(with_it: OutagePlayed, without: OutagePlayed) -> Iterator[str]:
    """Time that loads of each tier lose by a rule, over what they lost without it."""
    for tier in Tier:
        had, has = without.served_h.get(tier.value), with_it.served_h.get(tier.value)
        if had is not None and has is not None and (had - has) * 3600 > LEAST_TOLD_S:
            yield f"what {tier.value} run waits {duration((had - has) * 3600)} more in an outage"
