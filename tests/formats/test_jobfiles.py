"""Job files: whatever is written comes back the same; whatever comes is a job or one message."""

from __future__ import annotations

import json
import re
from collections.abc import Callable
from dataclasses import replace
from functools import cache
from typing import Any, TypeVar, get_args

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from muster.core.brief import Brief
from muster.core.errors import MusterError
from muster.core.loads import Load
from muster.core.sessions import (
    Entry,
    Event,
    Item,
    Length,
    LookedAt,
    Note,
    Place,
    Reading,
    Session,
    Start,
    Step,
    Switch,
)
from muster.core.sources import Claims, Source, SourceKind
from muster.formats.jobfile import JobFile, SessionRecord, SourceRecord, job_text, parse_job, write_job
from muster.formats.jobzip import JobPackage, read_package
from muster.formats.jobzip_out import write_package
from muster.formats.seals import seal_of
from tests.conftest import ferry_house
from tests.examples import examples
from tests.generate import ODD, packages, places, spoil

T = TypeVar("T")


@settings(max_examples=examples(80), suppress_health_check=[HealthCheck.too_slow])
@given(packages())
def test_a_job_written_and_read_back_is_equal(package: JobPackage) -> None:
    data = write_package(package)
    assert read_package(data) == package
    assert write_package(read_package(data)) == data


def test_a_job_file_is_friendly_to_a_text_editor() -> None:
    lines = job_text(small()).splitlines()
    assert max(map(len, lines)) < 120
    assert any(line.strip() == '"run_w": 1150.0,' for line in lines)


@cache
def small() -> JobFile:
    """A job with one of everything, small enough to be spoilt two thousand times."""
    home = ferry_house().job
    reading = Reading("v", 118.2, Place.LEG1, instrument="meter")
    session = Session("ladder", (Step("no load", ("1",)),), (Entry(1, 0.0, (Event("cautions"), reading), "118.2v"),))
    record = SessionRecord(session, "2026-10-12T09:05:00+00:00")
    claims = Claims(cont_w=5000, surge_w=6000, surge_s=5)
    return JobFile(
        "Small", home.brief, home.loads[:2], (SourceRecord(Source("set", SourceKind.STATION, claims), (record,)),)
    )


@settings(max_examples=examples(300), suppress_health_check=[HealthCheck.too_slow])
@given(
    st.lists(
        st.tuples(st.sampled_from(places(write_job(small()))[1:]), st.sampled_from(["change", "drop", "double"]), ODD),
        min_size=1,
        max_size=3,
    )
)
def test_a_spoilt_job_file_is_still_a_job_or_one_message_with_its_path(slips: list[tuple[Any, str, Any]]) -> None:
    data = json.loads(json.dumps(write_job(small())))
    for path, how, odd in slips:
        spoil(data, path, how, odd)
    job, said = read_or_told(lambda: parse_job(json.dumps(data)))
    assert "\n" not in said
    assert job is not None or said
    assert job is None or parse_job(job_text(job)) == job


def read_or_told(read: Callable[[], T]) -> tuple[T | None, str]:
    """What was read, or the one message in its place."""
    try:
        return read(), ""
    except MusterError as error:
        return None, str(error)


@settings(max_examples=examples(300))
@given(st.data())
def test_a_damaged_zip_is_refused_in_one_line(data: st.DataObject) -> None:
    whole = _zip()
    at = data.draw(st.integers(0, len(whole) - 1))
    how = data.draw(st.sampled_from(["cut", "flip"]))
    spoilt = (
        whole[:at]
        if how == "cut"
        else whole[:at] + bytes([whole[at] ^ data.draw(st.integers(1, 255))]) + whole[at + 1 :]
    )
    package, said = read_or_told(lambda: read_package(spoilt))
    assert (package is None) == bool(said)
    assert "\n" not in said


@cache
def _zip() -> bytes:
    whole = ferry_house()
    source = whole.job.sources[0]
    few = JobFile("Few", Brief(), whole.job.loads, (SourceRecord(source.source, source.sessions[:1]),))
    return write_package(JobPackage(few, {name: whole.traces[name] for name in [t.file for t in few.traces]}))


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("{", "line 1 column 2"),
        ("", "line 1 column 1"),
        ("[]", "version"),
        ("3", "version"),
        ('"x"', "version"),
        ('{"version": 1}', "name: field required"),
        (b"\xff\xfe\x00", "not text"),
        ('{"version": 1e999}', "version"),
        ("[" * 100_000, "nested without end"),
        ("9" * 5000, "a number without end"),
        ('{"version": 1, "version": 3}', "version"),
    ],
)
def test_what_is_no_job_file_says_so(text: str | bytes, says: str) -> None:
    with pytest.raises(MusterError, match=re.escape(says)):
        parse_job(text)


def test_a_load_keeps_every_word_of_its_path() -> None:
    data = write_job(small())
    data["loads"][1]["run_w"] = -40
    with pytest.raises(MusterError, match=r"^loads\[1\]\.run_w: must be above 0, got -40$"):
        parse_job(json.dumps(data))
    assert isinstance(small().loads[1], Load)


@pytest.mark.parametrize("kind", get_args(Item))
def test_every_kind_of_item_is_in_the_seal(kind: type) -> None:
    """What a seal leaves out could be changed in a sealed record and nobody would see it."""
    made = {
        "Reading": Reading("v", 230.0, Place.LEG1),
        "Switch": Switch("1", on=True),
        "Start": Start("1"),
        "Event": Event("trip"),
        "Note": Note("hums"),
        "Length": Length(5.0),
        "LookedAt": LookedAt("leads", "clad"),
    }[kind.__name__]
    bare, full = (Session("ladder", (), (Entry(1, 0.0, items, ""),)) for items in ((), (made,)))
    kept = SessionRecord(session=bare, started_at="2026-11-29T09:00:00+00:00")
    assert seal_of(kept) != seal_of(replace(kept, session=full))
