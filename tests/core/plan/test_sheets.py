"""Sheets: every protocol planned with the loads of the house, each step with what it should read."""

from __future__ import annotations

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from muster.core.brief import Brief, Home
from muster.core.character import Dated, character_of
from muster.core.errors import NotEnoughReadings
from muster.core.kit import USUAL_KIT, Kit
from muster.core.loads import Load
from muster.core.plan import PLANNERS, Wanted, ladder_plan, names_of, steps_of
from muster.core.plan.sheets import STOP_ALWAYS, Predicted, build_sheet
from muster.core.quantities import Grade
from muster.core.sessions import PROTOCOLS, Step
from muster.core.sources import Claims, Site, Source, SourceKind
from muster.core.supply import Leg, System

from ..build import SINGLE, SPLIT, found, load

LOADS = (
    load("1", "heater", run_w=1500),
    load("2", "oven", run_w=2400, leg=Leg.BOTH),
    load("3", "kettle", run_w=1400, leg=Leg.TWO),
    load("4", "pump", "motor", 900, pf=0.8, leg=Leg.TWO),
    load("5", "boiler", "furnace", 320, pf=0.8),
    load("6", "lights", "electronic", 90, pf=0.85, run_grade=Grade.D),
)
SET = Source("the set", SourceKind.OPEN_FRAME, Claims(5000, surge_w=6000, surge_s=5))


def home(system: System = SPLIT, loads: tuple[Load, ...] = LOADS) -> Home:
    return Home(Brief(system=system), loads)


def sheet(protocol: str, at: Home | None = None, source: Source = SET, kit: Kit | None = None):
    at = at or home()
    return build_sheet(protocol, at, source, steps_of(protocol, at, source), kit or Kit())


@pytest.mark.parametrize("protocol", list(PROTOCOLS))
def test_every_protocol_has_a_sheet_with_steps_stops_and_what_it_reads(protocol: str) -> None:
    made = sheet(protocol)
    assert made.steps
    assert all(one.step.label for one in made.steps)
    assert set(STOP_ALWAYS) <= set(made.stop)
    assert made.minutes > 0
    assert made.kit or PROTOCOLS[protocol].by_hand
    assert PROTOCOLS[protocol].reads or PROTOCOLS[protocol].by_hand
    assert protocol in PLANNERS


def test_the_baseline_is_every_load_alone_and_predicts_watts_and_nothing_of_the_source() -> None:
    made = sheet("baseline")
    assert [one.loads for one in made.steps] == ["heater", "oven", "kettle", "pump", "boiler", "lights"]
    assert {p.unit for one in made.steps for p in one.predicted} == {"w"}


def test_steps_and_set_points_are_made_of_plain_heat() -> None:
    for protocol in ("load_steps", "set_point"):
        keys = {key for step in steps_of(protocol, home(), SET) for key in step.loads}
        assert keys <= {"1", "2", "3"}
        with pytest.raises(NotEnoughReadings, match="plain heater"):
            steps_of(protocol, home(loads=LOADS[3:]), SET)


def test_an_overload_goes_past_the_claim_as_far_as_the_loads_go() -> None:
    steps = steps_of("overload", home(), SET)
    assert [s.label for s in steps] == ["100 %", "105 %", "110 %", "115 %", "120 %", "130 %"]
    assert all(abs((s.planned_w or 0) - (s.target_w or 0)) < 0.05 * 5000 for s in steps)
    with pytest.raises(NotEnoughReadings, match="more than the claim"):
        steps_of("overload", home(), replace(SET, claims=Claims(50_000)))


def test_no_test_that_may_take_the_source_down_is_planned_with_a_medical_load() -> None:
    concentrator = load("7", "concentrator", "medical", 350, leg=Leg.TWO)
    at = home(loads=(*LOADS, concentrator))
    for protocol in PROTOCOLS:
        if protocol in ("baseline", "dedicated"):
            continue
        assert "7" not in {key for step in steps_of(protocol, at, SET) for key in step.loads}, protocol
    assert "7" in {key for step in steps_of("baseline", at, SET) for key in step.loads}


