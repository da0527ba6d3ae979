"""The pages of the sums: inputs in the address, kept with a job, given to a load."""

from __future__ import annotations

import pytest
from django.contrib.auth.models import AbstractUser
from django.test import Client
from django.urls import reverse

from muster.core.brief import Brief
from muster.core.calculators import CALCULATIONS
from muster.core.errors import MusterError
from muster.core.quantities import THIN, Grade
from muster.core.sessions import Reading
from muster.formats.jobfile import read_job, write_job
from muster.records import bridge
from muster.records.actions import calculations as sums
from muster.records.actions import jobs, sessions
from muster.records.actions.people import local_account
from muster.records.models import CalculationRow, Job, SessionRow


@pytest.mark.django_db
@pytest.mark.parametrize("slug", sorted(CALCULATIONS))
def test_each_sum_stands_on_its_page_worked_out(client: Client, slug: str) -> None:
    page = client.get(reverse("calculator", args=[slug]))
    assert page.status_code == 200
    assert page.context["answer"].result.sentence in page.content.decode().replace("&#x27;", "'")


def test_the_inputs_stand_in_the_address(client: Client, db: None) -> None:
    page = client.get(
        reverse("calculator", args=["lead-drop"]), {"length_m": "30", "amps": "13 ± 1", "v_nominal": "230"}
    ).content.decode()
    assert "5.38" in page
    assert 'value="13 ± 1"' in page
    part = client.get(
        reverse("calculator", args=["lead-drop"]), {"length_m": "30"}, headers={"HX-Request": "true"}
    ).content.decode()
    assert "<html" not in part
    assert "5.38" in part


def test_a_slip_is_answered_beside_its_input_and_the_rest_stays(client: Client, db: None) -> None:
    response = client.get(reverse("calculator", args=["lead-drop"]), {"length_m": "long", "amps": "14"})
    assert response.status_code == 422
    page = response.content.decode()
    assert 'aria-invalid="true"' in page
    assert 'value="long"' in page
    assert 'value="14"' in page
    assert client.get(reverse("calculator", args=["two-runs"]), {"slow_h": "1"}).status_code == 422
    assert client.get("/calculators/no-such/").status_code == 404


def test_what_a_job_knows_is_put_in(client: Client, demo: Job) -> None:
    page = client.get(reverse("calculator", args=["fuel-hours"]), {"job": demo.pk}).content.decode()
    assert 'name="outage_h" value="18"' in page


def test_a_sum_is_kept_with_the_job_archived_and_restored_by_undo(client: Client, job: Job) -> None:
    url = reverse("calculator", args=["sum-of-levels"])
    page = client.post(url, {"job": job.pk, "levels_dba": "63 63"}, follow=True).content.decode()
    assert "Together they are 66.0 dBA." in page
    row = CalculationRow.objects.get()
    page = client.post(reverse("calculation-archive", args=[row.pk]), follow=True).content.decode()
    assert "Together they are" not in page
    change = job.change_rows.first()
    assert change is not None
    client.post(reverse("undo-change", args=[job.pk, change.pk]))
    assert "Together they are" in client.get(reverse("calculators"), {"job": job.pk}).content.decode()


def test_a_start_from_the_nameplate_is_given_to_a_load_at_grade_c(client: Client, job: Job) -> None:
    pump = job.load_rows.get(name="sump pump")
    client.post(
        reverse("calculator", args=["code-letter"]), {"job": job.pk, "letter": "K", "hp": "0.5", "load": pump.pk}
    )
    pump.refresh_from_db()
    load = bridge.load_of(pump)
    assert (load.start_va, load.start_grade) == (pytest.approx(4495), Grade.C)


