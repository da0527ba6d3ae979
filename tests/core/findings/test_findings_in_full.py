"""Every conclusion a careful engineer would draw, from what was jotted and logged."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from muster.core.errors import NotEnoughReadings
from muster.core.findings import SessionFindings, findings_of
from muster.core.findings.holds_told import RAN_OUT
from muster.core.findings.runs import gauge_truth
from muster.core.findings.trips import clues_in
from muster.core.kit import USUAL_KIT, Kit
from muster.core.loads import Load, Wave, Weather
from muster.core.quantities import Grade
from muster.core.sessions import Conditions, Place, Session, Step
from muster.core.sources import Claims, Source, SourceKind, Unit, Wires
from muster.core.supply import System
from muster.core.timeline.traces import Channel, Trace
from muster.core.timeline.traces.features import TraceFeatures, extract_features
from muster.core.trade.ride_through import rides_through
from muster.core.trade.rise import fit_rise

from ..build import SINGLE, SPLIT, load, session

HEATER, KETTLE, ROOM = (
    load("1", "heater", run_w=1000),
    load("2", "kettle", run_w=2000),
    load("3", "room heater", run_w=500),
)
LOADS = (HEATER, KETTLE, ROOM)
ENGINE = Source("the set", SourceKind.OPEN_FRAME, Claims(5000, breaker_a=25, tank_l=20))
STATION = Source(
    "the station",
    SourceKind.STATION,
    Claims(2000, battery_wh=2000, usable_pct=90, battery_a=60, battery_low_v=44, conversion_pct=90),
    wires=Wires(dc_fuse_a=80),
)


def found(
    lines: list[tuple[float, str]],
    protocol: str,
    source: Source = STATION,
    system: System = SINGLE,
    loads: tuple[Load, ...] = LOADS,
    steps: tuple[Step, ...] = (),
    logs: tuple[TraceFeatures, ...] = (),
    wave: Wave = Wave.SINE,
) -> SessionFindings:
    run = session(lines, loads, system, protocol, steps)
    return findings_of(run, {x.key: x for x in loads}, system, 20, wave, logs, (), source)


def sentences(seen: SessionFindings, topic: str) -> str:
    return " ".join(f.sentence for f in seen.findings if f.topic == topic)


# cut-offs


def test_cut_offs_recovery_hysteresis_and_sag() -> None:
    lines = [
        (0.0, "dc 51.0v"),
        (60.0, "dc 45.0v !trip"),
        (90.0, "dc 48.5v !reset"),
        (120.0, "+1"),
        (200.0, "dc 46.0v !trip"),
        (260.0, "dc 52v"),
        (300.0, "dc 60.5v !trip"),
    ]
    seen = found(lines, "cut_offs").cut_offs
    assert seen is not None
    assert [(p.kind, p.dc_v.value) for p in seen.points] == [
        ("low", 45.0),
        ("back", 48.5),
        ("low", 46.0),
        ("high", 60.5),
    ]
    assert seen.hysteresis_v == pytest.approx(3.5)
    assert seen.sag_v == pytest.approx(1.0)
    assert "1.0\u202fV sooner" in " ".join(f.sentence for f in seen.findings)


def test_which_part_cut_is_told_by_whether_the_batterys_volts_still_stood() -> None:
    def by(*after: tuple[float, str], words: str = "") -> list[str]:
        lines = [(0.0, "dc 51.0v"), (60.0, f"dc 45.0v !trip {words}".strip()), *after, (900.0, "dc 48.5v !reset")]
        seen = found(lines, "cut_offs").cut_offs
        assert seen is not None
        assert ("the inverter cut." in seen.findings[0].sentence) is (seen.points[0].by.value == "inverter")
        return [point.by.value for point in seen.points if point.kind == "low"]

    assert by((80.0, "dc 46.8v")) == ["inverter"]
    assert by((80.0, "dc 0.4v")) == ["battery"]
    assert by(words="bms open") == ["battery"]
    assert by(words="battery still there") == ["inverter"]
    assert by() == [""], "volts read as it is put back tell nothing"


def test_a_high_cut_off_is_the_units_own_whatever_the_battery_shows_after_it() -> None:
    seen = found([(0.0, "dc 58v"), (60.0, "dc 60.5v !trip"), (80.0, "dc 60.2v")], "cut_offs").cut_offs
    assert seen is not None
    assert [(point.kind, point.by.value) for point in seen.points] == [("high", "")]


def test_after_a_cut_off_whose_dc_side_nobody_looked_at_no_part_is_named() -> None:
    lines = [(0.0, "dc 51.0v"), (60.0, "dc 45.0v !trip"), (90.0, "!reset")]
    seen = found(lines, "cut_offs").cut_offs
    assert seen is not None
    assert [point.by.value for point in seen.points] == [""]


# pairs


def test_the_worked_example_of_a_pair() -> None:
    pair = Source("the pair", SourceKind.INVERTER_SET, Claims(7360), units=(Unit("A", 13 * 230), Unit("B", 19 * 230)))
    lines = [
        (0.0, "ua 4.1a ub 4.9a total 9a"),
        (60.0, "!step"),
        (61.0, "unit a 7.2a unit b 9.8a total 17a"),
        (120.0, "!step"),
        (121.0, "ua 11.4a ub 16.6a total 28a"),
    ]
    seen = found(lines, "parallel", pair).shares
    assert seen is not None
    assert seen.pair.measured_a == pytest.approx(31.9, abs=0.05)
    assert seen.pair.first == 1
    assert seen.finding.value.grade is Grade.B
    assert "followed past what was read" in seen.finding.sentence
    assert 0.3 < seen.u_a < 1.0


# transfer, heat into water, display


def test_a_gap_typed_in_milliseconds_is_a_finding() -> None:
    (gap,) = found([(0.0, "+1"), (60.0, "14ms")], "transfer").gaps
    assert gap.gap_ms.value == 14
    assert gap.gap_ms.grade is Grade.A


def test_the_worked_example_of_the_heating_check_and_what_a_wave_costs() -> None:
    steps = (Step("first", on_mains=True), Step("second"))
    lines = [
        (60.0, "0.75kg 14c before 62c after 150s 1120w"),
        (70.0, "!step"),
        (600.0, "0.75kg 14c before 47c after 150s 930w"),
    ]
    seen = found(lines, "heating_check", steps=steps).heating
    assert seen is not None
    assert seen.runs[1].delivered_w == pytest.approx(690.7, abs=0.05)
    assert not seen.runs[1].on_mains
    assert seen.ratio == pytest.approx((690.69 / 930) / (1004.64 / 1120), abs=0.001)
    assert seen.u_ratio is not None
    assert 0.02 < seen.u_ratio < 0.06


def test_seconds_are_a_heating_time_only_beside_water() -> None:
    assert found([(0.0, "held 41s")], "heating_check").heating is None


def test_a_display_above_the_meter_on_a_battery_counts_the_battery() -> None:
    (seen,) = found([(0.0, "+1"), (10.0, "1000w"), (30.0, "@display 1120w")], "ladder").displays
    assert seen.gap_pct == pytest.approx(12, abs=0.1)
    assert "what the battery gives" in seen.reason
    (agree,) = found([(0.0, "+1"), (10.0, "1000w"), (30.0, "@display 1005w")], "ladder").displays
    assert "they agree" in agree.reason


# legs


LEG_LOADS = (load("1", "heater", run_w=2000), load("2", "oven", run_w=500, leg="2"))


def test_a_lighter_leg_that_rises_points_at_the_neutral() -> None:
    lines = [(0.0, "+1 +2"), (30.0, "l1 108v 2000w 18.5a l2 132v 500w 3.8a n 14.6a")]
    seen = found(lines, "legs", ENGINE, SPLIT, LEG_LOADS)
    assert seen.legs is not None
    assert "open neutral" in seen.legs.findings[0].sentence
    assert "licensed electrician" in seen.legs.findings[0].sentence
    assert "as the legs' difference" in seen.legs.findings[1].sentence


def test_a_trip_says_of_the_lighter_leg_only_that_it_had_held() -> None:
    seen = found(
        [(0.0, "+1 +2"), (10.0, "l1 119v 3000w l2 120v 1000w"), (60.0, "!trip")], "overload", ENGINE, SPLIT, LEG_LOADS
    )
    by_place = {h.place: h.tripped for h in seen.holds}
    assert by_place == {Place.TOTAL: True, Place.LEG1: True, Place.LEG2: False}


# who tripped


def test_the_one_who_let_go_is_ranked_by_what_was_seen() -> None:
    lines = [(0.0, "+1 +2"), (10.0, "228v 2300w"), (40.0, "!trip screen showed overload, DC still there")]
    (trip,) = found(lines, "overload").trips
    assert trip.suspects[0].key == "electronic"
    dead = [(0.0, "+1 +2"), (10.0, "228v 2300w"), (40.0, "!trip battery dead, screen dark")]
    (trip,) = found(dead, "overload").trips
    assert trip.suspects[0].key in ("battery", "dc_fuse")
    assert "battery" in {s.key for s in trip.rivals}


def test_two_that_fit_are_both_named_with_the_check_that_tells_them_apart() -> None:
    (trip,) = found([(0.0, "+1 +2"), (10.0, "228v 2300w dc 47v 62a"), (40.0, "!trip")], "overload").trips
    assert len(trip.rivals) >= 2
    assert "fit" in trip.finding.sentence
    assert trip.finding.needs.count(";") >= 1


def test_a_breaker_that_is_down_did_it_and_one_that_is_up_did_not() -> None:
    assert clues_in("breaker on the panel down, engines ran on") == ("breaker_down", "engine_ran")
    (trip,) = found(
        [(0.0, "+1 +2"), (10.0, "225v 6500w 28a"), (40.0, "!trip breaker on the panel down, engine ran on")],
        "overload",
        ENGINE,
    ).trips
    assert trip.suspects[0].key == "breaker"
    (trip,) = found(
        [(0.0, "+1 +2"), (10.0, "225v 6500w 28a"), (40.0, "!trip engine slowed and died, breakers up")],
        "overload",
        ENGINE,
    ).trips
    assert trip.suspects[0].key == "engine"


def test_coming_back_by_itself_is_timed() -> None:
    lines = [(0.0, "+1 +2"), (10.0, "228v 2300w"), (40.0, "!trip overload"), (100.0, "!reset by itself")]
    (trip,) = found(lines, "overload").trips
    assert (trip.back_s, trip.by_itself) == (60.0, True)


# runs, gauge, fuel


RUN = [
    (0.0, "100% 0.00kwh"),
    (20.0, "+3"),
    *((900.0 * n, f"{100 - 12 * n}% {0.125 * n:.3f}kwh 500w") for n in range(1, 8)),
    (6700.0, "0.93kwh !trip empty"),
]


def test_a_run_to_empty_gives_the_usable_share_and_the_gauge_its_truth() -> None:
    seen = found(RUN, "endurance")
    assert seen.runs is not None
    assert seen.runs.run.whole
    assert seen.runs.run.ac_wh == pytest.approx(930)
    assert "46.5\u202f%" in sentences(seen, "energy")
    assert seen.runs.gauge is not None
    assert seen.runs.gauge.half_at_pct == pytest.approx(56, abs=2)


def test_a_run_that_was_stopped_is_a_bound_and_its_gauge_says_nothing() -> None:
    seen = found(RUN[:-3], "endurance").runs
    assert seen is not None
    assert not seen.run.whole
    assert seen.gauge is None
    assert seen.findings[0].value.bound is not None


def test_a_percentage_misread_upwards_is_left_out_of_the_gauge() -> None:
    points = [(100.0, 0.0), (80.0, 200.0), (60.0, 400.0), (40.0, 600.0), (20.0, 800.0), (0.0, 1000.0)]
    seen = gauge_truth(points, whole=True)
    assert seen is not None
    assert seen.worst_pt == pytest.approx(0)
    assert seen.half_at_pct == pytest.approx(50)
    assert gauge_truth(points, whole=False) is None


def test_fuel_between_two_looks_against_the_mean_load() -> None:
    lines = [
        (0.0, "fuel 8.0l"),
        (10.0, "+1"),
        (20.0, "230v 1000w"),
        (3610.0, "fuel 7.0l"),
        (3620.0, "+2"),
        (3630.0, "226v 3000w"),
        (7220.0, "fuel 5.0l"),
        (7300.0, "!refill"),
        (7310.0, "fuel 9l"),
    ]
    seen = found(lines, "endurance", ENGINE).fuel
    assert seen is not None
    assert [round(p.lph, 1) for p in seen.points] == [1.0, 2.0]
    assert seen.line is not None
    assert seen.line.b * 1000 == pytest.approx(0.5, abs=0.01)


# heat


def test_a_rise_is_followed_to_its_end_and_too_short_a_test_says_so() -> None:
    t = np.arange(0, 3601, 300.0)
    warm = fit_rise(t, 20 + 30 * (1 - np.exp(-t / 900)))
    assert warm.end_c == pytest.approx(50, abs=0.3)
    assert warm.tau_s == pytest.approx(900, rel=0.05)
    assert warm.long_enough
    short = fit_rise(t[:5], 20 + 30 * (1 - np.exp(-t[:5] / 900)))
    assert not short.long_enough
    assert short.u_end_k > warm.u_end_k
    with pytest.raises(NotEnoughReadings, match="four"):
        fit_rise([0, 60], [20, 21])


# steps of load


def swinging(hz_dip: float = 3.0, back_s: float = 1.0) -> Trace:
    t = np.arange(0, 120, 0.1)
    on = (t >= 30) & (t < 75)
    watts = np.where(on, 4000.0, 0.0)
    since, after = t - 30, t - 75
    hz = np.where(on, 59.0 - hz_dip * np.exp(-since / back_s), 61.0) + np.where(
        after >= 0, hz_dip * np.exp(-after / back_s), 0.0
    )
    volts = np.where(on, 117.0 - 14 * np.exp(-since / 0.4), 121.0)
    values = np.stack([volts, watts, hz]).astype(np.float32)
    return Trace("steps", "recorder", (Channel("v", Place.LEG1), Channel("w", Place.LEG1), Channel("hz")), t, values)


def test_the_class_of_an_engine_set_and_what_keeps_it_from_the_next() -> None:
    system = System(120, 60, 1)
    features = extract_features(swinging(), Kit(USUAL_KIT), system)
    assert [round(step.step_w) for step in features.load_steps] == [4000, -4000]
    first = features.load_steps[0].hz
    assert first is not None
    assert first.extreme == pytest.approx(56.0, abs=0.3)
    assert first.back_s[1] is not None
    seen = found([(30.0, "+1"), (75.0, "-1")], "load_steps", ENGINE, system, logs=(features,)).steps
    assert seen is not None
    assert seen.best == "G2"
    assert seen.keeper is not None
    assert "G3" in seen.finding.sentence
    assert any("10 kVA" in w.formula for w in seen.finding.workings)
    worse = extract_features(swinging(6.5, 2.0), Kit(USUAL_KIT), system)
    rough = found([(30.0, "+1"), (75.0, "-1")], "load_steps", ENGINE, system, logs=(worse,)).steps
    assert rough is not None
    assert rough.best == "G1"


def test_an_inverter_has_no_class() -> None:
    assert found([(30.0, "+1"), (40.0, "230v min 1000w"), (75.0, "-1")], "load_steps", STATION).steps is None


# panels


def panels_log(stuck: bool, full: bool = False) -> TraceFeatures:
    t = np.arange(0, 3600, 5.0)
    volts = np.where((t > 1200) & (t < 1800) & stuck, 70.0, 150.0)
    charge = np.full(t.size, 99.0 if full else 60.0)
    values = np.stack([volts, volts * 10, charge]).astype(np.float32)
    channels = (Channel("v", Place.PANELS), Channel("w", Place.PANELS), Channel("soc_pct"))
    return extract_features(Trace("panels", "recorder", channels, t, values), Kit(USUAL_KIT), SINGLE)


def test_a_tracker_that_stuck_is_told_and_a_full_battery_is_not_taken_for_one() -> None:
    seen = found([(10.0, "!through")], "solar_input", logs=(panels_log(stuck=True),)).solar
    assert seen is not None
    assert len(seen.stuck) == 1
    assert seen.stuck[0].back
    assert seen.through is True
    quiet = found([(10.0, "note: sun")], "solar_input", logs=(panels_log(stuck=False),)).solar
    assert quiet is not None
    assert quiet.stuck == ()
    full = found([(10.0, "note: sun")], "solar_input", logs=(panels_log(stuck=True, full=True),)).solar
    assert full is not None
    assert full.stuck == ()


def test_panel_volts_typed_low_twice_are_a_stuck_tracker() -> None:
    lines = [(0.0, "pv 150v"), (300.0, "pv 149v 60%"), (900.0, "pv 71v"), (1200.0, "pv 70v"), (1260.0, "pv 148v")]
    seen = found(lines, "solar_input").solar
    assert seen is not None
    assert len(seen.stuck) == 1


# idle and conversion typed


def test_the_idle_draw_typed_is_as_unsure_as_its_digits() -> None:
    (seen,) = found([(0.0, "dc 51.2v 0.4a")], "idle").conversions
    assert seen.idle.value == pytest.approx(20.5, abs=0.05)
    assert seen.idle.u is not None
    assert seen.idle.u > 2
    assert "Wh a day" in seen.findings[0].sentence


def test_a_session_with_nothing_in_it_finds_nothing() -> None:
    for protocol in (
        "ladder",
        "endurance",
        "recharge",
        "solar_input",
        "transfer",
        "cut_offs",
        "heating_check",
        "parallel",
        "waveform",
    ):
        run = Session(protocol, conditions=Conditions())
        assert findings_of(run, {}, SPLIT, 20, source=STATION).findings == ()


# hot and cold, the weather, how much longer, the envelope


def test_hot_is_held_against_cold_on_a_like_base() -> None:
    pump = load("1", "pump", "motor_loaded", 400, pf=0.8)
    lines = [
        (0.0, "pump start @multimeter 230v before 207v min !held"),
        (30.0, "-1"),
        (60.0, "hot pump start @multimeter 230v before 195.5v min !held"),
        (90.0, "-1"),
    ]
    seen = found(lines, "starts", ENGINE, loads=(pump,)).restarts
    assert [(r.way, round(r.plain_pct), round(r.other_pct)) for r in seen] == [("hot", 10, 15)]
    assert "dips deeper" in seen[0].finding.sentence
    stalls = [*lines[:2], (60.0, "hot pump start @multimeter 230v before 180v min !stall")]
    assert "does not come up every time" in found(stalls, "starts", ENGINE, loads=(pump,)).restarts[0].finding.sentence


def test_a_soft_starter_is_held_against_a_start_straight_on_and_proves_nothing_without_it() -> None:
    pump = load("1", "pump", "motor_loaded", 400, pf=0.8)
    lines = [
        (0.0, "pump start @multimeter 230v before 195.5v min @clamp 20a max !held"),
        (30.0, "-1"),
        (60.0, "eased pump start @multimeter 230v before 220v min @clamp 8a max !held"),
        (90.0, "-1"),
    ]
    seen = found(lines, "starts", ENGINE, loads=(pump,))
    assert [start.run.eased for start in seen.starts] == [False, True]
    (eased,) = seen.restarts
    assert eased.way == "eased"
    assert "dips less" in eased.finding.sentence
    assert "eased" in seen.starts[1].finding.sentence


def test_a_logged_duty_is_told_for_a_colder_day() -> None:
    t = np.arange(0, 7200, 2.0)
    watts = np.where((t % 1200) < 300, 900.0, 20.0)
    features = extract_features(
        Trace("boiler", "recorder", (Channel("w", Place.LEG1),), t, watts[None, :].astype(np.float32)),
        Kit(USUAL_KIT),
        SINGLE,
    )
    boiler = load("1", "boiler", "heater", 900, weather=Weather(5, 20))
    run = session([(0.0, "+1")], (boiler,), SINGLE, "dedicated")
    seen = findings_of(
        replace(run, conditions=Conditions(temp_c=5)), {"1": boiler}, SINGLE, 20, logs=(features,), source=ENGINE
    )
    (told,) = [f for f in seen.findings if f.key.startswith("weather")]
    # A quarter of the time at 15 K apart is five twelfths at 25 K.
    assert "10\u202fh a day at −5\u202f°C" in told.sentence.replace("\u2212", "−")


def test_a_run_that_was_stopped_says_how_much_longer_by_each_way() -> None:
    told = sentences(found(RUN[:-3], "endurance"), "energy")
    assert "since the last look" in told
    assert "over the whole run" in told
    assert "for the load of that minute" in told


def test_what_electronics_ride_through() -> None:
    assert rides_through(75, 0.4)
    assert not rides_through(65, 0.4)
    assert rides_through(0, 0.015)
    assert not rides_through(125, 0.4)
    assert rides_through(92, 3600)


def test_five_point_zero_percent_is_not_empty() -> None:
    assert RAN_OUT.search("0 % shown")
    assert not RAN_OUT.search("5.0% shown, 10 % load")
