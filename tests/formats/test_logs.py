"""Log files of any kind: looked at, mapped, read; refused with the row and the column at fault."""

from __future__ import annotations

import io
from collections.abc import Iterable
from dataclasses import replace
from zoneinfo import ZoneInfo

import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from muster.core.errors import MusterError
from muster.core.sessions import Place
from muster.core.supply import SYSTEMS
from muster.core.timeline.traces import Channel, Trace
from muster.formats.logs.layout import LogLayout, look_at
from muster.formats.logs.mapping import Backwards, Column, Mapping, TimeForm, guess_channel, guess_mapping
from muster.formats.logs.own import read_trace_csv
from muster.formats.logs.reading import Notes, _Reader, read_chunks
from muster.formats.logs.times import Clock, read_time
from muster.formats.logs.writing import trace_csv
from tests.examples import examples

SPLIT = SYSTEMS["split-120-240-60"]
SINGLE = SYSTEMS["single-230-50"]
CLOCK = Clock(ZoneInfo("Atlantic/Faroe"), 1_791_795_900.0)
"""A session that began on 2026-10-12 at 09:05 UTC, 10:05 at the site."""


def lines(*rows: str) -> bytes:
    return "\n".join(rows).encode() + b"\n"


def read(
    data: bytes, mapping: Mapping | None = None, clock: Clock = CLOCK, **change: object
) -> tuple[np.ndarray, np.ndarray, Notes]:
    """Times, samples and notes of a whole file; by the guessed mapping unless one is given."""
    layout = look_at(data, whole=True)
    mapping = mapping or guess_mapping(layout, SINGLE)
    assert mapping is not None
    mapping = replace(mapping, **change)  # type: ignore[arg-type]
    notes = Notes()
    chunks = list(read_chunks(io.BytesIO(data), layout, mapping, clock, notes))
    return np.concatenate([c.t_s for c in chunks]), np.concatenate([c.values for c in chunks], axis=1), notes


# What a file looks like


@pytest.mark.parametrize(
    ("data", "separator", "decimal", "heading_line"),
    [
        (lines("time,v", "1,230.1", "2,230.2"), ",", ".", 1),
        (lines("time;U", "1;230,1", "2;230,2"), ";", ",", 1),
        (lines("time\tv", "1\t230.1", "2\t230.2"), "\t", ".", 1),
        (b"\xef\xbb\xbf" + lines("time,v", "1,230.1"), ",", ".", 1),
        ("time;v\n1;230,1\n".encode("utf-16"), ";", ",", 1),
        (lines("Logger 7", "Site: shed", "", "time,v,a", "1,230.1,2", "2,230.2,2"), ",", ".", 4),
        (lines("1,230.1", "2,230.2"), ",", ".", 0),
        (lines("time,v", '1,"230,1"', '2,"230,2"'), ",", ",", 1),
    ],
)
def test_separator_decimal_sign_and_headings_are_seen(
    data: bytes, separator: str, decimal: str, heading_line: int
) -> None:
    layout = look_at(data, whole=True)
    assert (layout.separator, layout.decimal, layout.heading_line) == (separator, decimal, heading_line)


def test_a_second_line_of_units_is_joined_to_the_names() -> None:
    layout = look_at(lines("time;Voltage;Power", "s;V;kW", "0;230,1;1,2", "1;230,2;1,3"), whole=True)
    assert layout.headings == ("time [s]", "Voltage [V]", "Power [kW]")
    mapping = guess_mapping(layout, SINGLE)
    assert mapping is not None
    assert [(c.channel.quantity, c.scale) for c in mapping.columns] == [("v", "as it is"), ("w", "kilo")]


@pytest.mark.parametrize(
    ("data", "says"),
    [
        (b"", "empty"),
        (b"\n\n \n", "empty"),
        (b"hello", "no table"),
        (b"a,b\n", "no rows"),
        (bytes(range(256)) * 20, "text"),
        (b"PK\x03\x04\0\0\0\0,,\0\n1,2\n", "not a text file"),
    ],
)
def test_what_is_no_log_is_refused_in_one_sentence(data: bytes, says: str) -> None:
    with pytest.raises(MusterError, match=says):
        look_at(data, whole=True)


