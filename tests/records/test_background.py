"""Long work: what was written and never fetched does not stay for ever."""

from __future__ import annotations

from datetime import timedelta
from pathlib import Path

import pytest
from django.utils import timezone

from muster.records import background
from muster.records.models import WorkRow

pytestmark = pytest.mark.django_db


@pytest.mark.parametrize(("age_days", "there"), [(0, True), (background.KEPT_DAYS + 1, False)])
def test_a_written_file_that_nobody_fetches_goes_with_its_row(tmp_path: Path, age_days: int, there: bool) -> None:
    path = tmp_path / "job.muster.json"
    path.write_text("{}")
    row = WorkRow.objects.create(
        key="written", task="write-out", label="w", args={}, state=WorkRow.State.DONE, result={"path": str(path)}
    )
    WorkRow.objects.filter(pk=row.pk).update(asked_at=timezone.now() - timedelta(days=age_days))
    background.tidy()
    assert path.exists() is there
    assert WorkRow.objects.filter(pk=row.pk).exists() is there
