"""What is known of a load, the parts of its run, its weather, what it stands, and a soft starter."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from muster.core.brief import Brief, BringUp
from muster.core.errors import MusterError, OutOfRange, UnknownChoice
from muster.core.loads import (
    KINDS,
    Basis,
    Caller,
    Duty,
    Load,
    LoadFigure,
    Part,
    Tolerance,
    Wave,
    Weather,
    in_weather,
    parse_parts,
    part_words,
    ranked_figures,
    stretches,
    with_figures,
    without_figure,
)
from muster.core.loads.evidence import (
    from_code_letter,
    from_inrush_amps,
    from_locked_rotor,
    from_nameplate_amps,
    from_welding,
)
from muster.core.loads.parts import call_wh, highest, level_at
from muster.core.outage.play import scales
from muster.core.outage.simulate import simulate
from muster.core.quantities import Grade
from muster.core.sources import Site
from tests.examples import examples

from ..build import SINGLE, load

PUMP = load("p", "pump", "motor_loaded", 1000, pf=0.8)
FURNACE = load("f", "furnace", "furnace", 500, pf=0.8, duty=Duty(10, 20))
BRIEF = Brief(system=SINGLE, outage_h=6, outage_from_hour=12, bring_up=BringUp.AT_ONCE)


def test_the_better_evidence_wins_and_the_rest_stays_visible() -> None:
    known = with_figures(PUMP, from_code_letter("G", 1.5), from_locked_rotor(230, 38))
    assert known.start_va == pytest.approx(230 * 38)
    assert known.start_grade is Grade.C
    known = with_figures(known, from_inrush_amps(230, 31.5, caught=True))
    assert (known.start_va, known.start_grade) == (pytest.approx(7245), Grade.A)
    listed = [one for one in ranked_figures(known) if one.figure.quantity == "start_va"]
    assert [one.figure.basis for one in listed] == [Basis.MEASURED, Basis.LOCKED_ROTOR, Basis.CODE_LETTER, Basis.SHELF]
    assert [one.used for one in listed] == [True, False, False, False]


def test_striking_the_best_falls_back_on_the_next_and_at_last_on_the_plan() -> None:
    known = with_figures(PUMP, from_locked_rotor(230, 38))
    place = next(i for i, f in enumerate(known.figures) if f.quantity == "start_va")
    bare = without_figure(known, place)
    assert bare.start_va is None
    assert bare.start_total_va == pytest.approx(6 * 1000 / 0.8)
    assert without_figure(bare, 99) == bare


def test_the_last_word_on_running_watts_cannot_be_struck() -> None:
    known = with_figures(PUMP, LoadFigure("pf", 0.78, Basis.MEASURED))
    assert {f.quantity for f in without_figure(known, 0).figures} >= {"run_w", "pf"}


def test_a_nameplate_does_not_push_out_what_was_measured() -> None:
    measured = replace(PUMP, run_grade=Grade.A)
    assert with_figures(measured, from_nameplate_amps(230, 6.2, 0.8)).run_w == 1000
    assert with_figures(PUMP, from_nameplate_amps(230, 6.2, 0.8)).run_w == (
        1000 if PUMP.run_grade.is_measured else pytest.approx(230 * 6.2 * 0.8)
    )


def test_figures_that_cannot_be_are_refused() -> None:
    with pytest.raises(UnknownChoice):
        LoadFigure("colour", 1, Basis.TOLD)
    with pytest.raises(UnknownChoice):
        from_code_letter("I", 1)
    for make in (
        lambda: from_locked_rotor(230, 0),
        lambda: from_welding(24, 100, 1.2),
        lambda: LoadFigure("pf", 1.2, Basis.TOLD),
    ):
        with pytest.raises(OutOfRange):
            make()


def test_a_welder_draws_its_arc_over_its_efficiency_and_doubles_at_the_strike() -> None:
    known = with_figures(load("w", "welder", "welder", 3200, pf=0.7, run_grade=Grade.D), from_welding(24, 100, 0.75))
    assert known.run_w == pytest.approx(3200)
    assert known.start_total_va == pytest.approx(2 * 3200 / 0.7)


def test_a_soft_starter_eases_the_start_by_plan_until_it_was_measured() -> None:
    bare = with_figures(PUMP, from_locked_rotor(230, 38))
    eased = replace(bare, soft_starter=True)
    assert eased.start_total_va == pytest.approx(2.2 * 1250)
    assert (eased.start_s, eased.start_pf) == (1.0, 0.6)
    assert eased.bare_start_va == bare.start_total_va
    measured = with_figures(eased, from_inrush_amps(230, 15, caught=True, soft=True))
    assert measured.start_total_va == pytest.approx(3450)
    assert with_figures(replace(measured, soft_starter=False)).start_total_va == pytest.approx(230 * 38)


def test_a_soft_starter_does_nothing_for_a_heater() -> None:
    heater = load("h", "heater", run_w=1000)
    assert replace(heater, soft_starter=True).start_total_va == heater.start_total_va


# parts: sequences, ramps, programs


def test_a_furnace_comes_in_parts_scaled_to_its_own_watts() -> None:
    parts = FURNACE.running_parts
    assert [part.name for part in parts] == ["inducer", "igniter", "blower"]
    assert highest(parts) == pytest.approx(500)
    assert level_at(parts, 30) > level_at(parts, 70)
    assert FURNACE.start_total_va > FURNACE.run_va
    assert FURNACE.start_s == 2.0


def test_a_measured_start_is_the_worst_part_with_the_others_beneath_it() -> None:
    known = replace(FURNACE, start_va=1900.0)
    blower = known.running_parts[2]
    beneath = level_at(known.running_parts, blower.from_s, "run_va")
    assert beneath + blower.start_extra_va == pytest.approx(1900)


def test_an_inverter_driven_compressor_ramps_and_hardly_overshoots() -> None:
    cooler = load("c", "cooler", "compressor_inverter", 1000, pf=0.95)
    assert cooler.start_total_va == pytest.approx(1.1 * cooler.run_va)
    levels = [level_at(cooler.running_parts, s) for s in (0, 31, 61, 91)]
    assert levels == sorted(levels)
    assert levels[0] < 500 < 999 < levels[-1]


PARTS = st.builds(
    Part,
    st.sampled_from(["inducer", "blower fan", "spin 2", "über"]),
    st.integers(1, 5000).map(float),
    st.sampled_from([1.0, 0.75, 0.6]),
    st.integers(0, 4000).map(float),
    st.none() | st.integers(1, 4000).map(float),
    st.sampled_from([1.0, 4.0, 2.5]),
    st.sampled_from([0.0, 2.0]),
)


@given(st.lists(PARTS, max_size=12))
def test_parts_written_out_read_back_the_same(parts: list[Part]) -> None:
    plain = [replace(part, start_s=part.start_s if part.start_x > 1 else 0.0) for part in parts]
    assert parse_parts("\n".join(part_words(part) for part in plain)) == tuple(plain)


@pytest.mark.parametrize("line", ["blower", "400 W", "blower 400 W pf 1.4", "blower 0 W", "blower 400 W for 0 s"])
def test_a_part_that_cannot_be_read_says_what_would_be_right(line: str) -> None:
    with pytest.raises(MusterError) as caught:
        parse_parts(line)
    assert caught.value.where == "parts"


@given(st.lists(PARTS, min_size=1, max_size=6), st.integers(1, 9000))
def test_the_energy_of_a_call_is_the_area_under_its_level(parts: list[Part], call_s: int) -> None:
    area = sum(level_at(parts, s + 0.5) for s in range(call_s)) / 3600
    assert call_wh(parts, call_s) == pytest.approx(area, rel=1e-9, abs=1e-9)


@settings(max_examples=examples(15))
@given(st.integers(0, 2**32 - 1))
def test_parts_of_a_call_use_what_their_shape_says(seed: int) -> None:
    """A boiler called once an hour for ten minutes, against the area of its parts."""
    once = replace(FURNACE, duty=Duty(10, 0, once=True), hours=(13, 15))
    demand = simulate([once], BRIEF, draws=1, seed=seed)
    low, high = (2 * call_wh(once.running_parts, 600 * x) for x in (0.8, 1.2))
    assert low <= demand.total_wh <= high
    assert demand.peak_w <= once.run_w + 1e-6
    assert demand.starts[0].moment_va == pytest.approx(once.start_total_va)


def test_a_loads_own_parts_are_no_base_for_its_start() -> None:
    alone = simulate([FURNACE], BRIEF, draws=5)
    assert alone.starts[0].base_w == pytest.approx(0, abs=1e-6)
    lit = simulate([FURNACE, load("l", "lamp", run_w=60)], BRIEF, draws=5)
    assert lit.starts[0].base_w == pytest.approx(60)


def test_a_program_runs_once_in_each_stretch_of_its_hours_and_to_its_end() -> None:
    washer = load("w", "washer", run_w=1000, duty=Duty(45, 0, Caller.HAND, once=True), hours=(12, 15))
    demand = simulate([washer], BRIEF, draws=200)
    assert demand.total_wh == pytest.approx(2 * 750, rel=0.02)
    assert washer.day_wh == pytest.approx(1500)
    assert not washer.calls_at_once
    assert stretches((22, 23, 0, 1)) == 1 == stretches(tuple(range(24)))


def test_the_sum_over_parts_is_the_energy_of_the_home() -> None:
    demand = simulate([FURNACE, PUMP], BRIEF, draws=30)
    assert sum(demand.load_wh.values()) == pytest.approx(demand.total_wh)
    assert demand.load_wh["f"] < 500 * 6


# weather


def test_duty_goes_with_the_difference_to_the_outside() -> None:
    """Our own figures: 10 on, 20 off at 8 °C outside for a room at 20; at −4 it is two thirds."""
    seen = replace(FURNACE, weather=Weather(8, 20))
    cold = in_weather(seen, -4)
    assert cold is not None
    assert cold.duty.share == pytest.approx(2 / 3)
    hard = in_weather(seen, -40)
    assert hard is not None
    assert hard.duty.throughout
    assert in_weather(seen, 25) is None
    assert in_weather(FURNACE, -40) == FURNACE


def test_a_colder_site_asks_more_of_a_source() -> None:
    seen = replace(FURNACE, weather=Weather(8, 20))
    mild, cold = (
        simulate([seen], replace(BRIEF, site=Site(temp_c=c), outage_h=48), draws=40).total_wh for c in (8, -4)
    )
    assert cold == pytest.approx(2 * mild, rel=0.12)
    assert simulate([seen], replace(BRIEF, site=Site(temp_c=26)), draws=2).total_wh == 0


def test_a_weather_without_a_difference_says_nothing() -> None:
    with pytest.raises(OutOfRange):
        Weather(20, 20.5)


# what it stands


def test_what_was_said_of_a_load_beats_its_kind() -> None:
    radio = load("r", "radio", "electronic", 45)
    assert (radio.gap_ms, radio.hz_pct, radio.wave) == (20, None, Wave.ROUGH)
    told = replace(radio, tolerance=Tolerance(gap_ms=500, wave=Wave.SINE, hz_pct=2))
    assert (told.gap_ms, told.hz_pct, told.wave, told.v_low_pct) == (500, 2, Wave.SINE, 10)


@pytest.mark.parametrize("kind", KINDS)
def test_no_kind_starts_below_what_it_runs_at(kind: str) -> None:
    one = load("1", "one", kind, 1000, pf=KINDS[kind].pf)
    assert one.start_total_va >= one.run_va
    assert np.isclose(highest(one.running_parts), one.run_w)
    assert replace(one, soft_starter=True).start_total_va <= one.start_total_va + 1e-9


def test_a_start_behind_a_soft_starter_that_nobody_measured_is_a_planning_figure_however_well_the_bare_one_is_known() -> (
    None
):
    """A pump measured at 4 kVA, and a soft starter not tried yet: what it then draws lies within thirty percent, not three."""
    pump = Load("1", "pump", "motor_loaded", 750, 0.8, start_va=4000, start_grade=Grade.A, run_grade=Grade.A)
    eased = replace(pump, soft_starter=True)
    assert pump.grade_of_start is Grade.A
    assert eased.grade_of_start is Grade.D
    figure = LoadFigure("start_va", 1900, Basis.MEASURED, "with it fitted", soft=True)
    tried = replace(eased, start_va=1900, figures=(figure,))
    assert tried.grade_of_start is Grade.A
    (_, drawn), (_, sure) = (scales([load], 2000, 7) for load in (eased, tried))
    assert np.percentile(drawn, 95) == pytest.approx(1.3, rel=0.03)
    assert np.percentile(sure, 95) == pytest.approx(1.03, rel=0.01)
