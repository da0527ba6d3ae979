"""Bytes and words taken apart without a wire: registers, SunSpec models, lines and numbers."""

from __future__ import annotations

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from muster.core.errors import MusterError
from muster.core.sessions import Place
from muster.core.timeline.traces import Channel
from muster.instruments import sunspec
from muster.instruments.driver import Garbled
from muster.instruments.lines import SOUND, parse_line
from muster.instruments.registers import ABSENT, MOST_AT_ONCE, Register, RegisterMap, decode, encode
from muster.instruments.scpi import parse_number
from muster.instruments.wire import LONGEST_LINE, split_lines

RANGES = {"u16": (0, 65534), "i16": (-32767, 32767), "u32": (0, 2**32 - 2), "i32": (-(2**31) + 1, 2**31 - 1)}


@given(st.sampled_from(sorted(RANGES)).flatmap(lambda k: st.tuples(st.just(k), st.integers(*RANGES[k]))))
def test_a_whole_number_written_as_words_reads_back(pair: tuple[str, int]) -> None:
    kind, value = pair
    assert decode(encode(value, kind), kind) == value


@given(st.floats(-1e6, 1e6, width=32))
def test_a_float_written_as_words_reads_back(value: float) -> None:
    assert decode(encode(value, "f32"), "f32") == value


@pytest.mark.parametrize("kind", sorted(ABSENT))
def test_what_an_instrument_has_not_is_not_a_number(kind: str) -> None:
    assert math.isnan(decode(encode(math.nan, kind), kind))
    assert math.isnan(decode(encode(1e12, kind), kind))


def test_too_few_words_are_refused() -> None:
    with pytest.raises(Garbled):
        decode([1], "u32")


@given(st.lists(st.integers(0, 400), min_size=1, max_size=20, unique=True))
def test_a_map_is_asked_for_in_requests_that_cover_it_and_are_never_too_long(addresses: list[int]) -> None:
    volts = Channel("v", Place.LEG1)
    spans = RegisterMap("it", tuple(Register(a, "i32", volts) for a in addresses)).spans
    assert all(count <= MOST_AT_ONCE for _, count in spans)
    for address in addresses:
        assert any(first <= address and address + 2 <= first + count for first, count in spans)


@pytest.mark.parametrize(
    "make",
    [
        lambda: Register(0, "u64", Channel("hz")),
        lambda: Register(-1, "u16", Channel("hz")),
        lambda: RegisterMap("it", ()),
    ],
)
def test_a_map_that_cannot_be_is_refused(make: object) -> None:
    with pytest.raises(MusterError):
        make()  # type: ignore[operator]


def reader(words: dict[int, int]):
    def read(address: int, count: int) -> list[int]:
        if not any(a in words for a in range(address, address + count)):
            raise Garbled("refused", where="here", want="elsewhere")
        return [words.get(a, 0) for a in range(address, address + count)]

    return read


@pytest.mark.parametrize("base", sunspec.BASES)
def test_models_are_walked_from_the_mark_wherever_it_stands(base: int) -> None:
    words = {base: 0x5375, base + 1: 0x6E53, base + 2: 1, base + 3: 4, base + 8: 103, base + 9: 50, base + 60: 0xFFFF}
    found = sunspec.walk(reader(words))
    assert [(one.model, one.length) for one in found] == [(1, 4), (103, 50)]


def test_a_chain_without_end_and_a_map_without_mark_are_refused() -> None:
    endless = {40000: 0x5375, 40001: 0x6E53} | dict.fromkeys(range(40002, 42000), 1)
    with pytest.raises(Garbled, match="end"):
        sunspec.walk(reader(endless))
    with pytest.raises(Garbled, match="SunS"):
        sunspec.walk(reader({7: 7}))


def test_a_power_of_ten_scales_and_one_beyond_reason_is_refused() -> None:
    """2412 · 10⁻¹ V; a power of 77 is a slipped register, not a voltage."""
    words = [101, 50, *([0xFFFF] * 50)]
    words[10], words[13] = 2412, encode(-1, "i16")[0]
    volts = dict(sunspec.figures(101, words))[Channel("v", Place.LEG1)]
    assert volts == pytest.approx(241.2)
    words[13] = 77
    with pytest.raises(Garbled, match="power of ten"):
        sunspec.figures(101, words)
    with pytest.raises(Garbled):
        sunspec.figures(101, words[:9])


def test_a_name_is_read_to_its_first_empty_byte() -> None:
    words = [1, 66, *([0] * 66)]
    words[2:5] = [0x4861, 0x736B, 0x0000]
    words[18:20] = [0x5477, 0x696E]
    assert sunspec.name_of(words) == "Hask Twin"


@given(
    st.lists(st.text(st.characters(min_codepoint=33, max_codepoint=126), min_size=1, max_size=8), max_size=5), st.data()
)
def test_lines_cut_anywhere_come_out_whole(lines: list[str], data: st.DataObject) -> None:
    raw = "".join(f"{line}\r\n" for line in lines).encode()
    at = data.draw(st.integers(0, len(raw)))
    first, rest = split_lines(raw[:at])
    second, left = split_lines(rest + raw[at:])
    assert [line for line in (*first, *second) if line] == lines
    assert left == b""


def test_a_line_without_end_and_bytes_that_are_no_text_are_refused() -> None:
    with pytest.raises(Garbled):
        split_lines(b"x" * (LONGEST_LINE + 1))
    with pytest.raises(Garbled):
        split_lines(b"\xff\xfe\n")


@pytest.mark.parametrize(("answer", "value"), [("2.3E+2", 230), ("49.98", 49.98), ("230.1,V", 230.1)])
def test_numbers_of_scpi_are_read(answer: str, value: float) -> None:
    assert parse_number(answer) == pytest.approx(value)


def test_no_figure_is_not_a_number_and_words_are_refused() -> None:
    assert math.isnan(parse_number("9.91E+37"))
    assert math.isnan(parse_number("NaN"))
    for answer in ("", "OL", "-113,Undefined"):
        if answer.startswith("-113"):
            continue
        with pytest.raises(Garbled):
            parse_number(answer)


@pytest.mark.parametrize(("line", "value"), [("LAS = 63.4 dB", 63.4), ("12:03 L=58dB", 58.0), ("LAS -3.5 dB", -3.5)])
def test_a_sound_meters_line_is_read(line: str, value: float) -> None:
    assert parse_line(line, SOUND) == (value,)


def test_a_line_of_something_else_is_refused() -> None:
    with pytest.raises(Garbled, match="T=21"):
        parse_line("T=21 C", SOUND)
