"""The bench twin against textbook cases: droop, dip by impedance, stall, loss curve, hold time, heat, energy."""

from __future__ import annotations

import cmath
import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from muster.core.errors import MusterError
from muster.core.kit import USUAL_KIT
from muster.core.loads import Duty, Load, Part
from muster.core.sessions import Place
from muster.core.supply import SYSTEMS, Leg
from muster.core.timeline.traces import Channel
from muster.twin import (
    Battery,
    BatteryClaims,
    Bench,
    Engine,
    EngineClaims,
    EnginePair,
    Faults,
    Inverter,
    InverterClaims,
    Leads,
    TwinPair,
    appliance_of,
)
from muster.twin.meters import Meter
from muster.twin.motor import Motor, MotorNameplate
from muster.twin.waves import Waveshape, samples
from tests.examples import examples

SINGLE, SPLIT = SYSTEMS["single-230-50"], SYSTEMS["split-120-240-60"]
ENGINE = EngineClaims(5000, 230, 50, no_load_hz=52, droop=0.05)
INVERTER = InverterClaims(2000, 230, 50)


def heater(key: str, w: float, leg: Leg = Leg.ONE) -> Load:
    return Load(key, f"heater {key}", "heater", w, 1.0, leg)


def pump(key: str = "p", start_va: float = 6000, leg: Leg = Leg.ONE) -> Load:
    return Load(key, "pump", "motor_loaded", 800, 0.8, leg, start_va=start_va)


def engine_bench(*loads: Load, **more: object) -> Bench:
    return Bench(Engine(ENGINE), SINGLE, loads, **more)  # type: ignore[arg-type]


# motors

NAMEPLATE = MotorNameplate(230, 800, 0.8, 6000, 0.5, 0.8, 75)


def test_a_motor_at_standstill_draws_its_locked_rotor_va_at_its_power_factor() -> None:
    motor = Motor(NAMEPLATE)
    motor.switch(on=True)
    va = 230**2 * (1 / motor._branch(1.0)).conjugate()
    assert abs(va) == pytest.approx(6000)
    assert math.cos(cmath.phase(va)) == pytest.approx(0.5)


def test_a_motor_at_speed_draws_its_running_watts_and_power_factor() -> None:
    motor = Motor(NAMEPLATE)
    motor.switch(on=True)
    for _ in range(4000):
        motor.step(230, 0.0005)
    va = 230**2 * motor.admittance().conjugate()
    assert va.real == pytest.approx(800, rel=0.02)
    assert va.real / abs(va) == pytest.approx(0.8, abs=0.02)


def test_a_start_takes_as_long_as_the_nameplate_says_and_longer_on_fewer_volts() -> None:
    def seconds(volts: float) -> float:
        motor, t = Motor(NAMEPLATE), 0.0
        motor.switch(on=True)
        while motor.slip > motor.run_slip * 1.05 and t < 20:
            motor.step(volts, 0.0005)
            t += 0.0005
        return t

    assert seconds(230) == pytest.approx(0.8, rel=0.02)
    assert seconds(200) > 1.2 * seconds(230)


@pytest.mark.parametrize(("volts", "starts"), [(0.77 * 230, True), (0.73 * 230, False)])
def test_a_motor_stalls_just_below_the_volts_its_kind_needs(volts: float, starts: bool) -> None:
    motor = Motor(NAMEPLATE)
    motor.switch(on=True)
    for _ in range(40_000):
        motor.step(volts, 0.001)
    assert motor.stalled is not starts


# an engine


@pytest.mark.parametrize("w", [0, 1250, 2500, 4000])
def test_a_governor_droops_in_a_straight_line(w: float) -> None:
    bench = engine_bench(heater("1", max(w, 1)))
    if w:
        bench.switch("1", on=True)
    bench.advance(12)
    drawn = bench.total_w
    assert bench.source.f_hz == pytest.approx(52 - 0.05 * 50 * drawn / 5000, abs=0.03)


def test_the_dip_of_a_start_is_that_of_a_divider_of_phasors() -> None:
    bench = engine_bench(pump())
    bench.advance(1)
    emf, z = bench.source.emf, bench.source.z_ohm
    bench.switch("p", on=True)
    motor = bench.appliances["p"].pieces[0].motor
    assert motor is not None
    y = motor.admittance()
    assert abs(bench.volts[0]) == pytest.approx(abs(emf / (1 + z * y)), rel=1e-6)


