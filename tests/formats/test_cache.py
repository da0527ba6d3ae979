"""Results kept between runs: the same question, the same answer; nothing depends on the keep."""

from __future__ import annotations

import json
from pathlib import Path

import pytest

from muster import cli
from muster.core.brief import Brief
from muster.core.loads import Load
from muster.core.outage import OutageDemand, demand_key
from muster.core.outage.simulate import simulate
from muster.demo import files
from muster.formats import cache as keep
from muster.formats.codec import dump

HEATER = Load("1", "heater", "heater", 1000.0, 1.0)
BRIEF = Brief(outage_h=2)


@pytest.fixture(autouse=True)
def folder(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path))
    return tmp_path / "muster"


def question(brief: Brief = BRIEF, draws: int = 3) -> dict[str, object]:
    return demand_key([dump(HEATER)], dump(brief), draws, 1)


def test_what_was_kept_comes_back_the_same() -> None:
    demand = simulate([HEATER], BRIEF, 3, 1)
    assert keep.kept(OutageDemand, question()) is None
    keep.keep(question(), demand)
    assert keep.kept(OutageDemand, question()) == demand
    assert keep.kept(OutageDemand, question(draws=4)) is None


def test_what_the_demand_does_not_hang_on_asks_nothing_new_and_the_outage_does() -> None:
    assert question(Brief(outage_h=2, reserve_pct=50, noise_day_dba=60, question="why?")) == question()
    assert question(Brief(outage_h=3)) != question()


def test_a_spoilt_or_a_missing_keep_costs_only_time(
    folder: Path, monkeypatch: pytest.MonkeyPatch, tmp_path: Path
) -> None:
    keep.keep(question(), simulate([HEATER], BRIEF, 3, 1))
    (path,) = folder.glob("*.json")
    path.write_text("{", encoding="utf-8")
    assert keep.kept(OutageDemand, question()) is None
    blocked = tmp_path / "file"
    blocked.write_text("", encoding="utf-8")
    monkeypatch.setenv("XDG_CACHE_HOME", str(blocked))
    keep.keep(question(), simulate([HEATER], BRIEF, 3, 1))
    assert keep.kept(OutageDemand, question()) is None


def test_only_so_many_are_kept(folder: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(keep, "MOST_KEPT", 2)
    for draws in range(1, 6):
        keep.keep(question(draws=draws), simulate([HEATER], BRIEF, draws, 1))
    assert len(list(folder.glob("*.json"))) == 2


def test_a_verdict_from_the_keep_is_the_verdict(capsys: pytest.CaptureFixture[str], folder: Path) -> None:
    said = []
    for _ in range(2):
        assert cli.main(["judge", str(files()[1]), "--json", "--draws", "20"]) == 0
        said.append(json.loads(capsys.readouterr().out))
    assert said[0] == said[1]
    assert list(folder.glob("*.json"))


def test_getting_ready_keeps_what_the_demo_homes_ask(folder: Path) -> None:
    assert cli.main(["ready"]) == 0
    assert len(list(folder.glob("*.json"))) >= len(files())
