"""Every page answers, says what is wrong beside the field, and keeps what was typed."""

from __future__ import annotations

import random

import pytest
from django.contrib.auth.models import AbstractUser
from django.test import Client
from django.urls import reverse
from pytest_django import DjangoAssertNumQueries

from muster.core.loads import Tier
from muster.core.measures import showing_in
from muster.core.outage.played import DRAWS
from muster.core.safety.checks import KNOWN
from muster.core.sessions import Event
from muster.core.trade.schools import NoiseBy, SetPointSchool, SoftStarters
from muster.records import bridge, playing
from muster.records.actions import sessions
from muster.records.models import Job, SessionRow, SourceRow
from tests.examples import examples

STAGES = ("brief", "loads", "source", "plan", "safety", "bench", "findings", "outage", "verdict", "compare")
ASIDE = ("board", "shelf", "calculators", "help", "new-job")
QUERIES = 40


@pytest.mark.django_db
@pytest.mark.parametrize("name", ASIDE)
def test_the_pages_beside_a_job_answer(client: Client, name: str) -> None:
    assert client.get(reverse(name)).status_code == 200


@pytest.mark.parametrize("name", STAGES)
def test_every_stage_of_the_demo_answers_within_its_queries(
    client: Client, demo: Job, name: str, django_assert_max_num_queries: DjangoAssertNumQueries
) -> None:
    url = reverse(name, args=[demo.pk])
    client.get(url)
    with django_assert_max_num_queries(QUERIES):
        response = client.get(url)
    assert response.status_code == 200
    assert b"The Ferry House" in response.content


@pytest.mark.parametrize("name", STAGES)
def test_every_stage_of_an_empty_job_says_what_to_do_next(client: Client, who: AbstractUser, name: str) -> None:
    response = client.post(
        reverse("new-job"), {"name": "Empty", "system": "single-230-50", "outage_h": "8"}, follow=True
    )
    job = Job.objects.get()
    assert response.status_code == 200
    page = client.get(reverse(name, args=[job.pk]))
    assert page.status_code == 200
    assert b"href" in page.content


def test_a_stranger_from_the_network_is_refused(client: Client, db: None) -> None:
    assert client.get("/", REMOTE_ADDR="192.0.2.7").status_code == 403


def test_pages_forbid_anything_from_elsewhere(client: Client, db: None) -> None:
    assert "default-src 'self'" in client.get("/")["Content-Security-Policy"]


def test_a_page_that_is_not_there_says_so(client: Client, db: None) -> None:
    response = client.get("/jobs/999/brief/")
    assert response.status_code == 404
    assert b"There is nothing here" in response.content


def test_the_theme_is_remembered(client: Client, db: None) -> None:
    client.post(reverse("theme"), {"theme": "night", "next": "/"})
    assert b'data-theme="night"' in client.get("/").content
    client.post(reverse("theme"), {"theme": "", "next": "//elsewhere.example/"})
    assert b"data-theme=" not in client.get("/").content.split(b"<body")[0]


def test_a_new_job_without_a_name_keeps_the_rest(client: Client, db: None) -> None:
    response = client.post(reverse("new-job"), {"name": "", "system": "single-120-60", "outage_h": "12,5"})
    assert response.status_code == 422
    assert b'value="12,5"' in response.content
    assert b'role="alert"' in response.content


@pytest.mark.parametrize(
    ("field", "value", "says"),
    [
        ("outage_h", "-3", "above 0"),
        ("outage_h", "long", "a number is wanted"),
        ("zone", "Atlantis/Deep", "not a zone"),
        ("reserve_pct", "900", "0 to 400"),
        ("altitude_m", "99999", "-400 to 6000"),
    ],
)
def test_a_slip_in_the_brief_is_answered_beside_its_field(
    client: Client, job: Job, field: str, value: str, says: str
) -> None:
    url = reverse("brief", args=[job.pk])
    form = client.get(url).context["form"]
    data = {name: form[name].value() if form[name].value() is not None else "" for name in form.fields}
    response = client.post(url, {**data, field: value})
    assert response.status_code == 422
    assert says in " ".join(response.context["form"].errors[field])
    assert f'value="{value}"' in response.content.decode()


def test_a_brief_is_kept(client: Client, job: Job) -> None:
    url = reverse("brief", args=[job.pk])
    form = client.get(url).context["form"]
    data = {name: form[name].value() if form[name].value() is not None else "" for name in form.fields}
    data.update(system="other", v_nominal="127", hz="60", legs="1", noise_day_dba="55,5")
    assert client.post(url, data).status_code == 302
    brief = bridge.brief_of(Job.objects.get())
    assert (brief.system.v_nominal, brief.noise_day_dba) == (127, 55.5)