def test_legs_want_two_and_load_each_by_itself() -> None:
    hardy = replace(SET, claims=replace(SET.claims, per_leg_w=9000))
    steps = steps_of("legs", home(), hardy)
    assert steps[1].loads == ("1", "5", "6")
    assert steps[2].loads == ("3", "4")
    assert steps_of("legs", home(), SET)[2].loads == ("4",), "as much of it as the leg is claimed to carry"
    with pytest.raises(NotEnoughReadings, match="one leg"):
        steps_of("legs", home(SINGLE), SET)


def test_a_dedicated_circuit_wants_a_furnace() -> None:
    assert {key for s in steps_of("dedicated", home(), SET) for key in s.loads} == {"5"}
    with pytest.raises(NotEnoughReadings, match="furnace"):
        steps_of("dedicated", home(loads=LOADS[:2]), SET)


def by(words: str, predicted: tuple[Predicted, ...]) -> Predicted:
    return next(p for p in predicted if p.label == words)


def test_watts_are_predicted_by_leg_with_the_band_of_how_they_are_known() -> None:
    steps = (Step("some", ("1", "2", "6")),)
    (one,) = build_sheet("ladder", home(), SET, steps, Kit()).steps
    watts = by("watts leg 1", one.predicted)
    assert (watts.low + watts.high) / 2 == pytest.approx(1500 + 1200 + 90)
    assert (watts.high - watts.low) / 2 == pytest.approx(0.03 * 2700 + 0.25 * 90)
    assert watts.grade is Grade.D
    assert by("watts leg 2", one.predicted).grade is Grade.A


def test_volts_and_hertz_are_by_the_kind_until_they_were_measured() -> None:
    steps = (Step("some", ("1",)),)
    (one,) = build_sheet("ladder", home(SINGLE), SET, steps, Kit()).steps
    assert by("volts", one.predicted).grade is Grade.D
    lines = [
        (0.0, "230v 0w 51hz"),
        (60.0, "+1"),
        (80.0, "226v 1500w 50.4hz"),
        (140.0, "+3"),
        (160.0, "223v 2900w 49.9hz"),
    ]
    known = character_of(SET, SINGLE, Site(), [Dated(found(lines, LOADS, SINGLE), "Ladder", "2026-05-01")])
    (one,) = build_sheet("ladder", home(SINGLE), SET, steps, Kit(), known).steps
    volts, hertz = by("volts", one.predicted), by("hertz", one.predicted)
    assert (volts.grade, hertz.grade) == (Grade.B, Grade.B)
    assert volts.low < 226.3 < volts.high
    assert hertz.low < 50.4 < hertz.high


def test_an_inverter_holds_its_hertz_and_an_engine_lets_them_fall() -> None:
    steps = (Step("none", (), 0.0), Step("all", ("1", "2", "3")))
    for kind, falls in ((SourceKind.OPEN_FRAME, True), (SourceKind.INVERTER_SET, False)):
        none, all_on = (
            by("hertz", one.predicted)
            for one in build_sheet("ladder", home(), replace(SET, kind=kind), steps, Kit()).steps
        )
        assert (all_on.high < none.high) == falls


def test_what_the_kit_cannot_read_is_said() -> None:
    made = sheet("noise_walk", kit=Kit(USUAL_KIT[:2]))
    assert made.lacking == ("sound level",)
    assert sheet("noise_walk").lacking == ()


@given(st.lists(st.integers(50, 3000), min_size=1, max_size=8), st.floats(500, 6000))
def test_a_step_is_the_nearest_sum_there_is_but_for_what_switching_and_leaning_cost(
    watts: list[int], target: float
) -> None:
    loads = tuple(load(str(i), f"heater {i}", run_w=w) for i, w in enumerate(watts, 1))
    (step,) = ladder_plan(loads, [("rung", target, 60.0)], Wanted(5000))
    sums = [sum(w for i, w in enumerate(watts) if pick >> i & 1) for pick in range(2 ** len(watts))]
    nearest = min(abs(s - target) for s in sums)
    assert abs((step.planned_w or 0) - target) <= nearest + 0.002 * 5000 * len(watts) + 1e-6
    assert names_of(step, loads).count("heater") == len(step.loads)
