"""Notes: what a person typed into a phone comes in whole, hurried or in order, and nothing is refused for one bad line."""

from __future__ import annotations

import re
from datetime import UTC, datetime
from pathlib import Path

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from muster.core.errors import MusterError
from muster.core.loads import Tier
from muster.core.sessions import Conditions
from muster.core.sources import SourceKind
from muster.core.supply import SYSTEMS
from muster.formats.notes import are_notes, read_notes, read_question, write_notes

NOW = datetime(2026, 11, 28, 12, 0, tzinfo=UTC)
IN_ORDER = """\
Home: Weir cottage, 230 V 50 Hz, outage 18 h from 18, neighbour 30 m, 45 dB at night
ask again about the pump

Loads
- fridge 120w
- kettle 2.2kw should
- garden gate motor
Test loads: fan heater 2kw

Generator: the red set, 2.8 kW surge 3.2 kW petrol, tank 12 l

Ladder, 14 nov
09:00 no load 236v 51.8hz
09:10 kettle on 2.4kw 224v
23:50 0.2kw
00:20 0.2kw

Noise walk
70 db at 4 m
"""
HURRIED = """\
uncle's place, 120 V
fridge 150w, lights 60w
gen 3500w surge 4000w gas, 4 gal tank
6:05 pm no load 123v 61.8hz
6:15 pm fridge and lights on 210w 122v
8:02 pm tripped when the kettle went on, 3.4kw
"""


def entries(text: str) -> list[tuple[str, str]]:
    (source,) = read_notes(text, NOW).job.sources
    return [(entry.raw, f"{entry.t_s:g}") for kept in source.sessions for entry in kept.session.entries[1:]]


def test_notes_in_order_make_the_whole_job() -> None:
    job = read_notes(IN_ORDER, NOW).job
    assert (job.name, job.brief.system, job.brief.outage_h, job.brief.outage_from_hour) == (
        "Weir cottage",
        SYSTEMS["single-230-50"],
        18,
        18,
    )
    assert (job.brief.neighbour_m, job.brief.noise_night_dba) == (30, 45)
    assert [(load.name, load.tier) for load in job.loads] == [
        ("fridge", Tier.MUST),
        ("kettle", Tier.SHOULD),
        ("fan heater", Tier.TEST),
    ]
    (source,) = job.sources
    assert (source.source.name, source.source.kind, source.source.claims.tank_l) == (
        "the red set",
        SourceKind.OPEN_FRAME,
        12,
    )
    ladder, noise = source.sessions
    assert (ladder.session.protocol, ladder.started_at) == ("ladder", "2026-11-14T09:00:00+00:00")
    assert noise.session.protocol == "noise_walk"


def test_what_was_not_understood_is_kept_and_asked() -> None:
    notes = read_notes(IN_ORDER, NOW)
    assert notes.job.brief.notes.splitlines() == ["ask again about the pump", "garden gate motor"]
    assert [line.text for line in notes.asked] == ["garden gate motor"]


def test_a_test_over_midnight_goes_on_and_the_next_one_after_it() -> None:
    assert [at for _, at in entries(IN_ORDER)] == ["0", "600", "53400", "55200", "0"]
    (source,) = read_notes(IN_ORDER, NOW).job.sources
    assert source.sessions[1].started_at == "2026-11-15T00:20:00+00:00"


def test_hurried_notes_without_headings_are_taken_for_what_they_look_like() -> None:
    job = read_notes(HURRIED, NOW).job
    assert (job.name, job.brief.system) == ("uncle's place", SYSTEMS["single-120-60"])
    assert [load.name for load in job.loads] == ["fridge", "lights"]
    (source,) = job.sources
    assert (source.source.kind, source.source.claims.cont_w) == (SourceKind.OPEN_FRAME, 3500)
    (kept,) = source.sessions
    assert kept.started_at == "2026-11-27T18:05:00+00:00", "the last evening that it can have been"


def test_every_line_is_told_back() -> None:
    for text in (IN_ORDER, HURRIED):
        told = {line.number for line in read_notes(text, NOW).lines}
        bare = {"Loads"}
        lines = text.splitlines()
        assert {number for number, line in enumerate(lines, 1) if line and line not in bare} <= told


def test_a_source_nobody_described_is_asked_about_and_no_more_than_was_read() -> None:
    notes = read_notes("08:00 1.2kw 231v\n08:10 1.9kw 228v\n", NOW)
    (source,) = notes.job.sources
    assert (source.source.claims.cont_w, source.source.planned) == (1900, True)
    assert any("no source is described" in line.asked for line in notes.asked)