def test_a_dip_recovers_as_the_regulator_brings_the_field_up() -> None:
    bench = engine_bench(pump(start_va=4500))
    bench.advance(1)
    bench.switch("p", on=True)
    low: list[float] = []
    bench.advance(4, lambda b: low.append(abs(b.volts[0])))
    assert min(low) < 0.92 * 230
    assert low[-1] == pytest.approx(230 * (1 - 0.03 * 800 / 5000), abs=2)


def test_an_engine_asked_for_more_than_it_has_dies() -> None:
    bench = engine_bench(heater("1", 9000))
    bench.switch("1", on=True)
    bench.advance(10)
    assert [event.what for event in bench.events] == ["engine stalled"]
    assert bench.sample().f_hz == 0


def test_a_tank_runs_out_by_its_litres_an_hour() -> None:
    claims = EngineClaims(5000, 230, 50, tank_l=0.01, idle_lph=0.7, lph_per_w=0.0005)
    bench = Bench(Engine(claims), SINGLE, (heater("1", 2000),))
    bench.switch("1", on=True)
    seconds = 0.01 / (0.7 + 0.0005 * bench.total_w) * 3600
    bench.advance(seconds * 1.05)
    assert bench.events[0].what == "out of fuel"
    assert bench.events[0].t_s == pytest.approx(seconds, rel=0.03)


# electronics


@settings(max_examples=examples(10))
@given(st.floats(1.1, 1.8))
def test_an_overload_is_held_as_long_as_its_curve_says(over: float) -> None:
    inverter = Inverter(INVERTER)
    bench = Bench(inverter, SINGLE, (heater("1", 2000 * over),))
    bench.switch("1", on=True)
    expected = inverter.hold_s(abs(bench.volts[0]) * abs(bench.amps[0]))
    bench.advance(expected * 1.02 + 0.1)
    assert bench.events[0].what == "overload"
    assert bench.events[0].t_s == pytest.approx(expected, rel=0.02, abs=0.06)


def test_a_current_limit_folds_the_volts_back() -> None:
    bench = Bench(Inverter(INVERTER), SINGLE, (heater("1", 8000),))
    bench.switch("1", on=True)
    limit = bench.source.limit_a  # type: ignore[union-attr]
    assert abs(bench.amps[0]) == pytest.approx(limit, rel=0.002)
    assert abs(bench.volts[0]) < 0.6 * 230


def test_heat_rises_to_its_end_by_its_time_constant() -> None:
    claims = InverterClaims(2000, 230, 50, heat_s=200, heat_k_per_w=0.1)
    inverter = Inverter(claims)
    bench = Bench(inverter, SINGLE, (heater("1", 1000),))
    bench.switch("1", on=True)
    loss = inverter.loss_w(bench.total_w)
    bench.advance(200)
    assert inverter.temp_c == pytest.approx(20 + 0.1 * loss * (1 - math.exp(-1)), rel=0.01)


def test_a_battery_gives_what_the_load_and_the_losses_take() -> None:
    battery = Battery(BatteryClaims(2000, 44, 54, 0.0))
    bench = Bench(Inverter(INVERTER, battery), SINGLE, (heater("1", 800),))
    bench.switch("1", on=True)
    bench.advance(600)
    inverter = bench.source
    assert isinstance(inverter, Inverter)
    expected = (bench.total_w + inverter.loss_w(bench.total_w)) * 600 / 3600
    assert (1 - battery.soc) * 2000 == pytest.approx(expected, rel=0.005)


def test_battery_amps_solve_the_power_with_the_resistance() -> None:
    battery = Battery(BatteryClaims(2000, 44, 54, 0.02))
    amps = battery.amps(1500)
    assert (battery.open_v - 0.02 * amps) * amps == pytest.approx(1500)
    assert battery.amps(-500) < 0


def test_a_battery_lets_go_by_its_own_protection_before_the_inverter_does() -> None:
    battery = Battery(BatteryClaims(2000, 44, 54, 0.01, protect_a=30, protect_s=2))
    bench = Bench(Inverter(INVERTER, battery), SINGLE, (heater("1", 1900),))
    bench.switch("1", on=True)
    bench.advance(5)
    assert bench.events[0].what == "battery protection"
    bench.reset()
    assert bench.source.live


def test_a_gauge_that_lies_is_right_at_both_ends_only() -> None:
    lying = BatteryClaims(2000, 44, 54, 0.01, gauge_lie=0.12)
    shown = {soc: Battery(lying, soc).shown_pct for soc in (0.0, 0.5, 1.0)}
    assert shown[0.0] == 0
    assert shown[1.0] == 100
    assert shown[0.5] == pytest.approx(62)


