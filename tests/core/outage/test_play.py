"""The outage played on a source: what the household does, what the source does to it, chance and doubt, the sun."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from muster.core.brief import Brief, BringUp, Sky
from muster.core.character import Character, Parameter, character_of
from muster.core.character.character import SessionEstimate
from muster.core.errors import OutOfRange
from muster.core.loads import Caller, Duty, Load, Tier
from muster.core.outage.capability import capability_of
from muster.core.outage.layout import Happening, OutcomeColumn
from muster.core.outage.layout import SourceColumn as U
from muster.core.outage.play import play_outage, played, ready
from muster.core.outage.played import Failure
from muster.core.outage.rules import Charging, Rules
from muster.core.outage.spread import spread_of
from muster.core.outage.sun import harvest_w
from muster.core.outage.tables import home_of
from muster.core.outage.wishing import pickup
from muster.core.quantities import Bound, Grade, Value
from muster.core.sources import Chemistry, Claims, Site, Source, SourceKind
from muster.core.sources.limits import Limit
from muster.core.sources.panels import Location, Panels
from muster.core.supply import Leg
from muster.core.trade.batteries import cold_share

from .brute_force import Unit
from .building import (
    BRIEF,
    SEED,
    SINGLE,
    SPLIT,
    a_play,
    a_source,
    heaters,
    kinds,
    known,
    meets,
    outcome,
    parameter,
    steady,
)

# What the household does, and what the source does to it


def test_two_overloads_that_each_pass_alone_trip_one_after_the_other() -> None:
    """Damage adds up and cools: 2 s at 1.35, then 15 s at 1.15 (k 0.198 s, n 2.378 hold 2.4 s and 18 s)."""
    brief = replace(BRIEF, outage_h=1, bring_up=BringUp.AT_ONCE)
    source = Unit(held_w=1000.0, k_s=0.198, n=2.378, cools_s=900.0)
    base, more = steady(1000.0), [steady(350.0, "2", duty=Duty(2 / 60, 50)), steady(150.0, "3", duty=Duty(15 / 60, 50))]

    def trips(*loads: Load) -> int:
        kept, _ = outcome(
            a_play(
                [base, *(replace(load, duty=replace(load.duty, caller=Caller.HAND)) for load in loads)], brief, source
            )
        )
        return int(kept.outcomes[0, OutcomeColumn.TRIPS])

    assert (trips(more[0]), trips(more[1])) == (0, 0)
    longer = replace(more[1], run_w=350.0, duty=Duty(17 / 60, 50))
    assert trips(longer) > 0


def test_a_source_that_comes_back_by_itself_brings_everything_back_at_once_and_gives_up_after_five() -> None:
    load = steady(1500.0)
    capability = replace(a_source(Unit(held_w=1000.0, k_s=60.0, n=1.0, cools_s=30.0), BRIEF), recovers_alone=True)
    _, events = outcome(a_play([load], replace(BRIEF, outage_h=3), capability), BACK_S=20.0)
    trips = [event.at_s for event in events if event.kind is Happening.TRIP]
    back = [event.value for event in events if event.kind is Happening.BACK]
    assert back[:4] == pytest.approx([20.0] * 4), "by itself, after its own time"
    assert back[4] == pytest.approx(600.0), "then somebody must come"
    assert trips[1] - trips[0] < 200


def test_somebody_asleep_takes_longer_to_reset_it() -> None:
    brief = replace(BRIEF, outage_from_hour=12, quiet_from_hour=22, quiet_to_hour=7, reset_min=10, reset_night_min=60)
    _, events = outcome(a_play([steady(1500.0)], brief, Unit(held_w=1000.0, k_s=1800.0, n=1.0, cools_s=1.0)))
    took = {(12 + event.at_s / 3600) % 24: event.value for event in events if event.kind is Happening.BACK}
    by_night = {seconds for hour, seconds in took.items() if hour >= 23.1 or hour < 7}
    by_day = {seconds for hour, seconds in took.items() if 12 <= hour < 22}
    assert by_day == {600.0}
    assert by_night == {3600.0}


def test_a_breaker_that_trips_waits_for_a_hand_whatever_the_source_does() -> None:
    capability = replace(a_source(Unit(), BRIEF), recovers_alone=True)
    _, events = outcome(a_play([steady(3000.0)], replace(BRIEF, outage_h=2), capability), BREAKER_0=2000.0, BACK_S=5.0)
    assert kinds(events)[:2] == [Happening.BREAKER, Happening.BACK]
    assert events[1].value == pytest.approx(600.0)
    assert events[0].at_s == pytest.approx(40.0 / (3000 / (2000 * 1.13) - 1) ** 2, rel=1e-6)


def test_a_leg_trips_by_itself_while_the_whole_is_far_from_its_limit() -> None:
    brief = replace(BRIEF, system=SPLIT, outage_h=1)
    play = a_play([steady(900.0, leg=Leg.TWO)], brief, a_source(Unit(k_s=60.0, n=1.0), brief))
    _, events = outcome(play, HELD_0=5000.0, HELD_1=2000.0, HELD_2=600.0)
    assert events[0].kind is Happening.TRIP
    assert events[0].value == 2, "the place that tripped"


def test_loads_kept_apart_never_run_together_and_both_are_served() -> None:
    loads = [steady(500.0, "1", duty=Duty(10, 20)), steady(700.0, "2", duty=Duty(10, 25))]
    brief = replace(BRIEF, bring_up=BringUp.AT_ONCE)
    source = Unit(held_w=800.0, k_s=1.0, n=1.0)
    without, _ = outcome(a_play(loads, brief, source))
    apart, _ = outcome(a_play(loads, brief, source, Rules(apart=(("1", "2"),))))
    assert without.outcomes[0, OutcomeColumn.TRIPS] > 0
    assert apart.outcomes[0, OutcomeColumn.TRIPS] == 0
    assert apart.by_hour[0, 0].sum() / 3600 > 0.95 * (500 * 24 / 3 + 700 * 24 * 10 / 35)


def test_a_load_kept_aside_until_its_hours_are_over_runs_in_its_next_hours() -> None:
    """Evening lamps until 20:00 and a heater on from 19:30: the last minutes of the lamps' hours are over before it is off."""
    lamps = steady(200.0, "1", hours=(19, 12))
    heater = steady(900.0, "2", duty=Duty(90, 30, Caller.HAND, once=True), hours=(18, 19, 20, 21))
    kept, _ = outcome(a_play([lamps, heater], BRIEF, Unit(held_w=3000.0), Rules(apart=(("1", "2"),))))
    assert kept.by_hour[0, 0].max() / 3600 <= 900.0 + 1e-6
    assert kept.by_hour[0, 0, 19] / 3600 == pytest.approx(200.0), "at noon it runs"


