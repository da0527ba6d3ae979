"""What is read stands beside the load of its own moment: volts, hertz, noise, DC amps, fuel."""

from __future__ import annotations

import pytest

from muster.core.advice.answers import answers
from muster.core.brief import Brief, Home
from muster.core.character import character_of
from muster.core.findings import findings_of
from muster.core.findings.across import SourceSeen, across_sources
from muster.core.findings.finding import Topic, Warns
from muster.core.findings.fuel import mean_w
from muster.core.findings.noise_walk import heard_under
from muster.core.findings.trips import Suspected
from muster.core.loads import Duty, Wave
from muster.core.quantities import Bound
from muster.core.sources import Claims, Site, Source, SourceKind
from tests.core.build import SINGLE, SPLIT, found, load, session

SET = Source("set", SourceKind.OPEN_FRAME, Claims(7500, per_leg_w=3600, breaker_a=25, tank_l=3.8))


def points(*lines: tuple[float, str], quantity: str = "droops") -> list[tuple[int, float]]:
    (line,) = getattr(found(list(lines), system=SINGLE), quantity)
    return [(round(p.w), p.y) for p in line.points]


def test_volts_written_down_just_before_their_watts_are_of_one_look() -> None:
    assert points((0, "230v"), (9, "2kw"), (200, "3kw 225v"), quantity="regulation") == [(2000, 230), (3000, 225)]


def test_volts_of_a_look_of_their_own_before_any_watts_are_of_no_load() -> None:
    assert points((0, "235v"), (120, "2kw 230v"), quantity="regulation") == [(0, 235), (2000, 230)]


def test_a_whole_told_once_gives_way_to_the_legs_that_were_told_after_it() -> None:
    (line,) = found([(0, "no load 62.1hz"), (60, "l1 1.5kw l2 1.4kw 60.9hz"), (99, "l1 2.6kw l2 2.5kw 60.1hz")]).droops
    assert [(round(p.w), p.y) for p in line.points] == [(0, 62.1), (2900, 60.9), (5100, 60.1)]


def test_nothing_before_the_last_adjustment_is_in_a_line() -> None:
    lines = ((0, "no load 50.0hz"), (60, "2kw 48hz"), (90, "adjusted"), (120, "no load 52hz"), (180, "2kw 50.2hz"))
    assert points(*lines) == [(0, 52.0), (2000, 50.2)]


def test_a_lesser_load_than_the_home_has_is_heard_as_a_lower_bound_only() -> None:
    walks = found([(0, "background 30db"), (9, "no load 60db@7m"), (20, "900w"), (29, "65db@7m")], system=SINGLE).noise
    assert [(walk.load_w, walk.state) for walk in walks] == [(0, "no load"), (900, "loaded")]
    at_most, between = heard_under(walks, 2000), heard_under(walks, 450)
    assert at_most is not None
    assert at_most.beyond
    assert between is not None
    assert not between.beyond
    assert between.level.value == pytest.approx((walks[0].neighbour.value + walks[1].neighbour.value) / 2)
    assert heard_under((), 100) is None


@pytest.mark.parametrize(
    ("spots", "neighbour_m", "why"),
    [
        ("80 @ 5 m, 75 @ 20 m", 25, "no decay of sound in a yard"),
        ("70 @ 5 m, 62 @ 20 m", 40, "walls carry it"),
        ("80 @ 2 m, 52 @ 20 m", 60, "apart there"),
        ("70 @ 5 m, 58 @ 20 m", 25, ""),
    ],
)
def test_a_prediction_that_nothing_can_be_staked_on_says_why(spots: str, neighbour_m: float, why: str) -> None:
    (walk,) = found([(0, "background 20"), (9, f"no load: {spots}")], system=SINGLE, neighbour_m=neighbour_m).noise
    assert walk.unsure.endswith(why) or why in walk.unsure
    assert bool(walk.unsure) == bool(why)
    assert walk.neighbour.value >= walk.neighbour_open_dba


def test_dc_amps_go_with_the_volts_of_their_own_entry() -> None:
    lines = [(0.0, "24.1v dc 1.5kw 74a dc"), (600.0, "23.2v dc"), (900.0, "21.0v dc, off")]
    (seen,) = found(lines, system=SINGLE).conversions
    assert seen.findings[0].value.value == pytest.approx(100 * 1500 / (24.1 * 74), abs=0.1)


