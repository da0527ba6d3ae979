"""The load's own page, the shelf, and a pair, as their reader sees and changes them."""

from __future__ import annotations

from typing import Any

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import Client

from muster.records import bridge
from muster.records.actions.history import last_change
from muster.records.actions.shelf import own_shelf
from muster.records.models import Job, LoadRow, ShelfRow

pytestmark = pytest.mark.django_db


@pytest.fixture
def pump(job: Job) -> LoadRow:
    return job.load_rows.get(name="sump pump")


def page(job: Job, row: LoadRow, tail: str = "") -> str:
    return f"/jobs/{job.pk}/loads/{row.pk}/{tail}"


def whole(client: Client, job: Job, row: LoadRow, **changes: Any) -> Any:
    """Post the whole form with what it shows, and some of it changed."""
    form = client.get(page(job, row)).context["form"]
    sent = {name: "" if form[name].value() in (None, False) else form[name].value() for name in form.fields}
    return client.post(page(job, row), {**sent, **changes})


def test_the_nameplate_added_is_used_and_the_shelf_figure_stays(plain: Client, job: Job, pump: LoadRow) -> None:
    answer = plain.post(
        page(job, pump, "known/"), {"volts": "230", "lra_a": "12", "code": "H", "hp": "0,5"}, follow=True
    )
    text = answer.content.decode()
    assert "locked-rotor amps on the nameplate" in text
    assert "code letter and horsepower on the nameplate" in text
    pump.refresh_from_db()
    assert bridge.load_of(pump).start_va == pytest.approx(2760)


def test_a_figure_is_struck_and_comes_back_by_undo(plain: Client, job: Job, pump: LoadRow) -> None:
    plain.post(page(job, pump, "known/"), {"volts": "230", "lra_a": "12"})
    pump.refresh_from_db()
    place = next(i for i, f in enumerate(bridge.load_of(pump).figures) if f.quantity == "start_va")
    plain.post(page(job, pump, "strike/"), {"index": place})
    pump.refresh_from_db()
    assert bridge.load_of(pump).start_va is None
    change = last_change(job)
    assert change is not None
    plain.post(f"/jobs/{job.pk}/history/{change.pk}/undo/")
    pump.refresh_from_db()
    assert bridge.load_of(pump).start_va == pytest.approx(2760)


def test_the_only_running_figure_is_not_struck(plain: Client, job: Job) -> None:
    lights = job.load_rows.get(name="lights")
    answer = plain.post(page(job, lights, "strike/"), {"index": "0"}, follow=True)
    assert "This one stays" in answer.content.decode()


@pytest.mark.parametrize(
    ("sent", "field"),
    [
        ({"lra_a": "12"}, "volts"),
        ({"code": "H"}, "hp"),
        ({}, "__all__"),
        ({"volts": "230", "start_a": "x"}, "start_a"),
        ({"arc_a": "100", "arc_v": "24", "efficiency_pct": "130"}, "efficiency_pct"),
    ],
)
def test_a_slip_in_what_is_known_is_answered(
    plain: Client, job: Job, pump: LoadRow, sent: dict[str, str], field: str
) -> None:
    answer = plain.post(page(job, pump, "known/"), sent)
    assert answer.status_code == 422
    errors = answer.context["known"].errors
    assert field in errors or "__all__" in errors


def test_amps_by_a_slow_meter_are_grade_b(plain: Client, job: Job, pump: LoadRow) -> None:
    plain.post(page(job, pump, "known/"), {"volts": "230", "start_a": "11"})
    pump.refresh_from_db()
    assert bridge.load_of(pump).start_grade.value == "B"


def test_the_whole_form_keeps_parts_weather_and_what_it_stands(plain: Client, job: Job, pump: LoadRow) -> None:
    answer = whole(
        plain,
        job,
        pump,
        parts="motor 400 W pf 0.7 start x6 over 0.4 s\nheater 90 W from 30 s for 60 s",
        seen_c="8",
        kept_c="19",
        gap_ms="80",
        soft_starter="on",
        wave="sine",
    )
    assert answer.status_code == 302, answer.context["form"].errors
    pump.refresh_from_db()
    load = bridge.load_of(pump)
    assert [part.name for part in load.parts] == ["motor", "heater"]
    assert (load.gap_ms, load.soft_starter, load.weather.seen_c) == (80, True, 8)  # type: ignore[union-attr]
    text = plain.get(page(job, pump)).content.decode()
    assert "At 20" in text
    assert "it does not call" in text


@pytest.mark.parametrize(
    ("change", "field"),
    [({"parts": "motor"}, "parts"), ({"seen_c": "8"}, "kept_c"), ({"seen_c": "8", "kept_c": "8"}, "seen_c")],
)
def test_a_slip_in_the_whole_form_stands_beside_its_field(
    plain: Client, job: Job, pump: LoadRow, change: dict[str, str], field: str
) -> None:
    answer = whole(plain, job, pump, **change)
    assert answer.status_code == 422
    assert field in answer.context["form"].errors


def test_an_edit_in_the_row_loses_nothing_that_is_not_in_it(plain: Client, job: Job, pump: LoadRow) -> None:
    whole(plain, job, pump, gap_ms="80", parts="motor 400 W")
    form = plain.get(page(job, pump), headers={"HX-Request": "true"}).context["form"]
    sent = {name: "" if form[name].value() is None else form[name].value() for name in form.fields}
    plain.post(page(job, pump), {**sent, "run_w": "430"}, headers={"HX-Request": "true"})
    pump.refresh_from_db()
    load = bridge.load_of(pump)
    assert (load.run_w, load.gap_ms, len(load.parts)) == (430, 80, 1)


