"""The report: one file that asks for nothing, whose figures a stranger re-does from it alone, and that knows what it speaks of."""

from __future__ import annotations

import random
import re
from dataclasses import replace
from datetime import UTC, datetime
from functools import cache
from pathlib import Path

import pytest

from muster.cli import main
from muster.cli.judge import case_of
from muster.core.brief import Brief
from muster.core.card import CardWords, card_of, write_card
from muster.core.loads import Load, Tier
from muster.core.measures import showing_in
from muster.core.outage.household import HouseholdRule, RuleKind
from muster.core.outage.simulate import draws_of
from muster.core.sessions import Entry, Note, Session
from muster.core.sources import Claims, Source, SourceKind
from muster.core.supply import SYSTEMS
from muster.core.verdict import judge
from muster.formats.data_digest import changed_parts, data_parts, digest_of_data
from muster.formats.jobfile import AmendmentRecord, JobFile, PhotoRecord, SessionRecord, SourceRecord
from muster.formats.jobzip import JobPackage, read_package
from muster.formats.jobzip_out import write_package
from muster.formats.paper_marks import read_marks
from muster.formats.photos import Photo
from muster.web.verdict.card_page import card_file
from muster.web.verdict.papers import PaperFacts, PaperSize
from muster.web.verdict.report import JudgedSource, report_file
from tests.field.judging import demo_case, demo_job

from .by_hand import agrees, redone, says_a_figure
from .reading import Paper

DRAWN = 10
MOST_BYTES = 5_000_000
HOMES = ("net_loft", "signal_cottage", "ferry_house")


def facts_of(package: JobPackage, who: str = "Ishbel") -> PaperFacts:
    at = datetime(2026, 11, 29, 9, tzinfo=UTC)
    return PaperFacts(kind="report", job=package.job.name, at=at, who=who, parts=data_parts(package.job))


@cache
def demo_report(part: str) -> str:
    package = demo_job(part)
    with showing_in(package.job.brief.shown_in):
        cases = [demo_case(part, at) for at in range(len(package.job.sources))]
        judged = [
            JudgedSource(record, case, judge(case)) for record, case in zip(package.job.sources, cases, strict=True)
        ]
        return report_file(package, judged, Tier.MUST, facts_of(package))


@cache
def read(part: str) -> Paper:
    return Paper(demo_report(part))


# Its figures


@pytest.mark.parametrize("seed", range(3))
def test_ten_figures_drawn_by_seed_are_redone_from_the_file_alone(seed: int) -> None:
    figures = [item for item in read(HOMES[seed]).workings if says_a_figure(item)]
    for item in random.Random(seed).sample(figures, DRAWN):
        assert redone(item), item


@pytest.mark.parametrize("part", HOMES)
def test_every_working_that_says_a_figure_comes_to_it_from_what_is_printed(part: str) -> None:
    workings = read(part).workings
    assert sum(map(says_a_figure, workings)) > 0.9 * len(workings)
    assert [item for item in workings if says_a_figure(item) and not redone(item)] == []


def test_a_figure_that_was_printed_wrongly_is_found_out() -> None:
    """Each figure of the three homes put a tenth higher: a check that passes that as well proves nothing."""
    figures = [
        item
        for part in HOMES
        for item in read(part).workings
        if says_a_figure(item) and not INEQUALITY.search(item.put_in)
    ]
    missed = [item for item in figures if redone(replace(item, result=MARKED.sub(_a_tenth_more, item.result, count=1)))]
    assert len(missed) < 0.02 * len(figures), missed[:5]


INEQUALITY = re.compile("[≤>]")
"""A class is told by one: its name is no figure."""
MARKED = re.compile(r"\d(?:[\d\u202f]*\d)?(?:\.\d+)?")


def _a_tenth_more(match: re.Match[str]) -> str:
    digits = match.group().replace("\u202f", "")
    decimals = len(digits.partition(".")[2])
    return f"{float(digits) * 1.1 + 3 * 10.0**-decimals:.{decimals}f}"


def test_the_check_by_hand_can_fail() -> None:
    assert agrees("(6\u202f372 − 3\u202f300) ÷ 3\u202f300", "93.1\u202f%")
    assert agrees("(6\u202f372 − 3\u202f300) ÷ 3\u202f300", "94.1\u202f%") is False
    assert agrees("277 of 2000; as stated 267 of 2000", "12.4\u202f% to 15.4\u202f%")
    assert agrees("277 of 2000; as stated 267 of 2000", "12.4\u202f% to 16.4\u202f%") is False
    assert agrees("1375 s − 620 s", "13\u202fmin")
    assert agrees("1375 s − 620 s", "15\u202fmin") is False


