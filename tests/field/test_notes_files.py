"""The field cases as notes files: they come in as they do when typed live, and go out as notes that read the same."""

from __future__ import annotations

import re
from datetime import UTC, datetime
from pathlib import Path

import pytest
from django.contrib.auth.models import AbstractUser

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
    (source,) = job.source_rows.all()
    assert source.kind == case.kind.value
    if not source.data.get("planned"):
        assert source.data["claims"]["cont_w"] == case.claims.cont_w
    came = [
        (raw, when if re.search(r"\d\d:\d\d", raw) else "-", said)
        for row in SessionRow.objects.filter(source=source).order_by("pk")
        for raw, when, said in told(row)
    ]
    assert came == wanted()[case.name]


@pytest.mark.parametrize("case", CASES, ids=lambda case: case.name[:3].strip())
def test_written_as_notes_again_it_reads_the_same(case: FieldCase) -> None:
    job = read_notes(notes_of(case), NOW).job
    again = read_notes(write_notes(job), NOW).job
    assert (again.name, again.brief, again.loads) == (job.name, job.brief, job.loads)
    for source, same in zip(job.sources, again.sources, strict=True):
        assert same.source == source.source
        for kept, other in zip(source.sessions, same.sessions, strict=True):
            assert other.started_at[:16] == kept.started_at[:16]
            assert [(round(e.t_s), e.items) for e in other.session.effective] == [
                (round(e.t_s), e.items) for e in kept.session.effective
            ]
