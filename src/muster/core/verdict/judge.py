"""From the lines to the verdict: the worst of what is required, in one sentence."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

from ..loads import short_name
from ..plan.fitting import fits
from ..quantities import duration
from ..sessions import PROTOCOLS
from . import starting
from .elsewhere import told_of_elsewhere
from .inputs import VerdictInputs
from .must_change import MustChange, is_past_testing, must_change
from .next_test import NextTest, next_tests
from .requirement import ORDER, Requirement, Status
from .rows import ROWS, row_of
from .ruled import by_rules, described


@dataclass(frozen=True)
class Verdict:
    """The verdict on a source for a home: its lines, the worst of them, and the sentence."""

    requirements: tuple[Requirement, ...]
    start_rows: tuple[Requirement, ...]
    status: Status
    headline: str
    detail: str
    next_protocol: str
    tests: tuple[NextTest, ...] = ()
    changes: tuple[MustChange, ...] = ()
    """What must change before any test is worth its minutes; by whatever is named first, the household's own ways first."""

    @property
    def past_testing(self) -> bool:
        """Whether it falls short of something by what was measured: no test changes the answer."""
        return any(is_past_testing(row) for row in self.requirements)


def requirements(case: VerdictInputs) -> tuple[Requirement, ...]:
    """Every line of the verdict; with rules of the household each says whether it carries by them alone."""
    lines = judged_rows(case)
    return lines if case.without is None else by_rules(lines, requirements(case.without), case)


def judged_rows(case: VerdictInputs) -> tuple[Requirement, ...]:
    """Every line as it is judged on a home as it is, whatever rules made it so."""
    return told_of_elsewhere(lambda known: [line for row in ROWS for line in row.judged(known)], case)


def judged_starts(case: VerdictInputs) -> tuple[Requirement, ...]:
    """The line of every start, as ``judged_rows``."""
    return told_of_elsewhere(
        lambda known: [row_of("starting").complete(row) for row in starting.start_rows(known)], case
    )


def start_lines(case: VerdictInputs) -> tuple[Requirement, ...]:
    """The line of every start, complete; with rules of the household as ``requirements``."""
    lines = judged_starts(case)
    return lines if case.without is None else by_rules(lines, start_lines(case.without), case)


def judge(case: VerdictInputs, minutes_of: Callable[[str], float] | None = None) -> Verdict:
    """Judge a source: every requirement, and the worst of those required.

    In the order falls short, not proven, tight, carries with rules, carries.
    ``minutes_of`` says how long a protocol takes by its own plan; the usual where not given.
    """
    bare = () if case.without is None else requirements(case.without)
    rows = judged_rows(case) if case.without is None else by_rules(judged_rows(case), bare, case)
    asked = [row for row in rows if row.must]
    status = overall(rows, bare)
    tests = worth_testing(case, rows, minutes_of)
    cannot = any(is_past_testing(row) for row in rows)
    next_protocol = tests[0].protocol if tests and not cannot else ""
    return Verdict(
        requirements=rows,
        start_rows=start_lines(case),
        status=status,
        headline=_headline(status, asked, described(case.rules, case)),
        detail=_detail(asked, tests[0] if next_protocol else None)
        + (NO_TEST if cannot else "")
        + _left_out(case)
        + _elsewhere(case),
        next_protocol=next_protocol,
        tests=tests,
        changes=must_change(case, rows),
    )


def overall(rows: Sequence[Requirement], without: Sequence[Requirement] = ()) -> Status:
    """The worst of what is required.

    Parameters
    ----------
    rows
        Every line.
    without
        The same without the household's rules, where it keeps any: a home that carries by them alone, for a line that it
        does not carry is gone by a rule, carries with rules though no line says so.
    """
    status, before = (
        min((row.status for row in lines if row.must), key=ORDER.index, default=Status.NOT_REQUIRED)
        for lines in (rows, without)
    )
    by_rules_alone = status is Status.CARRIES and without and before is not Status.CARRIES
    return Status.WITH_RULES if by_rules_alone else status


def worth_testing(
    case: VerdictInputs, rows: tuple[Requirement, ...], minutes_of: Callable[[str], float] | None = None
) -> tuple[NextTest, ...]:
    """What to test next, with what would stand otherwise if every load had been measured."""
    if_measured = requirements(replace(case, demand=case.planned)) if case.demand != case.planned else ()
    usual = minutes_of or (lambda protocol: float(PROTOCOLS[protocol].minutes))
    system = case.home.brief.system
    return tuple(test for test in next_tests(rows, usual, if_measured) if fits(test.protocol, case.source, system))


def _short_text(line: Requirement) -> str:
    if line.load:
        return f"it will not start the {line.load}"
    where = {"steady-1": " on leg 1", "steady-2": " on leg 2"}.get(line.key, "")
    return row_of(line.key).falls_short + where


def _headline(status: Status, asked: list[Requirement], accepted: tuple[str, ...] = ()) -> str:
    if status is Status.NOT_REQUIRED:
        return "Nothing is required yet."
    if status is Status.FALLS_SHORT:
        short = [_short_text(row) for row in asked if row.status is Status.FALLS_SHORT]
        words = short[0] if len(short) == 1 else f"{', '.join(short[:-1])} and {short[-1]}"
        return f"Falls short: {words}."
    if status is Status.NOT_PROVEN:
        open_rows = sum(1 for row in asked if row.status is Status.NOT_PROVEN)
        return f"Not proven yet: {open_rows} of {len(asked)} lines are open."
    return {
        Status.TIGHT: "It carries the home, but with little to spare.",
        Status.WITH_RULES: f"It carries the home, if the household keeps its rules: {_rules(asked) or '; '.join(accepted)}.",
        Status.CARRIES: "It carries the home.",
    }[status]


def _rules(asked: list[Requirement]) -> str:
    """The rules that lines rest on, each once."""
    kept = [rule for row in asked if row.status is Status.WITH_RULES for rule in row.rules]
    return "; ".join(dict.fromkeys(kept))


def _left_out(case: VerdictInputs) -> str:
    """Which loads the verdict is not about."""
    names = [short_name(load) for load in case.left_out]
    if not names:
        return ""
    many = f" and {len(names) - MOST_NAMED} more" if len(names) > MOST_NAMED else ""
    return f" Not judged, being no must: {', '.join(names[:MOST_NAMED])}{many}."


def _elsewhere(case: VerdictInputs) -> str:
    """Where it was measured, if that was not here."""
    told = "" if case.elsewhere is None else case.elsewhere.told
    return f" {told[0].upper()}{told[1:]}." if told else ""


MOST_NAMED = 4
NO_TEST = " No test can change that: something else must."


def _detail(asked: list[Requirement], first: NextTest | None) -> str:
    counts = {status: sum(1 for row in asked if row.status is status) for status in ORDER}
    good = counts[Status.CARRIES] + counts[Status.WITH_RULES] + counts[Status.TIGHT]
    parts = [f"Of {len(asked)} lines required, {good} {'carries' if good == 1 else 'carry'}"]
    parts.append(f"{counts[Status.FALLS_SHORT]} {'falls' if counts[Status.FALLS_SHORT] == 1 else 'fall'} short")
    parts.append(f"{counts[Status.NOT_PROVEN]} {'is' if counts[Status.NOT_PROVEN] == 1 else 'are'} not proven")
    words = ", ".join(parts) + "."
    if first is not None:
        words += f" Next test: {PROTOCOLS[first.protocol].name}, about {duration(first.minutes * 60)}."
    return words