def test_a_tier_is_left_off_below_its_share_of_charge_and_the_rest_runs_longer() -> None:
    loads = [steady(200.0, "1"), steady(300.0, "2", tier=Tier.COULD)]
    source = Unit(battery_wh=4000.0)
    without, _ = outcome(a_play(loads, BRIEF, source))
    shed, events = outcome(a_play(loads, BRIEF, source, Rules(shed_below=((Tier.COULD, 0.5),))))
    assert Happening.SHED in kinds(events)
    assert without.outcomes[0, OutcomeColumn.RAN_OUT_S] == pytest.approx(8 * 3600, abs=30)
    # 500 W until somebody looks at the full hour and finds less than half, then 200 W on the 1 500 Wh that are left.
    assert shed.outcomes[0, OutcomeColumn.RAN_OUT_S] == pytest.approx((5 + 1500 / 200) * 3600, abs=60)
    assert shed.unserved_s[0, 0] < without.unserved_s[0, 0]


def test_a_charger_fills_the_battery_in_its_hours_alone() -> None:
    brief = replace(BRIEF, outage_from_hour=6)
    kept, _ = outcome(
        a_play(
            [steady(100.0)],
            brief,
            Unit(battery_wh=2000.0, charge_most_w=5000.0),
            Rules(charging=Charging(600.0, 18, 20)),
        )
    )
    assert kept.charge_wh[0, 12] == pytest.approx(2000 - 1200)
    assert kept.charge_wh[0, 14] == pytest.approx(2000 - 1200 + 2 * 500)