def test_the_loads_tells_a_line_back_before_it_is_added(client: Client, job: Job) -> None:
    url = reverse("loads-understood", args=[job.pk])
    assert b"the shelf&#x27;s" in client.get(url, {"line": "chest freezer"}).content
    assert b"not on the shelf" in client.get(url, {"line": "lathe"}).content
    response = client.post(reverse("loads", args=[job.pk]), {"line": "lathe"})
    assert response.status_code == 422
    assert b'value="lathe"' in response.content


def test_a_load_is_edited_in_place_and_a_slip_is_answered(client: Client, job: Job) -> None:
    row = job.load_rows.get(name="sump pump")
    url = reverse("loads-edit", args=[job.pk, row.pk])
    form = client.get(url).context["form"]
    data = {name: form[name].value() if form[name].value() is not None else "" for name in form.fields}
    assert client.post(url, {**data, "run_w": "-40"}).status_code == 422
    assert client.post(url, {**data, "name": "lights"}).status_code == 422
    assert client.post(url, {**data, "run_w": "420", "start_va": "2300", "start_grade": "A"}).status_code == 302
    row.refresh_from_db()
    assert bridge.load_of(row).start_total_va == 2300


def test_a_load_taken_off_offers_its_way_back(client: Client, job: Job) -> None:
    row = job.load_rows.get(name="sump pump")
    response = client.post(reverse("loads-remove", args=[job.pk, row.pk]), follow=True)
    assert reverse("loads-put-back", args=[job.pk, row.pk]).encode() in response.content


def test_a_battery_is_not_asked_for_its_tank(client: Client, job: Job) -> None:
    page = client.get(reverse("source-new", args=[job.pk]), {"kind": "station"})
    assert b"tank_l" not in page.content
    assert b"battery_wh" in page.content
    assert client.get(reverse("source-new", args=[job.pk]), {"kind": "perpetuum"}).status_code == 302


def test_a_source_with_a_slip_is_answered_beside_the_field(client: Client, job: Job) -> None:
    url = reverse("source-new", args=[job.pk]) + "?kind=open_frame"
    data = {"name": "set", "cont_w": "5000", "surge_w": "100", "wave": "sine", "fuel": "petrol"}
    response = client.post(url, data)
    assert response.status_code == 422
    assert "surge_w" in response.context["form"].errors
    assert client.post(url, {**data, "surge_w": "6000"}).status_code == 302
    assert b"On paper" in client.get(reverse("source", args=[job.pk])).content


def test_a_check_not_passed_lets_no_session_start_and_says_why(client: Client, source: SourceRow) -> None:
    url = reverse("bench", args=[source.job.pk])
    refused = client.post(url, {"protocol": "ladder", "source": source.pk, "confirmed": "exhaust"})
    assert refused.status_code == 422
    assert b"safety checks have not passed" in refused.content
    assert b'value="exhaust" id="check-exhaust" checked' in refused.content
    assert source.safety_rows.count() == 0
    assert client.post(url, {"protocol": "ladder", "source": source.pk, "confirmed": list(KNOWN)}).status_code == 302


def _url(row: SessionRow, name: str, *more: int) -> str:
    return reverse(f"session-{name}", args=[row.source.job.pk, row.pk, *more])


def test_a_line_is_told_back_and_logged(client: Client, ladder: SessionRow) -> None:
    told = client.get(_url(ladder, "understood"), {"line": "231v 950w <b>"}).content.decode()
    assert "231.0" in told
    assert "<b>" not in told
    response = client.post(_url(ladder, "line"), {"line": "231v 950w"}, headers={"HX-Request": "true"})
    assert b"bench-stack" in response.content
    assert "950" in response.content.decode()


def test_a_refusal_is_said_beside_the_line(client: Client, ladder: SessionRow) -> None:
    response = client.post(_url(ladder, "line"), {"line": " "}, headers={"HX-Request": "true"})
    assert response.status_code == 422
    assert response["HX-Retarget"] == "#refused"
    assert client.post(_url(ladder, "event"), {"event": "launch"}).status_code == 302
    assert not ladder.entry_rows.filter(raw="!launch").exists()


