"""What was held: never more watts, and never longer, than every reading bears out."""

from __future__ import annotations

from hypothesis import given
from hypothesis import strategies as st

from muster.core.timeline.power import NEXT_SAMPLE_S, SAME_HELD, PowerSample, joined, stood, stood_before, until

SAMPLES = st.lists(st.tuples(st.integers(1, 200), st.integers(100, 6000)), min_size=1, max_size=40).map(
    lambda steps: [PowerSample(float(sum(s for s, _ in steps[: i + 1])), float(w), i) for i, (_, w) in enumerate(steps)]
)


def longest_s(samples: list[PowerSample], w: float) -> float:
    """The longest time in which every sample was at or above a power, by looking at every pair."""
    best = 0.0
    for i, first in enumerate(samples):
        for last in samples[i:]:
            between = [s for s in samples if first.t_s <= s.t_s <= last.t_s]
            if all(s.w >= w for s in between):
                best = max(best, last.t_s - first.t_s)
    return best


@given(SAMPLES)
def test_nothing_is_said_to_have_been_held_that_was_not(samples: list[PowerSample]) -> None:
    for level in stood(samples):
        assert level.held_s == longest_s(samples, level.w)


@given(SAMPLES, st.integers(100, 6000))
def test_of_any_power_the_longest_time_is_told_to_within_the_width_of_a_level(
    samples: list[PowerSample], w: int
) -> None:
    wanted_s = longest_s(samples, w)
    if wanted_s > 0:
        assert any(level.held_s >= wanted_s and level.w * SAME_HELD >= w for level in stood(samples))


@given(SAMPLES)
def test_a_higher_power_is_told_of_a_shorter_time(samples: list[PowerSample]) -> None:
    told = stood(samples)
    assert [level.w for level in told] == sorted({level.w for level in told}, reverse=True)
    assert [level.held_s for level in told] == sorted({level.held_s for level in told})


@given(SAMPLES, st.integers(0, 500))
def test_a_level_that_tripped_began_at_its_own_first_sample(samples: list[PowerSample], after_s: int) -> None:
    end_s = samples[-1].t_s + after_s
    last = stood_before(samples, end_s)
    assert last is not None
    assert (last.w, last.t1_s) == (samples[-1].w, end_s)
    assert all(s.w >= 0.9 * last.w - 60 for s in samples if last.t0_s <= s.t_s)


def test_stretches_are_one_where_nothing_can_have_come_between() -> None:
    first, near, far = [PowerSample(0, 900)], [PowerSample(NEXT_SAMPLE_S, 800)], [PowerSample(60, 800)]
    assert joined([first, near, far]) == [[*first, *near], far]
    assert until(first, 30) == [*first, PowerSample(30, 900)]
