"""The verdict of every field case, as an assessor would say it before a customer."""

from __future__ import annotations

import re

import pytest

from muster.core.brief import Home
from muster.core.character import given_of
from muster.core.findings.collect import session_findings
from muster.core.loads import Tier
from muster.core.outage.simulate import draws_of
from muster.core.verdict import Verdict, judge
from muster.core.verdict.inputs import VerdictInputs, gather_inputs
from muster.formats.notes import read_notes

from ..adversary.laying import laid
from ..adversary.traps import TRAPS
from .test_notes_files import HERE, NOW

LONGEST_S, MOST_START_X, UPPER_X = 120.0, 8.0, 1.26
"""The demand is judged at its upper figures, a quarter above what is planned."""


def judged(name: str) -> list[tuple[VerdictInputs, Verdict]]:
    job = read_notes((HERE / name).read_text(encoding="utf-8"), NOW).job
    home = Home(job.brief, job.loads)
    result = []
    for record in job.sources:
        seen = [session_findings(home, record.source, kept.session) for kept in record.sessions]
        dates = [kept.started_at for kept in record.sessions]
        given = given_of(record.source, home.brief.system, home.brief.site, seen, dates)
        inputs = gather_inputs(home, given, Tier.COULD, draws_of(40))
        result.append((inputs, judge(inputs)))
    return result


def said(verdict: Verdict) -> list[str]:
    return [
        text.replace("\u202f", " ")
        for row in verdict.requirements
        for text in (row.demand, row.capability, str(row.margin or ""), row.sentence)
    ] + [verdict.headline, verdict.detail]


@pytest.mark.parametrize("trap", ["tripped_at_as_much_another_day", "tripped_at_the_homes_own_load"])
def test_no_level_is_held_above_one_that_it_tripped_at_in_one_breath(trap: str) -> None:
    laid_trap = next(item for item in TRAPS if item.name == trap)
    for seed in range(4):
        for row in judge(laid(laid_trap, seed)).requirements:
            text = row.sentence.replace("\u202f", "")
            held, tripped = re.search(r"Held (\d+)W", text), re.search(r"tripped at (\d+)W", text)
            assert not (held and tripped and float(tripped[1]) < float(held[1])), row.sentence


@pytest.mark.parametrize("name", sorted(path.name for path in HERE.glob("*.txt")))
def test_no_length_is_told_in_seconds_and_no_start_wants_what_no_motor_draws(name: str) -> None:
    for inputs, verdict in judged(name):
        for text in said(verdict):
            for seconds in re.findall(r"(?<![\d.])(\d[\d ]*(?:\.\d+)?) s\b", text):
                assert float(seconds.replace(" ", "")) <= LONGEST_S, text
            assert not re.search(r"\u2212\d[\d .]* (?:L|gal)\b", text), text
        for start in inputs.demand.starts:
            load = inputs.loads[start.load]
            own_va = start.moment_va - start.base_va
            assert own_va <= UPPER_X * max(MOST_START_X * load.run_va, load.start_total_va), load.name
