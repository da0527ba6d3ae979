"""The shelf: planning figures, one's own entries, and tables out and in."""

from __future__ import annotations

from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from muster.core.errors import MusterError
from muster.core.loads import KINDS, Caller, Duty, Part
from muster.core.loads.line_parser import parse_load_line
from muster.core.quantities import Grade
from muster.core.shelf import SHELF, SOURCE_SHELF, ShelfLoad, find_on_shelf, from_load
from muster.core.sources import Claims, PairSchool, Share, Site, Source, SourceKind, Unit
from muster.core.sources.limits import binding, limits_of
from muster.core.sources.pairs import by_schools, chosen
from muster.core.supply import SYSTEMS, System
from muster.formats.shelfcsv import read_shelf, shelf_table
from muster.formats.tables import csv_text

DOCS = (Path(__file__).parents[3] / "docs/shelf.md").read_text()
OWN = ShelfLoad("my-kettle", "kettle", "heater", 2900, Duty(3, 57, Caller.HAND))


def test_the_shelf_holds_what_homes_hold() -> None:
    assert len(SHELF) >= 60
    assert len(SOURCE_SHELF) >= 12
    assert {entry.kind for entry in SOURCE_SHELF} == set(SourceKind)


@pytest.mark.parametrize("slug", [entry.slug for entry in (*SHELF, *SOURCE_SHELF)])
def test_every_figure_says_where_it_comes_from(slug: str) -> None:
    assert f"`{slug}`" in DOCS


@pytest.mark.parametrize("entry", SHELF, ids=lambda entry: entry.slug)
def test_every_entry_makes_a_load(entry: ShelfLoad) -> None:
    load = parse_load_line(entry.name, "1", 230).load
    assert load.run_w == entry.run_w
    assert load.run_grade is Grade.D
    assert load.start_total_va >= load.run_va


@pytest.mark.parametrize("entry", SOURCE_SHELF, ids=lambda entry: entry.slug)
def test_a_source_off_the_shelf_is_all_planning(entry: object) -> None:
    assert hasattr(entry, "claims")
    source = Source(entry.name, entry.kind, entry.claims, planned=True)
    limits = limits_of(source, SYSTEMS["single-230-50"], Site())
    assert {limit.grade for limit in limits if limit.key in ("continuous", "surge")} == {Grade.D}
    assert "shelf" in limits[0].basis


def test_ones_own_entry_is_asked_first() -> None:
    assert find_on_shelf("kettle", [OWN]) == OWN
    assert parse_load_line("kettle", "1", 230, [OWN]).load.run_w == 2900
    assert find_on_shelf("kettle") != OWN


def test_a_load_put_on_the_shelf_comes_back_as_it_was() -> None:
    load = parse_load_line("dishwasher 1900w", "1", 230).load
    entry = from_load(load)
    again = parse_load_line("dishwasher", "2", 230, [entry]).load
    assert (again.run_w, again.duty, again.hours, again.parts, again.pf) == (
        1900,
        load.duty,
        load.hours,
        load.parts,
        load.pf,
    )


def test_a_line_takes_the_nameplate_in_every_form_it_comes() -> None:
    pump = parse_load_line("well pump 5.2a lra30 codeg 1hp l1", "1", 230).load
    assert pump.start_va == pytest.approx(6900)
    assert pump.run_w == pytest.approx(230 * 5.2 * pump.pf)
    assert {f.basis.value for f in pump.figures} >= {"locked_rotor", "code_letter", "plate", "shelf"}
    washer = parse_load_line("washer once40min 9-11", "1", 230).load
    assert washer.duty.once
    assert washer.duty.on_min == 40
    with pytest.raises(MusterError):
        parse_load_line("pump 400w codeg", "1", 230)


