"""A page of looks filled by hand over days, typed in at one go."""

from __future__ import annotations

import pytest
from django.contrib.auth.models import AbstractUser
from django.test import Client
from django.urls import reverse

from muster.core.errors import MusterError
from muster.core.sessions import Conditions
from muster.core.sessions.clipboard import Look
from muster.records import bridge
from muster.records.actions import pages, sessions
from muster.records.models import SessionRow, SourceRow
from tests.field.typing import told


@pytest.fixture
def run(source: SourceRow, who: AbstractUser) -> SessionRow:
    return sessions.start_session(source, "endurance", Conditions(), who, confirmed=(), written_up=True)


def percent(value: float) -> dict[str, float]:
    return {"soc_pct_none": value}


def test_a_page_goes_on_over_midnight_and_reads_its_words(run: SessionRow, who: AbstractUser) -> None:
    looks = [
        Look("20:00", percent(100), "started"),
        Look("23:10", {**percent(76), "wh_none": 240}),
        Look("", {}, "smells odd"),
        Look("01:40", percent(54)),
        Look("next day 07:50", percent(1), "just quit"),
        Look("", {}),
    ]
    assert pages.type_looks(run, looks, {}, who) == 5
    run.refresh_from_db()
    came = [(when, said) for _, when, said in told(run)]
    assert came == [
        ("day 1 20:00:00", "100 % · note: started"),
        ("day 1 23:10:00", "76 % · 240 Wh"),
        ("day 1 23:10:00", "smell · note: odd"),
        ("day 2 01:40:00", "54 %"),
        ("day 3 07:50:00", "1 % · it tripped"),
    ]


def test_a_time_that_is_none_is_said_with_its_row_and_nothing_is_kept(run: SessionRow, who: AbstractUser) -> None:
    with pytest.raises(MusterError, match="row 2: “half past”"):
        pages.type_looks(run, [Look("20:00", percent(100)), Look("half past", percent(90))], {}, who)
    with pytest.raises(MusterError, match="nothing"):
        pages.type_looks(run, [Look("", {})], {}, who)
    assert run.entry_rows.count() == 1


def test_any_number_of_rows_is_typed_in_at_the_page(run: SessionRow, client: Client) -> None:
    url = reverse("looks", args=[run.source.job_id, run.pk])
    data = {"looks": "30"}
    for n in range(1, 31):
        data |= {f"look_{n}_when": f"{8 + n // 6}:{n % 6}0", f"look_{n}_soc_pct_none": str(100 - n)}
    assert client.post(url, {**data, "more": "1"}).context["form"].count == 38
    wrong = client.post(url, {**data, "look_3_when": "noon-ish"})
    assert wrong.status_code == 422
    assert "row 3" in wrong.content.decode()
    assert client.post(url, data).status_code == 302
    assert len(bridge.session_of(run).effective) == 31