def test_a_bare_off_at_the_end_of_a_run_is_a_question() -> None:
    notes = read_notes("station 1 kWh 600 W\n20:00 100%\n06:02 off\n", NOW)
    assert any("by itself" in line.asked for line in notes.asked)


def test_the_supply_nobody_said_is_taken_from_the_volts_and_asked() -> None:
    notes = read_notes("generator 3 kw\n08:00 122v 60hz\n", NOW)
    assert notes.job.brief.system == SYSTEMS["single-120-60"]
    assert any("nobody said the supply" in line.asked for line in notes.asked)


@pytest.mark.parametrize("text", [IN_ORDER, HURRIED])
def test_written_again_it_reads_the_same(text: str) -> None:
    job = read_notes(text, NOW).job
    again = read_notes(write_notes(job), NOW).job
    assert (again.name, again.brief, again.loads, again.sources[0].source) == (
        job.name,
        job.brief,
        job.loads,
        job.sources[0].source,
    )
    for kept, other in zip(job.sources[0].sessions, again.sources[0].sessions, strict=True):
        assert [(e.t_s, e.items) for e in other.session.entries[1:]] == [
            (e.t_s, e.items) for e in kept.session.entries[1:]
        ]


def test_a_meters_table_is_no_notes() -> None:
    assert not are_notes("time,v,w\n" + "".join(f"{i},230.{i % 9},{100 + i}\n" for i in range(30)))
    assert are_notes(IN_ORDER)
    assert are_notes(HURRIED)


@pytest.mark.parametrize("text", ["", "  \n\n", "\ufeff"])
def test_nothing_written_is_one_clear_error(text: str) -> None:
    with pytest.raises(MusterError, match="nothing is written there"):
        read_notes(text, NOW)


LINES = st.sampled_from([*IN_ORDER.splitlines(), *HURRIED.splitlines(), "Test", "Starts: 31 feb", "# x", "---", "source:", "loads:", "12:00", "home:", ": :"])  # fmt: skip


@settings(max_examples=60, deadline=None)
@given(st.lists(st.one_of(LINES, st.text(max_size=40)), min_size=1, max_size=12))
def test_no_sequence_of_lines_is_refused(lines: list[str]) -> None:
    text = "\n".join(lines)
    try:
        read_notes(text, NOW)
    except MusterError as error:
        assert "nothing is written there" in str(error)  # noqa: PT017 - most lines are no error


@pytest.mark.parametrize(
    ("line", "source", "loads"),
    [
        ("1kVA 24V inverter, 2x100Ah lead-acid: fridge 0.9A, lights 60W", SourceKind.INVERTER, ["fridge", "lights"]),
        ("can a 2 kw generator run a fridge 120w and a kettle 2.2kw?", SourceKind.OPEN_FRAME, ["fridge", "kettle"]),
        ("fridge 120w, freezer 140w on a 1kWh station 600w", SourceKind.STATION, ["fridge", "freezer"]),
    ],
)
def test_a_question_in_one_line_is_a_source_and_its_loads(line: str, source: SourceKind, loads: list[str]) -> None:
    job = read_question(line, SYSTEMS["single-230-50"]).job
    assert (job.sources[0].source.kind, [load.name for load in job.loads]) == (source, loads)
    assert job.brief.question == line


@pytest.mark.parametrize("line", ["", "fridge 100w", "what can I run?", "generator 2 kw"])
def test_what_is_no_question_says_what_would_be(line: str) -> None:
    with pytest.raises(MusterError, match="such as"):
        read_question(line, SYSTEMS["single-230-50"])


EXAMPLES = re.findall(
    r"```notes\n(.*?)```", Path(__file__).parents[2].joinpath("docs/notes.md").read_text(encoding="utf-8"), re.S
)


@pytest.mark.parametrize(("text", "asked"), list(zip(EXAMPLES, (0, 0, 3), strict=True)))
def test_the_examples_of_the_docs_are_read_whole(text: str, asked: int) -> None:
    notes = read_notes(text, NOW)
    assert len(notes.asked) == asked, notes.asked
    assert not [line.text for line in notes.lines if line.kept and not line.asked]
    (source,) = notes.job.sources
    assert all(len(kept.session.entries) > 2 for kept in source.sessions)


