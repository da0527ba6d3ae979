"""Files made to do harm: refused in one line, before they are unpacked, in little memory."""

from __future__ import annotations

import io
import json
import struct
import subprocess
import sys
import zipfile
from collections.abc import Callable
from pathlib import Path

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from muster.core.errors import MusterError
from muster.formats import bounds
from muster.formats.captures import comtrade_cff, read_capture_files
from muster.formats.jobfile import job_text, parse_job
from muster.formats.jobzip import read_package
from muster.formats.jobzip_out import write_package
from tests.conftest import ferry_house
from tests.examples import examples
from tests.formats.test_captures import AT, wave
from tests.formats.test_jobfiles import _zip, read_or_told, small
from tests.serving import environment

MOST_MB = 500
TELLING = """
import sys
from muster.cli import main
code = main(sys.argv[1:])
print(next(line for line in open("/proc/self/status") if line.startswith("VmHWM")), end="", file=sys.stderr)
sys.exit(code)
"""
"""The command line, and then the most memory that it took [kB]."""


def zipped(members: dict[str, bytes], level: int = 9) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED, compresslevel=level) as archive:
        for name, data in members.items():
            archive.writestr(name, data)
    return out.getvalue()


def bomb_by_ratio() -> bytes:
    """A hundred megabytes of nothing in a tenth of one."""
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive, archive.open("job.muster.json", "w") as member:
        for _ in range(100):
            member.write(b" " * 1_000_000)
    return out.getvalue()


def bomb_by_total() -> bytes:
    """Many members, none of them suspicious by itself."""
    return zipped(
        {"job.muster.json": job_text(small()).encode(), **{f"traces/{i}.csv": b"0" * 4_900_000 for i in range(250)}},
        level=1,
    )


def bomb_by_count() -> bytes:
    return zipped({f"{i}": b"" for i in range(bounds.MOST_MEMBERS + 1)})


def lying_about_its_size() -> bytes:
    """The directory says ten bytes; the member unpacks to fifty million."""
    data = bytearray(zipped({"job.muster.json": b" " * 50_000_000}))
    real = struct.pack("<I", 50_000_000)
    while (at := data.find(real)) >= 0:
        data[at : at + 4] = struct.pack("<I", 10)
    return bytes(data)


def one_line_without_end() -> bytes:
    """A log of one line, thirty million characters long, of figures so that it packs like a log."""
    package = ferry_house()
    line = "t_s," + ",".join(str(i * 7919 % 100_003) for i in range(4_000_000))
    name = package.job.traces[0].file
    return zipped({"job.muster.json": job_text(package.job).encode(), name: line.encode()}, level=1)


def nested() -> bytes:
    return b"[" * 5_000_000


def long_number() -> bytes:
    return b'{"version": ' + b"9" * 8_000_000 + b"}"


def long_text() -> bytes:
    return b'{"version": 1, "name": "' + b"x" * (bounds.MOST_JSON + 5) + b'"}'


def promising(samples: int = 100_000_000, channels: int = 8) -> bytes:
    """A capture that promises a hundred million samples and holds three."""
    whole = comtrade_cff(wave(count=3), AT, "x", 50).decode()
    return whole.replace(",3\n", f",{samples}\n").replace(",3\r\n", f",{samples}\r\n").encode()


def many_channels() -> bytes:
    return b"a,b,1999\r\n999999,999999A,0D\r\n60\r\n1\r\n1200,2\r\n"


HOSTILE: dict[str, Callable[[], bytes]] = {
    "ratio.muster.zip": bomb_by_ratio,
    "total.muster.zip": bomb_by_total,
    "count.muster.zip": bomb_by_count,
    "lying.muster.zip": lying_about_its_size,
    "line.muster.zip": one_line_without_end,
    "nested.muster.json": nested,
    "number.muster.json": long_number,
    "text.muster.json": long_text,
    "samples.cff": promising,
}


@pytest.mark.parametrize("name", sorted(HOSTILE))
def test_a_hostile_file_is_refused_by_the_command_line_in_one_line_and_little_memory(tmp_path: Path, name: str) -> None:
    path = tmp_path / name
    path.write_bytes(HOSTILE[name]())
    ran = subprocess.run(
        [sys.executable, "-c", TELLING, "findings", str(path)],
        capture_output=True,
        text=True,
        check=False,
        env=environment(),
        timeout=60,
    )
    *said, told = ran.stderr.splitlines()
    assert (ran.returncode, len(said)) == (2, 1), ran.stderr[-2000:]
    assert int(told.split()[1]) / 1024 < MOST_MB


def test_a_capture_of_a_million_channels_is_refused_before_room_is_made() -> None:
    with pytest.raises(MusterError, match="channels in so few lines"):
        read_capture_files({"a.cfg": many_channels(), "a.dat": b"1,0,1\r\n"})


def test_a_zip_that_packs_as_logs_pack_is_read() -> None:
    package = ferry_house()
    assert read_package(write_package(package)).job == package.job


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ('{"version": 1, "name": "\\ud800"}', "half a character"),
        ("[" * 100_000, "nested"),
        ('{"version": ' + "1" * 5000 + "}", "number without end"),
        ('{"version": ' + "1" * 1000 + "}", "number without end"),
        ('{"version": 9223372036854775808}', "number without end"),
    ],
)
def test_text_that_no_job_holds_is_refused_by_what_is_wrong(text: str, says: str) -> None:
    with pytest.raises(MusterError, match=says):
        parse_job(text)


@settings(max_examples=examples(150), suppress_health_check=[HealthCheck.too_slow])
@given(st.data())
def test_a_zip_spoilt_in_several_places_is_a_job_or_one_line(data: st.DataObject) -> None:
    spoilt = bytearray(_zip())
    for _ in range(data.draw(st.integers(1, 6))):
        at = data.draw(st.integers(0, len(spoilt) - 1))
        piece = data.draw(st.binary(min_size=1, max_size=8))
        spoilt[at : at + len(piece)] = piece
    _, said = read_or_told(lambda: read_package(bytes(spoilt)))
    assert "\n" not in said


def test_what_a_job_file_says_of_itself_may_be_anything() -> None:
    """The version, the shape of everything beneath it: whatever JSON is there is told by its path."""
    for value in (None, [], {}, "1", 1.0, True, {"version": 1}, {"version": True, "name": 3}):
        with pytest.raises(MusterError):
            parse_job(json.dumps(value))
