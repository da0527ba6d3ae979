"""The character: what starts meet, how long an overload is held, sessions weighed together, loads predicted."""

from __future__ import annotations

import cmath
import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from muster.core.character import Dated, character_of, predictions
from muster.core.character.character import SessionEstimate, apart
from muster.core.character.hold_curve import HoldPoint, fit_hold, fit_hold_within, used
from muster.core.character.impedance import Hit, fit_start_model, impedance_of, volts_at_start
from muster.core.character.predict import checked, how_good
from muster.core.character.weighing import combine
from muster.core.errors import NotEnoughReadings, OutOfRange
from muster.core.findings import findings_of
from muster.core.loads import Load
from muster.core.quantities import Bound, Grade, Value
from muster.core.sources import Claims, Site, Source, SourceKind

from ..build import SINGLE, load, session

# How long it holds


def test_the_worked_example_of_a_hold_curve() -> None:
    curve = fit_hold([HoldPoint(1150, 18, True), HoldPoint(1350, 2.4, True)], 1000)  # noqa: FBT003
    assert curve.k_s == pytest.approx(0.198, abs=0.0005)
    assert curve.n == pytest.approx(2.378, abs=0.0005)


def test_a_level_that_never_let_go_draws_the_curve_up() -> None:
    tripped = [HoldPoint(1200, 10, True), HoldPoint(1400, 2, True), HoldPoint(1300, 4, True)]  # noqa: FBT003
    without = fit_hold(tripped, 1000)
    with_it = fit_hold([*tripped, HoldPoint(1100, 400, False)], 1000)  # noqa: FBT003
    assert with_it.hold_s(1100) > without.hold_s(1100)
    assert with_it.hold_s(1100) >= 0.6 * 400


def test_a_short_stand_says_nothing_against_the_curve() -> None:
    tripped = [HoldPoint(1200, 10, True), HoldPoint(1400, 2, True)]  # noqa: FBT003
    without, with_it = fit_hold(tripped, 1000), fit_hold([*tripped, HoldPoint(1200, 0.5, False)], 1000)  # noqa: FBT003
    assert with_it.hold_s(1200) == pytest.approx(without.hold_s(1200), rel=0.05)


@given(st.floats(0.05, 2), st.floats(1.2, 3.2))
def test_points_on_a_curve_give_it_back(k: float, n: float) -> None:
    points = [HoldPoint(1000 * x, k * (x - 1) ** -n, True) for x in (1.1, 1.2, 1.35, 1.6)]  # noqa: FBT003
    curve = fit_hold(points, 1000)
    assert (curve.k_s, curve.n) == (pytest.approx(k, rel=1e-6), pytest.approx(n, rel=1e-6))
    low, high = curve.band_s(1250)
    assert low < curve.hold_s(1250) < high


def test_what_is_held_for_ever_is_held_for_ever_and_one_point_takes_a_usual_steepness() -> None:
    curve = fit_hold([HoldPoint(1300, 5, True)], 1000)  # noqa: FBT003
    assert curve.hold_s(1000) == math.inf
    assert curve.hold_s(1300) == pytest.approx(5)
    assert curve.sigma is None
    with pytest.raises(NotEnoughReadings, match="tripped"):
        fit_hold([HoldPoint(1300, 600, False)], 1000)  # noqa: FBT003


def test_a_changing_load_uses_up_patience_and_gets_it_back() -> None:
    curve = fit_hold([HoldPoint(1150, 18, True), HoldPoint(1350, 2.4, True)], 1000)  # noqa: FBT003
    assert used(curve, [(1150, 9)]) == pytest.approx(0.5)
    assert used(curve, [(1150, 9), (1350, 1.2)]) == pytest.approx(1)
    assert used(curve, [(1150, 9), (500, 600), (1350, 1.2)]) < 1


def test_one_level_that_tripped_is_as_steep_as_what_stood_below_it_asks_for() -> None:
    usual = fit_hold([HoldPoint(1300, 5, True)], 1000)  # noqa: FBT003
    stood = fit_hold([HoldPoint(1300, 5, True), HoldPoint(1100, 200, False)], 1000)  # noqa: FBT003
    assert usual.hold_s(1100) < 200 <= stood.hold_s(1100) * 1.001
    assert stood.hold_s(1300) == pytest.approx(5)


