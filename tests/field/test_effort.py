"""A person's effort, held to what was promised: little more than the jotting, and few pages."""

from __future__ import annotations

from pathlib import Path

import pytest
from django.contrib.auth.models import AbstractUser
from django.test import Client

from .cases import CASES, FieldCase
from .effort import by_notes, figures, jotted, row, typed_live

NAME = 4
"""Keys of a job's name."""
TABLE = Path(__file__).parents[2].joinpath("docs/effort.md").read_text(encoding="utf-8").splitlines()


@pytest.mark.django_db
@pytest.mark.parametrize("case", CASES, ids=lambda case: case.name[:3].strip())
def test_a_case_takes_its_jotting_a_key_a_figure_at_most_and_few_pages(
    case: FieldCase, client: Client, who: AbstractUser
) -> None:
    live, pasted = typed_live(case, client), by_notes(case, client)
    assert live.keys <= jotted(case) + NAME + max(figures(case), len(case.sittings))
    assert live.pages <= 8
    assert (pasted.pages, pasted.posts) == (3, 2)
    assert row(case, live, pasted) in TABLE, "docs/effort.md says what was counted"
