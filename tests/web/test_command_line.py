"""The command line: everything can be checked without a browser, and bad input is one clear line."""

from __future__ import annotations

import json
import os
import sqlite3
import subprocess
import sys
from pathlib import Path

import pytest

from muster import cli
from muster.formats.jobzip import read_package_file

DEMO = Path(cli.__file__).parents[1] / "demo/3_ferry_house.muster.zip"


def run(*words: str, data: Path | None = None) -> subprocess.CompletedProcess[str]:
    """Run muster as a user does."""
    environment = {**os.environ, "PYTHONPATH": os.pathsep.join(sys.path)}
    environment.pop("DJANGO_SETTINGS_MODULE", None)
    if data is not None:
        environment["MUSTER_DATA"] = str(data)
    command = [sys.executable, "-m", "muster", *words]
    return subprocess.run(command, capture_output=True, text=True, check=False, env=environment)


def test_judge_says_the_verdict_in_words(capsys: pytest.CaptureFixture[str]) -> None:
    assert cli.main(["judge", str(DEMO), "--draws", "20"]) == 0
    said = capsys.readouterr().out
    assert "will not start the borehole pump" in said
    assert "Safe connection" in said


def test_judge_in_json_is_whole_and_the_same_each_time(capsys: pytest.CaptureFixture[str]) -> None:
    outputs = []
    for _ in range(2):
        assert cli.main(["judge", str(DEMO), "--draws", "20", "--json"]) == 0
        outputs.append(capsys.readouterr().out)
    assert outputs[0] == outputs[1]
    report = json.loads(outputs[0])
    source = report["sources"][0]
    assert (report["scope"], source["status"]) == ("must", "falls_short")
    assert {row["status"] for row in source["requirements"]} >= {"carries", "not_proven", "falls_short"}
    for row in source["requirements"]:
        assert set(row) >= {"key", "label", "status", "demand", "capability", "margin", "grade", "sentence"}


FERRY = DEMO.parent / "3_ferry_house.muster.zip"


def test_an_outage_is_played_on_every_source_and_its_night_told(capsys: pytest.CaptureFixture[str]) -> None:
    assert cli.main(["outage", str(FERRY), "--draws", "60", "--night"]) == 0
    said = capsys.readouterr().out.replace("\u202f", " ")
    assert "the hybrid inverter" in said
    assert "the battery is empty" in said
    assert "served of what must run" in said
    assert "not said: what starts meet" in said


def test_an_outage_in_json_is_whole_and_the_same_each_time(capsys: pytest.CaptureFixture[str]) -> None:
    outputs = []
    for _ in range(2):
        assert cli.main(["outage", str(FERRY), "--draws", "40", "--json"]) == 0
        outputs.append(capsys.readouterr().out)
    assert outputs[0] == outputs[1]
    source = json.loads(outputs[0])["sources"][0]
    assert set(source["chances"]) == {"trip", "failed_start", "run_out", "out_of_tolerance", "dip"}
    assert source["chances"]["trip"]["low"] <= source["chances"]["trip"]["share"] <= source["chances"]["trip"]["high"]
    assert len(source["fuel_l"]) == len(source["hours"]) + 1


def test_an_outage_without_a_source_says_what_is_missing(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    notes = tmp_path / "notes.txt"
    notes.write_text("Home: Weir cottage, 230 V 50 Hz, outage 6 h\nfridge 130w must\n", encoding="utf-8")
    assert cli.main(["outage", str(notes)]) == 2
    assert "no source" in capsys.readouterr().err


def test_another_seed_and_a_wider_scope_are_taken(capsys: pytest.CaptureFixture[str]) -> None:
    peaks = []
    for words in (["--seed", "5"], ["--seed", "5", "--scope", "could"]):
        assert cli.main(["judge", str(DEMO), "--draws", "5", "--json", *words]) == 0
        peaks.append(json.loads(capsys.readouterr().out)["sources"][0]["requirements"][0]["demand"])
    assert peaks[0] != peaks[1]


def test_findings_are_read_out_with_their_working(capsys: pytest.CaptureFixture[str]) -> None:
    assert cli.main(["findings", str(DEMO)]) == 0
    assert "least squares" in capsys.readouterr().out
    assert cli.main(["findings", str(DEMO), "--json"]) == 0
    sessions = json.loads(capsys.readouterr().out)["sessions"]
    assert [s["protocol"] for s in sessions[:3]] == ["ladder", "starts", "noise_walk"]
    assert {f["topic"] for s in sessions for f in s["findings"]} >= {"starts", "energy", "conversion", "droop"}
    for finding in (f for s in sessions for f in s["findings"]):
        assert finding["grade"] in "ABCD"
        assert finding["workings"]


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("", "not JSON"),
        ("{", "line 1 column 2"),
        ("[]", "version"),
        ('{"version": 1}', "name: field required"),
        ('{"version": 7}', "reads versions up to 2"),
        ("\udcff", "not"),
    ],
)
def test_a_bad_file_is_one_line_on_standard_error(
    tmp_path: Path, capsys: pytest.CaptureFixture[str], text: str, says: str
) -> None:
    path = tmp_path / "bad.muster.json"
    path.write_bytes(text.encode("utf-8", "surrogateescape"))
    assert cli.main(["judge", str(path)]) == 2
    error = capsys.readouterr().err
    assert says in error
    assert error.count("\n") == 1


