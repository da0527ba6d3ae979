"""What nothing beats, which motor each starts, what each is like by hand, and two together where none alone is enough."""

from __future__ import annotations

from dataclasses import replace
from itertools import pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st

from muster.core.character import Given, given_of
from muster.core.compare import (
    PairJudged,
    PricedMargin,
    claimed_rows,
    combinations,
    compare,
    front,
    handling_rows,
    judged,
    ladder_of_motors,
    pair_judged,
    pairs,
)
from muster.core.errors import MusterError
from muster.core.findings import findings_of
from muster.core.findings.finding import Warns
from muster.core.kit import Kit
from muster.core.outage.household import RuleKind
from muster.core.quantities import Grade, plain
from muster.core.safety.checks import checks_for
from muster.core.sessions import Entry, Session
from muster.core.sessions.inspection import BY_SLUG, POINTS, answered, text_of
from muster.core.sources import Claims, FaultCode, FuelRating, Owning, PvPort, Site, Source, SourceKind
from muster.core.verdict import judge
from muster.core.verdict.inputs import VerdictInputs
from muster.core.verdict.requirement import Status
from tests.core.build import SINGLE
from tests.field.judging import demo_case

# Price against what it gives


@given(st.lists(st.tuples(st.integers(1, 6), st.integers(-3, 6)), min_size=1, max_size=9))
def test_nothing_beats_what_is_on_the_front_and_something_beats_what_is_not(figures: list[tuple[int, int]]) -> None:
    priced = [PricedMargin(at, float(price), float(margin)) for at, (price, margin) in enumerate(figures)]
    kept = front(priced)
    assert kept

    def beats(other: PricedMargin, own: PricedMargin) -> bool:
        return (
            other.price <= own.price
            and other.margin >= own.margin
            and (other.price, other.margin) != (own.price, own.margin)
        )

    assert not any(beats(other, own) for own in kept for other in priced)
    assert all(any(beats(other, own) for other in kept) for own in priced if own not in kept)
    assert all(a.price <= b.price and a.margin <= b.margin for a, b in pairwise(kept))


# The ladder of motors


def test_the_ladder_stands_by_the_size_of_the_start_and_says_how_each_source_stands_to_it() -> None:
    cases = [demo_case("ferry_house", at) for at in range(2)]
    verdicts = [judge(case) for case in cases]
    steps = ladder_of_motors(cases[0].home.loads, verdicts, 60)
    assert [step.start_va for step in steps] == sorted(step.start_va for step in steps)
    pump = next(step for step in steps if step.name == "borehole pump")
    assert pump.statuses[0] is next(row.status for row in verdicts[0].start_rows if row.load == "borehole pump")
    assert compare(cases).motors == steps


# By hand


def looked_over(*answers: tuple[str, str]) -> Given:
    entries = tuple(
        Entry(at, 10.0 * at, (answered(point, answer),), "") for at, (point, answer) in enumerate(answers, 1)
    )
    seen = findings_of(Session("inspection", (), entries), {}, SINGLE, 20.0)
    return given_of(Source("set", SourceKind.STATION, Claims(1000)), SINGLE, Site(), [seen], ["2026-11-01"])


def test_points_stand_side_by_side_as_they_were_answered_last() -> None:
    rows = handling_rows([looked_over(("leads", "copper"), ("leads", "clad")), looked_over(("live_off", "live"))])
    assert [row.point.slug for row in rows] == ["leads", "live_off"]
    leads, live = rows
    assert leads.seen[0] is not None
    assert leads.seen[0].answer.slug == "clad"
    assert "aluminium" in leads.seen[0].finding.sentence
    assert leads.seen[1] is None
    assert live.seen[1] is not None
    assert live.seen[1].finding.warns is Warns.LIVE


@pytest.mark.parametrize(("point", "answer"), [("leads", "gold"), ("wings", "two")])
def test_what_is_no_answer_is_refused(point: str, answer: str) -> None:
    with pytest.raises(MusterError):
        answered(point, answer)


def test_every_answer_is_told_in_words_with_its_note() -> None:
    for point in POINTS:
        for answer in point.answers:
            assert text_of(answered(point.slug, answer.slug, "10 AWG printed")) == (
                f"{point.title.lower()}: {answer.label}, 10 AWG printed"
            )
    assert len(BY_SLUG) == len(POINTS)


