"""A record that goes on says what it would say replayed from its beginning."""

from __future__ import annotations

from dataclasses import replace

from hypothesis import given, settings
from hypothesis import strategies as st

from muster.core.sessions import Session
from muster.core.sessions.replay import replay
from tests.core.build import SPLIT, load, session
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
