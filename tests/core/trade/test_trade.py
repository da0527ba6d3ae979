"""The small relations of the trade against worked examples, tables and their own identities."""

from __future__ import annotations

import math
from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from muster.core.errors import MusterError
from muster.core.trade import batteries, heat, leads, motors, pair, waves
from muster.core.trade import pv_strings as panels
from muster.core.trade.leads import AMPACITY, Laid
from muster.core.trade.pv_strings import SolarInput, SolarPanel

# Leads


def test_fifteen_metres_of_2_5_at_13_amps_drop_2_69_volts() -> None:
    assert round(leads.lead_ohm(15, 2.5) * 13, 2) == 2.69


@pytest.mark.parametrize(
    ("gauge", "mm2"),
    [("4", 21.15), ("4/0", 107.2), ("12", 3.309), ("10", 5.261), ("18", 0.8231), ("2/0", 67.43), ("36", 0.01267)],
)
def test_gauges_have_the_areas_of_astm_b258(gauge: str, mm2: float) -> None:
    assert leads.awg_mm2(gauge) == pytest.approx(mm2, rel=1e-3)


@pytest.mark.parametrize(
    ("laid", "size", "amps"),
    [
        (Laid.WALL_60, "14", 15),
        (Laid.WALL_60, "10", 30),
        (Laid.WALL_75, "8", 50),
        (Laid.WALL_75, "4/0", 230),
        (Laid.WALL_90, "6", 75),
        (Laid.CORD_AWG, "16", 13),
        (Laid.CORD_AWG, "12", 25),
        (Laid.CORD_MM2, "1.5", 16),
        (Laid.CORD_MM2, "2.5", 25),
        (Laid.B1, "2.5", 24),
        (Laid.B1, "6", 41),
        (Laid.B1, "16", 76),
    ],
)
def test_ampacities_are_those_of_their_tables(laid: Laid, size: str, amps: float) -> None:
    assert leads.ampacity_a(size, laid) == amps


@pytest.mark.parametrize("laid", list(Laid))
def test_a_thicker_lead_of_a_table_carries_more(laid: Laid) -> None:
    rows = [(leads.area_mm2(size, laid), amps) for size, amps in AMPACITY[laid].items()]
    assert all(a[0] < b[0] and a[1] < b[1] for a, b in pairwise(rows))


@given(st.floats(0, 300), st.sampled_from(list(Laid)))
def test_the_size_chosen_is_the_smallest_that_carries(amps: float, laid: Laid) -> None:
    size = leads.size_for(amps, laid)
    able = [name for name, most in AMPACITY[laid].items() if most >= amps]
    assert size == (able[0] if able else None)


@given(st.floats(0.1, 500), st.floats(1, 700))
def test_a_fuse_lets_the_load_run_and_guards_the_lead(amps: float, lead_a: float) -> None:
    chosen = leads.fuse_for(amps, lead_a)
    between = [f for f in leads.FUSES_A if 1.25 * amps <= f <= lead_a]
    assert chosen.fuse_a == (min(between) if between else None)


def test_the_battery_current_is_at_its_lowest_volts() -> None:
    assert leads.dc_amps(1500, 90, 11) == pytest.approx(151.5, abs=0.05)
    with pytest.raises(MusterError, match="conversion_pct"):
        leads.dc_amps(1500, 0, 11)


@pytest.mark.parametrize(
    "wrong",
    [
        lambda: leads.awg_mm2("x"),
        lambda: leads.awg_mm2("5/0"),
        lambda: leads.lead_ohm(0, 1),
        lambda: leads.lead_ohm(1, 1, "tin"),
        lambda: leads.ampacity_a("3", Laid.B1),
        lambda: leads.fuse_for(-1, 5),
        lambda: leads.fuse_for(5, 0),
    ],
)
def test_what_cannot_be_is_refused(wrong: object) -> None:
    with pytest.raises(MusterError):
        wrong()  # type: ignore[operator]


# Motors and governors