@pytest.mark.parametrize(
    ("heading", "system", "quantity", "place", "scale"),
    [
        ("l2_w", SPLIT, "w", Place.LEG2, "as it is"),
        ("f_hz", SPLIT, "hz", Place.NONE, "as it is"),
        ("Voltage L1 [V]", SPLIT, "v", Place.LEG1, "as it is"),
        ("U2 (V)", SPLIT, "v", Place.LEG2, "as it is"),
        ("Active power (kW)", SPLIT, "w", Place.TOTAL, "kilo"),
        ("Active power (kW)", SINGLE, "w", Place.LEG1, "kilo"),
        ("Battery voltage", SINGLE, "v", Place.DC, "as it is"),
        ("I_DC [mA]", SINGLE, "a", Place.DC, "milli"),
        ("LAF dB(A)", SINGLE, "dba", Place.NONE, "as it is"),
        ("SOC %", SINGLE, "soc_pct", Place.NONE, "as it is"),
        ("Temp °F", SINGLE, "temp_c", Place.NONE, "fahrenheit"),
        ("Frequency", SINGLE, "hz", Place.NONE, "as it is"),
        ("Power factor", SPLIT, "pf", Place.TOTAL, "as it is"),
        ("Energy (kWh)", SPLIT, "wh", Place.NONE, "kilo"),
    ],
)
def test_a_heading_gives_its_channel_away(
    heading: str, system: object, quantity: str, place: Place, scale: str
) -> None:
    assert guess_channel(heading, system) == (Channel(quantity, place), scale)  # type: ignore[arg-type]


def test_a_heading_that_says_nothing_is_left_to_the_user() -> None:
    assert guess_channel("serial", SINGLE) is None


# Times


@pytest.mark.parametrize(
    ("cell", "form", "after_s"),
    [
        ("2026-10-12 10:05:30", TimeForm.ISO, 30),
        ("2026-10-12T09:05:30Z", TimeForm.ISO, 30),
        ("2026-10-12T11:05:30.5+02:00", TimeForm.ISO, 30.5),
        ("2026/10/12 10:06", TimeForm.ISO, 60),
        ("12/10/2026 10:05:30", TimeForm.DAY_FIRST, 30),
        ("12.10.26 10:05:30,25", TimeForm.DAY_FIRST, 30.25),
        ("10/12/2026 10:05:30 AM", TimeForm.MONTH_FIRST, 30),
        ("10/12/2026 1:05:00 pm", TimeForm.MONTH_FIRST, 3 * 3600),
        ("1791795930", TimeForm.EPOCH_S, 30),
        ("1791795930500", TimeForm.EPOCH_MS, 30.5),
        ("12.5", TimeForm.ELAPSED_S, 12.5),
        ("1:02:03.5", TimeForm.ELAPSED_CLOCK, 3723.5),
        ("10:05:30", TimeForm.CLOCK, 30),
        ("1:05:00 PM", TimeForm.CLOCK, 3 * 3600),
    ],
)
def test_every_form_of_time_is_read(cell: str, form: TimeForm, after_s: float) -> None:
    at = read_time(cell, form, CLOCK)
    assert at is not None
    assert at[0] - CLOCK.began_s == pytest.approx(after_s, abs=1e-3)


@pytest.mark.parametrize("cell", ["", "noon", "2026-13-01 10:00", "31/02/2026 10:00", "25:61:00", "1e400", "nan"])
def test_what_is_no_time_is_none(cell: str) -> None:
    assert all(read_time(cell, form, CLOCK) is None for form in TimeForm)


def test_a_date_and_a_clock_time_in_two_columns_are_one_time() -> None:
    t_s, _, _ = read(lines("Date;Time;V", "12.10.2026;10:05:30;230,1", "12.10.2026;10:05:31;230,2"))
    assert (t_s - CLOCK.began_s).tolist() == [30, 31]


def test_the_hour_that_stands_twice_in_autumn_is_read_twice() -> None:
    """Clocks go back on 25 October 2026 at 02:00: the log runs on, an hour later."""
    clock = ("00:50", "01:10", "01:30", "01:50", "01:10", "01:30", "01:50", "02:10")
    rows = [f"2026-10-25 {at}:00,230" for at in clock]
    t_s, _, _ = read(lines("time,v", *rows))
    assert np.diff(t_s).tolist() == [1200] * 7


def test_clock_times_without_a_date_run_past_midnight() -> None:
    t_s, _, _ = read(lines("clock,v", "23:59:58,230", "23:59:59,230", "00:00:00,230", "00:00:01,230"))
    assert np.diff(t_s).tolist() == [1, 1, 1]


def test_a_logger_whose_clock_is_ahead_is_put_right() -> None:
    plain, _, _ = read(lines("time,v", "2026-10-12 10:05:30,230", "2026-10-12 10:05:31,230"))
    right, _, _ = read(lines("time,v", "2026-10-12 10:05:30,230", "2026-10-12 10:05:31,230"), ahead_s=90.0)
    assert (plain - right).tolist() == [90, 90]


