"""A person's effort, held to what was promised: little more than the jotting, and few pages."""

from __future__ import annotations

from pathlib import Path

import pytest
from django.contrib.auth.models import AbstractUser
from django.test import Client

from .cases import CASES, FieldCase
from .effort import by_notes, figures, jotted, row, typed_live

pytestmark = pytest.mark.django_db
NAME = 4
"""Keys of a job's name."""


@pytest.mark.parametrize("case", CASES, ids=lambda case: case.name[:3].strip())
def test_typed_live_it_takes_the_jotting_and_at_most_a_key_a_figure(
    case: FieldCase, client: Client, who: AbstractUser
) -> None:
    effort = typed_live(case, client)
    assert effort.keys <= jotted(case) + NAME + max(figures(case), len(case.sittings))
    assert effort.pages <= 8 + 2 * (len(case.sittings) - 1), "two pages more for each further test"


@pytest.mark.parametrize("case", CASES, ids=lambda case: case.name[:3].strip())
def test_pasted_it_takes_three_pages(case: FieldCase, client: Client, who: AbstractUser) -> None:
    effort = by_notes(case, client)
    assert (effort.pages, effort.posts) == (3, 2)


@pytest.mark.parametrize("case", CASES, ids=lambda case: case.name[:3].strip())
def test_the_table_in_the_docs_is_what_was_counted(case: FieldCase, client: Client, who: AbstractUser) -> None:
    table = Path(__file__).parents[2].joinpath("docs/effort.md").read_text(encoding="utf-8")
    assert row(case, typed_live(case, client), by_notes(case, client)) in table.splitlines()