def test_code_letters_rise_through_the_alphabet_and_the_last_is_open() -> None:
    figures = list(motors.CODE_KVA_PER_HP.values())
    assert all(a < b for a, b in pairwise(figures))
    assert motors.code_letter_va("g", 1) == 6290
    assert not {"I", "O", "Q"} & set(motors.CODE_KVA_PER_HP)
    with pytest.raises(MusterError, match="letter"):
        motors.code_letter_va("I", 1)


@given(st.floats(10, 100), st.sampled_from([2, 4, 6, 8]))
def test_speed_and_frequency_are_each_others_inverse(hz: float, poles: int) -> None:
    assert motors.hz_of(motors.rpm_of(hz, poles), poles) == pytest.approx(hz)


def test_two_poles_at_3600_are_60_hertz_and_odd_poles_are_none() -> None:
    assert motors.hz_of(3600, 2) == 60
    assert motors.rpm_of(50, 4) == 1500
    with pytest.raises(MusterError, match="even"):
        motors.rpm_of(50, 3)


def test_a_clock_that_goes_62_seconds_in_60_is_at_62_hertz() -> None:
    assert motors.clock_hz(60, 62, 60) == 62


@given(st.floats(50, 55), st.floats(0.5, 4), st.floats(0, 1))
def test_the_set_point_puts_the_line_at_nominal_where_it_was_asked(no_load: float, fall: float, share: float) -> None:
    found = motors.set_point(50, no_load, no_load - fall, 5000, share * 6000, 6000)
    slope = -fall / 5000
    assert found.no_load_hz + slope * share * 6000 == pytest.approx(50)
    assert found.full_load_hz == pytest.approx(found.no_load_hz + slope * 6000)
    assert found.fits == (found.full_load_hz >= 47.5 and found.no_load_hz <= 52.5)


def test_a_droop_too_steep_for_the_window_is_refused() -> None:
    assert not motors.set_point(50, 56, 49, 5000, 3000, 6000).fits


# Batteries


def test_two_runs_give_1823_wh_and_20_5_w() -> None:
    found = batteries.two_runs(1180, 25, 1600, 2.2)
    assert (round(found.battery_wh, 1), round(found.idle_w, 1)) == (1822.8, 20.5)


@given(st.floats(500, 5000), st.floats(0, 60), st.floats(0.8, 0.98))
def test_two_runs_find_the_battery_and_the_idle_that_made_them(energy: float, idle: float, conversion: float) -> None:
    slow_h, fast_h = 0.6 * energy / max(idle, 20), 1.5
    slow, fast = ((energy - idle * h) * conversion for h in (slow_h, fast_h))
    if slow_h <= fast_h or slow <= 0:
        return
    found = batteries.two_runs(slow, slow_h, fast, fast_h, conversion * 100)
    assert (found.battery_wh, found.idle_w) == (pytest.approx(energy), pytest.approx(idle, abs=1e-6))


def test_two_runs_the_wrong_way_round_are_refused() -> None:
    with pytest.raises(MusterError, match="longer"):
        batteries.two_runs(1180, 2, 1600, 25)
    with pytest.raises(MusterError, match="idle"):
        batteries.two_runs(1700, 25, 1600, 2)


@given(st.floats(1, 400))
def test_at_its_rated_current_a_battery_lasts_its_rated_hours(ah: float) -> None:
    assert batteries.peukert_h(ah, 20, ah / 20) == pytest.approx(20)
    assert batteries.peukert_h(ah, 20, ah / 5) < 5


# Heat, weather


def test_three_quarters_of_a_litre_from_14_to_47_in_150_seconds_is_690_7_watts() -> None:
    assert round(heat.heating_w(0.75, 14, 47, 150), 1) == 690.7
    with pytest.raises(MusterError, match="warmer"):
        heat.heating_w(0.75, 47, 14, 150)


