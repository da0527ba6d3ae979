"""What must hold whatever the home, the source and the record."""

from __future__ import annotations

import itertools
import math
from dataclasses import replace

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from muster.core.brief import Brief, BringUp
from muster.core.loads import Load
from muster.core.outage.simulate import simulate
from muster.core.sessions import Entry, Reading, Session
from muster.core.sessions.log_line import read_line
from muster.core.sessions.replay import replay
from muster.core.sources import Site, Source
from muster.core.sources.limits import limits_of
from muster.core.stacking.what_if import what_if, worst_crossing
from muster.core.verdict import Status, judge
from muster.core.verdict.requirement import ORDER
from muster.formats.codec import dump
from muster.formats.codec import load as load_value
from tests.examples import examples
from tests.generate import briefs, loads, rolls, sessions, sources

from .build import SINGLE, SPLIT, case, found, load, set_of


@given(loads)
def test_a_load_survives_its_json(value: Load) -> None:
    assert load_value(Load, dump(value)) == value


@given(briefs)
def test_a_brief_survives_its_json(value: Brief) -> None:
    assert load_value(Brief, dump(value)) == value


# The record


@given(sessions, st.sampled_from([1, 2]))
def test_any_record_can_be_replayed_and_its_stretches_cover_it_in_order(session: Session, legs: int) -> None:
    record = replay(session, legs)
    bounds = [(segment.t0_s, segment.t1_s) for segment in record.segments]
    assert all(t0 <= t1 for t0, t1 in bounds)
    assert all(a[1] <= b[0] + 1e-9 for a, b in itertools.pairwise(bounds))
    assert all(segment.held_s() <= segment.t1_s - segment.t0_s + 1e-9 for segment in record.segments)
    kept = sum(len(segment.readings) for segment in record.segments)
    typed = [item for entry in session.effective for item in entry.items if isinstance(item, Reading)]
    assert kept == sum(reading.believable for reading in typed)


@given(sessions)
def test_findings_of_any_record_are_told_with_a_unit_and_a_working(session: Session) -> None:
    roll = (load("1", "oven"), load("2", "pump", "motor", 400, pf=0.7), load("3", "lamp", "filament", 60))
    from muster.core.findings import findings_of

    result = findings_of(session, {x.key: x for x in roll}, SPLIT, 20)
    for finding in result.findings:
        assert finding.sentence.endswith(".")
        assert finding.value.unit
        assert finding.workings or math.isnan(finding.value.value), (
            "what is told is shown, unless nothing could be worked out"
        )


@given(st.permutations(["+1", "+2", "+3"]))
def test_the_order_in_which_loads_are_switched_on_changes_not_what_is_on(order: list[str]) -> None:
    found_entries = tuple(
        Entry(i, float(i), read_line(line, {"1": "a", "2": "b", "3": "c"}, SPLIT).items)
        for i, line in enumerate(order, 1)
    )
    assert set(replay(Session("ladder", (), found_entries), 2).on) == {"1", "2", "3"}


# The stack


@given(rolls.filter(bool), st.integers(0, 6), sources)
def test_what_is_said_to_fit_fits_and_what_fits_after_fits_then(
    roll: tuple[Load, ...], pick: int, source: Source
) -> None:
    system, site = SPLIT, Site()
    limits = limits_of(source, system, site)
    chosen = roll[pick % len(roll)]
    on = [x for x in roll if x is not chosen]
    answer = what_if(chosen, on, limits, system)
    if answer.answer == "fits":
        assert worst_crossing([*on, chosen], limits, system, chosen) is None
    elif answer.answer == "after":
        rest = [x for x in on if x not in answer.drop]
        assert worst_crossing([*rest, chosen], limits, system, chosen) is None
    elif answer.answer == "unknown":
        assert chosen.start_unknown
        assert worst_crossing([*on, chosen], limits, system) is None
    else:
        assert worst_crossing([chosen], limits, system, chosen) is not None
    assert answer.sentence


# The day


@settings(max_examples=examples(15))
@given(rolls, briefs)
def test_a_day_is_never_less_than_nothing_and_never_more_than_everything(roll: tuple[Load, ...], brief: Brief) -> None:
    demand = simulate(roll, brief, draws=3)
    everything_w = sum(x.run_w for x in roll)
    assert 0 <= demand.peak_w <= everything_w * (1 + 1e-9)
    assert 0 <= demand.longest_hour_w <= demand.peak_w * (1 + 1e-9) + 1e-9
    assert demand.total_wh <= everything_w * brief.outage_h * (1 + 1e-9)
    assert demand.total_wh == pytest.approx(sum(demand.hour_wh), rel=1e-9, abs=1e-6)
    assert sum(demand.leg_w) >= demand.peak_w * (1 - 1e-9) - 1e-6


@settings(max_examples=examples(15))
@given(rolls.filter(bool), briefs)
def test_one_load_fewer_never_asks_for_more_energy(roll: tuple[Load, ...], brief: Brief) -> None:
    brief = replace(brief, bring_up=BringUp.AT_ONCE)
    assert simulate(roll[1:], brief, draws=3).total_wh <= simulate(roll, brief, draws=3).total_wh + 1e-6


# The verdict


@settings(max_examples=examples(20))
@given(rolls, briefs, sources)
def test_any_home_and_source_on_paper_can_be_judged_and_nothing_is_proven(
    roll: tuple[Load, ...], brief: Brief, source: Source
) -> None:
    verdict = judge(case(roll, source, brief, draws=2))
    assert verdict.headline.endswith(".")
    for line in verdict.requirements:
        assert line.status in (Status.NOT_PROVEN, Status.NOT_REQUIRED, Status.FALLS_SHORT)
        assert line.sentence.endswith(".")
        assert bool(line.settle_by) == (line.status is Status.NOT_PROVEN)


@settings(max_examples=examples(15))
@given(st.floats(500, 6000), st.floats(1.0, 3.0))
def test_a_larger_claim_never_stands_worse(cont_w: float, times: float) -> None:
    heater = load("1", "heater", run_w=2000)
    brief = Brief(system=SINGLE, outage_h=2)
    small, large = (judge(case((heater,), set_of(w), brief, draws=2)).requirements[0] for w in (cont_w, cont_w * times))
    assert ORDER.index(large.status) >= ORDER.index(small.status)


@settings(max_examples=examples(15))
@given(st.floats(100, 6000))
def test_a_held_level_carries_exactly_when_it_clears_the_demand_with_its_uncertainty(held_w: float) -> None:
    heater = load("1", "heater", run_w=2000)
    seen = found([(0, "+1"), (1, f"{held_w:.1f}w"), (890, f"{held_w:.1f}w"), (900, "-1")], (heater,), SINGLE)
    line = judge(case((heater,), set_of(6000), Brief(system=SINGLE, outage_h=2), seen, draws=2)).requirements[0]
    low, tight = 2000 / 0.99, 2000
    expected = Status.CARRIES if held_w > low * 1.001 else Status.NOT_PROVEN if held_w < tight * 0.999 else line.status
    assert line.status is expected
