"""Every entry of every field case comes in: its figures with side, place and instrument, its events, its time."""

from __future__ import annotations

import re
from pathlib import Path

import pytest
from django.contrib.auth.models import AbstractUser
from django.test import Client

from muster.core.sessions import Event
from muster.records import bridge

from .cases import CASES, FieldCase
from .typing import told, typed

TOLD = Path(__file__).with_name("told.txt")
"""What must come in, read against the case line by line: ``line | when, where the line says so | what it means``."""


def wanted() -> dict[str, list[tuple[str, str, str]]]:
    """The lines of each case, by its name."""
    cases: dict[str, list[tuple[str, str, str]]] = {}
    for text in TOLD.read_text(encoding="utf-8").splitlines():
        if text.startswith("# "):
            lines = cases.setdefault(text[2:], [])
        elif text:
            raw, when, said = (part.strip() for part in text.split(" | "))
            lines.append((raw, when, said))
    return cases


@pytest.mark.django_db
@pytest.mark.parametrize("case", CASES, ids=lambda case: case.name[:3].strip())
def test_every_entry_of_the_case_comes_in(case: FieldCase, client: Client, who: AbstractUser) -> None:
    came = [
        (raw, when if re.search(r"\d\d:\d\d", raw) else "-", said)
        for row in typed(case, client, who)
        for raw, when, said in told(row)
    ]
    assert came == wanted()[case.name]


@pytest.mark.django_db
@pytest.mark.parametrize("case", CASES, ids=lambda case: case.name[:3].strip())
def test_writing_it_up_is_not_stopped_and_says_what_was_not_confirmed(
    case: FieldCase, client: Client, who: AbstractUser
) -> None:
    for row in typed(case, client, who):
        (cautions,) = bridge.session_of(row).entries[0].items
        assert isinstance(cautions, Event)
        assert cautions.detail.startswith("not confirmed: ")
        assert row.started_at <= row.created_at