# The file


@pytest.mark.parametrize("part", HOMES)
def test_it_is_one_file_that_asks_for_nothing_and_every_link_leads_somewhere_in_it(part: str) -> None:
    text, paper = demo_report(part), read(part)
    assert len(text.encode()) < MOST_BYTES
    assert all(address.startswith("data:") for address in paper.fetched)
    assert "url(http" not in text
    assert "@import" not in text
    assert [link for link in paper.links if not link.startswith("#")] == []
    assert [link for link in paper.links if link[1:] not in paper.ids] == []
    assert len([link for link in paper.links if link.startswith("#e-")]) > 50, (
        "figures lead to the entries they rest on"
    )


def test_a_line_of_the_verdict_leads_to_its_finding_and_that_to_its_log_and_entry() -> None:
    text = demo_report("net_loft")
    steady = text[text.index("Verdict, line by line") :]
    row = steady[: steady.index("workingrow")]
    assert 'Rests on <a href="#f-1-1-' in row
    assert 'From the <a href="#l-1-1-1">log' in text
    assert 'From the <a href="#c-1-' in text


def test_each_of_three_readers_has_a_part_of_its_own() -> None:
    text = demo_report("ferry_house")
    owner, electrician, engineer, data = (
        text.index(f'id="{name}"') for name in ("owner", "electrician", "engineer", "data")
    )
    assert owner < electrician < engineer < data
    assert "What must change" in text[owner:electrician]
    assert "What it costs" in text[owner:electrician]
    assert "NOT CONFIRMED" in text[electrician:engineer]
    assert "Legs and neutral" in text[electrician:engineer]
    assert 'class="working"' not in text[owner:engineer], "workings are the engineer's"
    assert "no signature" in text[data:]


def test_what_was_superseded_flagged_and_disagrees_is_told() -> None:
    words = read("ferry_house").words + read("signal_cottage").words
    assert "superseded" in words
    assert "Flagged, and left out until confirmed" in words
    assert "Where its sessions disagree" in words
    assert "No calibration date said" in words


# What it speaks of