def test_the_buttons_do_what_the_line_does_without_script(client: Client, ladder: SessionRow) -> None:
    client.post(_url(ladder, "switch"), {"load": "1", "on": "1"})
    client.post(_url(ladder, "event"), {"event": "hold"})
    client.post(_url(ladder, "event"), {"event": "trip"})
    client.post(_url(ladder, "undo"))
    items = [item for entry in bridge.session_of(ladder).effective for item in entry.items]
    assert Event("hold") in items
    assert Event("trip") not in items


def test_a_form_beside_the_line_keeps_what_was_typed_when_it_is_wrong(client: Client, ladder: SessionRow) -> None:
    response = client.post(_url(ladder, "form"), {"v_leg1": "two hundred", "w_leg1": "950"})
    assert response.status_code == 422
    assert b"two hundred" in response.content
    assert client.post(_url(ladder, "form"), {"v_leg1": "231,4", "w_leg1": "950"}).status_code == 302
    assert client.post(_url(ladder, "form"), {}).status_code == 422


@pytest.mark.parametrize(
    ("protocol", "data", "count"),
    [
        (
            "starts",
            {
                "load": "2",
                "place": "1",
                "before": "230",
                "lowest": "201",
                "settled": "228",
                "highest": "14",
                "volts_by": "multimeter",
                "amps_by": "clamp",
                "outcome": "held",
            },
            1,
        ),
        ("noise_walk", {"dba": "64", "distance_m": "7"}, 1),
        ("noise_walk", {"dba": "64"}, 0),
    ],
)
def test_each_protocol_has_a_form_of_its_own(
    client: Client, source: SourceRow, who: AbstractUser, protocol: str, data: dict[str, str], count: int
) -> None:
    from muster.core.sessions import Conditions

    row = sessions.start_session(source, protocol, Conditions(), who, confirmed=KNOWN)
    before = row.entry_rows.count()
    client.post(_url(row, "form"), data)
    assert row.entry_rows.count() - before == count


def test_a_correction_and_the_close_by_their_addresses(client: Client, ladder: SessionRow, who: AbstractUser) -> None:
    entry = sessions.log_line(ladder, "23v", who)
    client.post(_url(ladder, "correct", entry.pk), {"line": "230v"})
    assert ladder.entry_rows.filter(supersedes=entry).exists()
    response = client.post(_url(ladder, "close"), follow=True)
    assert b"sealed" in response.content.lower()
    assert client.get(reverse("session", args=[ladder.source.job.pk, ladder.pk])).status_code == 200


def test_keys_are_heard_only_once_the_queue_of_presses_listens(client: Client, ladder: SessionRow) -> None:
    """Else a key pressed while the page loads sends its form by itself, and of two pressed at once one is lost."""
    page = client.get(reverse("session", args=[ladder.source.job_id, ladder.pk])).content.decode()
    assert page.index("bench_queue") < page.index("/keys.")


def test_a_session_belongs_to_its_job(client: Client, ladder: SessionRow) -> None:
    assert client.get(reverse("session", args=[ladder.source.job.pk + 1, ladder.pk])).status_code == 404


def test_the_verdict_can_take_in_more_tiers(client: Client, demo: Job) -> None:
    must = client.get(reverse("verdict", args=[demo.pk])).context["case"].demand.peak_w
    everything = client.get(reverse("verdict", args=[demo.pk]), {"scope": "could"}).context["case"].demand.peak_w
    assert everything > must
    assert client.get(reverse("verdict", args=[demo.pk]), {"scope": "nonsense"}).status_code == 200


def test_what_must_change_stands_before_what_to_test(client: Client, island: list[Job]) -> None:
    job = next(job for job in island if job.name == "The Ferry House")
    source = job.source_rows.get(name="the open-frame set")
    page = client.get(reverse("verdict", args=[job.pk]), {"source": source.pk}).content.decode()
    assert page.index("What must change") < page.index("A soft starter on the borehole pump") < page.index("<table")
    assert "Next test" not in page
    assert "Once that is changed" in page
    paper = job.source_rows.get(name="the inverter set")
    untried = client.get(reverse("verdict", args=[job.pk]), {"source": paper.pk}).content.decode()
    assert "What would have to change, if tests bear it out" in untried
    assert "Next test" in untried