def test_what_is_held_for_ever_widens_the_band_by_how_likely_it_is() -> None:
    points = [HoldPoint(1250, 8, True), HoldPoint(1500, 1.2, True)]  # noqa: FBT003
    known, loose = fit_hold(points, 1000), fit_hold_within(points, 1000, 900, 1150)
    ends = [fit_hold(points, w).band_s(1160) for w in (900, 1149)]
    low, high = loose.band_s(1160)
    assert low < known.band_s(1160)[0]
    assert high > known.band_s(1160)[1]
    assert math.log(high / low) < math.log(max(top for _, top in ends) / min(least for least, _ in ends))


def test_three_levels_that_tripped_say_themselves_what_is_held_for_ever() -> None:
    points = [HoldPoint(1100 * x, 0.2 * (x - 1) ** -2.4, True) for x in (1.1, 1.2, 1.35, 1.6)]  # noqa: FBT003
    curve = fit_hold_within(points, 1000, 900, 1190)
    assert curve.held_w == pytest.approx(1100, rel=0.03)
    low, high = curve.band_s(1430)
    assert low < 0.2 * 0.3**-2.4 < high


# What starts meet


def a_hit(z: complex, standstill_a: float, pf: float = 0.5, v: float = 230.0, base_a: float = 0.0) -> Hit:
    """A start behind an impedance, solved in phasors; the base is resistive."""
    y_base = base_a / v
    y = cmath.rect(standstill_a / v, -math.acos(pf))
    emf = v * (1 + z * y_base) if base_a else complex(v)
    before, lowest = emf / (1 + z * y_base), emf / (1 + z * (y + y_base))
    return Hit(
        abs(before),
        abs(lowest),
        abs(before) * y_base,
        abs(lowest * (y + y_base)),
        1.0,
        _pf(lowest * (y + y_base), lowest),
        v,
    )


def _pf(amps: complex, volts: complex) -> float:
    return math.cos(cmath.phase(amps) - cmath.phase(volts))


def test_the_worked_example_of_a_start_behind_an_impedance() -> None:
    assert volts_at_start(230, 1.1, 38 / 230) == pytest.approx(194.6, abs=0.05)
    with pytest.raises(OutOfRange):
        volts_at_start(0, 1.1, 38 / 230)


def test_what_runs_beneath_a_start_holds_the_volts_up_a_little() -> None:
    """The base draws less as the volts fall, and it is in the volts before: E stands higher than they do."""
    e_v, z, y, y_base = 240.0, 1.0, 0.15, 0.05
    before_v = e_v / (1 + z * y_base)
    assert volts_at_start(before_v, z, y, y_base) == pytest.approx(e_v / (1 + z * (y + y_base)))
    assert volts_at_start(before_v, z, y) < volts_at_start(before_v, z, y, y_base)


@given(st.floats(0.2, 2.0), st.floats(8, 60), st.floats(0, 12))
def test_an_impedance_is_found_whatever_ran_beneath(z: float, amps: float, base: float) -> None:
    assert impedance_of(a_hit(cmath.rect(z, math.acos(0.5)), amps, base_a=base)) == pytest.approx(z, rel=0.02)


def test_an_impedance_predicts_a_start_of_another_size() -> None:
    z = complex(0.4, 0.9)
    start_model = fit_start_model([a_hit(z, 15), a_hit(z, 30)])
    assert start_model.kind == "impedance"
    truth = a_hit(z, 45)
    assert start_model.lowest_v(230, 0, 45, 230, 0.5) == pytest.approx(truth.v_min, abs=2.0)