ENTRIES = st.builds(
    ShelfLoad,
    st.from_regex(r"[a-z][a-z0-9-]{0,20}", fullmatch=True),
    st.sampled_from(["hay drier", "lamp; large", "pump, deep", "„bell“", "=1+1", "'@bell", "-fan"]),
    st.sampled_from(sorted(KINDS)),
    st.integers(1, 20000).map(float),
    st.builds(Duty, st.sampled_from([60.0, 2.5]), st.sampled_from([0.0, 12.0]), st.sampled_from(Caller), st.booleans()),
    st.sets(st.integers(0, 23), min_size=1).map(lambda hours: tuple(sorted(hours))),
    st.none() | st.sampled_from([0.5, 0.85, 1.0]),
    st.lists(st.sampled_from(["drier", "bell", "big pump"]), unique=True, max_size=2).map(tuple),
    st.lists(st.builds(Part, st.sampled_from(["fan", "heat"]), st.integers(1, 900).map(float)), max_size=3).map(tuple),
)


@given(st.lists(ENTRIES, max_size=5, unique_by=lambda entry: entry.slug))
def test_a_table_of_entries_reads_back_the_same(entries: list[ShelfLoad]) -> None:
    assert read_shelf(csv_text(shelf_table(entries))) == tuple(entries)


@pytest.mark.parametrize(
    ("text", "where"),
    [
        ("name,kind\nlamp,heater", "row 1"),
        ("name,kind,run_w\nlamp,heater,many", "row 2, run_w"),
        ("name,kind,run_w\nlamp,heater,", "row 2, run_w"),
        ("name,kind,run_w\nlamp,sun,5", "row 2, kind"),
        ("name,kind,run_w,hours\nlamp,heater,5,6to9", "row 2, hours"),
        ("name;kind;run_w;caller\nlamp;heater;5,5;nobody", "row 2, caller"),
        ("name,kind,run_w\nlamp,heater,5\nlamp,heater,6", "row 3, slug"),
        ("name,kind,run_w,parts\nlamp,heater,5,glow", "row 2, parts"),
    ],
)
def test_a_bad_table_is_told_by_row_and_column(text: str, where: str) -> None:
    with pytest.raises(MusterError) as caught:
        read_shelf(text)
    assert caught.value.where == where


# a pair by three schools (docs/method/starts.md#parallel-pair: 9, 17, 28 A)

LINES = (Share(9, 4.1, 4.9), Share(17, 7.2, 9.8), Share(28, 11.4, 16.6))
PAIR = Source(
    "the pair",
    SourceKind.INVERTER_SET,
    Claims(cont_w=32 * 230, surge_w=40 * 230),
    units=(Unit("A", 13 * 230), Unit("B", 19 * 230)),
    school=PairSchool.MEASURED,
    shares=LINES,
)
SYSTEM = System(230, 50, 1)


def test_a_pair_stands_by_three_schools() -> None:
    found = {one.school: one.w for one in by_schools(PAIR, SYSTEM)}
    assert found[PairSchool.TWICE_SMALLER] == pytest.approx(26 * 230)
    assert found[PairSchool.SUM] == pytest.approx(32 * 230)
    assert found[PairSchool.MEASURED] / 230 == pytest.approx(31.9, abs=0.05)


def test_the_school_chosen_binds_and_an_unread_share_falls_back_on_the_safe_one() -> None:
    binds = binding(limits_of(PAIR, SYSTEM, Site()), None)
    assert binds is not None
    assert (binds.key, binds.grade) == ("pair", Grade.B)
    assert "B meets its rating" in binds.basis
    unread = Source(PAIR.name, PAIR.kind, PAIR.claims, units=PAIR.units, school=PairSchool.MEASURED)
    fallback = chosen(unread, SYSTEM)
    assert fallback is not None
    assert fallback.school is PairSchool.TWICE_SMALLER
    assert by_schools(Source("one", SourceKind.INVERTER, Claims(2000)), SYSTEM) == ()


def test_a_pair_is_two_units() -> None:
    with pytest.raises(MusterError):
        Source("odd", SourceKind.INVERTER_SET, Claims(2000), units=(Unit("A", 1000),))