def test_a_file_that_is_not_there_and_a_draw_too_few(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    assert cli.main(["findings", str(tmp_path / "none.json")]) == 2
    assert "no such file" in capsys.readouterr().err
    assert cli.main(["judge", str(DEMO), "--draws", "0"]) == 2
    assert "--draws" in capsys.readouterr().err


def test_a_job_goes_in_comes_out_the_same_and_is_backed_up(tmp_path: Path) -> None:
    small = DEMO.with_name("2_signal_cottage.muster.zip")
    brought = run("import", str(small), data=tmp_path)
    assert (brought.returncode, brought.stdout) == (0, "Signal Cottage is job 1\n")
    refused = run("export", "signal cottage", str(tmp_path / "out.muster.json"), data=tmp_path)
    assert (refused.returncode, "ends in .muster.zip" in refused.stderr) == (2, True)
    out = tmp_path / "out.muster.zip"
    assert run("export", "signal cottage", str(out), data=tmp_path).returncode == 0
    again, first = read_package_file(out), read_package_file(small)
    assert again.job.loads == first.job.loads
    assert all(kept.sha256.startswith("2:") for source in again.job.sources for kept in source.sessions)
    assert [trace.t_s.size for trace in again.traces.values()] == [trace.t_s.size for trace in first.traces.values()]
    copy = tmp_path / "copy.sqlite3"
    assert run("backup", str(copy), data=tmp_path).returncode == 0
    with sqlite3.connect(copy) as database:
        assert database.execute("select count(*) from records_job").fetchone() == (1,)
    overwritten = run("backup", str(copy), data=tmp_path)
    assert (overwritten.returncode, "never overwrites" in overwritten.stderr) == (2, True)
    missing = run("export", "Elsewhere", "-", data=tmp_path)
    assert missing.returncode == 2
    assert "1 Signal Cottage" in missing.stderr


def test_the_schemas_in_the_docs_are_the_codes_own() -> None:
    from tools.schema import DOCS, TARGETS, text

    for target in TARGETS:
        assert (DOCS / target).read_text(encoding="utf-8") == text(target), "run python -m tools.schema"


def test_a_log_alone_is_read_out_by_its_headings(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    log = tmp_path / "shed.csv"
    rows = "".join(
        f"2026-10-12 09:{i // 60:02d}:{i % 60:02d};{230.5 if i < 60 else 228.5};{0 if i < 60 else 1.5}\n"
        for i in range(180)
    )
    log.write_text("Time;Volts [V];Power [kW]\n" + rows, encoding="utf-8")
    assert cli.main(["findings", str(log)]) == 0
    said = capsys.readouterr().out
    assert "Voltage falls from" in said.replace("\u202f", " ")
    assert cli.main(["findings", str(log), "--json"]) == 0
    report = json.loads(capsys.readouterr().out)
    assert (report["log"], report["rows"]) == ("shed", 180)
    energy = next(f for f in report["findings"] if f["topic"] == "energy")
    assert energy["value"] == pytest.approx(50, rel=0.02)


@pytest.mark.parametrize(
    ("text", "words", "says"),
    [
        ("time,v\n1,x\n2,230\n3,230\n4,231\n", (), "row 2, column"),
        ("a,b\n1,2\n", (), "name no time"),
        ("t_s,v\n1,230\n", ("--nominal", "7"), "--nominal"),
        ("t_s,v\n1,230\n", ("--nominal", "120/250/60"), "--nominal"),
        ("", (), "empty"),
    ],
)
def test_a_bad_log_is_one_line_and_exit_two(
    tmp_path: Path, capsys: pytest.CaptureFixture[str], text: str, words: tuple[str, ...], says: str
) -> None:
    log = tmp_path / "shed.csv"
    log.write_text(text, encoding="utf-8")
    assert cli.main(["findings", str(log), *words]) == 2
    said = capsys.readouterr().err
    assert says in said
    assert said.count("\n") == 1


@pytest.mark.parametrize("command", ["up", "demo", "judge", "findings", "import", "export", "backup", "ready"])
def test_the_help_of_every_command_teaches_by_examples(command: str, capsys: pytest.CaptureFixture[str]) -> None:
    with pytest.raises(SystemExit):
        cli.main([command, "--help"])
    assert f"  muster {command} " in capsys.readouterr().out


def test_no_trace_of_how_a_command_is_wrong_goes_to_the_user_as_a_traceback(tmp_path: Path) -> None:
    done = run("judge", str(tmp_path))
    assert (done.returncode, done.stdout) == (2, "")
    assert "Traceback" not in done.stderr


NOTES = """\
Home: Weir cottage, 230 V 50 Hz
Loads
fridge 120w
garden gate motor
Generator: 2.8 kW surge 3.2 kW petrol
Ladder, 14 nov
09:00 no load 236v 51.8hz
09:10 1.2kw 229v
"""


@pytest.mark.parametrize("words", [["judge", "--draws", "20"], ["findings"], ["character"]])
def test_notes_are_read_as_a_job_file_is_and_what_is_open_is_told(
    words: list[str], tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    file = tmp_path / "notes.txt"
    file.write_text(NOTES, encoding="utf-8")
    assert cli.main([*words, str(file)]) == 0
    said = capsys.readouterr()
    assert said.out.strip()
    assert "line 4: garden gate motor" in said.err


def test_notes_go_in_and_come_out_again(tmp_path: Path) -> None:
    given, made, data = (tmp_path / "phone").with_suffix(".md"), tmp_path / "out.txt", tmp_path / "data"
    given.write_text(NOTES, encoding="utf-8")
    done = run("import", str(given), data=data)
    assert done.returncode == 0, done.stderr
    done = run("export", "Weir cottage", str(made), data=data)
    assert done.returncode == 0, done.stderr
    assert "09:10 1.2kw 229v" in made.read_text(encoding="utf-8")