def test_a_frozen_lithium_battery_takes_no_charge_and_lead_does() -> None:
    brief = replace(BRIEF, site=replace(BRIEF.site, temp_c=-5.0))
    lead = a_source(Unit(battery_wh=2000.0, charge_most_w=5000.0), brief)
    ends = []
    for capability in (lead, replace(lead, lead=False)):
        kept, _ = outcome(a_play([steady(50.0)], brief, capability, sun_w=[200.0] * 144))
        ends.append(kept.charge_wh[0, -1])
    # By the sun the load is carried either way; charge is taken by lead alone.
    assert ends[0] == pytest.approx(2000.0)
    assert ends[1] == pytest.approx(2000.0)
    kept, _ = outcome(a_play([steady(50.0)], brief, replace(lead, lead=False), sun_w=[0.0] * 72 + [200.0] * 72))
    assert kept.charge_wh[0, -1] == pytest.approx(2000 - 12 * 50)


def test_a_tank_that_runs_dry_at_night_waits_for_somebody_and_one_filled_before_bed_does_not() -> None:
    brief = replace(BRIEF, outage_from_hour=17, quiet_from_hour=22, quiet_to_hour=7, reset_night_min=90)
    source = Unit(tank_l=8.0, store_l=20.0, a_lph=0.7)
    dry, events = outcome(a_play([steady(500.0)], brief, source))
    assert Happening.DRY in kinds(events)
    assert max(event.value for event in events if event.kind is Happening.BACK) == pytest.approx(90 * 60 + 5 * 60)
    filled, events = outcome(a_play([steady(500.0)], brief, source, Rules(refuel_before_bed=True)))
    assert Happening.REFUEL in kinds(events)
    assert filled.outcomes[0, OutcomeColumn.DEAD_S] < dry.outcomes[0, OutcomeColumn.DEAD_S]
    assert filled.outcomes[0, OutcomeColumn.BURNT_L] == pytest.approx(
        0.7 * (24 - filled.outcomes[0, OutcomeColumn.DEAD_S] / 3600)
    )


def test_a_battery_that_sags_is_cut_off_with_charge_left_and_holds_a_lighter_load_longer() -> None:
    # 48 V, 5 kWh: empty at 46 V, full at 52 V, cut off at 46 V; 3 % of its volts at an hour's rate.
    cells = {"CUT_V": 46.0, "EMPTY_V": 46.0, "FULL_V": 52.0, "CELL_OHM": 0.02}
    ends = []
    for watts in (300.0, 3000.0):
        kept, events = outcome(a_play([steady(watts)], BRIEF, Unit(battery_wh=5000.0)), **cells)
        first = next(event for event in events if event.kind in (Happening.CUT_OFF, Happening.EMPTY))
        ends.append(first.value)
        del kept
    sag_share = 3000 / 46 * 0.02 / 6
    assert ends[1] == pytest.approx(5000 * sag_share, rel=0.01)
    assert ends[0] < ends[1] / 8