def test_a_line_longer_than_anybody_jots_is_kept_and_asked() -> None:
    long = "12:00 230v " + "and so on " * 400
    notes = read_notes(f"generator 3 kw\n{long}\n", NOW)
    assert any("too long to be read" in line.asked for line in notes.asked)
    (source,) = notes.job.sources
    assert source.sessions[0].session.entries[1].raw == long.strip()


def test_a_nameplate_jotted_under_the_loads_is_the_source_and_no_load() -> None:
    text = "Home: F, 230 V\nLoads\nfridge 120 W\nair source heat pump inverter 1.2 kW\n1kWh battery station 600W surge 1200W LFP\nEndurance, 3 oct 2026\n20:00 100% 130w\n23:00 62% 131w\n"
    job = read_notes(text, NOW).job
    assert [load.name for load in job.loads] == ["fridge", "air source heat pump inverter"]
    (record,) = job.sources
    assert (record.source.kind, record.source.claims.cont_w, record.source.claims.battery_wh) == (
        SourceKind.STATION,
        600,
        1000,
    )
    assert len(record.sessions) == 1


def test_the_heading_of_a_test_says_under_what_conditions_it_was_run() -> None:
    text = "Home: A, 230 V\nGenerator: set, propane 2.4 kW petrol 3 kW, tank 15 l\nLadder, at sea level on petrol, 10 °C, 14 nov 2026\n09:10 2.4kw 228v\n09:40 2.4kw 228v\n"
    notes = read_notes(text, NOW)
    (kept,) = notes.job.sources[0].sessions
    assert kept.session.conditions == Conditions(10.0, 0.0, "petrol")
    assert kept.started_at.startswith("2026-11-14")
    again = read_notes(write_notes(notes.job), NOW).job.sources[0].sessions[0]
    assert again.session.conditions == kept.session.conditions


def test_what_is_told_back_is_in_the_units_of_the_notes_and_asks_of_a_load_that_is_not_on_the_list() -> None:
    text = "Home: S, 120 V 60 Hz, neighbour 70 ft, 1200 ft up, 40 °F\nfridge 130 W\nGenerator: set, 2.2 kW, tank 1.1 gal, half load 0.2 gal/h, full load 0.35 gal an hour\nLadder, 20 nov 2026, 60 F\n08:12 heater on 1.1kw 120.9v\n"
    notes = read_notes(text, NOW)
    told = " | ".join(phrase for line in notes.lines for phrase in line.told)
    assert "neighbour at 70 ft" in told
    assert "1 200 ft above sea, 40 °F" in told
    assert "60 °F" in told
    assert [line.asked for line in notes.asked] == ["not said: surge", "“heater” is not on the list of loads"]
    claims = notes.job.sources[0].source.claims
    assert (claims.half_load_lph, claims.full_load_lph) == (
        pytest.approx(0.757, abs=1e-3),
        pytest.approx(1.325, abs=1e-3),
    )


@pytest.mark.parametrize(
    "text",
    [
        "must: fridge 120 W, pump 750 W\nshould: kettle 2 kW",
        "must run:\nfridge 120 W\npump 750 W\nshould:\n- kettle 2 kW",
        "essentials: fridge 120 W, pump 750 W\nloads: kettle 2 kW should",
    ],
)
def test_a_heading_of_a_tier_is_of_every_load_under_it(text: str) -> None:
    job = read_notes(f"cabin, 230 V, outage 12 h\n{text}", NOW).job
    assert [(load.name, load.tier) for load in job.loads] == [
        ("fridge", Tier.MUST),
        ("pump", Tier.MUST),
        ("kettle", Tier.SHOULD),
    ]


@pytest.mark.parametrize(
    ("line", "limit_dba", "neighbour_m"),
    [
        ("noise limit 60 at 15 m", 60, 15),
        ("noise: at most 55 dBA at 30 ft", 55, 9.144),
        ("sound limit 50 db", 50, None),
    ],
)
def test_a_noise_limit_is_of_the_brief_and_no_load(line: str, limit_dba: float, neighbour_m: float | None) -> None:
    job = read_notes(f"cabin, 230 V, outage 12 h\nmust: fridge 120 W\n{line}", NOW).job
    assert [load.name for load in job.loads] == ["fridge"]
    assert (job.brief.noise_day_dba, job.brief.noise_night_dba) == (limit_dba, limit_dba)
    assert neighbour_m is None or job.brief.neighbour_m == pytest.approx(neighbour_m)


def test_a_level_that_was_heard_is_no_limit() -> None:
    job = read_notes("cabin, 230 V, outage 12 h, noise 62 db at 20 m\nmust: fridge 120 W", NOW).job
    assert job.brief.noise_day_dba is None


