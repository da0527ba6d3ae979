"""The mains baseline: what each load drew alone, kept apart from every source."""

from __future__ import annotations

import pytest

from muster.core.findings import findings_of
from muster.core.findings.baseline import baseline
from muster.core.loads import Basis, with_figures
from muster.core.quantities import Bound, Grade
from muster.core.sessions import PROTOCOLS

from ..build import SINGLE, SPLIT, load, session

KETTLE = load("1", "kettle", run_w=1500, run_grade=Grade.D)
PUMP = load("2", "sump pump", "motor", 500, pf=0.7, run_grade=Grade.D)
LOADS = (KETTLE, PUMP)
LINES: list[tuple[float, str]] = [
    (0, "+1"),
    (30, "231v 1462w"),
    (60, "-1"),
    (70, "+2"),
    (80, "232v 417w 0.68pf"),
    (90, "sump pump start @clamp 17.5a max !held"),
    (100, "+1"),
    (110, "1900w"),
]


def seen(lines: list[tuple[float, str]] = LINES, protocol: str = "baseline"):
    return findings_of(session(lines, LOADS, SINGLE, protocol), {x.key: x for x in LOADS}, SINGLE, 20)


def test_each_load_alone_gives_its_watts_and_two_together_give_nothing() -> None:
    found = {one.load.key: one for one in seen().baseline}
    assert found["1"].w.value == 1462
    assert found["2"].w.value == 417
    assert found["2"].pf is not None
    assert found["2"].pf.value == pytest.approx(0.68)
    assert {finding.topic for finding in seen().findings} == {"baseline"}


def test_the_loads_goes_by_the_baseline_and_remembers_what_it_went_by() -> None:
    pump = with_figures(PUMP, *next(one for one in seen().baseline if one.load is PUMP).figures)
    assert (pump.run_w, pump.run_grade, pump.pf) == (417, Grade.A, pytest.approx(0.68))
    assert 500 in [figure.value for figure in pump.figures if figure.quantity == "run_w"]


def test_a_start_by_a_display_that_may_miss_it_is_at_least_and_grade_b() -> None:
    lines = [(0, "+2"), (5, "417w"), (10, "-2"), (20, "sump pump start @display 17.5a max !held")]
    pump = next(one for one in seen(lines).baseline if one.load is PUMP)
    assert pump.start_va is not None
    assert pump.start_va.value == pytest.approx(17.5 * 230)
    assert pump.start_va.bound is Bound.AT_LEAST
    assert pump.figures[-1].basis is Basis.INDIRECT


def test_volts_times_amps_stand_in_for_watts_at_grade_b() -> None:
    pump = next(iter(seen([(0, "+2"), (5, "232v 2.6a 0.7pf")]).baseline))
    assert pump.w.value == pytest.approx(232 * 2.6 * 0.7)
    assert pump.w.grade is Grade.B


def test_a_load_across_both_legs_is_read_in_all() -> None:
    oven = load("3", "oven", run_w=2000, leg="both")
    record = findings_of(session([(0, "+3"), (5, "1960w")], (oven,), SPLIT, "baseline"), {"3": oven}, SPLIT, 20)
    assert [one.w.value for one in record.baseline] == [1960]


@pytest.mark.parametrize("protocol", [p.slug for p in PROTOCOLS.values() if not p.of_the_source])
def test_what_was_read_of_mains_wall_or_panels_is_never_the_sources(protocol: str) -> None:
    lines = [(0, "+1"), (5, "231v 1462w 50hz"), (10, "+2"), (15, "229v 1900w 50hz"), (300, "!trip"), (310, "60db@7m")]
    found = seen(lines, protocol)
    assert (found.holds, found.regulation, found.droops, found.starts, found.noise) == ((), (), (), (), ())
    assert found.record.segments


def test_a_load_taken_off_the_list_gives_no_baseline() -> None:
    record = seen().record
    assert baseline(record, {}, SINGLE) == ()