def test_a_battery_whose_rested_volts_reach_its_recovery_comes_back_by_itself_and_after_five_times_by_hand() -> None:
    cells = {"CUT_V": 46.0, "EMPTY_V": 46.0, "FULL_V": 52.0, "CELL_OHM": 0.02}

    def back_s(back_v: float) -> list[float]:
        play = a_play([steady(3000.0)], replace(BRIEF, outage_h=4), Unit(battery_wh=5000.0))
        _, events = outcome(play, BACK_V=back_v, **cells)
        assert Happening.CUT_OFF in kinds(events)
        return [event.value for event in events if event.kind is Happening.BACK]

    low = back_s(46.5)
    assert low[:4] == pytest.approx([5.0] * 4)
    assert low[4] == pytest.approx(600.0)
    assert back_s(51.0)[0] == pytest.approx(600.0), "volts that a rest does not reach wait for a hand"


def test_an_empty_battery_on_the_sun_is_live_again_at_its_recovery_volts_else_at_a_tenth() -> None:
    cells = {"CUT_V": 46.0, "EMPTY_V": 46.0, "FULL_V": 52.0}
    sun = [0.0] * 36 + [400.0] * 108
    starts = []
    for back_v in (0.0, 49.0):
        play = a_play([steady(200.0)], BRIEF, Unit(battery_wh=1000.0, charge_most_w=2000.0), sun_w=sun)
        _, events = outcome(play, BACK_V=back_v, **cells)
        starts.append(next(event.at_s for event in events if event.kind is Happening.BACK))
    charged_w = 400 * 0.95
    assert starts == pytest.approx([6 * 3600 + 100 / charged_w * 3600, 6 * 3600 + 500 / charged_w * 3600], abs=2)


def test_a_motor_that_stalls_is_tried_three_times_and_then_given_up_until_its_next_call() -> None:
    pump = Load(key="1", name="pump", kind="motor", run_w=800.0, pf=0.7, duty=Duty(30, 30), run_grade=Grade.A)
    _, events = outcome(a_play([pump], replace(BRIEF, outage_h=1.2), Unit()), R1_OHM=20.0)
    assert kinds(events)[:4] == [Happening.STALL, Happening.STALL, Happening.STALL, Happening.GAVE_UP]
    stalls = [event.at_s for event in events if event.kind is Happening.STALL]
    assert stalls[1] - stalls[0] == pytest.approx(126.0)


def test_what_was_seen_to_start_on_as_much_does_not_stall_by_reckoning() -> None:
    pump = Load(key="1", name="pump", kind="motor", run_w=800.0, pf=0.7, duty=Duty(10, 30), run_grade=Grade.A)
    base = steady(500.0, "2")
    play = a_play([base, pump], replace(BRIEF, outage_h=4), Unit())

    def stalls(seen_w: float) -> int:
        home = home_of(play.loads, play.brief, Rules(), known(started_w={"1": seen_w}), SEED)
        kept, _ = outcome(replace(play, home=home), R1_OHM=20.0)
        return int(kept.outcomes[0, OutcomeColumn.STALLS])

    assert stalls(100.0) > 0, "on less than what runs it was seen"
    assert stalls(600.0) == 0


@pytest.mark.parametrize(("failed_w", "fails"), [(400.0, True), (0.0, True), (700.0, False)])
def test_what_was_seen_to_stall_on_no_more_stalls_again_whatever_is_reckoned(failed_w: float, *, fails: bool) -> None:
    pump = Load(key="1", name="pump", kind="motor", run_w=800.0, pf=0.7, duty=Duty(10, 30), run_grade=Grade.A)
    play = a_play([steady(500.0, "2"), pump], replace(BRIEF, outage_h=4), Unit())
    for ohms in ({}, {"R1_OHM": 0.01}):  # where nothing is known of starts, and where all is reckoned to start
        home = home_of(play.loads, play.brief, Rules(), known(failed_w={"1": failed_w}), SEED)
        kept, events = outcome(replace(play, home=home), **ohms)
        assert bool(kept.outcomes[0, OutcomeColumn.STALLS] > 0) is fails
        assert (Happening.GAVE_UP in kinds(events)) is fails


