"""Stage 7 in full: what a source comes to, its character, its set-point, its noise from above, its waves."""

from __future__ import annotations

import json
import re

import pytest
from django.contrib.auth.models import AbstractUser
from django.test import Client
from django.urls import reverse

from muster.core.brief import Brief
from muster.core.sessions import Conditions
from muster.core.sources import Claims, Source, SourceKind
from muster.core.supply import SYSTEMS
from muster.records import bridge
from muster.records.actions import history, jobs, sessions, sources
from muster.records.actions import loads as roll
from muster.records.actions.characters import character_of_row, live_characters
from muster.records.actions.sessions import live_sessions
from muster.records.judging import session_findings
from muster.records.models import CharacterRow, Job, ResultRow, SourceRow
from muster.records.playing import verdict_on


def of(island: list[Job], home: str, source: str) -> SourceRow:
    job = next(job for job in island if job.name == home)
    return job.source_rows.get(name=source)


def page(plain: Client, name: str, row: SourceRow, **query: object) -> str:
    response = plain.get(reverse(name, args=[row.job_id]), {"source": row.pk, **query})
    assert response.status_code == 200
    return response.content.decode()


@pytest.fixture
def frame(island: list[Job]) -> SourceRow:
    return of(island, "The Ferry House", "the open-frame set")


def test_the_findings_open_with_sentences_that_lead_to_their_working(plain: Client, frame: SourceRow) -> None:
    html = page(plain, "findings", frame)
    said = html[html.index("In short") : html.index("Session by session")]
    assert said.index("It does not start the borehole pump") < said.index("It starts the")
    for anchor in re.findall(r'href="[^"]*#([^"]+)"', said):
        assert f'id="{anchor}"' in html


def test_a_finding_of_a_log_with_an_odd_name_can_be_led_to(plain: Client, frame: SourceRow) -> None:
    """A capture called “50 % of it” made an anchor that no browser could follow."""
    row = next(one for one in live_sessions(frame) if one.protocol == "waveform")
    row.capture_rows.filter(name="oven and kettle on").update(name='50 % of "it", loaded')
    html = page(plain, "findings", frame)
    anchors = re.findall(r'href="[^"]*#(f-[^"]+)"', html)
    assert len(anchors) > 5
    assert all(re.fullmatch(r"[\w-]+", anchor) and f'id="{anchor}"' in html for anchor in anchors)


def test_a_source_without_sessions_teaches(plain: Client, source: SourceRow) -> None:
    assert "Run a session" in page(plain, "findings", source)
    assert "Run a session" in page(plain, "character", source)
    assert "Noise walk" in page(plain, "noise-plan", source)
    assert "Run Set-point" in page(plain, "set-point", source)
    assert "Capture ten cycles" in page(plain, "waves", source)


def test_a_character_stands_with_what_it_rests_on_and_what_it_predicts(plain: Client, frame: SourceRow) -> None:
    html = page(plain, "character", frame)
    assert "No-load hertz" in html
    assert "Ladder of 2026-10-12" in html
    assert "each predicted from the others" in html
    assert "an impedance of" in html
    assert "borehole pump" in html[html.index("Predictions") :]


def test_a_character_goes_out_as_json_and_csv(plain: Client, frame: SourceRow) -> None:
    answer = plain.get(reverse("character-json", args=[frame.job_id]), {"source": frame.pk})
    data = json.loads(answer.content)
    assert {"source", "parameters", "starts_meet", "predicted"} <= set(data)
    assert "attachment" in answer["Content-Disposition"]
    for name in ("character-csv", "predicted-csv"):
        assert plain.get(reverse(name, args=[frame.job_id]), {"source": frame.pk}).content.count(b"\n") > 5


def test_a_character_saved_is_kept_set_beside_a_later_one_and_archived(plain: Client, frame: SourceRow) -> None:
    url = reverse("character", args=[frame.job_id])
    plain.post(url, {"source": frame.pk, "note": "before winter"})
    (kept,) = live_characters(frame)
    assert character_of_row(kept).get("no_load_hz") is not None
    assert "itself, saved" in page(plain, "character", frame)
    assert "saved" in page(plain, "character", frame, beside=kept.beside_key)
    plain.post(url, {"source": frame.pk, "away": kept.pk})
    assert live_characters(frame) == []
    last = history.last_change(frame.job)
    assert last is not None
    history.undo_change(last)
    assert len(live_characters(frame)) == 1


def test_nothing_measured_cannot_be_saved(plain: Client, source: SourceRow) -> None:
    answer = plain.post(reverse("character", args=[source.job_id]), {"source": source.pk}, follow=True)
    assert "Nothing was measured of it yet" in answer.content.decode()
    assert not CharacterRow.objects.exists()


def test_two_sources_stand_side_by_side(plain: Client, island: list[Job], frame: SourceRow) -> None:
    other = of(island, "The Ferry House", "the hybrid inverter")
    html = page(plain, "character", frame, beside=other.pk)
    assert html.count("the hybrid inverter") >= 2
    assert "differs" in html