def test_resistance_and_reactance_come_apart_at_two_power_factors() -> None:
    z = complex(0.3, 1.0)
    start_model = fit_start_model([a_hit(z, 20, 1.0), a_hit(z, 30, 0.5), a_hit(z, 15, 0.4), a_hit(z, 25, 0.9)])
    assert start_model.r_ohm == pytest.approx(0.3, abs=0.01)
    assert start_model.x_ohm == pytest.approx(1.0, abs=0.01)
    assert start_model.carries_over(1.0)
    for pf, base_a in ((1.0, 0.0), (0.5, 0.0), (0.7, 8.0)):
        truth = a_hit(z, 35, pf, base_a=base_a)
        assert start_model.lowest_v(truth.v_before, truth.i_before, 35, 230, pf) == pytest.approx(truth.v_min, abs=0.1)


def test_two_starts_at_two_angles_are_enough() -> None:
    start_model = fit_start_model([a_hit(complex(0.3, 1.0), 20, 1.0), a_hit(complex(0.3, 1.0), 30, 0.5)])
    assert (start_model.r_ohm, start_model.x_ohm) == (pytest.approx(0.3, abs=0.01), pytest.approx(1.0, abs=0.01))


def test_a_resistive_step_alone_does_not_carry_over_to_a_pump() -> None:
    start_model = fit_start_model([a_hit(complex(0.3, 1.0), 20, 1.0)])
    assert start_model.z_ohm == pytest.approx(0.33, abs=0.03)
    assert not start_model.carries_over(0.5)


def folded(standstill_a: float, limit_a: float = 25.0) -> Hit:
    lowest = min(230.0, 230 * limit_a / standstill_a)
    return Hit(230, lowest, 0, min(limit_a, standstill_a), 1.0, 0.5, 230, 0.2, min(limit_a, standstill_a))


def test_a_source_that_folds_back_is_known_by_starts_of_unlike_size() -> None:
    start_model = fit_start_model([folded(30), folded(45), folded(60)])
    assert start_model.kind == "limit"
    assert start_model.limit_a == pytest.approx(25, rel=0.01)
    assert start_model.lowest_v(230, 0, 40, 230, 0.5) == pytest.approx(230 * 25 / 40, abs=1)
    assert start_model.lowest_v(230, 0, 20, 230, 0.5) == 230


def test_starts_of_one_size_cannot_tell_and_an_impedance_is_taken() -> None:
    assert fit_start_model([folded(40), folded(41)]).kind == "impedance"


def test_a_limit_below_what_was_carried_is_none() -> None:
    assert fit_start_model([folded(30), folded(45)], carried_a=26).kind == "impedance"


# Sessions weighed together


def said(value: float, u: float, at: str = "2026-10-01", bound: Bound | None = None) -> SessionEstimate:
    return SessionEstimate(value=Value(value, "w", u, bound, Grade.A), session="Ladder", at=at, basis="a reading")


def test_the_surer_session_weighs_more_and_a_meter_read_twice_is_no_truer() -> None:
    both = combine("idle_w", "Idle", [said(20, 1), said(22, 4)])
    assert 20 < both.value.value < 20.5
    assert both.value.u == pytest.approx(1.0, abs=0.05)
    assert both.apart == ""


def test_sessions_that_disagree_widen_the_band_and_are_told() -> None:
    both = combine("idle_w", "Idle", [said(20, 0.5, "2026-10-01"), said(26, 0.5, "2026-11-02")])
    assert both.value.u is not None
    assert both.value.u > 2
    assert "2026-10-01" in both.apart
    assert both.at == "2026-11-02"


def test_a_bound_gives_way_to_a_value_and_the_tightest_of_bounds_stands() -> None:
    assert combine("x", "X", [said(10, 0, bound=Bound.AT_LEAST), said(12, 1)]).value.bound is None
    assert combine("x", "X", [said(10, 0, bound=Bound.AT_LEAST), said(14, 0, bound=Bound.AT_LEAST)]).value.value == 14
    assert combine("x", "X", [said(10, 0, bound=Bound.AT_MOST), said(14, 0, bound=Bound.AT_MOST)]).value.value == 10


def test_another_day_differs_when_the_bands_lie_apart() -> None:
    one, other = combine("x", "X", [said(10, 1)]), combine("x", "X", [said(13, 1)])
    assert apart(one, other)
    assert not apart(one, combine("x", "X", [said(11.5, 1)]))