def test_sun_carries_the_load_and_a_stuck_tracker_does_not() -> None:
    def drawn(**faults: bool) -> float:
        battery = Battery(BatteryClaims(2000, 44, 54, 0.01), soc=0.8)
        inverter = Inverter(INVERTER, battery, sun_w=900)
        bench = Bench(inverter, SINGLE, (heater("1", 700),), faults=Faults(**faults))  # type: ignore[arg-type]
        bench.switch("1", on=True)
        bench.advance(60)
        return 0.8 - battery.soc

    assert drawn() < 0 < drawn(stuck_tracker=True)


def test_an_inverter_set_on_eco_dips_when_its_link_runs_low() -> None:
    claims = InverterClaims(3600, 230, 50, engine_w=4200, follow_s=2.5, link_j=900, tank_l=10, limit_x=1.3)
    bench = Bench(Inverter(claims), SINGLE, (heater("1", 3400),))
    bench.advance(2)
    bench.switch("1", on=True)
    low: list[float] = []
    bench.advance(10, lambda b: low.append(abs(b.volts[0])))
    assert min(low) < 0.95 * 230


# two units, legs and leads


def test_two_units_share_by_volts_and_resistance() -> None:
    one = Inverter(InverterClaims(2000, 231, 50, ohm=0.5))
    other = Inverter(InverterClaims(3000, 230, 50, ohm=0.3))
    bench = Bench(TwinPair(one, other), SINGLE, (heater("1", 3000),))
    bench.switch("1", on=True)
    bench.advance(0.1)
    pair = bench.source
    assert isinstance(pair, TwinPair)
    v = abs(bench.volts[0])
    assert pair.shares[0] == pytest.approx((231 - v) / 0.5, rel=0.01)
    assert pair.shares[1] == pytest.approx((230 - v) / 0.3, rel=0.01)


def test_when_one_unit_lets_go_the_other_carries_all() -> None:
    one = Inverter(InverterClaims(900, 230, 50, ohm=0.4))
    other = Inverter(InverterClaims(3000, 230, 50, ohm=0.4))
    bench = Bench(TwinPair(one, other), SINGLE, (heater("1", 2400),))
    bench.switch("1", on=True)
    bench.advance(60)
    assert one.tripped
    assert other.live
    assert bench.total_w > 2200


def two_sets(**other: float) -> EnginePair:
    one = Engine(EngineClaims(4000, 230, 50, no_load_hz=52.0, droop=0.05))
    return EnginePair(one, Engine(EngineClaims(4000, 230, 50, **{"no_load_hz": 51.0, "droop": 0.04, **other})))


def test_two_engine_sets_share_by_their_droops_and_no_load_speeds() -> None:
    """P = (f0 - f) / (droop · fn) · rating for each, at the speed where both together carry the load."""
    bench = Bench(two_sets(), SINGLE, (heater("1", 4800),))
    bench.switch("1", on=True)
    bench.advance(60)
    pair = bench.source
    assert isinstance(pair, EnginePair)
    slopes = (4000 / (0.05 * 50), 4000 / (0.04 * 50))
    f_hz = (slopes[0] * 52 + slopes[1] * 51 - bench.total_w) / sum(slopes)
    assert pair.f_hz == pytest.approx(f_hz, abs=0.02)
    watts = [slope * (f0 - f_hz) for slope, f0 in zip(slopes, (52, 51), strict=True)]
    assert pair.shares[0] / sum(pair.shares) == pytest.approx(watts[0] / sum(watts), abs=0.01)


def test_like_sets_share_alike_and_a_mis_set_governor_takes_more() -> None:
    def first_share(pair: EnginePair) -> float:
        bench = Bench(pair, SINGLE, (heater("1", 5000),))
        bench.switch("1", on=True)
        bench.advance(40)
        return pair.shares[0] / sum(pair.shares)

    assert first_share(two_sets(no_load_hz=52.0, droop=0.05)) == pytest.approx(0.5, abs=0.001)
    assert first_share(two_sets(no_load_hz=50.5, droop=0.05)) > 0.6


def test_when_one_set_runs_dry_the_other_carries_all() -> None:
    pair = two_sets()
    pair.other.fuel_l = 0.001
    bench = Bench(pair, SINGLE, (heater("1", 2000),))
    bench.switch("1", on=True)
    bench.advance(30)
    assert not pair.other.running
    assert pair.live
    assert pair.shares[1] == 0
    assert bench.total_w == pytest.approx(2000, rel=0.1)


