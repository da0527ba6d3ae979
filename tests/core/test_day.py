"""The simulated day: energies, peaks, starts, and what must not matter."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from muster.core.brief import Brief, BringUp
from muster.core.day import upper
from muster.core.day.kernel import energies, highest_mean, longest_spell, runs_of
from muster.core.day.simulate import _batches, simulate
from muster.core.loads import Caller, Duty, Load
from muster.core.quantities import Grade
from muster.core.supply import Leg

from .build import SINGLE, SPLIT, load

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


@settings(max_examples=10, deadline=None)
@given(st.permutations(ROLL))
def test_the_order_of_the_roll_changes_nothing(order: list[Load]) -> None:
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
    at_once = simulate(motors, BRIEF, draws=10).worst_start
    by_hand = simulate(motors, replace(BRIEF, bring_up=BringUp.ONE_BY_ONE), draws=10).worst_start
    assert at_once is not None
    assert by_hand is not None
    assert at_once.moment_va == pytest.approx(4 * PUMP.start_total_va)
    assert by_hand.moment_va < at_once.moment_va


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
    assert longest_spell(times, level, 9.0) == 15
    assert longest_spell(times, level, 10.0) == 0


def test_batches_change_nothing(monkeypatch: pytest.MonkeyPatch) -> None:
    whole = simulate(ROLL, BRIEF, draws=9)
    monkeypatch.setattr("muster.core.day.simulate.DICE_AT_ONCE", 200)
    assert len(_batches(ROLL, BRIEF, 9)) > 1
    assert simulate(ROLL, BRIEF, draws=9) == whole


SECONDS = 2 * 3600


@settings(max_examples=25)
@given(st.integers(0, 2**32 - 1))
def test_the_kernel_says_what_a_plain_loop_of_seconds_says(seed: int) -> None:
    """One outage of 2 h, stepped second by second from the same runs: energies, highest minute, worst start."""
    brief = replace(BRIEF, outage_h=2)
    roll = (FREEZER, PUMP, replace(KETTLE, hours=(12, 13)), replace(LAMP, hours=(13,)))
    demand = simulate(roll, brief, draws=1, seed=seed)
    watts, va = np.zeros(SECONDS), np.zeros(SECONDS)
    runs: dict[str, list[tuple[float, float]]] = {}
    for one in sorted(roll, key=lambda x: x.key):
        rng = np.random.default_rng([seed, *one.key.encode()])
        most = int(np.ceil(SECONDS / ((one.duty.on_min + one.duty.off_min) * 60 * 0.8))) + 2 if one.duty.cycles else 1
        rolled = rng.uniform(-1, 1, (1, 2 * most + 1))
        hours = np.array([[(h - 12) * 3600.0, (h - 11) * 3600.0] for h in one.hours if h in (12, 13)])
        joined = np.array([[hours[0, 0], hours[-1, 1]]])
        at_once = one.calls_at_once and joined[0, 0] == 0
        out = np.zeros((200, 2))
        found = runs_of(
            one.duty.on_min * 60.0, one.duty.off_min * 60.0, 0.2, (3.0 if one.duty.cycles else 1.0) if at_once else 0.0,
            0.0, (rolled[0, 0] + 1) / 2, rolled[0, 1:].reshape(-1, 2), joined[:, 0].copy(), joined[:, 1].copy(),
            float(SECONDS), out,
        )  # fmt: skip
        runs[one.key] = [(low, high) for low, high in out[:found].tolist()]
        for low, high in out[:found]:
            inside = np.clip(np.minimum(np.arange(1, SECONDS + 1), high) - np.maximum(np.arange(SECONDS), low), 0, 1)
            watts += one.run_w * inside
            va += one.run_va * inside
    assert demand.total_wh == pytest.approx(watts.sum() / 3600)
    assert demand.hour_wh == pytest.approx([watts[:3600].sum() / 3600, watts[3600:].sum() / 3600])
    minute = np.convolve(watts, np.ones(60) / 60, "valid").max()
    assert minute - 1e-6 <= demand.peak_w <= minute + PUMP.run_w / 30
    for start in demand.starts:
        beneath = [
            sum(x.run_w for x in roll if x.key != start.load and any(low <= t < high for low, high in runs[x.key]))
            for t, _ in runs[start.load]
        ]
        assert start.base_w == pytest.approx(max(beneath))