# A whole character

HEATER, PUMP, SAW = (
    load("1", "heater", run_w=1000),
    load("2", "pump", "motor_loaded", 400, pf=0.8, start_va=2400, start_grade=Grade.A),
    load("3", "saw", "motor", 700, pf=0.7, start_va=4200, start_grade=Grade.A),
)
SET = Source("the set", SourceKind.OPEN_FRAME, Claims(3000))


def dated(
    lines: list[tuple[float, str]],
    protocol: str = "ladder",
    at: str = "2026-10-01",
    loads: tuple[Load, ...] = (HEATER, PUMP, SAW),
) -> Dated:
    run = session(lines, loads, SINGLE, protocol)
    return Dated(findings_of(run, {x.key: x for x in loads}, SINGLE, 20, source=SET), protocol.capitalize(), at)


LADDER = [
    (0.0, "235.0v 0w 52.0hz"),
    (20.0, "+1"),
    (40.0, "233.0v 1000w 51.5hz"),
    (700.0, "-1"),
    (800.0, "235.1v 0w 52.0hz"),
]
STARTS = [
    (0.0, "235.0v 0w"),
    (10.0, "pump start @multimeter 235.0v before 222.0v min 234.0v settled @clamp 10.0a max !held"),
    (30.0, "-2"),
    (40.0, "pump start @multimeter 235.0v before 221.8v min 234.0v settled @clamp 10.0a max !held"),
    (60.0, "-2"),
]


def test_a_load_never_tried_is_predicted_with_its_band() -> None:
    character = character_of(SET, SINGLE, Site(), [dated(LADDER), dated(STARTS, "starts")])
    (saw,) = predictions(character, [SAW], SINGLE)
    assert saw.lowest is not None
    # The pump's 2,400 VA cost 13 V; the saw's 4,200 VA cost about 22 V of 235.
    assert saw.lowest.value == pytest.approx(213, abs=3)
    assert saw.lowest.u is not None
    assert saw.lowest.grade is Grade.B
    assert saw.starts is True
    assert "will start" in saw.sentence


def test_a_start_below_what_it_needs_is_predicted_as_a_stall() -> None:
    giant = load("9", "giant", "motor_loaded", 3000, pf=0.8, start_va=24_000, start_grade=Grade.A)
    character = character_of(SET, SINGLE, Site(), [dated(LADDER), dated(STARTS, "starts")])
    (predicted,) = predictions(character, [giant], SINGLE)
    assert predicted.starts is False
    assert "will stall" in predicted.sentence


def test_nothing_known_predicts_nothing() -> None:
    character = character_of(SET, SINGLE, Site(), [])
    (predicted,) = predictions(character, [SAW], SINGLE)
    assert predicted.lowest is None
    assert predicted.starts is None
    assert predicted.sentence == "nothing is known that would predict it"


def test_the_character_says_how_well_it_predicted_what_was_tried() -> None:
    checks = checked(SINGLE, [dated(LADDER), dated(STARTS, "starts")])
    assert len(checks) == 2
    assert all(one.within for one in checks)
    assert how_good(checks).startswith("Of 2 starts")
    assert how_good(()) == ""


def test_letting_go_below_what_was_held_is_said_by_both() -> None:
    held = dated([(0.0, "+1 +2"), (10.0, "233v 2900w"), (690.0, "2900w"), (700.0, "-1 -2")])
    tripped = dated([(0.0, "+1 +2"), (10.0, "233v 2500w"), (60.0, "!trip breaker")], at="2026-10-02")
    by_key = character_of(SET, SINGLE, Site(), [held, tripped]).by_key
    assert "another time" in by_key["held_w"].apart
    assert "another time" in by_key["trip_w"].apart


def test_running_empty_is_not_a_limit() -> None:
    ran_out = dated([(0.0, "+1"), (10.0, "233v 300w"), (7200.0, "!trip empty, screen dark")], "endurance")
    assert "trip_w" not in character_of(SET, SINGLE, Site(), [ran_out]).by_key
