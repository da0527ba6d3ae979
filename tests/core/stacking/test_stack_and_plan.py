"""What would happen if, and the first plans."""

from __future__ import annotations

import itertools

import pytest
from hypothesis import given
from hypothesis import strategies as st

from muster.core.character import started_on
from muster.core.errors import NotEnoughReadings
from muster.core.plan import Wanted, ladder_steps, noise_steps, start_steps
from muster.core.sources import Site
from muster.core.sources.limits import limits_of
from muster.core.stacking.what_if import next_to_start, stack_va, what_if, whole_source
from muster.core.supply import Leg

from ..build import SINGLE, SPLIT, found, load, set_of

OVEN = load("1", "bread oven", run_w=2000)
KETTLE = load("2", "kettle", run_w=1000)
PUMP = load("3", "sump pump, half horse", "motor", 400, pf=0.8, start_va=2400)
BIG = load("4", "heat pump", "compressor", 2100, pf=0.9)
LIMITS = limits_of(set_of(3000, surge_w=3600, surge_s=5), SINGLE, Site())


def test_the_stack_shows_a_start_before_it_is_switched_on() -> None:
    assert stack_va([OVEN, PUMP], Leg.ONE, SINGLE, PUMP) == 4400
    assert stack_va([OVEN, PUMP], Leg.ONE, SINGLE) == 2500


def test_half_of_a_load_across_both_legs_stands_on_each() -> None:
    oven = load("1", "oven", run_w=2000, leg="both")
    assert stack_va([oven], Leg.TWO, SPLIT) == 1000
    assert stack_va([oven], None, SPLIT) == 2000


def test_a_load_that_fits_says_so() -> None:
    assert what_if(PUMP, [KETTLE], LIMITS, SINGLE).answer == "fits"


def test_a_load_that_has_to_wait_names_the_one_to_switch_off() -> None:
    answer = what_if(PUMP, [OVEN], LIMITS, SINGLE)
    assert answer.answer == "after"
    assert answer.short == "after the bread oven"
    assert "Fits once the bread oven is off" in answer.sentence


def test_of_several_that_would_do_the_smallest_is_named() -> None:
    answer = what_if(PUMP, [load("8", "lamp", run_w=300), KETTLE], LIMITS, SINGLE)
    assert [x.name for x in answer.drop] == ["lamp"]


def test_a_load_that_does_not_fit_alone_is_not_for_this_source() -> None:
    assert what_if(BIG, [], LIMITS, SINGLE).short == "not on this source"


def test_a_leg_can_be_over_while_the_total_is_fine() -> None:
    limits = limits_of(set_of(4000), SPLIT, Site())
    answer = what_if(KETTLE, [load("9", "heater", run_w=1500)], limits, SPLIT)
    assert answer.crossing is not None
    assert answer.crossing.limit.leg is Leg.ONE


def test_the_whole_source_and_its_neutral_are_said_in_words() -> None:
    limits = limits_of(set_of(4000), SPLIT, Site())
    said = whole_source([load("1", "heater", run_w=1200)], limits[0], SPLIT).replace("\u202f", " ")
    assert said == "1 200 VA of 4 000 W, nameplate; neutral about 10 A"
    assert "neutral" not in whole_source([], LIMITS[0], SINGLE)


def test_the_next_start_is_the_largest_extra_that_is_off() -> None:
    assert next_to_start([OVEN, KETTLE, PUMP], []) is PUMP
    assert next_to_start([OVEN], ["1"]) is None


watts = st.lists(st.integers(20, 2500), min_size=1, max_size=8)


@given(watts, st.integers(1000, 6000))
def test_no_combination_comes_nearer_to_a_single_phase_step_by_more_than_the_price_of_switching(
    run_w: list[int], claim_w: int
) -> None:
    loads = [load(str(i), f"l{i}", run_w=w) for i, w in enumerate(run_w)]
    sums = [sum(c) for n in range(len(run_w) + 1) for c in itertools.combinations(run_w, n)]
    for step in ladder_steps(loads, Wanted(claim_w))[1:]:
        assert step.target_w is not None
        assert step.planned_w is not None
        nearest = min(abs(total - step.target_w) for total in sums)
        price = 0.002 * claim_w * len(run_w)
        assert abs(step.planned_w - step.target_w) <= nearest + price + 1e-6


def test_the_step_at_the_rating_is_held_ten_minutes() -> None:
    assert ladder_steps([OVEN], Wanted(2000))[-1].hold_s >= 600


def test_an_empty_roll_plans_nothing() -> None:
    with pytest.raises(NotEnoughReadings, match="loads"):
        ladder_steps([], Wanted(2000))
    with pytest.raises(NotEnoughReadings, match="start"):
        start_steps([OVEN], 50)


def test_each_motor_starts_alone_on_base_and_hot() -> None:
    lamp = load("7", "lamp", run_w=60)
    labels = [step.label for step in start_steps([lamp, PUMP], 50)]
    assert labels == ["sump pump, alone", "sump pump, on base load", "sump pump, hot again"]
    assert start_steps([lamp, PUMP], 50)[1].loads == ("7", "3")


def test_a_noise_walk_begins_with_the_background() -> None:
    steps = noise_steps(23)
    assert steps[0].label.startswith("background")
    assert any("23" in step.label for step in steps)


def test_a_start_that_was_seen_goes_before_what_the_nameplate_says_of_a_planned_one() -> None:
    pump = load("2", "sump pump", "motor", 480, pf=0.7)
    lamp = load("8", "lamp", run_w=300)
    limits = limits_of(set_of(1500, surge_w=1600), SINGLE, Site())
    assert what_if(pump, [], limits, SINGLE).answer == "never", "by the nameplate"
    lines = [(0.0, "+8"), (5, "300w 230v"), (10, "sump pump start 229v before 205v min !held"), (60, "-2")]
    started = started_on(found(lines, (pump, lamp), SINGLE).starts)
    assert started == {"2": 300.0}
    seen = what_if(pump, [lamp], limits, SINGLE, started)
    assert (seen.answer, seen.short) == ("fits", "")
    assert seen.sentence == "The sump pump was seen to start on 300\u202fW here, which is no less than now."
    more = what_if(pump, [lamp, load("9", "heater", run_w=400)], limits, SINGLE, started)
    assert (more.answer, more.short) == ("unknown", "tried on less")
    assert "700\u202fW are on now" in more.sentence
    over = what_if(pump, [load("9", "heater", run_w=1200)], limits, SINGLE, started)
    assert (over.answer, over.short) == ("after", "after the heater"), "running it is too much, however it starts"


def test_a_start_that_failed_on_less_is_no_proof_on_more() -> None:
    pump = load("2", "sump pump", "motor", 480, pf=0.7)
    lines = [(0.0, "500w 230v"), (10, "sump pump start 205v min !held"), (60, "-2"), (70, "200w"), (80, "sump pump start !stall")]  # fmt: skip
    lamp = load("8", "lamp", run_w=300)
    assert started_on(found(lines, (pump, lamp), SINGLE).starts).get("2", 0.0) <= 0.0