def test_a_unit_that_does_not_run_is_looked_over_without_the_checks_of_a_test() -> None:
    home = demo_case("ferry_house", 0).home
    checks = checks_for("inspection", home, Source("set", SourceKind.OPEN_FRAME, Claims(3000)), (), Kit(), {})
    assert {check.slug for check in checks} == {"covers", "refuelling"}


# Two together


def test_a_battery_is_tried_with_every_engine_that_is_known_to_run_its_charger() -> None:
    cases = [demo_case("net_loft", at) for at in range(2)]
    assert list(combinations(cases)) == [], "the loft's bank is charged by a rule already"
    hybrids = [demo_case("ferry_house", at) for at in range(4)]
    tried = list(combinations(hybrids))
    assert tried, "the hybrid with an engine that runs its charger"
    for item in tried:
        assert hybrids[item.battery].source.kind.has_battery
        assert hybrids[item.engine].source.kind.has_engine
        assert item.rule.kind is RuleKind.CHARGE
        assert item.rule.from_hour == 10
        told = judged(item, hybrids[item.battery], hybrids[item.engine])
        assert told.status is judge(hybrids[item.battery]).status


def alone(name: str, cont_w: float, surge_w: float, kind: SourceKind = SourceKind.INVERTER_SET) -> VerdictInputs:
    """A set on its nameplate alone, before the Signal Cottage."""
    case = demo_case("signal_cottage", 0)
    source = Source(name, kind, Claims(cont_w, surge_w=surge_w, tank_l=4.0, half_load_lph=0.6, noise_dba_7m=38.0))
    nothing_read = given_of(source, case.home.brief.system, case.home.brief.site, ())
    return replace(case, source=source, given=nothing_read, played=None, without=None, rules=())


def proposed(cases: list[VerdictInputs]) -> list[PairJudged]:
    every = (pair_judged(pair, cases, compare(cases).sources) for pair in pairs(cases))
    return [pair for pair in every if pair is not None]


def test_two_small_sets_are_proposed_where_each_is_short_and_both_are_not_and_never_said_to_carry() -> None:
    small = [alone("red set", 600, 800), alone("grey set", 650, 900)]
    assert all(source.short for source in compare(small).sources)
    (pair,) = proposed(small)
    assert pair.cont_w == 1200
    assert set(pair.gains) == {label for source in compare(small).sources for label in source.short}
    assert pair.status is Status.NOT_PROVEN
    together = pair.tried.source
    assert together.claims.tank_l == 8
    assert together.claims.half_load_lph == pytest.approx(1.2)
    assert together.claims.noise_dba_7m == pytest.approx(41.0, abs=0.05)
    assert together.claim_grade is Grade.D


@pytest.mark.parametrize(
    ("name", "cont_w", "surge_w", "kind"),
    [
        ("the tiny set, short together as well", 300, 400, SourceKind.INVERTER_SET),
        ("the large set, enough alone", 6000, 7000, SourceKind.INVERTER_SET),
        ("the frame, not built to run beside another", 650, 900, SourceKind.OPEN_FRAME),
    ],
)
def test_no_pair_is_proposed_where_it_helps_nothing_or_cannot_be(
    name: str, cont_w: float, surge_w: float, kind: SourceKind
) -> None:
    assert proposed([alone("red set", 600, 800), alone(name, cont_w, surge_w, kind)]) == []


# As claimed


def test_fuels_ports_and_codes_stand_side_by_side_and_what_nobody_claims_makes_no_row() -> None:
    engine = Claims(7500, on_fuels=(FuelRating("petrol", 7500), FuelRating("propane", 6750)))
    station = Claims(2000, pv_ports=(PvPort(low_v=12, high_v=60, most_a=20, most_w=400),))
    owning = Owning(codes=(FaultCode("F7", "leg over its rating"),))
    open_frame = Source("large set", SourceKind.OPEN_FRAME, engine, owning=owning)
    rows = claimed_rows([open_frame, Source("station", SourceKind.STATION, station)])
    assert [(row.name, row.said) for row in rows] == [
        ("Rated by fuel", ((f"petrol {plain(7500.0, 'w')}", f"propane {plain(6750.0, 'w')}"), ())),
        ("Inputs for panels", ((), ("12-60 V 20 A 400 W",))),
        ("Codes of its booklet", (("F7 leg over its rating",), ())),
    ]
    assert claimed_rows([Source("station", SourceKind.STATION, Claims(2000))]) == ()