@given(st.floats(0, 1), st.floats(-20, 15), st.floats(-20, 35))
def test_duty_follows_the_difference_and_stops_at_one(duty: float, seen: float, wanted: float) -> None:
    found = heat.duty_at(duty, 20, seen, wanted)
    assert 0 <= found <= 1
    assert found == pytest.approx(min(1, max(0, duty * (wanted - 20) / (seen - 20))))


# A pair


def test_the_worked_pair_carries_31_9_amps_with_b_first() -> None:
    found = pair.pair_capacity((9, 17, 28), (4.1, 7.2, 11.4), (4.9, 9.8, 16.6), (13, 19))
    assert (round(found.measured_a, 1), found.first, found.beyond) == (31.9, 1, True)
    assert (found.twice_smaller_a, found.sum_a) == (26, 32)


@given(st.floats(0.2, 0.8), st.floats(5, 40), st.floats(5, 40))
def test_a_pair_is_full_when_its_first_unit_is(share: float, one: float, other: float) -> None:
    totals = (5.0, 10.0, 20.0)
    found = pair.pair_capacity(totals, [share * t for t in totals], [(1 - share) * t for t in totals], (one, other))
    assert found.measured_a == pytest.approx(min(one / share, other / (1 - share)))
    assert found.measured_a <= found.sum_a + 1e-9


def test_a_pair_wants_two_totals_and_as_many_of_each() -> None:
    for totals, one, other in (((9,), (4,), (5,)), ((9, 17), (4,), (5, 9))):
        with pytest.raises(MusterError, match="totals_a"):
            pair.pair_capacity(totals, one, other, (13, 19))


# Panels

PANEL = SolarPanel(49.5, 41.2, 11.2, 10.6, -0.28, -0.36)
INPUT = SolarInput(450, 120, 18, 22)


def test_a_string_too_long_for_the_coldest_morning_is_refused_with_its_volts() -> None:
    found = panels.layouts(PANEL, INPUT, 12, -10, 65)
    best = found[0]
    assert (best.series, best.parallel, best.refused) == (8, 1, "")
    nine = next(x for x in found if (x.series, x.parallel) == (9, 1))
    assert "over 450 V" in nine.refused
    assert "under 120 V" in next(x for x in found if (x.series, x.parallel) == (2, 1)).refused
    assert "short-circuit" in next(x for x in found if (x.series, x.parallel) == (6, 2)).refused


@given(st.integers(1, 20), st.floats(-30, 10), st.floats(40, 75))
def test_every_layout_that_fits_keeps_all_three_rules_and_none_is_left_out(
    count: int, coldest: float, hottest: float
) -> None:
    found = panels.layouts(PANEL, INPUT, count, coldest, hottest)
    assert len(found) == sum(count // series for series in range(1, count + 1))
    for x in found:
        voc = x.series * 49.5 * (1 - 0.0028 * (coldest - 25))
        vmp = x.series * 41.2 * (1 - 0.0036 * (hottest - 25))
        fits = voc <= 450 and vmp >= 120 and 1.25 * x.parallel * 11.2 <= 22
        assert (x.refused == "") == fits
        assert (x.watts > 0) == fits


# Waves


@pytest.mark.parametrize(("conduction", "thd"), [(1.0, 47.03), (2 / 3, 29.68), (0.75, 27.69)])
def test_distortion_from_the_series_to_the_40th(conduction: float, thd: float) -> None:
    assert round(waves.stepped_thd_pct(conduction), 2) == thd


@given(st.floats(0.3, 1.0))
def test_the_series_sums_to_the_rms_of_the_shape(conduction: float) -> None:
    """Parseval: the harmonics of the shape carry the power of the shape."""
    orders = np.arange(1, 40_001, 2)
    amplitudes = 4 / (orders * math.pi) * np.sin(orders * math.pi * conduction / 2)
    assert math.sqrt((amplitudes**2).sum() / 2) == pytest.approx(waves.stepped_rms(conduction), rel=1e-4)
    assert waves.stepped_harmonic(3, conduction) == pytest.approx(amplitudes[1])