# Order


BACK = lines("t_s,v", "0,230", "1,230", "2,231", "1,232", "2,233")


def test_time_that_goes_backwards_is_refused_with_its_row() -> None:
    with pytest.raises(MusterError, match=r"^row 5: the time goes back by 1 s; rising times"):
        read(BACK)


def test_rows_may_be_put_in_order_of_time() -> None:
    t_s, values, notes = read(BACK, backwards=Backwards.SORT)
    assert (np.diff(t_s) > 0).all()
    assert values[0].tolist() == [230, 230, 232, 231, 233]
    assert any("put in order" in phrase for phrase in notes.told)


def test_a_clock_that_was_set_back_goes_on_from_the_row_before() -> None:
    t_s, _, notes = read(BACK, backwards=Backwards.SET_BACK)
    assert np.diff(t_s).tolist() == [1, 1, 1, 1]
    assert notes.set_back == 1


def test_rows_that_share_a_whole_second_are_spread_over_it() -> None:
    t_s, _, notes = read(lines("t_s,v", "0,1", "0,2", "0,3", "0,4", "1,5", "1,6", "2,7"))
    assert t_s - t_s[0] == pytest.approx([0, 0.25, 0.5, 0.75, 1, 1.5, 2])
    assert notes.spread == 4


# Cells


def test_missing_cells_words_for_missing_and_sentinels_are_no_readings() -> None:
    data = lines("t_s,v,a", "0,230,1", "1,,2", "2,NaN,OL", "3,-999,4", "4,231,5")
    _, values, notes = read(data)
    assert np.isnan(values[0]).tolist() == [False, True, True, True, False]
    assert np.isnan(values[1]).tolist() == [False, False, True, False, False]
    assert notes.missing == 4


def test_a_figure_that_only_looks_like_a_sentinel_stays_unless_the_user_says_so() -> None:
    _, values, _ = read(lines("t_s,w", "0,9999", "1,1200"), missing=())
    assert values[0].tolist() == [9999, 1200]


def test_repeated_headings_blank_lines_and_short_tails_are_left_out_and_counted() -> None:
    data = lines("t_s,v", "0,230", "", "t_s,v", "1,231", "End of log")
    _, values, notes = read(data)
    assert values[0].tolist() == [230, 231]
    assert (notes.repeated, notes.skipped) == (1, 1)


def test_units_in_the_cells_are_taken_off() -> None:
    _, values, _ = read(lines("t_s;v;soc %", "0;230,1 V;81 %", "1;230,2 V;80 %"))
    assert values[0] == pytest.approx([230.1, 230.2])
    assert values[1].tolist() == [81, 80]


def test_a_bad_cell_is_told_by_its_row_and_column() -> None:
    with pytest.raises(MusterError, match=r"^row 3, column “v”: “abc” is not a number; a figure with a decimal point"):
        read(lines("t_s,v", "0,230", "1,abc", "2,def"))


def test_a_bad_time_is_told_by_its_row_and_column() -> None:
    with pytest.raises(MusterError, match=r"^row 4, column “time”: “late” is no such time"):
        read(lines("time,v", "2026-10-12 10:05:30,230", "2026-10-12 10:05:31,230", "late,230"))


def test_a_mapping_to_a_column_that_is_not_there_is_refused() -> None:
    mapping = Mapping((0,), TimeForm.ELAPSED_S, (Column(7, Channel("v", Place.LEG1)),))
    with pytest.raises(MusterError, match="no column 8"):
        read(lines("t_s,v", "0,230"), mapping)


def test_a_mapping_must_read_something_and_each_channel_once() -> None:
    volts = Channel("v", Place.LEG1)
    with pytest.raises(MusterError, match="no column is read"):
        Mapping((0,), TimeForm.ISO, ())
    with pytest.raises(MusterError, match="two columns"):
        Mapping((0,), TimeForm.ISO, (Column(1, volts), Column(2, volts)))


