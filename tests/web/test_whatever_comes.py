"""Whatever is typed or imported: an answer, never an error page, and nothing half kept."""

from __future__ import annotations

import json
from typing import Any

from django.contrib.auth.models import AbstractUser
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import Client
from django.urls import reverse
from hypothesis import HealthCheck, given
from hypothesis import settings as tuned
from hypothesis import strategies as st

from muster.formats.jobfile import write_job
from muster.records.models import BlockRow, ImportRow, Job, LoadRow, SessionRow, SourceRow, TraceRow
from tests.examples import examples
from tests.formats.test_jobfiles import small
from tests.formats.test_logs import files
from tests.generate import ODD, places, spoil

quickly = tuned(
    max_examples=examples(20), suppress_health_check=[HealthCheck.function_scoped_fixture, HealthCheck.too_slow]
)
slips = st.lists(
    st.tuples(st.sampled_from(places(write_job(small()))[1:]), st.sampled_from(["change", "drop", "double"]), ODD),
    max_size=2,
)


@quickly
@given(slips)
def test_a_spoilt_job_file_is_imported_whole_or_refused_whole(client: Client, who: AbstractUser, slips: list) -> None:
    data = json.loads(json.dumps(write_job(small())))
    for path, how, odd in slips:
        spoil(data, path, how, odd)
    before = [model.objects.count() for model in (Job, LoadRow, SourceRow, SessionRow)]
    file = SimpleUploadedFile("job.muster.json", json.dumps(data).encode())
    response = client.post(reverse("import-job"), {"file": file})
    if response.status_code == 302:
        made = Job.objects.latest("pk")
        assert client.get(reverse("brief", args=[made.pk])).status_code == 200
        assert client.get(reverse("bench", args=[made.pk])).status_code == 200
    else:
        assert response.status_code == 422
        assert [model.objects.count() for model in (Job, LoadRow, SourceRow, SessionRow)] == before


@quickly
@given(files(), st.booleans())
def test_any_log_file_is_imported_whole_or_told_why_not(
    client: Client, ladder: SessionRow, settings: Any, data: bytes, again: bool
) -> None:
    settings.WORK_AT_ONCE = True
    url = reverse("logs", args=[ladder.source.job_id, ladder.pk])
    response = client.post(url, {"file": SimpleUploadedFile("log.csv", data)})
    assert response.status_code in (302, 422)
    row = ImportRow.objects.first()
    if row is not None:
        page = reverse("log-import", args=[ladder.source.job_id, ladder.pk, row.pk])
        form = client.get(page).context["form"]
        filled = {name: form[name].value() if form[name].value() is not None else "" for name in form.fields}
        if again:
            filled["what_0"] = "l1_v"
        assert client.post(page, filled).status_code in (302, 422)
        assert client.get(page).status_code in (200, 302)
        row.refresh_from_db()
        assert (row.state == "done") == TraceRow.objects.filter(staged=False).exists()
        assert TraceRow.objects.filter(staged=True).count() == 0
        assert (row.state == "done") == BlockRow.objects.exists()
    TraceRow.objects.all().delete()
    ImportRow.objects.all().delete()


LINES = st.one_of(
    st.text(max_size=40),
    st.lists(
        st.sampled_from(
            [
                "230v",
                "1e9w",
                "+1",
                "-9",
                "!trip",
                "!stands 1",
                "!stands x",
                "@plug",
                "14:05:",
                "3h ago:",
                "sump pump start",
                "hot",
                "min",
                "81%",
                "0.2kwh",
                "dc",
                "l2",
                "25:61:",
                "note:",
                "-0v",
                "72db@7m",
            ]
        ),
        max_size=7,
    ).map(" ".join),
)


@quickly
@given(LINES, st.booleans())
def test_any_line_is_told_back_kept_and_shown(client: Client, ladder: SessionRow, line: str, correct: bool) -> None:
    args = [ladder.source.job_id, ladder.pk]
    assert client.get(reverse("session-understood", args=args), {"line": line}).status_code == 200
    count = ladder.entry_rows.count()
    part = client.post(reverse("session-line", args=args), {"line": line}, headers={"HX-Request": "true"})
    assert part.status_code == (200 if line.strip() else 422)
    assert ladder.entry_rows.count() == count + bool(line.strip())
    last = ladder.entry_rows.last()
    if correct and last is not None and last.seq > 1:
        client.post(reverse("session-correct", args=[*args, last.pk]), {"line": line[::-1]})
    assert client.get(reverse("session-checks", args=args)).status_code == 200