def test_a_dip_is_minded_by_electronics_that_are_on_that_leg_alone() -> None:
    brief = replace(BRIEF, system=SPLIT, outage_h=2)
    pump = Load(
        key="1", name="pump", kind="motor", run_w=300.0, pf=0.7, leg=Leg.ONE, duty=Duty(5, 10), run_grade=Grade.A
    )

    def dips(leg: Leg) -> int:
        router = Load(key="2", name="router", kind="electronic", run_w=10.0, pf=0.6, leg=leg, run_grade=Grade.A)
        kept, _ = outcome(a_play([pump, router], brief, Unit()), R1_OHM=3.5, R2_OHM=3.5)
        return int(kept.outcomes[0, OutcomeColumn.DIPS])

    assert (dips(Leg.ONE) > 0, dips(Leg.TWO)) == (True, 0)


def test_the_longer_without_power_the_longer_a_thermostat_calls() -> None:
    """physics §1: three times after one to two hours, five to six after four, of a fridge at a third on."""
    after = {hours: pickup(900.0, 1800.0, hours * 3600.0) for hours in (0.1, 1, 2, 4)}
    assert after[0.1] == 1.0, "never less than its usual call"
    assert 2.0 < after[1] < 3.6
    assert 3.0 < after[2] < 4.0
    assert 5.0 < after[4] < 6.0


# Chance, doubt, and what can be repeated


def test_the_same_play_gives_the_same_whatever_the_order_of_the_loads_and_the_batches() -> None:
    rng = np.random.default_rng(5)
    loads = heaters(rng, 6)
    unit = Unit(held_w=0.6 * sum(load.run_w for load in loads), k_s=30.0, n=1.5, battery_wh=5000.0)
    one = a_play(loads, BRIEF, unit)
    rows = one.capability.stated(600)
    ones = np.ones((600, len(loads)))
    whole = played(one, rows, ones, ones)
    part = played(a_play(loads[::-1], BRIEF, unit), rows[300:400], ones[:100], ones[:100], first=300)
    assert np.array_equal(whole.outcomes[300:400], part.outcomes)
    assert np.array_equal(whole.by_hour[300:400], part.by_hour)


@pytest.mark.parametrize("share", [0.35, 0.6, 2.0])
def test_outages_in_which_nothing_goes_wrong_are_those_in_no_way_of_going_wrong(share: float) -> None:
    loads = heaters(np.random.default_rng(5), 6)
    unit = Unit(held_w=share * sum(load.run_w for load in loads), k_s=30.0, n=1.5, battery_wh=40_000.0)
    seen = play_outage(a_play(loads, BRIEF, unit), draws=120)
    shares = [chance.share for chance in seen.chances.values()]
    assert seen.clean is not None
    assert 1 - sum(shares) - 1e-9 <= seen.clean.share <= 1 - max(shares)
    assert (seen.clean.hits == seen.clean.draws) is (not any(shares))


def test_without_doubt_drawn_and_stated_are_one_and_with_it_the_unknown_is_named() -> None:
    load = steady(400.0)
    sure = known(
        parameters=(
            parameter("two_runs_wh_dc", 12_000, "wh", 1e-6),
            parameter("idle_w", 20, "w", 1e-9),
            parameter("loss_p1_pct", 5, "pct", 1e-9),
        )
    )
    result = play_outage(ready((load,), BRIEF, sure), 200)
    assert result.chances[Failure.RUN_OUT] == result.stated_chances[Failure.RUN_OUT]
    needed_wh = 24 * (400 * 1.05 + 20)
    doubtful = known(
        parameters=(
            parameter("two_runs_wh_dc", needed_wh * 1.02, "wh", 0.15 * needed_wh),
            parameter("idle_w", 20, "w", 1.0),
            parameter("loss_p1_pct", 5, "pct", 0.5),
        )
    )
    result = play_outage(
        ready(
            (load,), replace(BRIEF, site=replace(BRIEF.site, temp_c=25.0)), replace(doubtful, chemistry=Chemistry.LFP)
        ),
        1000,
    )
    assert result.stated_chances[Failure.RUN_OUT].share == 0
    assert 0.2 < result.chances[Failure.RUN_OUT].share < 0.6
    most = result.spreads[Failure.RUN_OUT][0]
    assert most.name == "what the battery gives"
    assert most.share > 0.5


