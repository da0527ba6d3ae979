"""Captures on their pages, and everything measured as a data package."""

from __future__ import annotations

import csv
import io
import json
import subprocess
import sys
import zipfile
from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from django.contrib.auth.models import AbstractUser
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import Client
from django.urls import reverse

from muster.core.errors import MusterError, Refused
from muster.core.sessions import Place
from muster.core.timeline.captures import Capture
from muster.core.timeline.traces import Channel
from muster.demo import files
from muster.formats.captures import read_capture_files
from muster.records.actions import captures, imports, jobs, sessions
from muster.records.actions import files as file_actions
from muster.records.models import CaptureRow, Job, SessionRow


def wave(hz: float = 50.0) -> Capture:
    t = np.arange(3000) / 5000
    volts = 325 * np.sin(2 * np.pi * hz * t)
    amps = np.where(t < 0.2, 1.0, 9.0) * np.sin(2 * np.pi * hz * t)
    channels = (Channel("v", Place.LEG1), Channel("a", Place.LEG1))
    return Capture("start of the pump", "scope", 4.0, 1 / 5000, channels, np.array([volts, amps], np.float32))


@pytest.fixture
def shot(ladder: SessionRow, who: AbstractUser) -> CaptureRow:
    return captures.keep_capture(ladder, wave(), who)


def url(name: str, row: SessionRow, *more: object) -> str:
    return reverse(name, args=[row.source.job_id, row.pk, *more])


def test_a_capture_is_drawn_whole_and_a_few_cycles_at_a_time(client: Client, shot: CaptureRow) -> None:
    page = client.get(url("capture", shot.session, shot.pk)).content.decode()
    assert "First 4 cycles" in page
    assert "229.8" in page, "RMS of 325 V at its crest"
    assert "THD 0.0\u202f%; a clean sine" in page
    closer = client.get(url("capture", shot.session, shot.pk), {"at": "4.1"}).content.decode()
    assert "4 cycles of it at 5\u202f000 samples a second" in closer
    assert client.get(url("capture", shot.session, shot.pk), {"at": "x"}).status_code == 200


def test_a_capture_too_short_or_cut_off_says_why_its_wave_is_not_judged(
    client: Client, ladder: SessionRow, who: AbstractUser
) -> None:
    whole = wave()
    clipped = captures.keep_capture(ladder, replace(whole, values=np.clip(whole.values, -200, 200)), who)
    short = captures.keep_capture(ladder, replace(whole, values=whole.values[:, :150]), who)
    assert "range cuts the wave off" in client.get(url("capture", ladder, clipped.pk)).content.decode()
    assert "whole cycles" in client.get(url("capture", ladder, short.pk)).content.decode()


def test_a_capture_goes_out_as_comtrade_and_comes_in_again(client: Client, shot: CaptureRow, who: AbstractUser) -> None:
    file = client.get(url("capture-file", shot.session, shot.pk, "cff"))
    assert file["Content-Disposition"].endswith('.cff"')
    answer = client.post(
        url("captures", shot.session), {"file": SimpleUploadedFile("p.cff", file.content), "instrument": "scope"}
    )
    back = CaptureRow.objects.latest("pk")
    assert answer.url == url("capture", shot.session, back.pk)
    assert back.t0_s == pytest.approx(4.0, abs=0.001), "by the time the file says"
    assert np.allclose(captures.capture_of(back).values, captures.capture_of(shot).values, atol=0.01)
    as_csv = client.get(url("capture-file", shot.session, shot.pk, "csv")).content
    assert read_capture_files({"p.csv": as_csv}).channels == wave().channels
    assert client.get(url("capture-file", shot.session, shot.pk, "exe")).status_code == 404


@pytest.mark.parametrize(
    ("given", "says"),
    [
        ({}, "no file was chosen"),
        ({"file": SimpleUploadedFile("a.csv", b"t_s,l1_v\n0,1\n0.1,2\n"), "at_s": "soon"}, "seconds after"),
        ({"file": SimpleUploadedFile("a.png", b"x")}, "no waveform file"),
    ],
)
def test_what_is_no_capture_is_said_on_the_page(
    client: Client, ladder: SessionRow, given: dict[str, object], says: str
) -> None:
    answer = client.post(url("captures", ladder), given)
    assert answer.status_code == 422
    assert says in answer.content.decode().lower()
    assert not CaptureRow.objects.exists()


def test_a_capture_is_archived_and_restored_until_its_session_is_sealed(
    client: Client, shot: CaptureRow, who: AbstractUser
) -> None:
    client.post(url("capture-archive", shot.session, shot.pk))
    assert "1 archived" in client.get(url("captures", shot.session)).content.decode()
    client.post(url("capture-archive", shot.session, shot.pk))
    assert "archived</summary>" not in client.get(url("captures", shot.session)).content.decode()
    sessions.close_session(shot.session)
    shot.refresh_from_db()
    with pytest.raises(Refused):
        captures.put_away_capture(shot, who)
    with pytest.raises(Refused):
        captures.keep_capture(shot.session, wave(), who)


def test_a_sealed_capture_that_was_changed_is_refused_when_the_job_comes_back(
    shot: CaptureRow, who: AbstractUser
) -> None:
    sessions.close_session(shot.session)
    package = jobs.write_out(shot.session.source.job)
    again = jobs.read_in(package, who)
    assert CaptureRow.objects.filter(session__source__job=again).get().sha256 == shot.sha256
    (name,) = package.captures
    changed = wave(49.0)
    package = type(package)(package.job, package.traces, {name: changed})
    with pytest.raises(MusterError, match="changed after it was captured"):
        jobs.read_in(package, who)


def test_everything_measured_goes_out_as_a_data_package(client: Client, demo: Job, who: AbstractUser) -> None:
    data = client.get(reverse("job-data", args=[demo.pk]))
    archive = zipfile.ZipFile(io.BytesIO(data.content))
    told = json.loads(archive.read("datapackage.json"))
    assert told["profile"] == "tabular-data-package"
    names = {resource["name"] for resource in told["resources"]}
    assert {"loads", "sessions", "entries", "readings", "findings", "log-1-1"} <= names
    for resource in told["resources"]:
        rows = list(csv.reader(io.StringIO(archive.read(resource["path"]).decode())))
        assert rows[0] == [field["name"] for field in resource["schema"]["fields"]], resource["name"]
        for place, field in enumerate(resource["schema"]["fields"]):
            if field["type"] == "number":
                assert all(not row[place] or float(row[place]) is not None for row in rows[1:]), resource["name"]


def test_a_data_package_from_the_command_line(tmp_path: Path) -> None:
    env = {"MUSTER_DATA": str(tmp_path), "PATH": "/usr/bin:/bin"}
    demo = files()[0]
    run = [sys.executable, "-m", "muster"]
    subprocess.run([*run, "import", str(demo)], check=True, env=env, capture_output=True)
    out = tmp_path / "data.zip"
    subprocess.run([*run, "export", "1", str(out), "--data-package"], check=True, env=env, capture_output=True)
    assert "datapackage.json" in zipfile.ZipFile(out).namelist()


def test_a_waveform_file_that_is_too_large_is_refused_as_it_comes_and_nothing_of_it_stays(
    ladder: SessionRow, who: AbstractUser
) -> None:
    def endless() -> Iterator[bytes]:
        while True:
            yield b"0" * 1_000_000

    before = set(imports.inbox().iterdir())
    with pytest.raises(MusterError, match="at most 60 MB"):
        file_actions.receive_capture(ladder, {"a.cfg": [b"x"], "a.dat": endless()}, "scope", None, who)
    assert set(imports.inbox().iterdir()) == before