def test_duty_of_another_day_keeps_the_length_of_the_cycle(job: Job, who: AbstractUser) -> None:
    pump = job.load_rows.get(name="sump pump")
    sums.give_to_load(
        pump, "duty-weather", {"on_min": "10", "off_min": "10", "seen_at_c": "10", "wanted_at_c": "5"}, who
    )
    pump.refresh_from_db()
    duty = bridge.load_of(pump).duty
    assert (duty.on_min, duty.off_min) == (pytest.approx(15), pytest.approx(5))
    with pytest.raises(MusterError, match="nothing"):
        sums.give_to_load(pump, "rpm-hertz", {}, who)
    with pytest.raises(MusterError, match="not run"):
        sums.give_to_load(pump, "duty-weather", {"wanted_at_c": "25"}, who)


def test_kept_sums_go_with_the_job_file(job: Job, who: AbstractUser) -> None:
    sums.save_calculation(job, "rpm-hertz", {"rpm": "3000", "hz": "50"}, who)
    package = jobs.write_out(job)
    again = jobs.read_in(package, who)
    assert [row.sentence for row in again.calculation_rows.all()] == [job.calculation_rows.get().sentence]
    data = write_job(package.job)
    data["calculations"][0]["slug"] = "alchemy"
    with pytest.raises(MusterError, match=r"calculations\[0\]\.slug"):
        jobs.read_in(type(package)(read_job(data), package.traces), who)


def test_what_was_measured_is_put_in_and_says_so(client: Client, demo: Job) -> None:
    (source,) = demo.source_rows.all()
    page = client.get(reverse("calculator", args=["fuel-hours"]), {"job": demo.pk, "source": source.pk})
    known = {field.spec.name: field.known for field in page.context["fields"]}
    assert (known["idle_lph"].grade, known["outage_h"].grade) == (Grade.A, Grade.C)
    assert known["idle_lph"].rests_on.startswith("Endurance of 2026")
    assert "gal/h" in known["idle_lph"].text, "the demo's home is in feet and gallons"
    assert page.context["answer"].value_of("lph").value == pytest.approx(1.28, abs=0.01)
    other = client.get(reverse("calculator", args=["fuel-hours"]), {"job": demo.pk, "outage_h": "30"})
    changed = next(field for field in other.context["fields"] if field.spec.name == "outage_h")
    assert (changed.text, changed.known) == ("30", None)


def test_a_calculation_is_logged_as_evidence_with_its_working(
    client: Client, ladder: SessionRow, who: AbstractUser
) -> None:
    job = ladder.source.job
    sessions.log_line(ladder, "61.8hz", who)
    clock = {"job": job.pk, "hz": "60", "clock_s": "62 ± 0.5", "true_s": "60", "session": ladder.pk}
    page = client.get(reverse("calculator", args=["clock-method"]), clock).content.decode()
    assert "The meter last read 61.80 Hz: this is 0.20 Hz above it, no more than both leave open." in page
    client.post(reverse("calculator", args=["clock-method"]), clock)
    lead = {"job": job.pk, "length_m": "49.2 ft", "amps": "13", "session": ladder.pk}
    client.post(reverse("calculator", args=["lead-drop"]), lead)
    read, noted = (entry for entry in bridge.session_of(ladder).effective if entry.raw[:5] in ("clock", "note:"))
    assert read.raw == "clock 62 s in 60 s"
    (reading,) = (item for item in read.items if isinstance(item, Reading))
    assert reading.measured == "clock_s" or reading.quantity in ("hz", "clock_s")
    assert noted.raw.startswith(f"note: Lead drop: 15{THIN}m of this lead drops 2.69 V")
    assert "drop ÷ nominal: 2.69 ÷ 230 = 1.17 %" in noted.raw


@pytest.mark.parametrize("slug", sorted(CALCULATIONS))
def test_each_opens_for_a_job_with_a_source_and_for_one_without(client: Client, demo: Job, slug: str) -> None:
    bare = jobs.create_job("Bare", Brief(), local_account())
    for job in (demo, bare):
        assert client.get(reverse("calculator", args=[slug]), {"job": job.pk}).status_code == 200
