"""Rules of the household in the job: accepted, struck, undone, carried in the file, followed by the verdict, searched."""

from __future__ import annotations

from dataclasses import replace

import pytest
from django.contrib.auth.models import AbstractUser
from django.utils import timezone

from muster.core.errors import MusterError, Refused
from muster.core.loads import Tier
from muster.core.outage.household import HouseholdRule, RuleKind
from muster.formats.jobfile import job_text, parse_job
from muster.records import bridge
from muster.records.actions.history import last_change, undo_change
from muster.records.actions.jobs import copy_job, write_out
from muster.records.actions.rules import accept_rules, strike_rule
from muster.records.judging import verdict_inputs
from muster.records.models import Job, SourceRow
from muster.records.playing import case_of
from muster.records.searching import ask_for_rules, rules_found

REFUEL = HouseholdRule(RuleKind.REFUEL)


@pytest.fixture
def source(demo: Job) -> SourceRow:
    row = demo.source_rows.first()
    assert row is not None
    return row


def test_an_accepted_rule_lives_in_the_job_and_a_struck_one_is_put_back_by_undo(
    source: SourceRow, who: AbstractUser
) -> None:
    accept_rules(source, [REFUEL, REFUEL], who)
    accept_rules(source, [REFUEL], who)
    assert bridge.rules_of(source) == (REFUEL,)
    strike_rule(source, REFUEL, who)
    assert bridge.rules_of(source) == ()
    change = last_change(source.job)
    assert change is not None
    assert "struck" in change.label
    undo_change(change)
    source.refresh_from_db()
    assert bridge.rules_of(source) == (REFUEL,)


def test_what_cannot_be_kept_is_refused_with_its_reason(source: SourceRow, who: AbstractUser) -> None:
    oxygen = next(load for load in bridge.loads_of(source.job) if load.kind_figures.medical)
    other = next(load for load in bridge.loads_of(source.job) if load.key != oxygen.key)
    with pytest.raises(Refused, match="medical"):
        accept_rules(source, [HouseholdRule(RuleKind.APART, load=oxygen.key, other=other.key)], who)
    with pytest.raises(MusterError, match="not among"):
        strike_rule(source, REFUEL, who)
    assert bridge.rules_of(source) == ()


def test_rules_travel_in_the_job_file_and_with_a_copy(source: SourceRow, who: AbstractUser) -> None:
    accept_rules(source, [REFUEL], who)
    again = parse_job(job_text(write_out(source.job).job))
    assert next(record for record in again.sources if record.source.name == source.name).rules == (REFUEL,)
    copy = copy_job(source.job, who)
    assert bridge.rules_of(copy.source_rows.get(name=source.name)) == (REFUEL,)


def test_the_verdict_is_judged_on_the_home_as_the_rules_make_it(source: SourceRow, who: AbstractUser) -> None:
    plain = verdict_inputs(source)
    pump, sump = (load for load in plain.home.loads if "pump" in load.name)
    accept_rules(source, [HouseholdRule(RuleKind.APART, load=pump.key, other=sump.key)], who)
    ruled = case_of(source)
    assert ruled.without is not None
    assert ruled.without.demand == plain.demand
    assert {pump.key, sump.key} not in [{pair.load, pair.other} for pair in ruled.demand.together]
    assert {pump.key, sump.key} in [{pair.load, pair.other} for pair in plain.demand.together]


def test_a_search_is_kept_and_made_again_when_the_home_changes(source: SourceRow) -> None:
    source.job.load_rows.exclude(key__in=["3", "6"]).update(removed_at=timezone.now())
    assert rules_found(source, Tier.MUST)[0] is None
    found = ask_for_rules(source, Tier.MUST)
    assert rules_found(source, Tier.MUST)[0] == found
    brief = replace(bridge.brief_of(source.job), reserve_pct=35)
    source.job.brief = {**source.job.brief, "reserve_pct": brief.reserve_pct}
    source.job.save()
    assert rules_found(SourceRow.objects.get(pk=source.pk), Tier.MUST)[0] is None
