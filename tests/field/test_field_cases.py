"""Every entry of every field case comes in: its figures with side, place and instrument, its events, its time."""

from __future__ import annotations

import re
from pathlib import Path

import pytest
from django.contrib.auth.models import AbstractUser
from django.test import Client

from muster.core.brief import Brief
from muster.core.sessions import Event
from muster.core.supply import SYSTEMS
from muster.records import bridge
from muster.records.actions import jobs, loads

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


KITCHEN = ("lift 2.1kw", "griddle 1.7kw", "base 450w", "oven 2kw peak 3.1kw", "toaster 850", "kettle 2.2 kW")
"""F10 as it is jotted; *toaster 850* says no unit."""


@pytest.mark.django_db
def test_f10_a_kitchen_and_unknown_things_comes_in_by_line(who: AbstractUser) -> None:
    job = jobs.create_job("F10", Brief(system=SYSTEMS["single-120-60"]), who)
    for line in KITCHEN:
        loads.add_line(job, line, who)
    home = {load.name: load for load in bridge.home_of(job).loads}
    assert [name for name, load in home.items() if load.start_unknown] == ["lift", "base"]
    assert [(name, load.run_w) for name, load in home.items()] == [
        ("lift", 2100),
        ("griddle", 1700),
        ("base", 450),
        ("oven", 3100),
        ("toaster", 850),
        ("kettle", 2200),
    ]


@pytest.mark.django_db
def test_f12_a_fridge_on_a_small_inverter_starts_with_three_to_seven_times(who: AbstractUser) -> None:
    job = jobs.create_job("F12", Brief(system=SYSTEMS["single-230-50"]), who)
    entry = loads.read_load_line(job, "fridge 0.9a start 3-7x")
    assert entry.load.start_total_va == pytest.approx(1449, abs=1)
    assert "621\u202fVA to 1\u202f449\u202fVA" in entry.understood
