"""Plans changed by hand, what stacks, what to test next, pages typed in, and a baseline taken into the loads."""

from __future__ import annotations

from typing import Any

import pytest
from django.contrib.auth.models import AbstractUser
from django.test import Client

from muster.core.safety.checks import KNOWN
from muster.core.sessions import PROTOCOLS, Conditions
from muster.records import bridge
from muster.records.actions import loads as roll
from muster.records.actions import sessions as actions
from muster.records.judging import session_findings
from muster.records.models import Job, SourceRow

pytestmark = pytest.mark.django_db


def text(answer: Any) -> str:
    body: str = answer.content.decode()
    return body


def change(client: Client, job: Job, source: SourceRow, do: str, protocol: str = "ladder") -> str:
    sent = {"source": source.pk, "protocol": protocol, "do": do}
    return text(client.post(f"/jobs/{job.pk}/plan/change/", sent, follow=True))


@pytest.mark.parametrize("protocol", list(PROTOCOLS))
def test_every_protocol_can_be_begun_and_its_page_opened(
    plain: Client, demo: Job, who: AbstractUser, protocol: str
) -> None:
    source = demo.source_rows.get()
    row = actions.start_session(source, protocol, Conditions(), who, confirmed=KNOWN)
    for tail in ("", "clipboard/", "checks/"):
        assert plain.get(f"/jobs/{demo.pk}/bench/{row.pk}/{tail}").status_code == 200
    assert plain.get(f"/jobs/{demo.pk}/findings/?source={source.pk}").status_code == 200


def test_a_load_dropped_from_the_plan_is_told_with_what_it_costs(plain: Client, job: Job, source: SourceRow) -> None:
    page = change(plain, job, source, "drop:1")
    assert "left out" in page
    assert "further off" in page
    assert "Not within 3 %" in page
    assert change(plain, job, source, "lock:1").count("on in every step") == 1
    assert "changed by hand" not in change(plain, job, source, "reset")


def test_steps_are_moved_left_out_and_taken_back(plain: Client, job: Job, source: SourceRow, who: AbstractUser) -> None:
    own = [step.label for step in actions.plan_steps(source, "ladder", who)]
    change(plain, job, source, f"down:{own[0]}")
    change(plain, job, source, f"leave:{own[2]}")
    source.refresh_from_db()
    now = [step.label for step in actions.plan_steps(source, "ladder", who)]
    assert now == [own[1], own[0], *own[3:]]
    assert f'Take back<span class="visually-hidden"> {own[2]}' in text(plain.get(f"/jobs/{job.pk}/plan/"))
    change(plain, job, source, f"back:{own[2]}")
    change(plain, job, source, f"up:{own[0]}")
    source.refresh_from_db()
    assert [step.label for step in actions.plan_steps(source, "ladder", who)] == own


@pytest.mark.parametrize("do", ["", "lock:zz", "up:no such", "leave:no such", "dance"])
def test_a_change_that_says_nothing_changes_nothing(plain: Client, job: Job, source: SourceRow, do: str) -> None:
    change(plain, job, source, do)
    source.refresh_from_db()
    assert not bridge.changes_of(source, "ladder").dropped
    assert not bridge.changes_of(source, "ladder").left_out


def test_the_tests_stand_in_order_with_their_reason(plain: Client, job: Job, source: SourceRow) -> None:
    page = plain.get(f"/jobs/{job.pk}/plan/?source={source.pk}")
    tests = page.context["tests"]
    assert [t.per_hour for t in tests] == sorted((t.per_hour for t in tests), reverse=True)
    assert "Settles" in text(page)


def test_any_set_is_tried_on_paper(plain: Client, job: Job, source: SourceRow, who: AbstractUser) -> None:
    small = text(plain.get(f"/jobs/{job.pk}/plan/stacks/?source={source.pk}&tried=1&on=3"))
    assert "This set holds" in small
    assert "If one more were switched on now" in small
    assert "No order of these" in small
    none = text(plain.get(f"/jobs/{job.pk}/plan/stacks/?source={source.pk}&tried=1"))
    assert "No load is on" in none
    roll.add_line(job, "fan heater", who)
    tight = text(plain.get(f"/jobs/{job.pk}/plan/stacks/?source={source.pk}&tried=1&on=1&on=2&on=3&on=4"))
    assert "does not hold" in tight
    assert plain.get(f"/jobs/{job.pk}/plan/stacks/").status_code == 200