def test_a_date_on_a_line_of_its_own_is_that_of_the_test_and_in_the_middle_of_it_of_the_next_line() -> None:
    notes = read_notes(
        "Fern Lodge, 230 V 50 Hz\nfridge 110w\n\ninverter set 2.6 kW, tank 6 l, 20 l in cans\n\nLadder\n2026-11-20\n"
        "23:00 0.9kw 230v\n2026-11-21\n09:00 1.9kw 229v\n",
        NOW,
    )
    (record,) = notes.job.sources[0].sessions
    assert record.started_at.startswith("2026-11-20T23:00")
    assert [entry.t_s for entry in record.session.entries if "kw" in entry.raw] == [0.0, 10 * 3600.0]
    assert notes.job.sources[0].source.claims.stored_fuel_l == 20
    assert not any("note" in line.told for line in notes.lines)


def test_a_heading_may_begin_with_its_date_and_an_outage_may_be_said_by_its_hours_alone() -> None:
    text = """Rope Walk Cottage, 230 V 50 Hz, 8 h from 18:00, reserve 20 %, cords
loads: fridge 110 w must 12/28; lights 60 w must
source: the yellow genset, open frame, 2500 w, 3000 w surge, tank 12 l

1 Nov 2026 ladder on the yellow genset, 9 c
14:00 no load 236v 51.8hz
14:05 fridge and lights on 234v 175w 51.5hz

2 Nov 2026 starts
10:05 lights on 235v 60w
"""
    job = read_notes(text, NOW).job
    assert (job.brief.outage_h, job.brief.outage_from_hour) == (8, 18)
    (record,) = job.sources
    assert [kept.session.protocol for kept in record.sessions] == ["ladder", "starts"]
    assert [kept.started_at[:10] for kept in record.sessions] == ["2026-11-01", "2026-11-02"]
    assert record.sessions[0].session.conditions.temp_c == 9
    assert "ladder" not in record.source.name + record.source.note


@pytest.mark.parametrize(
    ("head", "of_units"),
    [
        ("Units", True),
        ("units only:", True),
        ("Six small sets, all in one afternoon", True),
        ("comparing three stations", True),
        ("two generators compared, side by side", True),
        ("comparing two generators for the cabin", False),
        ("Home: comparing three generators", False),
    ],
)
def test_a_heading_without_a_colon_says_that_no_home_is_judged(head: str, of_units: bool) -> None:
    notes = read_notes(
        f"{head}\n120 V 60 Hz\nGenerator: set one, 2 kW petrol\nladder\n10:00 no load 121v 60.1hz\n", NOW
    )
    assert notes.job.brief.of_units is of_units
    assert notes.job.brief.system == SYSTEMS["single-120-60"]
    assert [source.source.name for source in notes.job.sources] == ["set one"]


def test_several_sources_and_no_load_of_a_home_are_units_and_undated_tests_are_of_the_day_said_last() -> None:
    text = """three battery boxes
120 V 60 Hz
Test loads: heater low 500w
Station: blue box, 1000w 2000w surge, 1.0 kWh LFP
idle 3 nov 2026
13:10 0w dc 26.1v 0.45a
Station: black box, 1200w 2400w surge 1.2 kwh nmc
idle
12:10 0w dc 25.6v 0.9a
"""
    notes = read_notes(text, NOW)
    assert notes.job.brief.of_units
    assert any("units alone" in line.asked for line in notes.lines)
    blue, black = notes.job.sources
    assert (black.source.claims.surge_w, black.source.claims.battery_wh) == (2400, 1200)
    assert [record.started_at[:16] for source in (blue, black) for record in source.sessions] == [
        "2026-11-03T13:10",
        "2026-11-03T12:10",
    ]
    for home in (
        text.replace("three", "Home: three"),
        text.replace("60 Hz", "60 Hz, outage 8 h"),
        text.replace("Test loads", "Loads"),
    ):
        assert not read_notes(home, NOW).job.brief.of_units


