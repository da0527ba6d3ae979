"""Sources side by side: places that know their doubt, lines on one scale, and which is enough."""

from __future__ import annotations

from dataclasses import replace
from functools import cache

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from muster.core.compare import Comparison, compare, compared_parameters
from muster.core.compare.ranking import Banded, all_alike, places
from muster.core.sources import Owning
from muster.core.verdict import Status
from muster.core.verdict.inputs import VerdictInputs
from muster.formats.tables import comparison_table
from tests.examples import examples
from tests.field.judging import demo_case, demo_job

banded = st.builds(
    lambda value, down, up: Banded(value, value - down, value + up),
    st.floats(-10, 10),
    st.floats(0, 5),
    st.one_of(st.floats(0, 5), st.just(float("inf"))),
)
some = st.lists(st.one_of(st.none(), banded), min_size=1, max_size=8)


@settings(max_examples=examples(300))
@given(some)
def test_of_two_only_one_that_surely_lies_above_takes_the_better_place(figures: list[Banded | None]) -> None:
    ranked = places(figures)
    known = [(figure, place) for figure, place in zip(figures, ranked, strict=True) if figure is not None]
    assert [place for figure, place in zip(figures, ranked, strict=True) if figure is None] == [None] * figures.count(
        None
    )
    for figure, place in known:
        for other, other_place in known:
            if figure.low > other.high:
                assert place is not None
                assert other_place is not None
                assert place < other_place, "what surely lies above stands before"
    if known:
        assert min(place for _, place in known if place is not None) == 1
    if all_alike(figures):
        assert {place for _, place in known} == {1}


def test_what_lies_within_the_doubt_is_no_difference() -> None:
    near = [Banded(10, 8, 12), Banded(11, 9, 13), Banded(30, 28, 32)]
    assert places(near) == (2, 2, 1)
    assert all_alike(near[:2])
    assert not all_alike(near)
    assert not all_alike([near[0], None]), "one alone is like nothing"


@cache
def cases(part: str) -> tuple[VerdictInputs, ...]:
    return tuple(demo_case(part, at) for at in range(len(demo_job(part).job.sources)))


@cache
def compared(part: str) -> Comparison:
    return compare(cases(part))


def test_the_one_that_carries_is_enough_and_the_others_say_why_they_lose() -> None:
    """The bank with its three rules, beside the two-engine set with its governor set wrong."""
    loft = compared("net_loft")
    engine, bank = loft.sources
    assert (loft.enough, loft.by) == (1, "it alone carries")
    assert bank.status is Status.WITH_RULES
    assert bank.without is Status.FALLS_SHORT
    assert len(bank.rules) == 3
    assert "Frequency" in engine.loses
    assert loft.next_down == 0
    assert engine.changes, "what it would take is told"


def test_none_is_enough_where_none_carries() -> None:
    ferry = compared("ferry_house")
    assert ferry.enough is None
    assert ferry.next_down == min(range(4), key=lambda at: (len(ferry.sources[at].loses), at))


def test_a_line_stands_across_all_sources_on_one_unit() -> None:
    ferry = compared("ferry_house")
    steady = next(line for line in ferry.lines if line.key == "steady-total")
    assert steady.unit == "share"
    assert all(cell is not None for cell in steady.cells)
    waveform = next(line for line in ferry.lines if line.key == "waveform")
    assert [cell.place for cell in waveform.cells if cell is not None][3] == 1, "the cleanest wave stands first"


def test_the_line_of_starts_says_of_each_source_which_start_is_its_worst() -> None:
    (starting,) = [line for line in compared("ferry_house").lines if line.key == "starting"]
    assert starting.label == "Starting, each its worst"
    assert len({cell.label for cell in starting.cells if cell is not None}) > 1


def test_the_least_costly_is_by_price_where_all_have_one_and_else_by_what_is_asked() -> None:
    (bank,) = cases("net_loft")[1:]
    dear = replace(bank, source=replace(bank.source, name="dear", owning=Owning(price=900)))
    cheap = replace(bank, source=replace(bank.source, name="cheap", owning=Owning(price=500)))
    assert (compare((dear, cheap)).enough, compare((dear, cheap)).by) == (1, "the lowest price")
    assert compare((dear, bank)).by.endswith("not every one has a price")


def test_the_table_has_a_row_for_each_line_and_source() -> None:
    ferry = compared("ferry_house")
    table = comparison_table(ferry)
    assert len(table.rows) == sum(cell is not None for line in ferry.lines for cell in line.cells)
    assert {row[1] for row in table.rows} == {source.name for source in ferry.sources}


def test_what_was_measured_of_several_stands_beside_what_one_only_claims() -> None:
    found = {item.key: item for item in compared_parameters([case.character for case in cases("ferry_house")])}
    held = found["held_w"]
    assert all(parameter is not None for parameter in held.measured)
    loud = found["dba_7m_loaded"]
    assert loud.measured[3] is None
    assert loud.claimed[3] is not None


@pytest.mark.parametrize("count", [0, 1])
def test_fewer_than_two_are_still_laid_out(count: int) -> None:
    assert len(compare(cases("net_loft")[:count]).sources) == count