def test_what_nobody_measured_of_a_load_is_in_the_doubt() -> None:
    guessed = steady(400.0, run_grade=Grade.D)
    needed_wh = 24 * (400 * 1.05 + 20)
    sure = known(
        parameters=(
            parameter("two_runs_wh_dc", needed_wh, "wh", 1e-6),
            parameter("idle_w", 20, "w", 1e-9),
            parameter("loss_p1_pct", 5, "pct", 1e-9),
        )
    )
    warm = replace(BRIEF, site=replace(BRIEF.site, temp_c=25.0))
    result = play_outage(ready((guessed,), warm, replace(sure, chemistry=Chemistry.LFP)), 400)
    assert result.spreads[Failure.RUN_OUT][0].name == "the watts of the load 1"


def test_a_share_of_the_spread_is_that_of_a_sum_whose_parts_are_known() -> None:
    rng = np.random.default_rng(1)
    a, b = rng.normal(size=(2, 20_000))
    outcome_ = 2 * a + b
    assert spread_of(a, outcome_) == pytest.approx(0.8, abs=0.05)
    assert spread_of(b, outcome_) == pytest.approx(0.2, abs=0.05)
    assert spread_of(rng.normal(size=20_000), outcome_) == pytest.approx(0.0, abs=0.01)


@pytest.mark.parametrize(
    ("character", "brief", "said"),
    [
        (known(), BRIEF, "what it carries"),
        (known(), BRIEF, "what the battery holds"),
        (known(kind="open_frame"), BRIEF, "its tank"),
        (known(panels=(Panels(400),), parameters=(parameter("two_runs_wh_dc", 5000, "wh", 50),)), BRIEF, "the place"),
        (
            known(panels=(Panels(400),), parameters=(parameter("two_runs_wh_dc", 5000, "wh", 50),)),
            replace(BRIEF, place=Location(57, -6)),
            "the month",
        ),
    ],
)
def test_what_nobody_said_is_named_and_the_rest_is_played(character: Character, brief: Brief, said: str) -> None:
    result = play_outage(ready((steady(300.0),), brief, character), 20)
    assert any(said in item for item in result.missing)
    assert sum(band.p50 for band in result.hour_w) > 0


def test_loads_that_switch_without_end_are_refused_with_what_would_do() -> None:
    flicker = steady(100.0, duty=Duty(0.001, 0.001))
    with pytest.raises(OutOfRange, match="switch about") as refused:
        ready((flicker,), replace(BRIEF, outage_h=300), known())
    assert "longer times" in str(refused.value.want)


def limited(**claims: float) -> Character:
    """A hybrid by its claims alone."""
    source = Source("hybrid", SourceKind.HYBRID, Claims(5000, battery_wh=50_000, **claims))
    return character_of(source, SINGLE, Site(), ())


def test_a_hybrid_without_sun_gives_what_its_battery_alone_does() -> None:
    heavy = steady(4000.0)
    results = [
        play_outage(ready((heavy,), replace(BRIEF, outage_h=2), limited(**claims)), 50)
        .stated_chances[Failure.TRIP]
        .share
        for claims in ({}, {"battery_only_w": 3000.0})
    ]
    assert results == [0.0, 1.0]


