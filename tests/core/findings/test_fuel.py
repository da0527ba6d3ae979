"""Fuel that is gone is no look at what is left of it, and is counted over the time that it was burnt in."""

from __future__ import annotations

from datetime import UTC, datetime

import pytest

from muster.core.kit import Kit
from muster.core.sessions import Event, EventName, Length, Reading, Session, Start
from muster.core.sessions.log_line import read_line
from muster.core.sessions.writing_up import Circumstances, write_up
from tests.core.build import SINGLE, found


def points(*lines: tuple[float, str]) -> list[tuple[int, float]]:
    seen = found(list(lines), system=SINGLE).fuel
    return [(round(p.w), round(p.lph, 2)) for p in seen.points] if seen is not None else []


HOUR = 3600.0


def test_litres_used_in_so_long_a_time_are_of_the_load_carried_meanwhile() -> None:
    lines = ((0, "1500w"), (4 * HOUR, "still 1500w, used 4.8 l in 4 hours"))
    assert points(*lines) == [(1500, 1.2)]


def test_litres_used_with_no_time_said_are_since_the_start_or_the_last_filling() -> None:
    lines = ((0, "1kw"), (2 * HOUR, "1kw used 1.6 l"), (2.1 * HOUR, "refuelled"), (4.1 * HOUR, "1kw, burnt 2 l"))
    assert points(*lines) == [(1000, 0.8), (1000, 1.0)]


def test_a_figure_after_one_with_its_time_is_of_what_came_since() -> None:
    lines = ((0, "1kw 230v"), (HOUR, "1kw used 1 l in 1 h"), (2 * HOUR, "1kw used 0.8 l"))
    assert points(*lines) == [(1000, 1.0), (1000, 0.8)]


def test_nothing_is_burnt_before_it_was_seen_to_run() -> None:
    lines = ((0, "arrived, set it up"), (3 * HOUR, "1kw 230v"), (4 * HOUR, "1kw used 0.8 l"))
    assert points(*lines) == [(1000, 0.8)]


def test_a_second_figure_is_of_the_whole_where_that_is_said_and_else_counts_only_where_it_can_be_one_thing() -> None:
    first = ((0.0, "1kw"), (HOUR, "1kw used 1.0 l"))
    assert points(*first, (2 * HOUR, "1kw used 1.8 l so far")) == [(1000, 1.0), (1000, 0.8)]
    assert points(*first, (2 * HOUR, "1kw used 0.8 l")) == [(1000, 1.0), (1000, 0.8)]
    assert points(*first, (2 * HOUR, "1kw used 1.8 l")) == [(1000, 1.0)]


def test_two_figures_of_what_was_used_are_no_two_looks_at_the_tank() -> None:
    lines = ((0, "1kw"), (HOUR, "used 2 l in 1 h"), (2 * HOUR, "1kw used 1 l in 1 h"))
    assert points(*lines) == [(1000, 2.0), (1000, 1.0)]


@pytest.mark.parametrize(
    ("said", "held"),
    [
        ("pump start: 238 to 181v, started", True),
        ("pump start 238 to 181v and it started", True),
        ("pump start 238 to 181 ok", True),
        ("pump on top of 1kw, 236 down to 188, back to 231, fine", True),
        ("pump start 238 to 181, not ok", False),
        ("pump start 238 to 181, hasn't started", False),
        ("pump start 238 to 181, nearly started", False),
        ("pump start 238 to 181, ok but then stalled", False),
        ("pump start 238 to 150, failed", False),
        ("pump start 238 to 181, lights ok", False),
        ("pump start 238 to 181, smoke started", False),
    ],
)
def test_a_start_held_where_that_is_said_of_it_and_never_where_it_is_not(said: str, held: bool) -> None:
    items = read_line(said, {"1": "pump"}, SINGLE).items
    assert any(isinstance(item, Start) for item in items)
    assert (Event(EventName.HELD) in items) is held


def test_a_line_that_begins_with_again_is_of_the_load_started_last() -> None:
    jotting = read_line("again: 231 to 181v, started", {"1": "pump", "2": "saw"}, SINGLE, again="1")
    assert [item for item in jotting.items if isinstance(item, Start)] == [Start("1")]
    assert Event(EventName.HELD) in jotting.items
    assert not any(isinstance(item, Start) for item in read_line("again 231v", {"1": "pump"}, SINGLE, again="1").items)
    assert not any(isinstance(i, Start) for i in read_line("again: 231 to 181v", {"1": "pump"}, SINGLE).items)


def test_a_second_try_in_notes_is_a_start_of_its_own() -> None:
    of = Circumstances({"1": "pump"}, {"1": 0.8}, SINGLE, "UTC", battery=False, kit=Kit())
    lines = ["9:00 pump start: 238 to 181v, started", "9:02 again: 237 to 183v, started"]
    session = write_up(Session("starts", (), ()), lines, of, datetime(2026, 5, 1, 12, tzinfo=UTC)).session
    assert [item.load for entry in session.entries for item in entry.items if isinstance(item, Start)] == ["1", "1"]


def test_a_start_that_failed_stalled_and_what_nearly_held_was_not_held() -> None:
    assert Event(EventName.STALL) in read_line("pump start 238 to 150, failed", {"1": "pump"}, SINGLE).items
    assert not any(isinstance(item, Length) for item in read_line("2.2kw nearly held 5 min", {}, SINGLE).items)
    assert any(isinstance(item, Length) for item in read_line("2.2kw held 5 min", {}, SINGLE).items)


def test_a_third_try_hot_is_a_hot_start_and_nothing_warm_and_a_scope_said_by_itself_read_all_of_it() -> None:
    items = read_line("hot, again, scope, 236 to 204, ok", {"1": "pump"}, SINGLE, again="1").items
    assert [item for item in items if isinstance(item, Start)] == [Start("1", hot=True)]
    assert Event(EventName.WARM) not in items
    assert {item.instrument for item in items if isinstance(item, Reading)} == {"scope"}
