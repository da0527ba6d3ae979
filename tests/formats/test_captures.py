"""Waveform files: what is written is read back, what others write is understood, what comes is a capture or one message."""

from __future__ import annotations

from datetime import UTC, datetime

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from muster.core.errors import MusterError
from muster.core.sessions import Place
from muster.core.timeline.captures import Capture
from muster.core.timeline.traces import Channel
from muster.formats.captures import comtrade_cff, read_capture_files
from muster.formats.logs.writing import capture_csv
from tests.examples import examples

V1, A1, V2 = Channel("v", Place.LEG1), Channel("a", Place.LEG1), Channel("v", Place.LEG2)
AT = datetime(2026, 11, 25, 9, 30, 15, 250_000, tzinfo=UTC)


def wave(channels: tuple[Channel, ...] = (V1, A1), count: int = 400) -> Capture:
    t = np.arange(count) / 5000
    rows = [170 * np.sin(2 * np.pi * 50 * t + i) / (1 if c.quantity == "v" else 20) for i, c in enumerate(channels)]
    return Capture("start of the pump", "scope", 12.5, 1 / 5000, channels, np.array(rows, np.float32))


def test_a_capture_written_as_comtrade_is_read_back_with_its_time() -> None:
    capture = wave((V1, V2, A1))
    read = read_capture_files({"pump.cff": comtrade_cff(capture, AT, "Ferry House, pump", 50)})
    assert read.channels == capture.channels
    assert read.step_s == pytest.approx(capture.step_s)
    assert np.allclose(read.values, capture.values, atol=170 / 99_998)
    assert read.began is not None
    assert read.began.replace(tzinfo=UTC) == AT


@settings(max_examples=examples(60))
@given(st.integers(2, 60), st.floats(0.001, 5000), st.floats(100, 50_000))
def test_whatever_the_scale_and_rate_it_comes_back_within_a_count(count: int, size: float, rate: float) -> None:
    values = (np.sin(np.arange(count)) * size).astype(np.float32)[None, :]
    capture = Capture("x", "scope", 0.0, 1 / rate, (V1,), values)
    read = read_capture_files({"x.cff": comtrade_cff(capture, AT, "x", 60)})
    assert np.allclose(read.values, values, atol=max(size / 99_998, 1e-6))
    assert read.step_s == pytest.approx(capture.step_s, rel=1e-3, abs=1e-6)


def test_a_pair_of_files_of_the_1999_edition_is_understood() -> None:
    config = (
        "Substation,recorder 7,1999\r\n3,3A,0D\r\n1,Va,A,,kV,0.001,0,0,-99999,99999,1,1,P\r\n"
        "2,Ia,A,,A,0.01,0,0,-99999,99999,100,5,S\r\n3,Temp,,,C,1,0,0,-99999,99999,1,1,P\r\n60\r\n1\r\n1200,4\r\n"
        "25/11/2026,09:30:15.000000\r\n25/11/2026,09:30:15.000000\r\nASCII\r\n1\r\n"
    )
    data = "1,0,120,100,20\r\n2,833,119,200,20\r\n3,1667,118,300,20\r\n4,2500,117,400,20\r\n"
    read = read_capture_files({"a.cfg": config.encode(), "a.dat": data.encode()})
    assert read.channels == (V1, A1)
    assert read.values[0].tolist() == pytest.approx([120, 119, 118, 117])
    assert read.values[1].tolist() == pytest.approx([20, 40, 60, 80]), "secondary amps, brought to the primary side"
    assert read.left_out == ("Temp",)
    assert read.step_s == pytest.approx(1 / 1200)


def test_a_capture_written_as_csv_is_read_back() -> None:
    capture = wave()
    read = read_capture_files({"pump.csv": capture_csv(capture, own_time=True)})
    assert read.channels == capture.channels
    assert np.array_equal(read.values, capture.values)


@pytest.mark.parametrize(
    ("text", "channels", "step_s"),
    [
        ("time [ms];CH1 [V];CH2 [V]\n0;1,5;2\n0,1;1,6;2\n0,2;1,7;2\n", (V1, V2), 1e-4),
        (
            "Scope export\nserial 12\ntime (s),probe (mV),clamp (A)\n0,1000,2\n0.001,2000,3\n0.002,1000,4\n",
            (V1, A1),
            1e-3,
        ),
        ("t_s,l1_v,f_hz\n0,1,50\n1e-3,2,50\n2e-3,3,50\n", (V1,), 1e-3),
    ],
)
def test_csv_of_other_scopes_is_understood(text: str, channels: tuple[Channel, ...], step_s: float) -> None:
    read = read_capture_files({"scope.csv": text.encode()})
    assert read.channels == channels
    assert read.step_s == pytest.approx(step_s)


@pytest.mark.parametrize(
    ("files", "says"),
    [
        ({"a.cfg": b"x"}, ".dat is missing"),
        ({"a.dat": b"x"}, ".cfg is missing"),
        ({"a.png": b"x"}, "no waveform file"),
        ({"a.cff": b"nothing"}, "not COMTRADE"),
        ({"a.csv": b"volts\n1\n"}, "no column of times"),
        ({"a.csv": b"t_s,l1_v\n0,1\n0.001,x\n"}, "row 3"),
        ({"a.csv": b"t_s,l1_v\n0,1\n0.001\n"}, "row 3"),
        ({"a.csv": b"t_s,l1_v\n0,1\n0,1\n0,1\n"}, "do not rise"),
        ({"a.csv": b"t_s,l1_v\n0,1\n0.001,2\n0.5,1\n0.6,1\n"}, "uneven"),
        ({"a.csv": b"t_s,temperature\n0,1\n0.001,2\n"}, "no volts or amps"),
    ],
)
def test_a_file_that_is_none_says_what_is_wrong(files: dict[str, bytes], says: str) -> None:
    with pytest.raises(MusterError, match=says):
        read_capture_files(files)


@settings(max_examples=examples(400))
@given(
    st.sampled_from([".cff", ".csv", ".cfg"]),
    st.integers(0, 3000),
    st.binary(max_size=40),
    st.booleans(),
    st.binary(max_size=60),
)
def test_whatever_comes_is_a_capture_or_one_message(suffix: str, at: int, put: bytes, cut: bool, more: bytes) -> None:
    good = {
        ".cff": comtrade_cff(wave(count=20), AT, "x", 50),
        ".csv": capture_csv(wave(count=20)),
        ".cfg": b"a,b,1999\r\n",
    }[suffix]
    spoilt = good[: at % len(good)] + put + (b"" if cut else good[at % len(good) :])
    files = {f"a{suffix}": spoilt, **({"a.dat": more} if suffix == ".cfg" else {})}
    try:
        read = read_capture_files(files)
    except MusterError:
        return
    assert read.values.shape[0] == len(read.channels)
