"""The simulated day: energies, peaks, starts, and what must not matter."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from muster.core.brief import Brief, BringUp
from muster.core.errors import OutOfRange
from muster.core.loads import Caller, Duty, Load, Part
from muster.core.outage import upper
from muster.core.outage.demand import wilson
from muster.core.outage.kernel import energies, highest_mean, longest_stretch, runs_of
from muster.core.outage.simulate import _batches, simulate
from muster.core.quantities import Grade
from muster.core.supply import Leg
from tests.examples import examples

from ..build import SINGLE, SPLIT, load
from .oracle import highest_mean as highest_mean_plainly
from .oracle import pieces_of, second_by_second, worst_starts

BRIEF = Brief(system=SINGLE, outage_h=6, outage_from_hour=12, bring_up=BringUp.AT_ONCE)
FREEZER = load("f", "freezer", "motor", 120, pf=0.7, duty=Duty(15, 30))
PUMP = load("p", "pump", "motor_loaded", 1150, pf=0.8, duty=Duty(3, 27))
LAMP = load("l", "lamp", run_w=60, hours=(13, 14))
KETTLE = load("k", "kettle", run_w=1500, duty=Duty(4, 56, Caller.HAND))
ROLL = (FREEZER, PUMP, LAMP, KETTLE)


def test_a_steady_load_uses_its_watts_times_its_hours() -> None:
    demand = simulate([LAMP], BRIEF, draws=3)
    assert demand.total_wh == pytest.approx(120)
    assert demand.hour_wh == pytest.approx((0, 60, 60, 0, 0, 0))
    assert demand.peak_w == pytest.approx(60)


def test_the_energy_of_the_day_is_the_sum_over_its_loads() -> None:
    together = simulate(ROLL, BRIEF, draws=20)
    alone = sum(simulate([x], BRIEF, draws=20).total_wh for x in ROLL)
    assert together.total_wh == pytest.approx(alone)
    assert together.total_wh == pytest.approx(sum(together.load_wh.values()))
    assert together.total_wh == pytest.approx(sum(together.hour_wh))


@settings(max_examples=examples(10), deadline=None)
@given(st.permutations(ROLL))
def test_the_order_of_the_list_changes_nothing(order: list[Load]) -> None:
    assert simulate(order, BRIEF, draws=5) == simulate(ROLL, BRIEF, draws=5)


def test_the_same_seed_gives_the_same_day_and_another_does_not() -> None:
    assert simulate(ROLL, BRIEF, draws=5) == simulate(ROLL, BRIEF, draws=5)
    assert simulate(ROLL, BRIEF, draws=5, seed=7).total_wh != simulate(ROLL, BRIEF, draws=5).total_wh


def test_a_thermostat_averages_to_its_duty_after_the_cold_start() -> None:
    long = replace(BRIEF, outage_h=200)
    demand = simulate([FREEZER], long, draws=40)
    first_cycle_extra_wh = 120 * 0.25 * 2
    assert demand.total_wh == pytest.approx(120 / 3 * 200 + first_cycle_extra_wh, rel=0.02)


def test_after_an_outage_a_thermostat_calls_at_once_and_for_three_times_as_long() -> None:
    demand = simulate([FREEZER], BRIEF, draws=30)
    first_hour = demand.hour_wh[0]
    assert 120 * 45 * 0.8 / 60 <= first_hour <= 120 * 45 * 1.2 / 60 + 120 * 0.25


def test_a_kettle_does_not_switch_itself_on() -> None:
    assert simulate([KETTLE], BRIEF, draws=5).all_at_once_va == 0
    assert simulate([PUMP], BRIEF, draws=5).all_at_once_va == pytest.approx(PUMP.start_total_va)


def test_all_at_once_stacks_every_start_and_one_by_one_does_not() -> None:
    motors = [replace(PUMP, key=str(i), name=f"pump {i}") for i in range(4)]
    at_once = simulate(motors, BRIEF, draws=20)
    by_hand = simulate(motors, replace(BRIEF, bring_up=BringUp.ONE_BY_ONE), draws=100)
    assert {frozenset((pair.load, pair.other)) for pair in at_once.together} >= {frozenset(("0", "1"))}
    assert at_once.together[0].moment_va == pytest.approx(4 * PUMP.start_total_va)
    assert at_once.together[0].share == 1
    assert all(pair.share < 1 for pair in by_hand.together)


def test_a_start_is_asked_of_a_source_with_what_runs_beneath_it_and_no_other_start_in_it() -> None:
    motors = [replace(PUMP, key=str(i), name=f"pump {i}") for i in range(2)]
    for start in simulate(motors, BRIEF, draws=10).starts:
        assert start.moment_va == pytest.approx(PUMP.start_total_va + PUMP.run_va)


@given(st.integers(0, 2000), st.integers(1, 2000))
def test_the_ends_of_a_share_hold_it_and_lie_within_none_and_all(hits: int, draws: int) -> None:
    low, high = wilson(min(hits, draws), draws)
    assert 0 <= low <= min(hits, draws) / draws <= high <= 1 + 1e-12


def test_29_of_2_000_is_the_first_share_that_is_surely_above_1_per_cent() -> None:
    assert wilson(29, 2000)[0] > 0.01 > wilson(28, 2000)[0]


def test_the_base_of_a_start_is_what_runs_beneath_it() -> None:
    lamp = load("l", "lamp", run_w=500)
    demand = simulate([lamp, PUMP], BRIEF, draws=5)
    assert demand.starts[0].base_w == pytest.approx(500)
    assert demand.starts[0].moment_va == pytest.approx(500 + PUMP.start_total_va)


def test_legs_are_counted_apart_and_the_neutral_carries_the_difference() -> None:
    split = replace(BRIEF, system=SPLIT)
    one, both = load("1", "heater", run_w=1200, leg=Leg.ONE), load("2", "oven", run_w=2000, leg=Leg.BOTH)
    demand = simulate([one, both], split, draws=2)
    assert demand.leg_w == pytest.approx((2200, 1000))
    assert demand.neutral_a == pytest.approx(10)


def test_an_empty_roll_asks_nothing() -> None:
    demand = simulate([], BRIEF)
    assert (demand.peak_w, demand.total_wh, demand.starts) == (0, 0, ())


def test_what_is_not_measured_is_raised_and_what_is_stays() -> None:
    guessed = replace(PUMP, run_grade=Grade.D)
    assert [x.run_w for x in upper([PUMP, guessed])] == pytest.approx([1150, 1437.5])


levels = st.lists(st.tuples(st.floats(0.5, 300), st.floats(0, 5000)), min_size=1, max_size=12)


@given(levels)
def test_the_highest_minute_is_that_of_a_plain_scan(parts: list[tuple[float, float]]) -> None:
    times = np.concatenate([[0.0], np.cumsum([d for d, _ in parts])])
    level = np.array([w for _, w in parts] + [parts[-1][1]])
    if times[-1] <= 60:
        return
    begins = np.linspace(0, times[-1] - 60, 4000)
    energy = np.concatenate([[0.0], np.cumsum(level[:-1] * np.diff(times))])
    plain = max((np.interp(begins + 60, times, energy) - np.interp(begins, times, energy)) / 60)
    found = highest_mean(times, level, energies(times, level), 60.0)
    assert found == pytest.approx(plain, rel=0.02, abs=5)
    assert found >= plain - 1e-6 * max(1, plain)


def test_the_longest_spell_is_unbroken() -> None:
    times, level = np.array([0.0, 10, 20, 25, 60]), np.array([5.0, 9, 9, 2, 2])
    assert longest_stretch(times, level, 9.0) == 15
    assert longest_stretch(times, level, 10.0) == 0


def test_batches_change_nothing(monkeypatch: pytest.MonkeyPatch) -> None:
    whole = simulate(ROLL, BRIEF, draws=9)
    monkeypatch.setattr("muster.core.outage.simulate.RANDOM_AT_ONCE", 200)
    assert len(_batches(ROLL, BRIEF, 9)) > 1
    assert simulate(ROLL, BRIEF, draws=9) == whole


@st.composite
def outages(draw: st.DrawFn) -> tuple[tuple[Load, ...], Brief]:
    """Any roll over any outage to two weeks: hours in stretches, parts, programs, both supplies, either way back."""
    outage_h = draw(st.sampled_from([1, 2.5, 6, 24, 30.25, 72, 168, 240, 336]))
    system = draw(st.sampled_from([SINGLE, SPLIT]))
    shortest_min = max(1.0, outage_h / 12)
    minutes = st.floats(shortest_min, 180)
    duties = st.one_of(
        st.builds(Duty, minutes, st.just(0.0), st.sampled_from(Caller)),
        st.builds(Duty, minutes, minutes, st.sampled_from(Caller)),
        st.builds(Duty, minutes, st.just(0.0), st.sampled_from(Caller), once=st.sampled_from([True])),
    )
    parts = st.sampled_from(
        [
            (),
            (
                Part("inducer", 60, 0.7, start_x=4, start_s=1),
                Part("igniter", 380, from_s=20, for_s=35),
                Part("blower", 310, 0.8, 60, start_x=4, start_s=2),
            ),
        ]
    )
    loads = tuple(
        load(
            str(i),
            f"load {i}",
            draw(st.sampled_from(["heater", "motor", "motor_loaded", "electronic", "fan"])),
            draw(st.floats(20, 3000)),
            pf=draw(st.sampled_from([1.0, 0.7])),
            duty=draw(duties),
            parts=draw(parts),
            hours=tuple(sorted(draw(st.sets(st.integers(0, 23), min_size=1)))),
            leg=draw(st.sampled_from(Leg)) if system is SPLIT else Leg.ONE,
        )
        for i in range(draw(st.integers(1, 4)))
    )
    brief = Brief(
        system=system,
        outage_h=outage_h,
        outage_from_hour=draw(st.integers(0, 23)),
        bring_up=draw(st.sampled_from(BringUp)),
    )
    return loads, brief


def held_against_the_oracle(roll: tuple[Load, ...], brief: Brief, seed: int) -> None:
    """One outage by the kernel and by the plain reckoning: every figure alike."""
    demand = simulate(roll, brief, draws=1, seed=seed)
    pieces, horizon_s = pieces_of(roll, brief, seed), brief.outage_h * 3600
    whole = np.ones(len(pieces))
    energy = second_by_second(pieces, horizon_s, whole)
    hours = [float(energy[i : i + 3600].sum() / 3600) for i in range(0, energy.size, 3600)]
    assert demand.total_wh == pytest.approx(energy.sum() / 3600, abs=1e-6)
    assert demand.hour_wh == pytest.approx(hours, abs=1e-3)
    assert demand.peak_w == pytest.approx(highest_mean_plainly(pieces, whole, 60, horizon_s), abs=1e-6)
    assert demand.longest_hour_w == pytest.approx(highest_mean_plainly(pieces, whole, 3600, horizon_s), abs=1e-6)
    if brief.system.legs == 2:
        for leg, w in zip((Leg.ONE, Leg.TWO), demand.leg_w, strict=True):
            share = np.array([piece.load.share_on(leg) for piece in pieces])
            assert w == pytest.approx(highest_mean_plainly(pieces, share, 60, horizon_s), abs=1e-6)
    worst = worst_starts(pieces, brief) if pieces else {}
    assert {start.load for start in demand.starts} == set(worst)
    for start in demand.starts:
        plain = worst[start.load]
        for name in ("base_w", "base_va", "moment_va", "leg_moment_va"):
            assert getattr(start, name) == pytest.approx(getattr(plain, name), abs=1e-6), name


@settings(max_examples=examples(12))
@given(outages(), st.integers(0, 2**32 - 1))
def test_the_kernel_says_what_a_plain_reckoning_says(question: tuple[tuple[Load, ...], Brief], seed: int) -> None:
    held_against_the_oracle(*question, seed)


def test_a_load_in_alternate_hours_of_a_week_uses_all_of_them() -> None:
    odd = load(run_w=1000, hours=tuple(range(0, 24, 2)))
    assert simulate([odd], replace(BRIEF, outage_h=168), draws=1).total_wh == pytest.approx(84_000)


def test_two_pumps_in_four_stretches_for_ten_days_stay_within_their_room() -> None:
    hours = (6, 7, 12, 17, 18, 21, 22)
    pumps = tuple(replace(PUMP, key=k, hours=hours, duty=Duty(60, 0)) for k in "ab")
    held_against_the_oracle(pumps, replace(BRIEF, outage_h=240), 1911)


def test_a_program_longer_than_its_window_does_not_run_twice_at_once() -> None:
    washer = load(run_w=2000, hours=tuple(range(0, 24, 2)), duty=Duty(150, 0, Caller.HAND, once=True))
    assert simulate([washer], replace(BRIEF, outage_h=48), draws=20).peak_w == pytest.approx(2000)


def test_what_does_not_fit_is_an_error_and_never_left_out() -> None:
    random_draws, edges = np.zeros((2, 2)), np.array([0.0])
    with pytest.raises(IndexError, match="room"):
        runs_of(
            60.0,
            0.0,
            0.2,
            0.0,
            0.0,
            0.0,
            random_draws,
            np.arange(3) * 10.0,
            np.arange(3) * 10.0 + 5,
            100.0,
            np.zeros((2, 2)),
        )
    with pytest.raises(IndexError, match="random"):
        runs_of(10.0, 10.0, 0.2, 0.0, 0.0, 0.0, random_draws, edges, edges + 100, 100.0, np.zeros((9, 2)))


def test_loads_that_switch_more_often_than_memory_holds_are_refused() -> None:
    restless = load(duty=Duty(0.001, 0.001))
    with pytest.raises(OutOfRange, match="switches up to"):
        simulate([restless], replace(BRIEF, outage_h=336), draws=1)
