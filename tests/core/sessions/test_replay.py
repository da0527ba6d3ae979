"""A record that goes on says what it would say replayed from its beginning."""

from __future__ import annotations

from dataclasses import replace

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from muster.core.sessions import Entry, Place, Session, Step
from muster.core.sessions.log_line import read_line
from muster.core.sessions.replay import replay
from muster.core.sessions.steps import steps_seen
from tests.core.build import SINGLE, SPLIT, load, session
from tests.examples import examples

LINES = ("l1 1kw l2 900w", "2kw", "+1", "-1", "pump start 104v min, held", "tripped", "back", "5 min held", "l1 121v 60hz", "!hold", "step done", "adjusted", "code F7", "3.4kw")  # fmt: skip
LOADS = (load("1", "heater"), load("2", "pump", "motor", 700))


@settings(max_examples=examples(60))
@given(st.lists(st.tuples(st.sampled_from(LINES), st.integers(0, 200)), min_size=2, max_size=14), st.data())
def test_a_record_read_on_is_the_record_read_whole(lines: list[tuple[str, int]], data: st.DataObject) -> None:
    at_s, timed = 0, []
    for words, after_s in lines:
        at_s += after_s
        timed.append((float(at_s), words))
    whole = session(timed, LOADS, SPLIT)
    cut = data.draw(st.integers(1, len(whole.entries) - 1))
    first = replace(whole, entries=whole.entries[:cut])
    before = repr(replay(first, 2))
    read_on = replay(replace(first, entries=(*first.entries, *whole.entries[cut:])), 2)
    fresh = Session(whole.protocol, whole.steps, tuple(replace(entry) for entry in whole.entries), whole.conditions)
    assert repr(read_on) == repr(replay(fresh, 2))
    assert repr(replay(first, 2)) == before, "what was said before is not changed by what comes after"


def test_each_level_belongs_to_the_step_of_its_watts_though_nobody_pressed_step_done() -> None:
    """F1: 25, 50, 75, 100 and 125 % of 2.8 kW, climbed without pressing anything."""
    steps = (Step("no load"), *(Step(f"{pct} %", target_w=28.0 * pct) for pct in (25, 50, 75, 100, 125)))
    lines = [(0.0, "123v"), (120.0, "640w"), (360.0, "1510w"), (540.0, "2200w"), (660.0, "2790w"), (1500.0, "2800w"), (1560.0, "3390w"), (1591.0, "went off")]  # fmt: skip
    seen = steps_seen(replay(session(lines, (), SINGLE), 1), steps, 1)
    assert [step.w for step in seen] == [None, 640, 1510, 2200, 2800, 3390]
    assert seen[-1].tripped


def test_a_step_that_was_ticked_with_watts_of_its_own_keeps_them() -> None:
    steps = (Step("alone", planned_w=1000.0), Step("again", planned_w=1000.0))
    lines = [(0.0, "1kw"), (60.0, "step done"), (90.0, "1.02kw")]
    assert [step.w for step in steps_seen(replay(session(lines, (), SINGLE), 1), steps, 1)] == [1000, 1020]


@pytest.mark.parametrize("said", ["4.2a clamp, 4.9a plug meter", "4.9a plug meter, 4.2a clamp"])
def test_of_two_instruments_at_one_place_the_surer_one_is_gone_by_and_both_are_kept(said: str) -> None:
    entry = Entry(1, 0.0, read_line(said, {}, SINGLE).items, said)
    record = replay(Session("ladder", (), (entry,)), 1)
    assert record.latest[("a", Place.LEG1)].instrument == "plug"
    assert {reading.instrument for _, _, reading in record.segments[-1].readings} == {"clamp", "plug"}