def test_both_sides_typed_at_one_level_after_another_are_a_fit_though_nothing_was_switched() -> None:
    lines = [
        (0.0, "0w dc 26v 0.4a"),
        (60.0, "520w dc 26v 22a"),
        (120.0, "1000w dc 25.5v 43a"),
        (180.0, "1010w dc 25.5v 43.4a"),
        (240.0, "1500w dc 25v 66a"),
    ]
    (seen,) = found(lines, system=SINGLE).conversions
    assert seen.fit is not None
    assert seen.fit.ac_w == (0, 520, 1010, 1500), "of two looks at one load the later counts"
    assert seen.idle is not None
    assert seen.idle.value == pytest.approx(10.4)


def test_a_full_tank_run_dry_is_fuel_an_hour_at_the_mean_load() -> None:
    lines = [(0.0, "full tank, 600w"), (3600.0, "800w"), (7200.0, "600w"), (12600.0, "600w ran out of fuel")]
    seen = findings_of(session(lines, (), SINGLE, "endurance"), {}, SINGLE, 20, source=SET)
    assert seen.fuel is not None
    (point,) = seen.fuel.points
    assert point.lph == pytest.approx(3.8 / 3.5)
    assert mean_w(seen.context, 0, 7200) == pytest.approx(700)
    assert point.w == pytest.approx((700 * 2 + 600 * 1.5) / 3.5)


def test_a_breaker_of_one_leg_is_judged_by_that_leg_and_ends_what_was_on() -> None:
    lines = [(0.0, "l1 3.5kw l2 1.0kw, breaker on l1 popped after 4 min")]
    seen = findings_of(session(lines, (), SPLIT), {}, SPLIT, 20, source=SET)
    (trip,) = seen.trips
    assert trip.suspects[0].key is Suspected.BREAKER
    assert trip.suspects[0].use == pytest.approx(3500 / 120 / (1.13 * 25))
    assert [h.held_s for h in seen.holds if h.tripped] == [240, 240]


def test_a_start_that_bogged_and_recovered_held_and_no_level_bogged() -> None:
    pump = load("1", "pump", "motor", 750)
    seen = found([(0, "1570w 119v"), (60, "pump start, bogged, 97v, recovered")], (pump,), SINGLE)
    (start,) = seen.starts
    assert start.outcome.value == "held"
    assert start.lowest is not None
    assert start.lowest.value == 97
    assert not any(h.bogged for h in seen.holds)


def test_what_was_noticed_is_told_with_the_load_of_its_moment_and_amps_of_no_start_as_at_least() -> None:
    lines = [
        (0, "l1 310w l2 420w"),
        (9, "clamp max 48.3a l2"),
        (20, "code F7"),
        (60, "l2 4.3kw"),
        (90, "burning smell"),
    ]
    seen = found([(float(t), line) for t, line in lines])
    told = [f.sentence.replace("\u202f", " ") for f in seen.noticed]
    assert told[0] == "Code F7, with 310 W on leg 1 and 420 W on leg 2 last read."
    assert "4 300 W on leg 2 last read" in told[1]
    peak = next(f for f in seen.noticed if f.topic is Topic.STARTS)
    assert (peak.value.value, peak.value.bound) == (48.3, Bound.AT_LEAST)


def test_a_load_that_came_and_went_by_the_record_has_its_duty_from_that() -> None:
    fridge = load("1", "fridge", "motor", 120, duty=Duty(10, 20))
    lines = [(0.0, "+1"), (600.0, "-1"), (1800.0, "+1"), (2400.0, "-1"), (3600.0, "+1"), (3700.0, "120w")]
    (seen,) = findings_of(session(lines, (fridge,), SINGLE, "endurance"), {"1": fridge}, SINGLE, 20).duties
    assert (seen.cycles, seen.on_s, seen.off_s) == (2, 600, 1200)
    assert seen.share == pytest.approx(1 / 3)
    assert found(lines, (fridge,), SINGLE).duties == (), "in a ladder whoever tests switches it"