def test_it_says_of_what_data_it_speaks_and_what_was_changed_since(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    package = demo_job("net_loft")
    file = tmp_path / "report.html"
    file.write_text(demo_report("net_loft"), encoding="utf-8")
    assert digest_of_data(read_marks(file).parts) in read("net_loft").words
    same = tmp_path / "same.muster.zip"
    same.write_bytes(write_package(package))
    assert main(["check-report", str(file), str(same)]) == 0
    assert "speaks of this data" in capsys.readouterr().out
    first, second = package.job.sources
    other = replace(package.job, sources=(first, replace(second, rules=second.rules[:2])))
    moved = tmp_path / "moved.muster.zip"
    moved.write_bytes(write_package(replace(package, job=other)))
    assert main(["check-report", str(file), str(moved)]) == 1
    assert "the inverter on the bank: rules of the household was changed" in capsys.readouterr().out
    file.write_text("<html>nothing</html>", encoding="utf-8")
    assert main(["check-report", str(file), str(same)]) == 2


def test_every_change_that_a_verdict_hangs_on_changes_the_digest_and_what_is_only_shown_does_not() -> None:
    job = read_package(write_package(demo_job("net_loft"))).job
    parts, source = data_parts(job), job.sources[0]
    kept = source.sessions[0]
    entry = replace(kept.session.entries[2], raw="another line")
    entries = (*kept.session.entries[:2], entry, *kept.session.entries[3:])
    changed = {
        "the brief": replace(job, brief=replace(job.brief, outage_h=12)),
        "the loads": replace(job, loads=job.loads[:-1]),
        "the two-engine set: nameplate and wiring": replace(
            job, sources=(replace(source, source=replace(source.source, note="x")), *job.sources[1:])
        ),
        "the two-engine set: safety checks": replace(
            job, sources=(replace(source, safety_checks=()), *job.sources[1:])
        ),
        "the two-engine set: Ladder of 2026-10-26 09:20": replace(
            job,
            sources=(
                replace(
                    source,
                    sessions=(replace(kept, session=replace(kept.session, entries=entries)), *source.sessions[1:]),
                ),
                *job.sources[1:],
            ),
        ),
    }
    for name, other in changed.items():
        assert changed_parts(parts, data_parts(other)) == (f"{name} was changed",)
    gone = replace(job, sources=(replace(source, sessions=source.sessions[1:]), *job.sources[1:]))
    assert changed_parts(parts, data_parts(gone)) == ("the two-engine set: Ladder of 2026-10-26 09:20 is gone",)
    shown = replace(job, brief=replace(job.brief, measures=replace(job.brief.measures, length="ft")))
    assert changed_parts(parts, data_parts(shown)) == ()


# Hard cases


def made(job: JobFile, **more: object) -> Paper:
    package = JobPackage(job, **more)  # type: ignore[arg-type]

    judged = []
    for record in job.sources:
        case = case_of(package, record, Tier.MUST, draws_of(20))
        judged.append(JudgedSource(record, case, judge(case)))
    return Paper(report_file(package, judged, Tier.MUST, facts_of(package, "</style><script>alert(1)</script>")))


EVIL = '"</style><script>alert(1)</script> \\ {x} ' + "long name " * 12
BRIEF = Brief(system=SYSTEMS["single-230-50"], outage_h=4)


def test_forty_loads_long_names_no_rules_and_nothing_measured_are_borne() -> None:
    loads = tuple(Load(key=f"k{n}", name=f"{EVIL} {n}", kind="heater", run_w=40, pf=1.0) for n in range(40))
    source = SourceRecord(Source("the untried set", SourceKind.OPEN_FRAME, Claims(cont_w=3000)))
    paper = made(JobFile(EVIL, BRIEF, loads, (source,)))
    assert "script" in paper.tags
    assert paper.tags.count("script") == 1, "that of its own marks alone: no name breaks out of its place"
    assert "Nothing was measured of it yet." in paper.words
    assert "No rule of the household was accepted for it." in paper.words
    assert "Not proven" in paper.words
    assert paper.words.count("long name long name") >= 40


def test_a_photo_and_an_amendment_stand_in_the_file() -> None:
    jpeg = bytes.fromhex("ffd8ffe000104a46494600010100000100010000ffd9")
    entries = (Entry(1, 0.0, (Note("the socket is scorched"),), "the socket is scorched", who="Ishbel"),)
    photo = Photo(jpeg, 8, 8)
    kept = SessionRecord(
        Session("ladder", (), entries),
        "2026-11-01T09:00:00+00:00",
        amendments=(AmendmentRecord("2026-11-02T09:00:00+00:00", "the hour was misread", "Ishbel"),),
        photos=(PhotoRecord(1, "photos/1.jpg", photo.sha256, "scorched <b>socket</b>"),),
    )
    source = SourceRecord(Source("the set", SourceKind.OPEN_FRAME, Claims(cont_w=3000)), sessions=(kept,))
    load = Load(key="1", name="heater", kind="heater", run_w=500, pf=1.0)
    paper = made(JobFile("x", BRIEF, (load,), (source,)), photos={"photos/1.jpg": photo})
    assert any(address.startswith("data:image/jpeg;base64,/9j/") for address in paper.fetched)
    assert "#e-1-1-1" in paper.links
    assert "scorched <b>socket</b>" in paper.words
    assert "2026-11-02T09:00 by Ishbel: the hour was misread" in paper.words.replace(" , ", ", ")


def test_a_job_without_a_source_is_still_reported() -> None:
    assert "Limits of the method" in made(JobFile("x", BRIEF, (), ())).words


def test_rules_stand_with_what_to_mind() -> None:
    words = read("net_loft").words
    assert "Charge the battery at 1 445 W by a generator from 10:00 to 16:00" in words
    assert HouseholdRule(kind=RuleKind.CHARGE, w=1.0, from_hour=1, to_hour=2).kind.caution in words


# The card's own links


def test_every_claim_of_the_card_leads_to_what_it_rests_on_inside_the_file_and_that_to_lines_as_they_were_written() -> (
    None
):
    package = demo_job("ferry_house")
    with showing_in(package.job.brief.shown_in):
        case = demo_case("ferry_house", 0)
        verdict = judge(case)
        written = card_of(package.job.name, case, verdict)
        facts = replace(facts_of(package), kind="card")
        text = card_file(written, CardWords(beside="es"), facts, verdict.status, PaperSize.A5)
    paper = Paper(text)
    assert len(paper.links) > 30
    assert [link for link in paper.links if link[1:] not in paper.ids] == []
    raws = {entry.raw for kept in package.job.sources[0].sessions for entry in kept.session.entries}
    quoted = [quote.text for line in write_card(written, CardWords()).told for quote in line.quotes if quote.seq]
    assert quoted
    assert set(quoted) <= raws, "a line is quoted as it stands in the record"
    state, pump = (text[text.index(f'id="r-en-{place}"') :].split("<dt", 1)[0] for place in ("state", "fails-7-1"))
    assert "Steady, leg 2: Ladder of" in state, "what the card says of the source leads to every line of the verdict"
    assert "!stall" in pump, "a load in the start order leads to how it was seen to start"
