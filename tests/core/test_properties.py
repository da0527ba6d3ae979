"""What must hold whatever the home, the source and the record."""

from __future__ import annotations

import itertools
from dataclasses import replace

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from muster.core.bench import replay
from muster.core.brief import Brief, BringUp, Wiring
from muster.core.day import simulate
from muster.core.loads import KINDS, TIERS, Caller, Duty, Load
from muster.core.logline import read_line
from muster.core.quantities import Grade
from muster.core.sessions import Entry, Event, Item, Note, Place, Reading, Session, Start, Stat, Step, Switch
from muster.core.sources import Claims, Site, Source, SourceKind, limits_of
from muster.core.stack import what_if, worst_crossing
from muster.core.supply import SYSTEMS, Leg
from muster.core.verdict import Status, judge
from muster.core.verdict.requirement import ORDER
from muster.formats.codec import dump
from muster.formats.codec import load as load_value
from muster.formats.jobfile import JobFile, SessionRecord, SourceRecord, read_job, write_job

from .build import SINGLE, SPLIT, case, found, load, set_of

names = st.text("abcdefghij klmno", min_size=1, max_size=12).filter(str.strip)
duties = st.builds(Duty, st.floats(0.5, 600), st.floats(0, 600), st.sampled_from(Caller))
loads = st.builds(
    Load,
    key=st.sampled_from("123456789abcefgijk"),
    name=names,
    kind=st.sampled_from(sorted(KINDS)),
    run_w=st.floats(1, 5000),
    pf=st.floats(0.1, 1),
    leg=st.sampled_from(Leg),
    tier=st.sampled_from(TIERS),
    duty=duties,
    hours=st.lists(st.integers(0, 23), unique=True).map(lambda hours: tuple(sorted(hours))),
    start_va=st.none() | st.floats(0, 20000),
    run_grade=st.sampled_from(Grade),
    start_grade=st.sampled_from(Grade),
)
rolls = st.lists(loads, max_size=7, unique_by=lambda x: x.key).map(tuple)
briefs = st.builds(
    Brief,
    question=st.text(max_size=30),
    system=st.sampled_from(list(SYSTEMS.values())),
    outage_h=st.floats(0.5, 48),
    outage_from_hour=st.integers(0, 23),
    reserve_pct=st.floats(0, 100),
    noise_day_dba=st.none() | st.floats(30, 90),
    noise_night_dba=st.none() | st.floats(30, 90),
    ear_m=st.floats(1, 100),
    site=st.builds(Site, st.floats(0, 3000), st.floats(-30, 45)),
    wiring=st.sampled_from(Wiring),
    bring_up=st.sampled_from(BringUp),
)
claims = st.builds(
    lambda cont, surge, breaker: Claims(cont_w=cont, surge_w=cont * surge, surge_s=5, breaker_a=breaker),
    st.floats(300, 12000), st.floats(1, 3), st.none() | st.floats(5, 60),
)  # fmt: skip
sources = st.builds(Source, names, st.sampled_from(SourceKind), claims)
items: st.SearchStrategy[Item] = st.one_of(
    st.builds(
        Reading, st.sampled_from(["v", "a", "w", "hz", "dba"]), st.floats(0, 5000), st.sampled_from(Place),
        st.sampled_from(Stat), st.sampled_from(["", "clamp", "meter"]),
    ),
    st.builds(Switch, st.sampled_from("123"), st.booleans()),
    st.builds(Start, st.sampled_from("123"), st.booleans()),
    st.builds(Event, st.sampled_from(["trip", "dip", "hold", "reset", "step", "held", "stall", "code"])),
    st.builds(Note, st.text(max_size=20)),
)  # fmt: skip
entries = st.lists(st.tuples(st.floats(0, 5000), st.lists(items, min_size=1, max_size=4)), max_size=25).map(
    lambda rows: tuple(Entry(i, t, tuple(found), "") for i, (t, found) in enumerate(rows, 1))
)
sessions = st.builds(
    Session, st.sampled_from(["ladder", "starts", "noise_walk"]),
    st.lists(st.builds(Step, names), max_size=3).map(tuple), entries,
)  # fmt: skip


@given(loads)
def test_a_load_survives_its_json(value: Load) -> None:
    assert load_value(Load, dump(value)) == value


@given(briefs)
def test_a_brief_survives_its_json(value: Brief) -> None:
    assert load_value(Brief, dump(value)) == value


@settings(max_examples=40)
@given(names, briefs, rolls, st.lists(st.tuples(sources, st.lists(sessions, max_size=2)), max_size=2))
def test_a_job_file_read_back_is_equal(
    name: str, brief: Brief, roll: tuple[Load, ...], parts: list[tuple[Source, list[Session]]]
) -> None:
    records = tuple(
        SourceRecord(source, tuple(SessionRecord(s, "2026-10-12T09:05:00+00:00") for s in kept))
        for source, kept in parts
    )
    job = JobFile(name, brief, roll, records)
    assert read_job(write_job(job)) == job


