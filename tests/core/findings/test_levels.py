"""A level is held from its first reading to its last: what another load was read at is none of its time, and none of its volts."""

from __future__ import annotations

from dataclasses import replace
from itertools import pairwise

import numpy as np
import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st

from muster.core.findings import findings_of
from muster.core.findings.holds import holds
from muster.core.kit import Kit
from muster.core.sessions import Place
from muster.core.sessions.replay import replay
from muster.core.timeline.traces import Channel, Trace
from muster.core.timeline.traces.features import TraceFeatures, extract_features
from tests.core.build import SINGLE, SPLIT, found, load, session
from tests.examples import examples


def held(*lines: tuple[float, str]) -> list[tuple[float, float, bool]]:
    return [(h.w, h.held_s, h.tripped) for h in found(list(lines), system=SINGLE).holds if h.place is Place.TOTAL]


def test_the_last_two_seconds_at_2_700_w_are_no_hour_of_it() -> None:
    assert held((0, "400w"), (3598, "405w"), (3600, "2700w"), (3602, "2700w")) == [
        (2700.0, 2.0, False),
        (400.0, 3602.0, False),
    ]


def test_a_generator_climbed_without_pressing_anything_holds_each_level_for_its_own_readings() -> None:
    lines = ((0, "123v"), (120, "640w"), (360, "1510w"), (540, "2200w"), (660, "2790w"), (1500, "2800w"), (1560, "3390w"), (1591, "went off"))  # fmt: skip
    assert held(*lines) == [(2790.0, 840.0, False), (3390.0, 31.0, True)]


def test_a_trip_at_watts_first_read_as_it_went_has_not_stood_for_the_time_before() -> None:
    assert held((0, "1.9kw"), (4920, "tripped, 3.4kw")) == [(3400.0, 0.0, True)]


@pytest.mark.parametrize(("line", "low_w"), [("1.9kw", 1900), ("1.95kw", 1950), ("2.05kw", 2000)])
def test_what_warms_and_cycles_held_its_lowest_figure(line: str, low_w: float) -> None:
    assert held((0, "2.0kw"), (600, line), (1200, "2.0kw")) == [(low_w, 1200.0, False)]


def test_a_load_that_creeps_up_has_not_held_its_last_figure_from_the_start() -> None:
    """Every reading is within a tenth of the one before it; 2 kW was read for the last two minutes alone."""
    creeping = [(120.0 * n, f"{1000 * 1.09**n:.0f}w") for n in range(9)]
    helds = held(*creeping, (1080, "2000w"))
    assert max(s for w, s, _ in helds if w > 1900) <= 120
    assert all(s <= 1080 and w * s < 1000 * 1080 * 1.2 for w, s, _ in helds)


def test_a_fading_heater_held_what_it_faded_to() -> None:
    helds = held((0, "1500w"), (300, "1400w"), (600, "1300w"), (900, "1220w"), (1200, "1200w"))
    assert (1200.0, 300.0, False) in helds or any(w == 1200 and s >= 300 for w, s, _ in helds)
    assert not any(w > 1300 and s > 600 for w, s, _ in helds)


def test_watts_written_down_after_a_trip_are_those_it_tripped_at_and_no_level_of_their_own() -> None:
    assert held((0, "3390w"), (31, "went off, overload light"), (60, "it was 3390w")) == [(3390.0, 31.0, True)]
    assert (1500.0, 600.0, False) in held((0, "3390w"), (31, "went off"), (60, "1500w"), (660, "1500w"))


def test_what_was_held_before_the_governor_was_moved_is_not_held_through_it() -> None:
    lines = ((0, "2.0kw"), (400, "2.0kw"), (410, "adjusted the governor"), (420, "2.0kw"), (800, "2.0kw"))
    assert [s for _, s, _ in held(*lines)] == [400.0, 380.0]


def test_a_load_switched_off_and_on_again_between_two_readings_breaks_what_was_held() -> None:
    heater = load("1", "heater")
    lines = [(0.0, "+1"), (5, "2.0kw"), (305, "2.0kw"), (400, "-1"), (420, "+1"), (430, "2.0kw"), (730, "2.0kw")]
    assert [h.held_s for h in found(lines, (heater,), SINGLE).holds if h.place is Place.TOTAL] == [300.0, 300.0]


def test_a_step_ticked_in_the_middle_of_a_hold_breaks_nothing() -> None:
    assert held((0, "2.0kw"), (300, "step done"), (600, "2.0kw")) == [(2000.0, 600.0, False)]


def test_volts_are_of_the_watts_they_were_read_beside() -> None:
    """117 V was read at 1.9 kW; the trip at 3.4 kW that follows says nothing of its volts."""
    lines = [(0, "123v no load"), (600, "210w 122v"), (2100, "1.9kw 117v"), (7000, "tripped, 3.4kw")]
    (volts,) = found(lines, system=SINGLE).regulation
    assert volts.line.x_high == 1900


