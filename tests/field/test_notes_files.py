"""The field cases as notes files: they come in as they do when typed live, and go out as notes that read the same."""

from __future__ import annotations

import re
from datetime import UTC, datetime
from pathlib import Path

import pytest
from django.contrib.auth.models import AbstractUser

from muster.core.loads import Wave
from muster.core.sources import Chemistry, PvPort
from muster.formats.notes import read_notes, write_notes
from muster.records.actions import notes
from muster.records.models import SessionRow

from .cases import CASES, FieldCase
from .test_field_cases import wanted
from .typing import told

HERE = Path(__file__).with_name("notes")
NOW = datetime(2026, 11, 28, 12, 0, tzinfo=UTC)


def notes_of(case: FieldCase) -> str:
    return (HERE / f"{case.name.split()[0].lower()}.txt").read_text(encoding="utf-8")


@pytest.mark.django_db
@pytest.mark.parametrize("case", CASES, ids=lambda case: case.name[:3].strip())
def test_a_notes_file_says_what_the_case_typed_live_says(case: FieldCase, who: AbstractUser) -> None:
    job = notes.take_notes(notes_of(case), who)
    for source in job.source_rows.all():
        assert source.kind == case.kind.value
        assert source.data.get("planned") or source.data["claims"]["cont_w"] == case.claims.cont_w
    came = [
        (raw, when if re.search(r"\d\d:\d\d", raw) else "-", said)
        for row in SessionRow.objects.filter(source__job=job).order_by("pk")
        for raw, when, said in told(row)
    ]
    assert came == wanted()[case.name]


def test_two_sources_of_one_home_keep_their_tests_apart() -> None:
    sources = read_notes((HERE / "f9.txt").read_text(encoding="utf-8"), NOW).job.sources
    assert [(record.source.name, record.source.claims.wave) for record in sources] == [
        ("the sine one", Wave.SINE),
        ("the stepped one", Wave.STEPPED),
    ]
    assert [len(record.sessions) for record in sources] == [1, 1]


def test_a_kitchen_and_unknown_things_asks_of_what_nobody_can_know() -> None:
    notes = read_notes((HERE / "f10.txt").read_text(encoding="utf-8"), NOW)
    assert [(line.text, line.asked) for line in notes.asked] == [
        ("lift 2.1kw", "what kind of load is it?"),
        ("base 450w", "what kind of load is it?"),
    ]
    (record,) = notes.job.sources
    claims = record.source.claims
    assert (claims.cont_w, claims.surge_w, claims.surge_s, claims.battery_wh) == (4000, 6000, 5, 3600)
    assert claims.pv_ports == (PvPort(12, 60, 20), PvPort(12, 60, 20))


def test_a_fridge_on_a_small_inverter_is_two_batteries_in_series() -> None:
    (record,) = read_notes((HERE / "f12.txt").read_text(encoding="utf-8"), NOW).job.sources
    claims = record.source.claims
    assert record.source.name == "inverter"
    assert (claims.battery_v, claims.battery_ah, claims.battery_wh, claims.idle_w) == (24, 100, 2400, 12)
    assert (claims.cont_w, claims.surge_w, claims.chemistry) == (1000, 2000, Chemistry.LEAD)


@pytest.mark.parametrize("name", ["f12", *(case.name.split()[0].lower() for case in CASES)])
def test_written_as_notes_again_it_reads_the_same(name: str) -> None:
    job = read_notes((HERE / f"{name}.txt").read_text(encoding="utf-8"), NOW).job
    again = read_notes(write_notes(job), NOW).job
    assert (again.name, again.brief, again.loads) == (job.name, job.brief, job.loads)
    for source, same in zip(job.sources, again.sources, strict=True):
        assert same.source == source.source
        for kept, other in zip(source.sessions, same.sessions, strict=True):
            assert other.started_at[:16] == kept.started_at[:16]
            assert [(round(e.t_s), e.items) for e in other.session.effective] == [
                (round(e.t_s), e.items) for e in kept.session.effective
            ]