def test_one_leg_over_its_own_limit_trips_a_source_that_holds_the_total() -> None:
    claims = InverterClaims(6000, 120, 60, legs=2, leg_w=3000, k_s=5.0)

    def trips(*loads: Load) -> bool:
        bench = Bench(Inverter(claims), SPLIT, loads)
        for load in loads:
            bench.switch(load.key, on=True)
        bench.advance(300)
        return bool(bench.source.tripped)

    assert trips(heater("1", 4000))
    assert not trips(heater("1", 2000), heater("2", 2000, Leg.TWO))


def split_bench(*loads: Load, **more: object) -> Bench:
    claims = EngineClaims(5000, 120, 60, legs=2, no_load_hz=62)
    return Bench(Engine(claims), SPLIT, loads, **more)  # type: ignore[arg-type]


def test_the_neutral_carries_the_difference_of_the_legs() -> None:
    bench = split_bench(heater("1", 1000), heater("2", 400, Leg.TWO), heater("3", 1500, Leg.BOTH))
    for key in "123":
        bench.switch(key, on=True)
    one, two = (abs(a) for a in bench.amps)
    assert abs(bench.neutral_a) == pytest.approx(one - two, rel=5e-3)


def test_a_floating_neutral_divides_the_volts_by_the_loads() -> None:
    bench = split_bench(heater("1", 1000), heater("2", 400, Leg.TWO), faults=Faults(floating_neutral=True))
    for key in "12":
        bench.switch(key, on=True)
    one, two = (abs(v) for v in bench.volts)
    assert one / two == pytest.approx(400 / 1000, rel=0.01)
    assert two > 150


def test_a_thin_lead_drops_what_ohm_says() -> None:
    thick, thin = (engine_bench(heater("1", 2000), faults=Faults(thin_lead_ohm=ohm)) for ohm in (0.0, 0.8))
    for bench in (thick, thin):
        bench.switch("1", on=True)
    amps = abs(thin.amps[0])
    assert thin._source_v()[0] - abs(thin.volts[0]) == pytest.approx(0.8 * amps, rel=0.01)
    assert abs(thin.volts[0]) < abs(thick.volts[0])


@settings(max_examples=examples(8), deadline=None)
@given(st.lists(st.sampled_from("1234p"), min_size=1, max_size=6), st.integers(0, 99))
def test_energy_out_of_the_source_is_energy_into_loads_and_leads(presses: list[str], seed: int) -> None:
    loads = (
        heater("1", 900),
        heater("2", 700, Leg.TWO),
        heater("3", 800, Leg.BOTH),
        pump("p", 3000, Leg.TWO),
        Load("4", "lights", "electronic", 120, 0.9, Leg.ONE),
    )
    bench = split_bench(*loads, leads=Leads(0.15, 0.15), seed=seed)
    for key in presses:
        bench.switch(key, on=not bench.appliances[key].on)
        bench.advance(1.5)
    ledger = bench.ledger
    assert ledger.source_j == pytest.approx(ledger.loads_j + ledger.leads_j, rel=1e-6, abs=1e-6)
    assert sum(one.wh for one in bench.appliances.values()) * 3600 == pytest.approx(ledger.loads_j, rel=1e-6, abs=1e-6)


def test_the_same_seed_gives_the_same_bench() -> None:
    def run(seed: int) -> list[float]:
        bench = split_bench(heater("1", 900), pump("p", 3000, Leg.TWO), seed=seed)
        meter = Meter(USUAL_KIT[0], (Channel("v", Place.LEG1),), bench)
        bench.switch("p", on=True)
        seen: list[float] = []
        bench.advance(3, lambda b: (meter.look(b), seen.append(meter.shown.get(meter.channels[0], 0.0)))[-1])
        return seen

    assert run(1) == run(1)
    assert run(1) != run(2)


# appliances


def test_a_constant_power_load_draws_more_amps_on_fewer_volts_and_lets_go_below() -> None:
    one = appliance_of(Load("1", "tv", "electronic", 100, 0.9), SINGLE)
    one.switch(on=True)
    for _ in range(100):
        one.step(230, 0.001)
    at = {v: abs(one.admittance(v)) * v for v in (230, 180)}
    assert at[180] > at[230] * 1.2
    assert one.admittance(100) == 0