def test_a_trip_while_cut_offs_are_sought_says_nothing_of_a_load() -> None:
    lines = [(0.0, "dc 12.4v"), (60.0, "dc 10.9v !trip"), (90.0, "dc 12.4v !reset")]
    seen = findings_of(session(lines, (), SINGLE, "cut_offs"), {}, SINGLE, 20, source=SET)
    assert not any(held.tripped for held in seen.holds)
    assert seen.trips == ()


def test_a_stepped_wave_by_the_nameplate_brings_its_advice_without_a_capture() -> None:
    oven = load("1", "microwave", "microwave", 1400)
    source = Source("bank", SourceKind.INVERTER, Claims(2000, wave=Wave.STEPPED))
    home = Home(Brief(system=SINGLE), (oven,))
    made = character_of(source, SINGLE, Site(), ())
    said = [answer.sentence for answer in answers(home, source, (), made)]
    assert any(text.startswith("Its wave is stepped by the nameplate. Microwave: much less heat") for text in said)


def test_hertz_that_it_bogged_to_are_of_no_line() -> None:
    assert points((0, "no load 62hz"), (60, "2kw 60hz"), (120, "3kw 59hz"), (130, "bogged down, 44.5hz")) == [(0, 62), (2000, 60), (3000, 59)]  # fmt: skip


def test_what_a_filling_to_the_top_took_was_burnt_since_the_one_before() -> None:
    lines = [(0.0, "filled to the brim, 900w"), (5400.0, "900w"), (5410.0, "filled to the brim again took 1.8 l")]
    seen = findings_of(session(lines, (), SINGLE, "endurance"), {}, SINGLE, 20, source=SET)
    assert seen.fuel is not None
    (point,) = seen.fuel.points
    assert point.w == pytest.approx(900, rel=0.01)
    assert point.lph == pytest.approx(1.8 / 1.5, rel=0.01)


@pytest.mark.parametrize(("neutral_a", "warns"), [(2, None), (14, None), (0.1, Warns.STRAY_CURRENT)])
def test_a_power_factor_that_nobody_read_may_be_like_the_others_and_sends_no_current_astray(
    neutral_a: float, warns: Warns | None
) -> None:
    """20 A at 0.7 on one leg, 17 A of an unknown factor on the other: from 3 A, if alike, to 14 A the neutral may carry."""
    lines = [(0.0, f"l1 20a l1 0.7pf l1 1.68kw 120v l2 17a l2 1.4kw neutral {neutral_a}a")]
    seen = found(lines).legs
    assert seen is not None
    assert seen.findings[-1].title == "Neutral"
    assert seen.findings[-1].warns is warns


def test_the_room_above_a_cut_off_is_told_of_the_heaviest_load_with_the_volts_of_its_own_moment() -> None:
    bank = Source("the bank", SourceKind.INVERTER, Claims(2500))
    ladder = [(0.0, "2.4kw dc 10.9v"), (600.0, "heater off, 10w"), (700.0, "dc 10.5v")]
    cut_offs = [(0.0, "dc 12v"), (60.0, "off at 10.4v")]
    seen = tuple(
        findings_of(session(lines, (), SINGLE, protocol), {}, SINGLE, 20, source=bank)
        for lines, protocol in ((ladder, "ladder"), (cut_offs, "cut_offs"))
    )
    (room,) = across_sources([SourceSeen("the bank", Wave.SINE, seen)])
    assert room.seqs
    assert room.sentence.replace("\u202f", " ").startswith(
        "Under 2 400 W the DC side of the bank stood at 10.9 V, 0.5 V above"
    )


def test_a_hold_tells_its_possible_time_beside_the_sure_one_and_claims_the_sure_one() -> None:
    lines = [(0.0, "500w 230v"), (300.0, "2000w 228v"), (1200.0, "2000w 228v"), (1500.0, "500w 230v")]
    seen = findings_of(session(lines, (), SINGLE), {}, SINGLE, 20.0)
    held = next(h for h in seen.holds if h.counts and h.w == 2000)
    assert (held.held_s, held.most_s) == (900.0, 1500.0)
    assert "Held 2\u202f000\u202fW for 15\u202fmin" in held.finding.sentence
    assert any("25\u202fmin at most" in working.result for working in held.finding.workings)
