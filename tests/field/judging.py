"""A demo source judged as the command line judges it: from its job file, the outage played."""

from __future__ import annotations

from dataclasses import replace
from functools import cache

from muster.cli.read_out import given_in
from muster.core.brief import Brief, Home
from muster.core.loads import Tier
from muster.core.outage.household import HouseholdRule, RuledHome
from muster.core.outage.play import play_outage, ready
from muster.core.outage.played import OutagePlayed
from muster.core.outage.simulate import draws_of
from muster.core.verdict.inputs import VerdictInputs, gather_inputs
from muster.demo import files, package
from muster.formats.jobzip import JobPackage

DRAWS = 1000
"""As few as a line is judged by chance with."""


@cache
def demo_job(part: str) -> JobPackage:
    """The demo's job whose file has this in its name."""
    return package(next(path for path in files() if part in str(path)))


def play(case: VerdictInputs, home: RuledHome, draws: int = DRAWS) -> OutagePlayed:
    """Outages of a home with its rules on a source."""
    return play_outage(ready(home.loads, home.brief, case.character, home.rules), draws, events=False)


def demo_case(
    part: str, source: int, rules: tuple[HouseholdRule, ...] | None = None, brief: Brief | None = None
) -> VerdictInputs:
    """What a source of the demo is judged on for what must run; with other rules, or another brief, where they are given."""
    made = demo_job(part)
    record = made.job.sources[source]
    home = Home(brief or made.job.brief, made.job.loads)
    given, elsewhere = given_in(made, home, record)
    passed = [check.slug for check in record.safety_checks]
    kept = record.rules if rules is None else rules
    case = gather_inputs(home, given, Tier.MUST, draws_of(200), passed, kept, elsewhere)
    return with_play(case)


def with_play(case: VerdictInputs) -> VerdictInputs:
    """A case with its outage played, and that without its rules beside it."""
    without = None if case.without is None else with_play(case.without)
    made = ready(case.home.loads, case.home.brief, case.character, case.kernel_rules)
    return replace(case, without=without, played=play_outage(made, DRAWS, events=False))