# The record


@given(sessions, st.sampled_from([1, 2]))
def test_any_record_can_be_replayed_and_its_stretches_cover_it_in_order(session: Session, legs: int) -> None:
    record = replay(session, legs)
    bounds = [(segment.t0_s, segment.t1_s) for segment in record.segments]
    assert all(t0 <= t1 for t0, t1 in bounds)
    assert all(a[1] <= b[0] + 1e-9 for a, b in itertools.pairwise(bounds))
    assert all(segment.held_s() <= segment.t1_s - segment.t0_s + 1e-9 for segment in record.segments)
    kept = sum(len(segment.readings) for segment in record.segments)
    typed = [item for entry in session.standing for item in entry.items if isinstance(item, Reading)]
    assert kept == sum(reading.believable for reading in typed)


@given(sessions)
def test_findings_of_any_record_are_told_with_a_unit_and_a_working(session: Session) -> None:
    roll = (load("1", "oven"), load("2", "pump", "motor", 400, pf=0.7), load("3", "lamp", "filament", 60))
    lines = [(entry.t_s, entry) for entry in session.entries]
    assert len(lines) == len(session.entries)
    from muster.core.findings import findings_of

    result = findings_of(session, {x.key: x for x in roll}, SPLIT, 20)
    for finding in result.findings:
        assert finding.sentence.endswith(".")
        assert finding.value.unit
        assert finding.topic


@given(st.permutations(["+1", "+2", "+3"]))
def test_the_order_in_which_loads_are_switched_on_changes_not_what_is_on(order: list[str]) -> None:
    found_entries = tuple(
        Entry(i, float(i), read_line(line, {"1": "a", "2": "b", "3": "c"}, SPLIT).items) for i, line in enumerate(order)
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
    else:
        assert worst_crossing([chosen], limits, system, chosen) is not None
    assert answer.sentence


# The day


@settings(max_examples=15)
@given(rolls, briefs)
def test_a_day_is_never_less_than_nothing_and_never_more_than_everything(roll: tuple[Load, ...], brief: Brief) -> None:
    demand = simulate(roll, brief, draws=3)
    everything_w = sum(x.run_w for x in roll)
    assert 0 <= demand.peak_w <= everything_w * (1 + 1e-9)
    assert 0 <= demand.longest_hour_w <= demand.peak_w * (1 + 1e-9) + 1e-9
    assert demand.total_wh <= everything_w * brief.outage_h * (1 + 1e-9)
    assert demand.total_wh == pytest.approx(sum(demand.hour_wh), rel=1e-9, abs=1e-6)
    assert sum(demand.leg_w) >= demand.peak_w * (1 - 1e-9) - 1e-6


@settings(max_examples=15)
@given(rolls.filter(bool), briefs)
def test_one_load_fewer_never_asks_for_more_energy(roll: tuple[Load, ...], brief: Brief) -> None:
    brief = replace(brief, bring_up=BringUp.AT_ONCE)
    assert simulate(roll[1:], brief, draws=3).total_wh <= simulate(roll, brief, draws=3).total_wh + 1e-6


# The verdict


@settings(max_examples=20)
@given(rolls, briefs, sources)
def test_any_home_and_source_on_paper_can_be_judged_and_nothing_is_proven(
    roll: tuple[Load, ...], brief: Brief, source: Source
) -> None:
    verdict = judge(case(roll, source, brief, draws=2))
    assert verdict.headline.endswith(".")
    for line in verdict.requirements:
        assert line.status in (Status.NOT_PROVEN, Status.NOT_ASKED, Status.FALLS_SHORT)
        assert line.sentence.endswith(".")
        assert bool(line.settle_by) == (line.status is Status.NOT_PROVEN)


@settings(max_examples=15)
@given(st.floats(500, 6000), st.floats(1.0, 3.0))
def test_a_larger_claim_never_stands_worse(cont_w: float, times: float) -> None:
    heater = load("1", "heater", run_w=2000)
    brief = Brief(system=SINGLE, outage_h=2)
    small, large = (judge(case((heater,), set_of(w), brief, draws=2)).requirements[0] for w in (cont_w, cont_w * times))
    assert ORDER.index(large.status) >= ORDER.index(small.status)


@settings(max_examples=15)
@given(st.floats(100, 6000))
def test_a_held_level_carries_exactly_when_it_clears_the_demand_with_its_uncertainty(held_w: float) -> None:
    heater = load("1", "heater", run_w=2000)
    seen = found([(0, "+1"), (1, f"{held_w:.1f}w"), (900, "-1")], (heater,), SINGLE)
    line = judge(case((heater,), set_of(6000), Brief(system=SINGLE, outage_h=2), seen, draws=2)).requirements[0]
    low, tight = 2000 / 0.99, 2000
    expected = Status.CARRIES if held_w > low * 1.001 else Status.NOT_PROVEN if held_w < tight * 0.999 else line.status
    assert line.status is expected