def test_rows_are_counted_across_chunks(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("muster.formats.logs.reading.CHUNK_BYTES", 37)
    rows = [f"{i},{230 + i / 10:.1f}" for i in range(200)]
    rows[150] = "150,x"
    with pytest.raises(MusterError, match=r"^row 152, column “v”"):
        read(lines("t_s,v", *rows))


NUMBERS = st.floats(-1e6, 1e6).map(lambda x: f"{x:.3f}")
CELLS = st.one_of(NUMBERS, st.sampled_from(["", "NaN", "OL", "-999", " 12.5", "7"]))


@settings(max_examples=examples(50))
@given(st.lists(st.tuples(CELLS, CELLS), min_size=1, max_size=30), st.sampled_from([",", ";", "\t"]))
def test_the_fast_way_says_what_the_slow_way_says(rows: list[tuple[str, str]], separator: str) -> None:
    text = "".join(f"{i}{separator}{a}{separator}{b}\n" for i, (a, b) in enumerate(rows))
    layout = LogLayout("utf-8", separator, ".", 0, ("t_s", "v", "a"), ())
    columns = (Column(1, Channel("v", Place.LEG1)), Column(2, Channel("a", Place.LEG1), "milli"))
    reader = _Reader(layout, Mapping((0,), TimeForm.ELAPSED_S, columns, ("-999",)), CLOCK, Notes())
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr("muster.formats.logs.reading.FAST_LEAST", 0)
        fast = reader._fast(text, 1)
    slow = reader._slow(text, 1)
    assert fast is not None
    assert np.array_equal(fast.t_s, slow.t_s)
    assert np.array_equal(fast.values, slow.values, equal_nan=True)
    assert fast.lines() == slow.lines()


# Whatever comes: a log, or one message


def _rows(draw: st.DrawFn) -> Iterable[str]:
    separator = draw(st.sampled_from([",", ";", "\t", "|", " "]))
    cell = st.one_of(
        st.sampled_from(
            ["time", "v", "2026-10-12 10:00:00", "12/10/2026", "10:00", "230,1", "-1e999", "nan", "=1+1", '"']
        ),
        st.integers(-10, 2_000_000_000).map(str),
        st.floats().map(str),
        st.text(max_size=6),
    )
    return draw(st.lists(st.lists(cell, min_size=0, max_size=5).map(separator.join), max_size=12))


@st.composite
def files(draw: st.DrawFn) -> bytes:
    """Something a hurried person might import."""
    if draw(st.integers(0, 9)) == 0:
        return draw(st.binary(max_size=300))
    ending = draw(st.sampled_from(["\n", "\r\n", "\r"]))
    text = ending.join(_rows(draw))
    return draw(st.sampled_from([b"", b"\xef\xbb\xbf"])) + text.encode(
        draw(st.sampled_from(["utf-8", "utf-16"])), "replace"
    )


@settings(max_examples=examples(300), suppress_health_check=[HealthCheck.too_slow])
@given(files(), st.sampled_from(list(Backwards)), st.sampled_from(list(TimeForm)))
def test_any_file_is_a_log_or_one_message(data: bytes, backwards: Backwards, form: TimeForm) -> None:
    try:
        layout = look_at(data, whole=True)
        mapping = guess_mapping(layout, SPLIT)
        if mapping is None:
            mapping = Mapping((0,), form, (Column(1, Channel("v", Place.LEG1)),))
        mapping = replace(mapping, backwards=backwards)
        chunks = list(read_chunks(io.BytesIO(data), layout, mapping, CLOCK))
    except MusterError:
        return
    t_s = np.concatenate([chunk.t_s for chunk in chunks])
    assert t_s.size > 0
    assert (np.diff(t_s) >= 0).all()
    assert not any(np.isinf(chunk.values).any() for chunk in chunks)


# Our own form


@given(
    st.lists(st.floats(0, 1e6), min_size=1, max_size=20, unique=True).map(sorted),
    st.lists(st.floats(width=32, allow_infinity=False), min_size=20, max_size=20),
)
def test_a_trace_written_and_read_back_is_the_same(times: list[float], figures: list[float]) -> None:
    values = np.array([figures[: len(times)]], dtype=np.float32)
    trace = Trace("log", "meter", (Channel("v", Place.LEG1),), np.array(times), values)
    again = read_trace_csv(trace_csv(trace), "log", "meter")
    assert again.channels == trace.channels
    assert np.array_equal(again.t_s, trace.t_s)
    assert np.array_equal(again.values, trace.values, equal_nan=True)


@pytest.mark.parametrize(
    ("data", "says"),
    [
        (b"a,b\n1,2\n", "no column t_s"),
        (b"t_s,zz\n1,2\n", "no channel"),
        (b"t_s,l1_v\n1,x\n", r"row 2, column “l1_v”"),
        (b"t_s,l1_v\n2,1\n1,1\n", "do not rise"),
        (b"", "no column t_s"),
    ],
)
def test_a_trace_that_is_not_ours_is_refused_where_it_is_wrong(data: bytes, says: str) -> None:
    with pytest.raises(MusterError, match=says):
        read_trace_csv(data, "traces/1.csv", "meter")