def test_what_goes_off_at_a_low_gauge_after_hours_of_the_same_load_ran_out() -> None:
    lines = ((0, "100% 150w"), (14_400, "58% 151w"), (30_600, "10% beeping"), (33_600, "went off, 1.34kwh"))
    (hold,) = found(list(lines), system=SINGLE).holds
    assert (hold.tripped, hold.ran_out) == (True, True)


def test_what_goes_off_at_a_low_gauge_as_the_load_is_raised_did_not_run_out() -> None:
    lines = ((0, "14% 150w"), (3600, "11% 150w"), (3700, "1.9kw"), (3705, "went off"))
    assert [(h.w, h.ran_out) for h in found(list(lines), system=SINGLE).holds if h.tripped] == [(1900.0, False)]


# A log beside the record


def logged(watts: list[tuple[float, int]], began_s: float = 0.0) -> TraceFeatures:
    """A log by a second of so many watts for so many seconds."""
    w = np.concatenate([np.full(count, value) for value, count in watts])
    channels = (Channel("v", Place.LEG1), Channel("w", Place.LEG1))
    volts = np.where(w > 0, 230.0, 0.0)
    trace = Trace(
        "log", "recorder", channels, began_s + np.arange(w.size, dtype=float), np.stack([volts, w]).astype(np.float32)
    )
    return extract_features(trace, Kit(), SINGLE)


def held_with(log: TraceFeatures, *lines: tuple[float, str]) -> list[tuple[float, float, bool]]:
    made = session(list(lines), (), SINGLE)
    seen = findings_of(made, {}, SINGLE, 20, logs=[log])
    return [(round(h.w), round(h.held_s), h.tripped) for h in seen.holds if h.place is Place.TOTAL]


def test_a_trip_that_nobody_read_is_read_off_the_log() -> None:
    log = logged([(1500.0, 600), (2900.0, 45), (0.0, 60)])
    assert (2900, 44, True) in held_with(log, (0, "1500w"), (648, "tripped"))


def test_a_log_shows_what_a_trip_fell_from_where_the_record_is_long_out_of_date() -> None:
    log = logged([(2200.0, 1900), (2900.0, 45), (0.0, 60)])
    trips = [(w, s) for w, s, tripped in held_with(log, (0, "2200w"), (1950, "went off")) if tripped]
    assert trips == [(2900, 44)]


@given(st.lists(st.tuples(st.integers(200, 5000), st.integers(1, 40)), min_size=1, max_size=8))
@settings(max_examples=examples(25), deadline=None)
def test_the_same_figures_typed_or_logged_hold_the_same(steps: list[tuple[int, int]]) -> None:
    """A reading every 10 s, typed line by line and logged by a meter: of any power the same time, to a level's width and a sample."""
    watts = [float(w) for w, count in steps for _ in range(count)]
    typed = found([(10.0 * n, f"{w:.0f}w") for n, w in enumerate(watts)], system=SINGLE).holds
    t_s = np.arange(len(watts)) * 10.0
    trace = Trace("log", "recorder", (Channel("w", Place.LEG1),), t_s, np.array([watts], dtype=np.float32))
    if len(watts) < 3:
        return
    log = findings_of(session([], (), SINGLE), {}, SINGLE, 20, logs=[extract_features(trace, Kit(), SINGLE)]).holds
    for w in {w for w in watts if watts.count(w) > 3}:
        longest = [max((h.held_s for h in helds if h.w >= 0.95 * w - 12), default=0.0) for helds in (typed, log)]
        surely = [max((h.held_s for h in helds if h.w >= w), default=0.0) for helds in (typed, log)]
        assert surely[0] <= longest[1] + 30
        assert surely[1] <= longest[0] + 30


def test_a_source_that_slowed_under_a_load_has_not_held_it() -> None:
    lines = ((0, "2.4kw"), (600, "bogged down, 2.4kw 46hz"), (1800, "2.4kw"), (2000, "1.9kw"), (3000, "1.9kw"))
    helds = found(list(lines), system=SINGLE).holds
    assert [(h.w, h.held_s) for h in helds if not h.bogged] == [(1900.0, 1000.0)]
    (bogged,) = (h for h in helds if h.bogged)
    assert (bogged.w, bogged.counts) == (2400.0, False)
    assert "It bogged at" in bogged.finding.sentence


KETTLE = load("9", "kettle", run_w=1500)


def test_what_tripped_or_bogged_as_more_was_switched_on_drew_what_was_read_before_and_that_more() -> None:
    """1.93 kW were read with something on that nobody named; the kettle on top of it is 3.43."""
    lines = [(0.0, "1.93kw"), (600, "1.93kw"), (700, "+9"), (709, "went off")]
    seen = found(lines, (KETTLE,), SINGLE)
    (tripped,) = (h for h in seen.holds if h.tripped)
    assert (tripped.w, tripped.planned) == (3430.0, True)
    lines[3:] = [(701, "bogged"), (709, "went off")]
    seen = found(lines, (KETTLE,), SINGLE)
    assert [h.w for h in seen.holds if h.bogged or h.tripped] == [3430.0, 3430.0]
    assert (1930.0, 600.0) in [(h.w, h.held_s) for h in seen.holds], "what stood before it was held"