def test_a_battery_measured_in_a_room_is_as_good_in_one_and_less_in_the_cold() -> None:
    measured = known(parameters=(parameter("two_runs_wh_dc", 5000, "wh", 10),), chemistry=Chemistry.LFP)
    at = {
        c: capability_of(measured, replace(BRIEF, site=Site(temp_c=c))).stated(1)[0, U.BATTERY_WH]
        for c in (20.0, 25.0, -5.0)
    }
    assert (at[20.0], at[25.0]) == (5000, 5000)
    assert at[-5.0] == pytest.approx(5000 * (1 - 0.004 * 30 - 0.0175 * 5) / (1 - 0.004 * 5))


def test_a_run_that_was_not_ended_is_the_least_and_the_booklet_the_most_that_a_battery_is_taken_to_give() -> None:
    claims = (parameter("battery_wh_dc", 10_000, "wh", 0.0, Grade.C), parameter("usable_pct", 90, "pct", 0.0, Grade.C))
    at_least = Parameter(
        key="delivered_wh_ac_1000", name="", value=Value(4000, "wh", 30, Bound.AT_LEAST, Grade.A), estimates=()
    )
    sure = (at_least, parameter("idle_w", 50, "w", 0.1), parameter("loss_p1_pct", 5, "pct", 0.1))
    capability = capability_of(known(parameters=sure, claims=claims), BRIEF)
    drawn = capability.drawn(400, 1)[:, U.BATTERY_WH]
    least = (4000 * 1.05 + 50 * 4) * cold_share(20.0, lead=True) / cold_share(20.0, lead=True)
    assert drawn.min() >= 0.99 * least
    assert capability.stated(1)[0, U.BATTERY_WH] == pytest.approx(9000)
    assert drawn.max() <= 9000


def test_fuel_seen_at_one_load_goes_before_the_booklet_and_its_line_is_in_the_doubt() -> None:
    seen = replace(
        parameter("lph", 1.2, "lph", 0.06),
        estimates=(
            SessionEstimate(value=Value(1.2, "lph"), session="Endurance", at="2026-01-01", basis="", at_w=1000.0),
        ),
    )
    claims = (
        parameter("tank_l", 15, "l", 0.0, Grade.C),
        parameter("idle_lph", 9.0, "lph", 0.0, Grade.C),
        parameter("lph_per_kw", 9.0, "lph_kw", 0.0, Grade.C),
    )
    capability = capability_of(known(kind="open_frame", parameters=(seen,), claims=claims), BRIEF)
    row = capability.stated(1)[0]
    assert row[U.IDLE_LPH] + 1000 * row[U.LPH_PER_W] == pytest.approx(1.2)
    assert any("second load" in item for item in capability.missing)
    drawn = capability.drawn(500, 1)
    at_the_load = drawn[:, U.IDLE_LPH] + 1000 * drawn[:, U.LPH_PER_W]
    assert at_the_load.std() < 0.06
    assert (drawn[:, U.IDLE_LPH] + 2000 * drawn[:, U.LPH_PER_W]).std() > 2 * at_the_load.std()


def test_a_trip_below_what_was_held_another_time_is_taken_until_it_is_explained() -> None:
    held = Limit(key="held", name="held", w=3000.0, leg=None, basis="", grade=Grade.B)
    trip = Limit(key="trip", name="tripped", w=2000.0, leg=None, basis="", grade=Grade.A)
    capability = capability_of(known(limits=(held, trip)), BRIEF)
    drawn = capability.drawn(500, 1)[:, U.HELD_0]
    assert capability.stated(1)[0, U.HELD_0] == 2000
    assert (drawn.min() >= 2000, drawn.max() <= 3000) == (True, True)


def test_what_starts_meet_on_a_leg_is_what_they_are_predicted_by_and_half_of_what_is_known_across_both() -> None:
    known_start = meets(0.4, 0.1, 0.38)
    split = replace(BRIEF, system=SPLIT)
    both_known = {
        key: capability_of(known(start_models={key: known_start}), split).stated(1)[0, [U.R1_OHM, U.R2_OHM]].tolist()
        for key in ("2", "both")
    }
    assert both_known == {"2": [0.1, 0.1], "both": [0.05, 0.05]}


