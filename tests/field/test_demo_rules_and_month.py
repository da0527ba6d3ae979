"""The demo shows what rules do: a source that carries by exactly three, and one whose night is decided by the month."""

from __future__ import annotations

from dataclasses import replace

from muster.core.outage.candidates import SourceFits, charging_w
from muster.core.outage.household import RuleKind
from muster.core.outage.simulate import draws_of
from muster.core.verdict import Status, judge
from muster.core.verdict.rule_search import Searching, search_rules

from .judging import demo_case, demo_job, play


def test_the_bank_carries_what_must_run_by_three_rules_and_no_two_of_them_will_do() -> None:
    case = demo_case("net_loft", 1)
    assert judge(case).status is Status.WITH_RULES
    assert len(case.rules) == 3
    plain = case.without
    assert plain is not None
    assert judge(plain).status is Status.FALLS_SHORT
    simulate = draws_of(200)
    searching = Searching(
        case=replace(plain, played=None),
        demand_of=simulate,
        glance_demand=simulate,
        glance=lambda home: play(plain, home, 200),
        play=lambda home: play(plain, home),
    )
    found = search_rules(
        searching, SourceFits(battery=True, tank=False, charge_w=charging_w(plain.source, case.character))
    )
    assert found.exact
    assert not found.still_open
    assert not found.beyond, "what the same rules close beside is not told to stay open"
    assert len(found.rules) == 3
    assert sorted(rule.kind for rule in found.rules) == [RuleKind.APART, RuleKind.CHARGE, RuleKind.SOFT_STARTER]


def test_the_small_station_lasts_the_night_in_june_and_not_in_december() -> None:
    brief = demo_job("signal_cottage").job.brief
    assert brief.month == 6
    june, december = (judge(demo_case("signal_cottage", 2, brief=replace(brief, month=month))) for month in (6, 12))
    assert june.status is Status.WITH_RULES
    assert december.status is Status.FALLS_SHORT
    energy = next(row for row in december.requirements if row.key == "energy")
    assert energy.status is Status.FALLS_SHORT
    assert "No sun shines on the panels in these hours in December." in energy.sentence
    assert [row.key for row in december.requirements if row.status is not Status.CARRIES and row.must] == [
        "starting",
        "energy",
    ]