def test_margins_stand_until_the_outage_was_played_and_then_chance_does(client: Client, demo: Job) -> None:
    source = demo.source_rows.order_by("pk").first()
    assert source is not None
    address = reverse("verdict", args=[demo.pk])
    assert "outages played" not in client.get(address, {"source": source.pk}).content.decode()
    with showing_in(bridge.brief_of(demo).shown_in):
        case = playing.case_of(source)
        playing.played_of(playing.ruled_home(case.home, Tier.MUST), case.character, DRAWS)
    page = client.get(address, {"source": source.pk})
    assert page.context["case"].played.draws == DRAWS
    assert "outages played" in page.content.decode()
    table = client.get(reverse("verdict-csv", args=[demo.pk]), {"source": source.pk}).content.decode()
    assert "fails_share" in table.splitlines()[0]


WORDS = (
    "238v",
    "0v",
    "-5v",
    "12.4a",
    "0a",
    "999999w",
    "2.91kw",
    "59.6hz",
    "0hz",
    "72db@7m",
    "72db@0m",
    "3000db",
    "background",
    "l1",
    "l2",
    "total",
    "min",
    "max",
    "before",
    "settled",
    "@clamp",
    "@meter",
    "pump",
    "heater",
    "start",
    "hot",
    "+1",
    "-1",
    "+2",
    "-2",
    "+9",
    "!trip",
    "!held",
    "!stall",
    "!hold",
    "!step",
    "!reset",
    "!dip",
    "2m ago:",
    "23:59:",
    "<script>",
    "ünïcode",
    "%",
    "81%",
    "0.62kwh",
    "pf",
    "0.9",
    "note:",
    "41c",
    "''",
    "\\",
)


@pytest.mark.parametrize("protocol", ["ladder", "starts", "noise_walk"])
def test_no_record_however_odd_brings_a_page_down(
    client: Client, source: SourceRow, who: AbstractUser, protocol: str
) -> None:
    """Line upon line of nonsense from the bench's own words: every page still answers."""
    from muster.core.sessions import Conditions

    rng = random.Random(protocol)
    row = sessions.start_session(source, protocol, Conditions(), who, confirmed=KNOWN)
    pages = [
        reverse("session", args=[source.job.pk, row.pk]),
        reverse("findings", args=[source.job.pk]),
        reverse("verdict", args=[source.job.pk]),
    ]
    for number in range(1, examples(60) + 1):
        line = " ".join(rng.choice(WORDS) for _ in range(rng.randint(1, 7)))
        assert client.get(_url(row, "understood"), {"line": line}).status_code == 200
        sessions.log_line(row, line, who)
        if number % 20 == 0:
            sessions.undo(row, who)
            assert [client.get(page).status_code for page in pages] == [200, 200, 200]


def test_what_was_typed_is_never_taken_for_markup(client: Client, ladder: SessionRow, who: AbstractUser) -> None:
    sessions.log_line(ladder, "<script>alert(1)</script> 230v", who)
    page = client.get(reverse("session", args=[ladder.source.job.pk, ladder.pk])).content.decode()
    assert "<script>alert" not in page
    assert "&lt;script&gt;alert" in page


def test_a_job_says_its_question_even_when_none_was_typed(client: Client, job: Job) -> None:
    assert b"can it carry Signal Cottage for 4 h?" in client.get(reverse("brief", args=[job.pk])).content


@pytest.mark.parametrize(
    ("old", "new"),
    [
        ("/jobs/{job}/roll/", "/jobs/{job}/loads/"),
        ("/jobs/{job}/sheet/stacks/?tried=1&on=2", "/jobs/{job}/plan/stacks/?tried=1&on=2"),
        ("/jobs/{job}/gates/?source=1", "/jobs/{job}/safety/?source=1"),
        ("/jobs/{job}/day/csv/", "/jobs/{job}/outage/csv/"),
        ("/sums/lead-drop/?amps=13", "/calculators/lead-drop/?amps=13"),
    ],
)
def test_an_address_of_before_leads_to_its_page(client: Client, demo: Job, old: str, new: str) -> None:
    response = client.get(old.format(job=demo.pk), follow=True)
    assert response.redirect_chain == [(new.format(job=demo.pk), 302)]
    assert response.status_code == 200


def test_nothing_in_the_navigation_leads_to_an_empty_room(client: Client, demo: Job) -> None:
    page = client.get(reverse("brief", args=[demo.pk])).content.decode()
    assert "Rehearsal" not in page