def test_a_night_is_told_by_its_news_and_a_start_that_held_is_none() -> None:
    pump = Load(key="1", name="pump", kind="motor", run_w=200.0, pf=0.7, duty=Duty(5, 10), run_grade=Grade.A)
    result = play_outage(ready((pump,), BRIEF, known(failed_w={"1": 0.0})), 10)
    told = [event.told(17) for event in result.typical_night.events]
    assert told[0].startswith("17:00 the pump does not start, as it was seen not to")
    assert not [event for event in result.typical_night.events if event.kind is Happening.STARTED]


def test_a_level_held_without_a_trip_is_drawn_between_it_and_the_nameplate() -> None:
    from_session = Limit(key="held", name="held", w=2000.0, leg=None, basis="", grade=Grade.B)
    plate = Limit(key="continuous", name="continuous", w=3000.0, leg=None, basis="", grade=Grade.C)
    drawn = capability_of(known(limits=(plate, from_session)), BRIEF).drawn(500, 1)[:, U.HELD_0]
    assert (drawn.min() >= 2000, drawn.max() <= 3000) == (True, True)


# The sun


def test_panels_give_more_in_june_than_in_december_and_to_the_south_than_to_the_north() -> None:
    place, at_s = Location(57.0, -6.0), np.arange(0, 86400, 600.0)
    brief = replace(BRIEF, outage_from_hour=0)

    def day_wh(azimuth: float, month: int, sky: int = 0) -> float:
        return float(harvest_w((Panels(1000, 40, azimuth),), place, brief, month, at_s)[sky].sum() / 6)

    assert day_wh(180, 6) > 3 * day_wh(180, 12)
    assert day_wh(180, 12) > 5 * day_wh(0, 12)
    assert day_wh(180, 6, sky=1) < 0.3 * day_wh(180, 6)
    assert 4000 < day_wh(180, 6) < 8000, "a clear day in June at 57 degrees: 5 to 9 hours of standard sun, less losses"


def test_noon_sun_stands_where_the_almanac_puts_it() -> None:
    """At the equinox on the equator the sun is overhead at noon: a level panel gives what a clear zenith sky gives."""
    brief = replace(BRIEF, outage_from_hour=0, zone="UTC")
    clear, _ = harvest_w((Panels(1000, 0, 180),), Location(0.0, 0.0), brief, 3, np.array([12.0, 0.0]) * 3600)
    assert clear[1] == 0
    assert 1000 * 0.82 * 0.9 < clear[0] < 1000 * 0.82 * 1.15


def test_inputs_take_no_more_than_they_take_and_shade_takes_its_share() -> None:
    noon = np.array([12.0 * 3600])
    brief = replace(BRIEF, outage_from_hour=0)
    full, _ = harvest_w((Panels(1000, 30, 180),), Location(40, 0), brief, 6, noon)
    capped, _ = harvest_w((Panels(1000, 30, 180),), Location(40, 0), brief, 6, noon, 300.0)
    shaded, _ = harvest_w((Panels(1000, 30, 180, 50.0),), Location(40, 0), brief, 6, noon)
    assert (float(capped[0]), float(shaded[0])) == (300.0, pytest.approx(float(full[0]) / 2))


def test_a_mixed_sky_lies_between_a_clear_and_an_overcast_one() -> None:
    sunny = known(kind="hybrid", panels=(Panels(800),), parameters=(parameter("two_runs_wh_dc", 3000, "wh", 10),))
    brief = replace(BRIEF, outage_from_hour=6, place=Location(50, 0), month=6)
    middle = {sky: play_outage(ready((steady(100.0),), replace(brief, sky=sky), sunny), 100).sun_wh.p50 for sky in Sky}
    assert middle[Sky.OVERCAST] < middle[Sky.MIXED] < middle[Sky.CLEAR]