def test_a_timed_line_is_never_a_load_and_a_test_may_be_numbered_or_of_the_same_day() -> None:
    text = """Skerry bothy, 240v 50hz, cut of 2 days, nearest house 60 m
what must run
chest freezer 150w starts 8a
17:00-23:00 lights 40w
hybrid inverter 3.6 kw surge 7.2 kw 10 s, 48v 100ah lfp
test 1 discharge 18 nov 2026
18:00 100% 53.1v freezer on, 190w
06:50 54 %
recharge, same evening
16:30 mains on, 1.18kw in 52.0v 22%
"""
    notes = read_notes(text, NOW)
    assert notes.job.brief.neighbour_m == 60
    assert len(notes.job.loads) == 2
    (source,) = notes.job.sources
    assert [record.session.protocol for record in source.sessions] == ["endurance", "recharge"]
    assert [record.started_at[:16] for record in source.sessions] == ["2026-11-18T18:00", "2026-11-19T16:30"]
    bare = read_notes(text.replace("test 1 discharge 18 nov 2026\n", ""), NOW)
    assert len(bare.job.loads) == 2, "without its heading it is a test still"
    assert sum(len(record.session.entries) for record in bare.job.sources[0].sessions) >= 3


def test_a_source_by_its_own_name_and_tests_by_the_day_of_the_week_are_headings() -> None:
    text = """Cedar Point ranch - 120/240 split phase 60hz - outage 24h, neighbor 150ft
must have: well pump 1.5hp 240v, fridge, lights 200w
Big red: open frame 7500 running 9500 peak, gas, 25 L tank
load test sat 8am
8:02 no load 244/122/122 62.1hz
8:50 5.9kw total, 238v 60.1hz
noise: 1 m 84, 7m 72 , 15 m 66 all at 3kw; background 41
Silver inverter: inverter gen, 3500 start 3000 run, 120v only
10:30 2.8kw 118v 60.0 20 min no complaint
"""
    job = read_notes(text, NOW).job
    assert job.name == "Cedar Point ranch"
    assert job.brief.system == SYSTEMS["split-120-240-60"]
    assert [load.name for load in job.loads] == ["well pump", "fridge", "lights"]
    red, silver = job.sources
    assert (red.source.name, red.source.claims.cont_w, red.source.claims.surge_w) == ("Big red", 7500, 9500)
    assert silver.source.name == "Silver inverter"
    assert [record.session.protocol for record in red.sessions] == ["ladder", "noise_walk"]
    at = datetime.fromisoformat(red.sessions[0].started_at)
    assert (at.weekday(), at <= NOW) == (5, True)
    levels = [
        (item.distance_m, item.value)
        for entry in red.sessions[1].session.entries
        for item in entry.items
        if getattr(item, "distance_m", None)
    ]
    assert levels == [(1, 84), (7, 72), (15, 66)]


def test_a_test_is_headed_by_its_date_alone_and_numbers_are_a_date() -> None:
    text = """Lantern Row 3, UK 230v
needs: gas boiler 130w, wifi, pump 25w 24h
source is a 2kwh power station "the slab" 2400w / 4800w peak, lifepo4, ups mode <20ms
discharge 6/11/26
19:00 start 100%
07:10 18%
Mon 23 Nov, 4 °C, 410 m up
18:36 no load: 230.4 V, 50.0 Hz
"""
    job = read_notes(text, NOW).job
    assert job.name == "Lantern Row 3"
    assert [load.name for load in job.loads] == ["gas boiler", "wifi", "pump"]
    (slab,) = job.sources
    assert (slab.source.name, slab.source.claims.transfer_ms) == ("the slab", 20)
    assert slab.sessions[0].started_at[:10] == "2026-11-06"
    assert slab.sessions[1].started_at[5:10] == "11-23"
    assert slab.sessions[1].session.conditions.altitude_m == 410
    there = read_notes(text.replace("UK 230v", "120 V 60 Hz"), NOW).job
    assert there.sources[0].sessions[0].started_at[5:10] == "06-11", "the month first where mains is 60 Hz"


def test_what_is_said_of_a_run_opens_neither_a_source_nor_a_test() -> None:
    text = """Fern Lodge, 230 V 50 Hz, outage 8 h
fridge 110w must
inverter set 2.6 kW, tank 6 l
Ladder
10:00 no load 231v
the inverter - running hot at 2kw
overload again
noise - 64 db at 7m
"""
    (source,) = read_notes(text, NOW).job.sources
    (record,) = source.sessions
    assert len([entry for entry in record.session.entries if entry.raw]) >= 4


def test_an_appliance_with_an_inverter_in_it_is_a_load() -> None:
    text = "Fern Lodge, 230 V 50 Hz, outage 8 h\nmust:\nfridge: inverter compressor 90w, start 300w\nmicrowave: inverter type 1200w\n"
    job = read_notes(text, NOW).job
    assert job.sources == ()
    assert len(job.loads) == 2