def test_a_sequence_brings_its_parts_in_turn() -> None:
    load = Load("f", "furnace", "furnace", 500, 0.8, duty=Duty(10, 20))
    bench = engine_bench(load)
    bench.switch("f", on=True)
    drawn = {}
    for until in (5, 30, 70, 100):
        bench.advance(until - bench.t_s)
        drawn[until] = bench.total_w
    assert drawn[30] > drawn[5]
    assert drawn[70] < drawn[30]
    assert drawn[100] == pytest.approx(500, rel=0.06)


def test_a_load_nobody_knows_is_refused() -> None:
    with pytest.raises(MusterError):
        engine_bench(heater("1", 100)).switch("9", on=True)


def test_parts_of_ones_own_run_on_the_bench_too() -> None:
    load = Load("w", "washer", "universal", 450, 0.7, parts=(Part("tumbles", 250, 0.7), Part("spins", 200, 0.7, 20.0)))
    bench = engine_bench(load)
    bench.switch("w", on=True)
    bench.advance(10)
    tumbling = bench.total_w
    bench.advance(20)
    assert bench.total_w > 1.5 * tumbling


# meters, sound, waves


def test_a_slow_meter_misses_a_dip_that_a_fast_one_holds() -> None:
    bench = engine_bench(pump(start_va=6000))
    by_slug = {i.slug: i for i in USUAL_KIT}
    volts = (Channel("v", Place.LEG1),)
    slow, fast = (Meter(by_slug[slug], volts, bench) for slug in ("display", "multimeter"))
    truth: list[float] = []

    def look(b: Bench) -> None:
        slow.look(b)
        fast.look(b)
        truth.append(b.sample().leg_v[0])

    bench.advance(1.4, look)
    bench.switch("p", on=True)
    bench.advance(4, look)
    assert fast.lowest[volts[0]] < slow.lowest[volts[0]] - 5
    assert fast.lowest[volts[0]] > min(truth) - 0.02 * 230


def test_a_meter_stays_within_its_accuracy() -> None:
    bench = engine_bench(heater("1", 1500))
    bench.switch("1", on=True)
    meter = Meter(USUAL_KIT[0], (Channel("w", Place.LEG1),), bench)
    bench.advance(8, meter.look)
    true = bench.sample().leg_w[0]
    measure = USUAL_KIT[0].measure("w")
    assert measure is not None
    assert abs(meter.shown[meter.channels[0]] - true) <= true * measure.accuracy_pct / 100 + measure.accuracy_abs + 2


def test_sound_falls_twenty_decibels_a_decade_until_the_background() -> None:
    bench = engine_bench(heater("1", 2000), background_dba=20.0)
    assert bench.dba(1) - bench.dba(10) == pytest.approx(20, abs=0.1)
    assert bench.dba(100_000) == pytest.approx(20, abs=0.1)
    quiet = bench.dba(7)
    bench.switch("1", on=True)
    bench.advance(6)
    assert bench.dba(7) > quiet


@pytest.mark.parametrize(
    ("wave", "thd"),
    [
        (Waveshape(), 0.0),
        (Waveshape("square"), 47.03),
        (Waveshape("stepped"), 29.68),
        (Waveshape(harmonics=((3, 0.04), (5, 0.03))), 5.0),
    ],
)
def test_waves_have_the_distortion_of_their_series_and_the_volts_asked(wave: Waveshape, thd: float) -> None:
    rate = 50 * 4096
    volts = samples(wave, 230, 50, rate, 0.2, np.random.default_rng(1))
    assert np.sqrt(np.mean(volts**2)) == pytest.approx(230, rel=0.01)
    bins = np.abs(np.fft.rfft(volts))[10:401:10]
    found = 100 * np.sqrt(np.sum(bins[1:40] ** 2)) / bins[0]
    assert found == pytest.approx(thd, abs=0.35)


def test_a_wave_that_dies_ends_ragged_and_slow_sampling_is_refused() -> None:
    rng = np.random.default_rng(1)
    volts = samples(Waveshape(), 230, 50, 10_000, 1.0, rng, noise_v=0.5, drift_hz_s=-2, dies_at_s=0.4)
    assert np.abs(volts[-500:]).max() < 0.2 * np.abs(volts[:500]).max()
    with pytest.raises(MusterError):
        samples(Waveshape(), 230, 50, 500, 1.0, rng)
    with pytest.raises(MusterError):
        Waveshape("sawtooth")