def test_stacks_and_order_are_saved_as_tables(plain: Client, demo: Job) -> None:
    stacks = text(plain.get(f"/jobs/{demo.pk}/plan/stacks/csv/")).splitlines()
    assert stacks[0] == "must,should,could,va,leg1_va,leg2_va,together,off"
    order = text(plain.get(f"/jobs/{demo.pk}/plan/stacks/order/csv/?tried=1&on=1&on=3")).splitlines()
    assert order[0].startswith("load,beneath_leg1_a")
    assert len(order) == 3


def test_an_empty_job_says_what_stacks_needs(plain: Client, job: Job) -> None:
    assert "Describe a source" in text(plain.get(f"/jobs/{job.pk}/plan/stacks/"))
    assert plain.get(f"/jobs/{job.pk}/plan/stacks/csv/").status_code == 404


def test_a_filled_page_is_typed_in_whole_or_not_at_all(
    plain: Client, job: Job, source: SourceRow, who: AbstractUser
) -> None:
    row = actions.start_session(source, "ladder", Conditions(), who, confirmed=KNOWN)
    url = f"/jobs/{job.pk}/bench/{row.pk}/clipboard/"
    form = plain.get(url).context["form"]
    sent = {name: form[name].value() or "" for name in form.fields}
    before = row.entry_rows.count()
    assert plain.post(url, sent).status_code == 422
    assert plain.post(url, {**sent, "1_v_leg1": "much"}).status_code == 422
    back = {"1_v_leg1": "241", "1_minutes": "9", "2_v_leg1": "239", "2_minutes": "2"}
    assert plain.post(url, {**sent, **back}).status_code == 422
    assert row.entry_rows.count() == before
    good = {"1_v_leg1": "241", "2_v_leg1": "238,5", "2_w_leg1": "1010", "2_held": "2", "3_words": "hums"}
    assert plain.post(url, {**sent, **good}).status_code == 302
    record = session_findings(row).record
    assert record.step == len(form.steps)
    assert "All steps of this session are done" in text(plain.get(url))
    actions.close_session(row)
    assert "closed and sealed" in text(plain.get(url))


@pytest.mark.parametrize("protocol", ["ladder", "starts", "noise_walk", "idle", "recharge"])
def test_the_printed_page_has_the_boxes_that_are_typed_in(
    plain: Client, demo: Job, who: AbstractUser, protocol: str
) -> None:
    source = demo.source_rows.get()
    printed = text(plain.get(f"/jobs/{demo.pk}/plan/?source={source.pk}&protocol={protocol}"))
    row = actions.start_session(source, protocol, Conditions(), who, confirmed=KNOWN)
    form = plain.get(f"/jobs/{demo.pk}/bench/{row.pk}/clipboard/").context["form"]
    assert printed.count('class="only-print fillrow"') == len(form.steps)
    for box in form.boxes:
        assert f'<span class="fillbox">{box.label}<i>' in printed


def test_a_baseline_is_taken_into_the_roll(plain: Client, job: Job, source: SourceRow, who: AbstractUser) -> None:
    row = actions.start_session(source, "baseline", Conditions(), who, confirmed=KNOWN)
    url = f"/jobs/{job.pk}/findings/{row.pk}/baseline/"
    assert "No load was read alone" in text(plain.post(url, follow=True))
    for line in ("+sump", "231v 412w 0.69pf", "-sump", "+lights", "74w"):
        actions.log_line(row, line, who)
    page = text(plain.get(f"/jobs/{job.pk}/findings/?source={source.pk}"))
    assert "What the loads draw on the mains" in page
    assert "for 2 loads" in text(plain.post(url, follow=True))
    pump = bridge.load_of(job.load_rows.get(name="sump pump"))
    assert (pump.run_w, pump.run_grade.value, pump.pf) == (412, "A", 0.69)
    assert len([f for f in pump.figures if f.quantity == "run_w"]) > 1


def test_a_recharge_is_kept_and_gives_nothing_of_the_source(
    plain: Client, job: Job, source: SourceRow, who: AbstractUser
) -> None:
    row = actions.start_session(source, "recharge", Conditions(), who, confirmed=KNOWN)
    actions.log_line(row, "41% 0.62kwh 310w", who)
    assert session_findings(row).findings == ()
    assert "Read of mains, wall or panels too" in text(plain.get(f"/jobs/{job.pk}/findings/?source={source.pk}"))