def test_the_set_point_moves_with_its_slider_and_says_what_is_refused(plain: Client, island: list[Job]) -> None:
    loft = of(island, "The Net Loft", "the two-engine set")
    whole = page(plain, "set-point", loft)
    assert "Refused: 53.0" in whole
    part = plain.get(
        reverse("set-point", args=[loft.job_id]), {"source": loft.pk, "hz": "52.4"}, headers={"HX-Request": "true"}
    ).content.decode()
    assert "<h1" not in part
    assert "52.4\u202fHz at no load" in part
    for nonsense in ("nonsense", "nan", "-inf"):
        assert "52.0" in page(plain, "set-point", loft, hz=nonsense)


def test_the_noise_plan_keeps_where_things_stand_and_can_be_undone(plain: Client, frame: SourceRow) -> None:
    url = reverse("noise-plan", args=[frame.job_id])
    stands = {
        "house_x": "-9",
        "house_y": "3",
        "neighbour_x": "98.43",
        "neighbour_y": "0",
        "wall_x1": "10",
        "wall_y1": "-6",
        "wall_x2": "10",
        "wall_y2": "6",
        "units": "1",
    }
    plain.post(url, {"source": frame.pk, **stands})
    frame.refresh_from_db()
    layout = bridge.source_of(frame).layout
    assert layout is not None
    assert layout.neighbour_m == pytest.approx(30, abs=0.002), "the Ferry House is in feet"
    assert "The wall takes off" in page(plain, "noise-plan", frame)
    for field, wrong in (("neighbour_x", "far"), ("neighbour_x", "nan"), ("units", "inf"), ("units", "40")):
        assert plain.post(url, {"source": frame.pk, **stands, field: wrong}).status_code == 302
    assert bridge.source_of(SourceRow.objects.get(pk=frame.pk)).layout == layout
    last = history.last_change(frame.job)
    assert last is not None
    history.undo_change(last)
    assert bridge.source_of(SourceRow.objects.get(pk=frame.pk)).layout != layout


def test_editing_the_claims_leaves_the_plan_where_it_was(plain: Client, frame: SourceRow) -> None:
    was = bridge.source_of(frame).layout
    form = {"name": frame.name, "cont_w": "5100", "wave": "sine", "fuel": "petrol", "school": "twice_smaller"}
    plain.post(reverse("source-edit", args=[frame.job_id, frame.pk]), form)
    frame.refresh_from_db()
    assert bridge.source_of(frame).claims.cont_w == 5100
    assert bridge.source_of(frame).layout == was


def test_waves_are_laid_over_one_another_with_advice_for_each_load(plain: Client, island: list[Job]) -> None:
    frame = of(island, "The Ferry House", "the open-frame set")
    html = page(plain, "waves", frame)
    assert html.count('class="xyline') == 2
    assert "oil boiler" in html[html.index("What that means") :]


def test_a_measured_wave_outranks_the_nameplate_in_the_verdict(island: list[Job]) -> None:
    rows = {
        row.key: row for row in verdict_on(of(island, "Signal Cottage", "the 12 V inverter on the bank")).requirements
    }
    assert rows["waveform"].grade == "A"
    assert rows["waveform"].status == "falls_short"
    energy = {row.key: row for row in verdict_on(of(island, "Signal Cottage", "the battery station")).requirements}[
        "energy"
    ]
    assert energy.grade == "A"
    assert "Measured from full to empty" in energy.sentence


def test_what_a_capture_shows_is_read_off_once(frame: SourceRow) -> None:
    row = next(one for one in live_sessions(frame) if one.protocol == "waveform")
    first = session_findings(row)
    kept = ResultRow.objects.count()
    assert session_findings(row).waves == first.waves
    assert ResultRow.objects.count() == kept
    assert [wave.state for wave in first.waves] == ["no load", "under load", "no load"]


def test_every_page_of_the_stage_stands_for_every_source(plain: Client, island: list[Job]) -> None:
    for job in island:
        for row in job.source_rows.all():
            for name in ("findings", "character", "set-point", "noise-plan", "waves"):
                page(plain, name, row)


@pytest.mark.django_db
def test_one_source_has_the_same_capability_on_every_page(client: Client, who: AbstractUser) -> None:
    """Source, stacks, bench, findings in short and character: what it held and where it tripped, in the same figures."""
    job = jobs.create_job("a job", Brief(system=SYSTEMS["single-230-50"]), who)
    roll.add_line(job, "heater 900w", who)
    source = sources.add_source(job, Source("set", SourceKind.OPEN_FRAME, Claims(3000)), who)
    row = sessions.start_session(source, "ladder", Conditions(), who, confirmed=(), written_up=True)
    for line in ("9:00 2210w 228v", "9:30 2210w", "9:31 2740w", "9:32 tripped"):
        sessions.log_line(row, line, who)
    for name, args in (
        ("source", [job.pk]),
        ("stacks", [job.pk]),
        ("session", [job.pk, row.pk]),
        ("character", [job.pk]),
        ("findings", [job.pk]),
    ):
        shown = client.get(reverse(name, args=args)).content.decode().replace("\u202f", " ")
        assert "2 740" in shown, name
        assert "2 210" in shown, name