def test_typing_over_a_figure_leaves_the_shelfs_beside_it(plain: Client, job: Job, pump: LoadRow) -> None:
    whole(plain, job, pump, run_w="380", run_grade="A")
    pump.refresh_from_db()
    load = bridge.load_of(pump)
    assert (load.run_w, load.run_grade.value) == (380, "A")
    assert 520 in {figure.value for figure in load.figures}
    whole(plain, job, pump, run_w="500", run_grade="C")
    pump.refresh_from_db()
    assert bridge.load_of(pump).run_w == 380


def test_a_call_is_saved_as_a_table(plain: Client, job: Job, pump: LoadRow) -> None:
    lines = plain.get(page(job, pump, "csv/")).content.decode().splitlines()
    assert lines[0].startswith("part,from_s,for_s,run_w")
    assert len(lines) == 2


# the shelf


def test_an_entry_of_ones_own_is_made_used_changed_and_taken_off(plain: Client, job: Job) -> None:
    sent = {
        "name": "hay drier",
        "kind": "motor_loaded",
        "run_w": "2200",
        "on_min": "60",
        "off_min": "0",
        "caller": "hand",
    }
    assert plain.post("/shelf/new/", sent).status_code == 302
    assert plain.post("/shelf/new/", sent).status_code == 422
    plain.post(f"/jobs/{job.pk}/loads/", {"line": "hay drier l1"})
    assert bridge.load_of(job.load_rows.get(name="hay drier")).run_w == 2200
    row = ShelfRow.objects.get()
    plain.post(f"/shelf/{row.pk}/", {**sent, "run_w": "2400", "hours": "8-18", "parts": "fan 2400 W"})
    assert own_shelf()[0].run_w == 2400
    assert "hay drier" in plain.get("/shelf/").content.decode()
    plain.post(f"/shelf/{row.pk}/take-off/")
    assert own_shelf() == ()
    plain.post(f"/shelf/{row.pk}/put-back/")
    assert len(own_shelf()) == 1


@pytest.mark.parametrize("bad", [{"run_w": "0"}, {"hours": "30-40"}, {"parts": "fan"}, {"name": ""}])
def test_a_slip_in_an_entry_is_answered(plain: Client, db: None, bad: dict[str, str]) -> None:
    sent = {"name": "drier", "kind": "motor", "run_w": "2200", "on_min": "60", "off_min": "0", "caller": "hand", **bad}
    answer = plain.post("/shelf/new/", sent)
    assert answer.status_code == 422
    assert next(iter(bad)) in answer.context["form"].errors


def test_the_shelf_saved_and_imported_again_adds_nothing(plain: Client, db: None) -> None:
    table = plain.get("/shelf/csv/").content
    plain.post("/shelf/import/", {"table": SimpleUploadedFile("shelf.csv", table)})
    assert own_shelf() == ()


def test_a_bad_table_takes_nothing_and_says_where(plain: Client, db: None) -> None:
    table = b"name,kind,run_w\nlamp,heater,5\nlamp two,sun,6"
    answer = plain.post("/shelf/import/", {"table": SimpleUploadedFile("mine.csv", table)})
    assert answer.status_code == 422
    assert "row 3, kind" in answer.content.decode()
    assert own_shelf() == ()
    for sent in ({}, {"table": SimpleUploadedFile("x.csv", b"\xff\xfe\x00")}):
        assert plain.post("/shelf/import/", sent).status_code == 422


def test_a_load_of_the_list_goes_on_the_shelf(plain: Client, job: Job, pump: LoadRow) -> None:
    plain.post(f"/shelf/from-roll/{pump.pk}/")
    assert [entry.name for entry in own_shelf()] == ["sump pump"]


# sources: off the shelf, and a pair


def test_a_source_off_the_shelf_comes_filled_in_as_planning(plain: Client, job: Job) -> None:
    form = plain.get(f"/jobs/{job.pk}/source/new/?shelf=station-2").context["form"]
    sent = {name: "" if form[name].value() in (None, False) else form[name].value() for name in form.fields}
    assert plain.post(f"/jobs/{job.pk}/source/new/?shelf=station-2", sent).status_code == 302
    made = bridge.source_of(job.source_rows.get())
    assert (made.planned, made.claims.battery_wh) == (True, 2000)
    assert "shelf" in plain.get(f"/jobs/{job.pk}/source/").content.decode()


def test_a_pair_is_described_and_shown_by_three_schools(plain: Client, job: Job) -> None:
    sent = {
        "name": "the pair",
        "cont_w": "4800",
        "wave": "sine",
        "fuel": "petrol",
        "unit_a_w": "2200",
        "unit_b_w": "3000",
        "school": "measured",
        "shares": "9 4.1 4.9\n17 7,2 9.8",
    }
    url = f"/jobs/{job.pk}/source/new/?kind=inverter_set"
    assert plain.post(url, sent).status_code == 302
    text = plain.get(f"/jobs/{job.pk}/source/").content.decode()
    assert "The pair, by three schools" in text
    for slip, field in (({"unit_b_w": ""}, "unit_b_w"), ({"shares": "9 4"}, "shares")):
        answer = plain.post(url, {**sent, **slip})
        assert answer.status_code == 422
        assert field in answer.context["form"].errors
