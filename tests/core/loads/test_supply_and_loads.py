"""Legs, neutral, planning figures, duty, start order."""

from __future__ import annotations

import itertools

import pytest
from hypothesis import example, given
from hypothesis import strategies as st

from muster.core.errors import MusterError, OutOfRange, UnknownChoice
from muster.core.loads import KINDS, Duty, Load, Tier
from muster.core.loads.line_parser import parse_hours, parse_load_line
from muster.core.shelf import SHELF, find_on_shelf
from muster.core.stacking.order import start_order
from muster.core.supply import SYSTEMS, Leg, System, neutral_a

from ..build import load


def test_the_neutral_carries_the_difference_of_the_legs() -> None:
    assert neutral_a(20, 14) == pytest.approx(6)
    assert neutral_a(15, 15) == pytest.approx(0, abs=1e-12)


def test_unlike_power_factors_leave_current_in_the_neutral_of_balanced_legs() -> None:
    assert neutral_a(10, 10, 1.0, 0.5) == pytest.approx(10)


def test_a_system_needs_believable_volts() -> None:
    with pytest.raises(OutOfRange, match="v_nominal"):
        System(3, 50)


def test_systems_are_written_as_the_trade_writes_them() -> None:
    assert SYSTEMS["split-120-240-60"].label == "120/240 V 60 Hz split-phase"


@pytest.mark.parametrize(
    ("kind", "start_x", "start_s", "start_pf"),
    [
        ("heater", 1.0, 0.0, 1.0),
        ("filament", 10, 0.05, 1.0),
        ("motor", 6, 0.4, 0.5),
        ("motor_loaded", 6, 0.8, 0.5),
        ("compressor", 5.5, 0.4, 0.5),
        ("compressor_soft", 2.2, 1.0, 0.6),
        ("compressor_inverter", 1.1, 30, 0.95),
        ("universal", 2.5, 0.4, 0.8),
        ("fan", 4, 2, 0.5),
        ("microwave", 1.8, 0.1, 0.6),
    ],
)
def test_planning_starts_are_multiples_of_running_va(
    kind: str, start_x: float, start_s: float, start_pf: float
) -> None:
    figures = KINDS[kind]
    assert (figures.start_x, figures.start_s, figures.start_pf) == (start_x, start_s, start_pf)


def test_a_measured_start_beats_the_planning_figure() -> None:
    assert load(kind="motor", run_w=520, pf=0.7).start_total_va == pytest.approx(6 * 520 / 0.7)
    assert load(kind="motor", run_w=520, pf=0.7, start_va=2600).start_total_va == 2600


def test_an_electronic_inrush_is_not_a_start() -> None:
    assert not load(kind="electronic", pf=0.8).has_start(60)
    assert load(kind="motor", pf=0.7).has_start(50)


def test_a_heater_has_no_start() -> None:
    assert not load().has_start(50)


@pytest.mark.parametrize("field", ["run_w", "pf"])
def test_a_load_refuses_what_cannot_be(field: str) -> None:
    with pytest.raises(OutOfRange, match=field):
        load(**{field: -40})


def test_an_unknown_kind_names_those_there_are() -> None:
    with pytest.raises(UnknownChoice, match="motor"):
        load(kind="perpetuum")


def test_a_days_energy_is_run_times_duty_times_hours() -> None:
    assert load(run_w=120, duty=Duty(15, 30)).day_wh == pytest.approx(40 * 24)


loads_strategy = st.lists(
    st.builds(lambda run, x: (run, run * x), st.floats(10, 3000, allow_nan=False), st.floats(1, 8, allow_nan=False)),
    min_size=1,
    max_size=6,
)


@given(loads_strategy)
@example([(980.0, 1000.0), (1000.0, 1030.0)])
def test_largest_extra_first_keeps_the_highest_moment_lowest_of_all_orders(pairs: list[tuple[float, float]]) -> None:
    loads = [load(str(i), f"m{i}", "motor", run, start_va=start) for i, (run, start) in enumerate(pairs)]

    def highest(order: tuple[Load, ...]) -> float:
        on, most = 0.0, 0.0
        for x in order:
            most = max(most, on + x.start_total_va)
            on += x.run_va
        return most

    best = min(highest(order) for order in itertools.permutations(loads))
    assert highest(start_order(loads)) == pytest.approx(best)


def test_the_shelf_has_at_least_25_kinds_of_appliance_and_all_of_them_stand() -> None:
    assert len(SHELF) >= 25
    for entry in SHELF:
        assert entry.kind in KINDS
        assert 0 < entry.planning_pf <= 1


def test_the_longest_name_on_the_shelf_wins() -> None:
    assert find_on_shelf("chest freezer").slug == "chest-freezer"  # type: ignore[union-attr]
    assert find_on_shelf("old chest freezer in the porch").slug == "chest-freezer"  # type: ignore[union-attr]
    assert find_on_shelf("lathe") is None


def test_one_line_adds_a_load_from_the_shelf_with_what_was_said_beside_it() -> None:
    read = parse_load_line("chest freezer 130w l2 should 6-22 15/30", "3", 120)
    assert (read.load.run_w, read.load.leg, read.load.tier) == (130, Leg.TWO, Tier.SHOULD)
    assert read.load.hours == tuple(range(6, 22))
    assert read.load.duty.share == pytest.approx(1 / 3)
    assert "the shelf's" in read.understood


def test_locked_rotor_amps_across_both_legs_are_at_the_full_voltage() -> None:
    read = parse_load_line("borehole pump both lra46", "1", 120)
    assert read.load.start_va == pytest.approx(240 * 46)


def test_hours_may_pass_midnight() -> None:
    assert parse_hours("22-2") == (0, 1, 22, 23)


def test_a_load_unknown_to_the_shelf_must_say_its_watts() -> None:
    with pytest.raises(MusterError, match="say its watts"):
        parse_load_line("lathe l1", "1", 230)
    assert parse_load_line("lathe motor 750w", "1", 230).load.kind == "motor"


@given(st.text(max_size=60))
def test_any_line_is_either_a_load_or_one_clear_error(line: str) -> None:
    try:
        read = parse_load_line(line, "1", 230)
    except MusterError:
        return
    assert read.load.run_w > 0
