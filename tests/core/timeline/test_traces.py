"""What is read off a recorded log: dips, starts, holds, energy, duty, conversion, and a stretch measured."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from muster.core.findings.collect import session_findings
from muster.core.kit import Kit
from muster.core.quantities import Bound, Grade
from muster.core.sessions import Place, Session
from muster.core.timeline.power import stood
from muster.core.timeline.traces import Channel, Trace
from muster.core.timeline.traces.events import MOST_EVENTS, volt_events
from muster.core.timeline.traces.features import TraceFeatures, extract_features
from muster.core.timeline.traces.steady import MOST_SAMPLES
from muster.core.timeline.traces.view import buckets, measure
from tests.examples import examples

from ..build import SINGLE, case, load, set_of

V, A, W = (Channel(q, Place.LEG1) for q in "vaw")
DC_V, DC_A = Channel("v", Place.DC), Channel("a", Place.DC)
KIT = Kit()
RNG = np.random.default_rng(7)


def trace(
    step_s: float = 1.0, instrument: str = "recorder", t_s: np.ndarray | None = None, **series: np.ndarray
) -> Trace:
    """A log of channels by their heading: ``l1_v``, ``dc_a``."""
    named = {"l1_v": V, "l1_a": A, "l1_w": W, "f_hz": Channel("hz"), "dc_v": DC_V, "dc_a": DC_A, "wh": Channel("wh")}
    size = len(next(iter(series.values())))
    at = np.arange(size) * step_s if t_s is None else t_s
    values = np.array(list(series.values()), dtype=np.float32)
    return Trace("log", instrument, tuple(named[name] for name in series), at, values)


def features(log: Trace) -> TraceFeatures:
    return extract_features(log, KIT, SINGLE)


def flat(*parts: tuple[float, int]) -> np.ndarray:
    """Levels, each for so many samples."""
    return np.concatenate([np.full(count, level, dtype=np.float64) for level, count in parts])


# Dips and rises


def test_a_dip_begins_below_90_and_ends_above_92_percent() -> None:
    volts = flat((230, 20), (206, 2), (209, 3), (214, 20))
    (dip,) = features(trace(l1_v=volts)).events
    assert (dip.kind, dip.t0_s, dip.t1_s) == ("dip", 20, 25)
    assert dip.extreme.value == pytest.approx(206, abs=0.01)
    assert dip.residual_pct == pytest.approx(206 / 2.30, abs=0.01)
    assert dip.before_v == pytest.approx(230)


def test_a_rise_begins_above_110_and_ends_below_108_percent() -> None:
    (rise,) = features(trace(l1_v=flat((230, 20), (254, 2), (250, 1), (240, 9)))).events
    assert (rise.kind, rise.t0_s, rise.duration_s) == ("rise", 20, 3)


def test_below_a_tenth_the_output_is_gone_which_is_no_dip() -> None:
    (gone,) = features(trace(l1_v=flat((230, 20), (0, 30)))).events
    assert gone.kind == "interruption"
    assert gone.extreme.bound is None


def test_a_dip_of_one_sample_of_a_slow_log_was_at_least_this_deep() -> None:
    (seen,) = features(trace(1.0, "meter", l1_v=flat((230, 20), (195, 1), (228, 20)))).events
    assert (seen.extreme.bound, seen.extreme.grade) == (Bound.AT_MOST, Grade.B)
    (long,) = features(trace(0.2, "recorder", l1_v=flat((230, 50), (195, 12), (228, 50)))).events
    assert (long.extreme.bound, long.extreme.grade) == (None, Grade.A)


def test_a_gap_in_the_log_ends_a_dip() -> None:
    t_s = np.concatenate([np.arange(30.0), np.arange(200.0, 220.0)])
    volts = flat((230, 20), (200, 10), (200, 5), (230, 15))
    events = features(trace(t_s=t_s, l1_v=volts)).events
    assert [(e.t0_s, e.t1_s) for e in events] == [(20, 30), (200, 205)]


def test_a_log_too_slow_for_dips_shows_none() -> None:
    assert features(trace(10.0, l1_v=flat((230, 20), (100, 5), (230, 20)))).events == ()


def test_a_log_of_another_supply_does_not_drown_its_findings() -> None:
    volts = 207 + np.tile([-3.0, 8.0], 4000)
    events = features(trace(l1_v=volts, l1_w=np.full(8000, 100.0))).events
    assert len(events) == MOST_EVENTS
    found = session_findings(
        case((load(),), set_of(), _brief()).home,
        set_of(),
        Session("ladder"),
        (features(trace(l1_v=volts, l1_w=volts)),),
    )
    assert "Hundreds more are in the log" in " ".join(f.sentence for f in found.findings)


def _brief() -> object:
    from muster.core.brief import Brief

    return Brief(system=SINGLE, outage_h=1)


def crossing_by_crossing(volts: list[float]) -> list[tuple[int, int, float]]:
    """Dips by the words of the definition, a sample at a time."""
    found, first = [], None
    for i, v in enumerate([*volts, 230.0]):
        if first is None and v < 0.9 * 230:
            first = i
        elif first is not None and v > 0.92 * 230:
            found.append((first, i, min(volts[first:i])))
            first = None
    return found


@settings(max_examples=examples(300))
@given(st.lists(st.sampled_from([230.0, 213.0, 210.0, 205.0, 190.0, 24.0]), min_size=1, max_size=60))
def test_dips_are_found_as_their_definition_finds_them(volts: list[float]) -> None:
    found = volt_events(trace(l1_v=np.array(volts)), KIT, SINGLE)
    dips = [(round(e.t0_s), round(e.t1_s), round(e.extreme.value)) for e in found]
    expected = [(first, last, round(worst)) for first, last, worst in crossing_by_crossing(volts)]
    assert len(volts) == 1 or dips == expected


# Starts, holds, lines


def test_a_start_is_read_from_the_samples_around_the_step() -> None:
    watts = flat((300, 60), (1800, 2), (700, 60))
    volts = flat((231, 60), (207.5, 2), (229, 60))
    amps = flat((1.3, 60), (18, 2), (3.4, 60))
    (step,) = features(trace(l1_v=volts, l1_a=amps, l1_w=watts)).steps
    assert (step.before_w, step.settled_w) == (pytest.approx(300), pytest.approx(700))
    assert step.before_v[Place.LEG1] == pytest.approx(231)
    assert step.lowest_v[Place.LEG1] == pytest.approx(207.5)
    assert step.settled_v[Place.LEG1] == pytest.approx(229)
    assert step.highest_a[Place.LEG1] == pytest.approx(18)


def test_power_is_told_by_the_low_figure_of_each_level() -> None:
    watts = flat((900, 700), (2500, 300), (1500, 900), (3000, 100))
    (run,) = features(trace(l1_v=np.full(2000, 230.0), l1_w=watts)).power[Place.TOTAL]
    held = {round(level.w, -1): level.held_s for level in stood(run)}
    assert held == {
        3000: pytest.approx(99, abs=2),
        2500: pytest.approx(299, abs=2),
        1500: pytest.approx(1299, abs=2),
        900: pytest.approx(1999, abs=2),
    }


def test_a_log_that_never_stands_still_is_told_in_few_samples_and_never_above_what_was_read() -> None:
    watts = 2000 + 800 * RNG.standard_normal(20_000).cumsum() / 140
    (run,) = features(trace(l1_w=np.maximum(watts, 5.0))).power[Place.TOTAL]
    assert len(run) <= MOST_SAMPLES
    for level in stood(run)[:20]:
        span = slice(int(level.t0_s) + 3, int(level.t1_s) - 2)
        assert np.median(watts[span]) >= level.w - 60


def test_steady_points_give_the_line_and_leave_the_changes_out() -> None:
    watts = flat((0, 60), (1000, 60), (2000, 60))
    volts = 232 - watts * 0.002 + RNG.normal(0, 0.05, watts.size)
    points = features(trace(l1_v=volts, l1_w=watts, f_hz=51 - watts * 0.0005)).volts[Place.LEG1]
    assert [round(p.w) for p in points] == [0, 1000, 2000]
    assert [p.y for p in points] == pytest.approx([232, 230, 228], abs=0.1)


# Energy, duty, conversion


@given(st.lists(st.tuples(st.floats(0.5, 30), st.floats(0, 5000)), min_size=3, max_size=40))
def test_energy_is_watts_times_the_time_each_stood(parts: list[tuple[float, float]]) -> None:
    t_s = np.cumsum([0.0, *(step for step, _ in parts)])[:-1]
    watts = np.array([w for _, w in parts], dtype=np.float32)
    log = trace(t_s=t_s, l1_w=watts)
    (found,) = features(log).energies
    assert found.wh == pytest.approx(float((watts * log.durations_s()).sum()) / 3600, rel=1e-5, abs=1e-6)
    assert found.covered_s + found.gap_s >= t_s[-1] - t_s[0] - 1e-6


def test_a_gap_is_not_counted_and_said() -> None:
    t_s = np.concatenate([np.arange(0.0, 60.0), np.arange(660.0, 720.0)])
    (found,) = features(trace(t_s=t_s, l1_w=np.full(120, 600.0))).energies
    assert found.wh == pytest.approx(600 * 120 / 3600)
    assert found.gap_s == pytest.approx(601)


def test_the_meters_own_count_stands_beside_the_sum() -> None:
    count = np.linspace(100, 130, 121)
    (found,) = features(trace(60.0, l1_w=np.full(121, 15.0), wh=count)).energies
    assert found.counted_wh == pytest.approx(30)


def test_duty_is_read_over_whole_cycles() -> None:
    watts = np.tile(flat((4, 120), (150, 60)), 7)
    duty = features(trace(l1_w=watts)).duty
    assert duty is not None
    assert (duty.share, duty.cycles) == (pytest.approx(1 / 3, abs=0.01), 6)
    assert (duty.on_s, duty.off_s) == (pytest.approx(60, abs=2), pytest.approx(120, abs=2))
    assert features(trace(l1_w=np.full(600, 150.0))).duty is None


def test_a_cell_that_is_missing_is_not_a_load_that_went_off() -> None:
    watts = np.full(600, 150.0)
    watts[100:140] = watts[300:340] = watts[500:520] = np.nan
    seen = features(trace(l1_w=watts, l1_v=np.full(600, 230.0)))
    assert seen.duty is None
    assert seen.steps == ()
    assert [level.w for run in seen.power[Place.TOTAL] for level in stood(run)] == [150.0] * 4, (
        "what was not read was not held"
    )


def test_conversion_is_fitted_from_both_sides_and_idle_read_with_nothing_on() -> None:
    ac = flat((0, 40), (500, 40), (1000, 40), (1500, 40), (2000, 40))
    dc = ac + 20 + 0.05 * ac + 1e-5 * ac**2
    found = features(trace(l1_w=ac, dc_v=np.full(ac.size, 51.2), dc_a=dc / 51.2)).conversion
    assert found is not None
    assert (found.p0_w, found.p1) == (pytest.approx(20, abs=1), pytest.approx(0.05, abs=0.005))
    assert found.idle_w == pytest.approx(20, abs=0.1)
    assert found.share_at(2000) == pytest.approx(2000 / 2160, abs=0.002)


def test_conversion_is_not_fitted_to_two_loads() -> None:
    ac = flat((500, 40), (1000, 40))
    assert features(trace(l1_w=ac, dc_v=np.full(80, 51.2), dc_a=ac * 1.1 / 51.2)).conversion is None


# Looking


def test_a_stretch_is_measured_with_the_time_each_sample_stood() -> None:
    t_s = np.array([0.0, 1.0, 2.0, 4.0, 5.0])
    (watts,) = measure(trace(t_s=t_s, l1_w=np.array([100.0, 200.0, 300.0, np.nan, 500.0])), 0.0, 4.5)
    assert (watts.low.value, watts.high.value) == (100, 300)
    assert watts.mean.value == pytest.approx((100 * 1 + 200 * 1 + 300 * 2) / 4)
    assert watts.wh == pytest.approx(900 / 3600)


@given(
    st.lists(st.tuples(st.floats(0.01, 50), st.floats(-1e4, 1e4, width=32)), min_size=1, max_size=200),
    st.integers(1, 90),
)
def test_every_pixel_holds_the_extremes_of_its_own_samples(parts: list[tuple[float, float]], count: int) -> None:
    t_s = np.cumsum([step for step, _ in parts])
    y = np.array([[v for _, v in parts]], dtype=np.float32)
    t0, t1 = 0.0, float(t_s[-1]) + 1
    seen = buckets(t_s, y, y, t0, t1, count)
    edges = np.linspace(t0, t1, count + 1)
    shown = dict(zip(seen.t_s.tolist(), zip(seen.low[0], seen.high[0], strict=True), strict=True))
    for i in range(count):
        part = y[0, (t_s >= edges[i]) & (t_s < edges[i + 1])]
        found = shown.get(float((edges[i] + edges[i + 1]) / 2))
        if part.size:
            assert found == (part.min(), part.max())
        elif found is not None:
            assert np.isnan(found[0])


def test_a_log_sparser_than_the_pixels_is_one_line_and_a_gap_in_it_stays_one() -> None:
    """Ten readings a second apart on a thousand pixels; then the same with half a minute missing."""
    t_s = np.arange(10.0)
    y = np.ones((1, 10), dtype=np.float32)
    whole = buckets(t_s, y, y, 0.0, 9.001, 1000)
    assert not np.isnan(whole.low).any()
    assert whole.t_s.size == 10
    torn = np.concatenate([t_s, t_s + 40])
    both = np.ones((1, 20), dtype=np.float32)
    seen = buckets(torn, both, both, 0.0, 49.001, 1000)
    lost = seen.t_s[np.isnan(seen.low[0])]
    assert lost.min() > 9
    assert lost.max() < 40


@settings(max_examples=examples(60))
@given(
    st.lists(
        st.tuples(st.sampled_from([0.0, 40.0, 800.0, 2500.0, float("nan")]), st.integers(1, 40)),
        min_size=1,
        max_size=12,
    ),
    st.sampled_from([0.2, 1.0, 10.0]),
)
def test_whatever_was_logged_is_read_off_without_a_stumble(parts: list[tuple[float, int]], step_s: float) -> None:
    watts = flat(*parts)
    log = trace(
        step_s, l1_v=231 - watts * 0.004, l1_a=watts / 230, l1_w=watts, dc_v=52 - watts / 1e4, dc_a=watts * 1.1 / 52
    )
    seen = features(log)
    assert all(event.t0_s <= event.t1_s for event in seen.events)
    assert all(energy.wh >= 0 for energy in seen.energies)
    assert seen.span[1] >= seen.span[0]