def test_the_safety_checks_show_what_the_wiring_wants_and_are_confirmed_and_withdrawn(
    client: Client, demo: Job
) -> None:
    url = reverse("safety", args=[demo.pk])
    source = demo.source_rows.get()
    source.safety_rows.all().delete()
    page = client.get(url).content.decode()
    assert "Backfeed through a service transformer kills line workers" in page
    assert "licensed electrician" in page
    data = {"source": source.pk, "protocol": "ladder", "check": "interlock"}
    client.post(url, {**data, "do": "confirm", "note": "seen by the parish electrician"})
    page = client.get(url).content.decode()
    assert "seen by the parish electrician" in page
    client.post(url, {**data, "do": "withdraw"})
    assert source.safety_rows.get().withdrawn_at is not None
    page = client.post(url, {**data, "check": "meter", "do": "confirm"}, follow=True).content.decode()
    assert "a check that is confirmed by name" in page


def test_the_name_beside_the_records_can_be_changed(client: Client, ladder: SessionRow) -> None:
    assert client.post(reverse("help"), {"name": " "}).status_code == 422
    client.post(reverse("help"), {"name": "Ada of Hask"})
    client.post(_url(ladder, "line"), {"line": "230v"})
    page = client.get(reverse("session", args=[ladder.source.job.pk, ladder.pk])).content.decode()
    assert "Ada of Hask" in page


def test_the_rail_marks_how_far_a_job_has_come(client: Client, ladder: SessionRow, who: AbstractUser) -> None:
    def states() -> dict[str, str]:
        rail = client.get(reverse("brief", args=[ladder.source.job.pk])).context["rail"]
        return {mark.stage.slug: mark.state for mark in rail}

    assert states()["bench"] == "begun"
    assert states()["verdict"] == "begun"
    sessions.close_session(ladder)
    assert states()["bench"] == "settled"


def test_an_edit_comes_in_place_for_htmx_and_as_a_page_without_it(client: Client, job: Job) -> None:
    row = job.load_rows.get(name="lights")
    url = reverse("loads-edit", args=[job.pk, row.pk])
    part = client.get(url, headers={"HX-Request": "true"})
    assert part.content.lstrip().startswith(b"<tr")
    assert b"<!doctype html>" in client.get(url).content
    form = part.context["form"]
    data = {name: form[name].value() if form[name].value() is not None else "" for name in form.fields}
    kept = client.post(url, {**data, "run_w": "95"}, headers={"HX-Request": "true"})
    assert kept["HX-Refresh"] == "true"


def test_painted_hours_answer_with_the_new_totals(client: Client, job: Job) -> None:
    row = job.load_rows.get(name="room heater")
    url = reverse("loads-hours", args=[job.pk, row.pk])
    response = client.post(url, {"hour": ["1", "2"]}, headers={"HX-Request": "true"})
    assert b'id="totals"' in response.content
    assert client.post(url, {"hour": ["77"]}).status_code == 422
    assert client.post(url, {}).status_code == 302


def test_a_job_is_opened_with_its_loads_and_its_source_in_one_go_or_not_at_all(
    client: Client, who: AbstractUser
) -> None:
    said = {
        "name": "Kiln",
        "system": "single-230-50",
        "outage_h": "6",
        "loads": "kettle 2.2 kW, fridge 120w\nlights 60w 17-23",
        "source": "generator 2.8 kW tank 3 gal",
    }
    wrong = client.post(reverse("new-job"), {**said, "source": "the blue one"})
    assert wrong.status_code == 422
    assert "names no kind of source" in wrong.content.decode()
    wrong = client.post(reverse("new-job"), {**said, "loads": "a thing nobody knows"})
    assert wrong.status_code == 422
    assert not Job.objects.exists()
    client.post(reverse("new-job"), said)
    job = Job.objects.get()
    assert [load.name for load in bridge.loads_of(job)] == ["kettle", "fridge", "lights"]
    assert job.source_rows.get().data["claims"]["cont_w"] == 2800
    assert bridge.brief_of(job).measures.volume == "gal"


def test_where_practice_differs_is_a_setting_of_the_job_with_what_follows(client: Client, demo: Job) -> None:
    address = reverse("brief", args=[demo.pk])
    page = client.get(address)
    html = page.content.decode()
    assert "Where practice differs" in html
    assert "until protection acts: the hold-time curve is known" in html
    form = page.context["form"]
    data = {name: form[name].value() for name in form.fields if form[name].value() not in (None, False)}
    client.post(address, data | {"soft_starters": "without", "noise_by": "at_neighbour", "governor": "most_used"})
    schools = bridge.brief_of(Job.objects.get(pk=demo.pk)).schools
    assert (schools.soft_starters, schools.noise_by) == (SoftStarters.WITHOUT, NoiseBy.AT_NEIGHBOUR)
    assert schools.governor is SetPointSchool.MOST_USED
