"""The numbers behind each drawing can be taken away as CSV, and are the drawing's own."""

from __future__ import annotations

import csv
import io
import json
from dataclasses import replace

import pytest
from django.contrib.auth.models import AbstractUser
from django.test import Client
from django.urls import reverse
from hypothesis import given
from hypothesis import strategies as st

from muster.formats.tables import Table, csv_text, harmless, loads_table, unharmed
from muster.records import bridge, judging
from muster.records.actions import sessions
from muster.records.models import Job, SessionRow


def taken(client: Client, url: str) -> list[dict[str, str]]:
    response = client.get(url)
    assert response.status_code == 200
    assert response["Content-Type"].startswith("text/csv")
    assert ".csv" in response["Content-Disposition"]
    return list(csv.DictReader(io.StringIO(response.content.decode())))


def test_the_loads_is_taken_away(client: Client, demo: Job) -> None:
    rows = taken(client, reverse("loads-csv", args=[demo.pk]))
    pump = next(row for row in rows if row["name"] == "borehole pump")
    assert (float(pump["run_w"]), float(pump["start_va"]), pump["leg"]) == (1150, 12000, "both")


def test_the_hours_of_the_day_add_up_to_what_the_page_says(client: Client, demo: Job) -> None:
    rows = taken(client, reverse("outage-csv", args=[demo.pk]) + "?scope=could")
    home = bridge.home_of(demo)
    demand = judging.demand_of(home.loads, home.brief)
    assert sum(float(row["mean_wh"]) for row in rows) == pytest.approx(demand.total_wh, rel=1e-6)
    assert sum(float(row["leg1_wh"]) + float(row["leg2_wh"]) for row in rows) == pytest.approx(
        demand.total_wh, rel=1e-6
    )


def test_findings_ladder_and_lines_are_taken_away(client: Client, demo: Job) -> None:
    ladder = SessionRow.objects.filter(protocol="ladder").first()
    assert ladder is not None
    found = taken(client, reverse("findings-csv", args=[demo.pk]))
    assert {row["grade"] for row in found} <= {"A", "B", "C", "D"}
    ladder_steps = taken(client, reverse("ladder-csv", args=[demo.pk, ladder.pk]))
    assert [row["rung"] for row in ladder_steps] == ["no load", "25 %", "50 %", "75 %", "100 %"]
    assert all(abs(float(r["measured_w"]) - float(r["planned_w"])) < 60 for r in ladder_steps[1:4])
    lines = judging.session_findings(ladder)
    count = len(lines.regulation) + len(lines.droops)
    for number in range(count):
        points = taken(client, reverse("line-csv", args=[demo.pk, ladder.pk, number]))
        assert len(points) >= 2
    assert client.get(reverse("line-csv", args=[demo.pk, ladder.pk, count])).status_code == 404


def test_the_verdict_is_taken_away_as_the_command_line_gives_it(client: Client, demo: Job) -> None:
    rows = taken(client, reverse("verdict-csv", args=[demo.pk]))
    response = client.get(reverse("verdict-json", args=[demo.pk]))
    report = json.loads(response.content)
    assert [r["key"] for r in report["requirements"]] == [row["key"] for row in rows][: len(report["requirements"])]
    assert report["status"] == "falls_short"


def test_the_stack_is_taken_away_with_its_limits_and_the_next_start(
    client: Client, ladder: SessionRow, who: AbstractUser
) -> None:
    sessions.log_line(ladder, "+1", who)
    rows = taken(client, reverse("stack-csv", args=[ladder.source.job_id, ladder.pk]) + "?next=2")
    assert [(r["what"], r["name"]) for r in rows[:2]] == [("on", "room heater"), ("next start", "sump pump")]
    assert [r["name"] for r in rows[2:]] == ["continuous", "surge"]


def test_there_is_nothing_to_take_away_where_nothing_is_judged(client: Client, job: Job) -> None:
    for name in ("verdict-csv", "verdict-json", "findings-csv"):
        assert client.get(reverse(name, args=[job.pk])).status_code == 404


@given(st.lists(st.tuples(st.text(max_size=9), st.floats(-1e9, 1e9), st.booleans()), max_size=5))
def test_any_table_is_read_back_cell_for_cell(rows: list[tuple[str, float, bool]]) -> None:
    plain = [(text.replace("\r", " ").replace("\x00", " "), x, yes) for text, x, yes in rows]
    text = csv_text(Table(("a", "b", "c"), tuple(plain)))
    again = list(csv.reader(io.StringIO(text, newline="")))
    assert again[0] == ["a", "b", "c"]
    assert [(unharmed(a), c) for a, _, c in again[1:]] == [(a, "yes" if c else "no") for a, _, c in plain]
    assert [float(b) for _, b, _ in again[1:]] == pytest.approx([x for _, x, _ in plain], abs=1e-5)


@pytest.mark.parametrize(
    "text",
    ["=1+1", "+kettle", "-heater", "@plug 230v", "'=already", "''+twice", "\tx", "-", "fridge", "it’s", "'tis", ""],
)
def test_text_that_a_spreadsheet_would_work_out_is_made_harmless_and_comes_back(text: str) -> None:
    written = harmless(text)
    assert not (written.startswith(("=", "+", "-", "@", "\t")) and len(written) > 1)
    assert unharmed(written) == text


def test_a_load_named_like_a_formula_is_text_in_its_table(job: Job, who: AbstractUser) -> None:
    evil = replace(bridge.loads_of(job)[0], name='=HYPERLINK("x")')
    assert '"\'=HYPERLINK(""x"")"' in csv_text(loads_table([evil]))