def test_what_went_off_with_less_on_than_was_read_is_told_by_the_plan() -> None:
    lines = [(0.0, "+9"), (5, "3kw"), (10, "-9"), (20, "+9"), (30, "tripped")]
    (tripped,) = (h for h in found(lines, (KETTLE,), SINGLE).holds if h.tripped)
    assert tripped.w == 1500.0


def test_a_walk_with_watts_read_is_a_walk_under_load_though_nobody_said_what_was_on() -> None:
    lines = [(0.0, "background 34db"), (60, "1kw 63db at 7m"), (120, "57db at 14m"), (180, "54db at 21m")]
    assert [seen.state for seen in found(lines, system=SINGLE).noise] == ["loaded"]
    quiet = [(0.0, "background 34db"), (60, "0w 58db at 7m"), (120, "52db at 14m")]
    assert [seen.state for seen in found(quiet, system=SINGLE).noise] == ["no load"]


@given(st.lists(st.integers(2, 40), min_size=3, max_size=6, unique=True), st.floats(-4, -0.5), st.floats(-1.2, -0.1))
@settings(max_examples=examples(15), deadline=None)
def test_the_same_volts_and_hertz_typed_or_logged_fall_alike(hundreds: list[int], v_kw: float, hz_kw: float) -> None:
    """Each level stands for two minutes, read at its end by hand and every second by a meter: one line, whichever told it."""
    levels = [100.0 * n for n in hundreds]
    if any(round(a / b, 1) == 1 for a, b in pairwise(levels)):
        return
    figures = [(w, 235.0 + v_kw * w / 1000, 52.0 + hz_kw * w / 1000) for w in levels]
    lines = [(120.0 * (n + 1), f"{w:.0f}w {v:.2f}v {hz:.2f}hz") for n, (w, v, hz) in enumerate(figures)]
    typed = found(lines, system=SINGLE)
    channels = (Channel("w", Place.LEG1), Channel("v", Place.LEG1), Channel("hz", Place.NONE))
    data = np.repeat(np.array(figures, dtype=np.float32), 120, axis=0).T
    log = extract_features(
        Trace("log", "recorder", channels, np.arange(data.shape[1], dtype=float), data), Kit(), SINGLE
    )
    logged_ = findings_of(session([], (), SINGLE), {}, SINGLE, 20, logs=[log])
    for kind in ("regulation", "droops"):
        (by_hand,), (by_log,) = getattr(typed, kind), getattr(logged_, kind)
        assert by_log.line.b == pytest.approx(by_hand.line.b, rel=0.03, abs=2e-5)
        assert by_log.line.at(0) == pytest.approx(by_hand.line.at(0), rel=0.002)


@pytest.mark.parametrize(
    ("third", "named"), [("2.1kw", True), ("1.03kw", False), ("+1 2.1kw", False), ("adjusted, 2.1kw", False)]
)
def test_a_single_reading_that_stands_aside_is_named(third: str, named: bool) -> None:
    lines = [(0.0, "1kw"), (60.0, "1.01kw"), (120.0, third), (180.0, "1kw"), (240.0, "1kw")]
    seen = found(lines, (load("1", "heater"),), system=SINGLE)
    assert [finding.seqs for finding in seen.excursions] == ([(2, 3, 4)] if named else [])


def test_two_readings_that_agree_are_a_level_and_no_excursion() -> None:
    lines = [(0.0, "1kw"), (60.0, "2.1kw"), (120.0, "2.1kw"), (180.0, "1kw")]
    assert found(lines, system=SINGLE).excursions == ()


GROWS = ("500w", "l1 118v 400w l2 119v 600w", "l1 118v 3.4a", "l2 117v 2a", "0.8pf", "510w", "+1", "-1", "tripped", "back", "2kw", "adjusted")  # fmt: skip


@settings(max_examples=examples(60))
@example([("l1 118v 3.4a", 0), ("l2 117v 2a", 60), ("l1 118v 3.4a", 60), ("l2 117v 2a", 60)])
@given(st.lists(st.tuples(st.sampled_from(GROWS), st.integers(0, 90)), min_size=2, max_size=16))
def test_what_was_held_is_the_same_whether_drawn_line_by_line_or_at_the_end(lines: list[tuple[str, int]]) -> None:
    """A stretch that grows is not drawn again from its beginning: what comes of it must not tell."""
    loads = (load("1", "heater", "heater", 600),)
    times = np.cumsum([after for _, after in lines]).tolist()
    whole = session([(float(at), words) for at, (words, _) in zip(times, lines, strict=True)], loads, SPLIT)
    home = {item.key: item for item in loads}
    said = []
    growing = replace(whole, entries=())
    for entry in whole.entries:
        growing = replace(growing, entries=(*growing.entries, entry))
        said = holds(replay(growing, 2), SPLIT, home)
    fresh = replace(whole, entries=tuple(replace(entry) for entry in whole.entries))
    assert said == holds(replay(fresh, 2), SPLIT, home)
