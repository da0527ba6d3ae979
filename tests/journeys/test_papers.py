"""Card and report in the browser: printed as pages, read on a phone, before axe-core; long names and forty loads too."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import replace
from datetime import UTC, datetime
from functools import cache
from pathlib import Path

import pytest
from playwright.sync_api import Browser, Page, expect

from muster.core.brief import Home
from muster.core.card import LANGUAGES, CardWords, card_of
from muster.core.loads import Load
from muster.core.measures import showing_in
from muster.core.supply import Leg
from muster.core.verdict import judge
from muster.core.verdict.requirement import Status
from muster.formats.data_digest import data_parts
from muster.records.models import Job
from muster.web.verdict.card_page import card_file
from muster.web.verdict.papers import PaperFacts, PaperSize
from tests.field.judging import demo_case, demo_job
from tests.papers.test_report import demo_report

from .test_accessibility import complaints

pytestmark = [pytest.mark.browser]
CARDS = (("net_loft", 1), ("signal_cottage", 2), ("ferry_house", 0))
LEAST_PT = 8.0
"""Letters of a card that is read by a torch are no smaller."""


def facts(part: str) -> PaperFacts:
    job = demo_job(part).job
    at = datetime(2026, 11, 29, 9, tzinfo=UTC)
    return PaperFacts(kind="card", job=job.name, at=at, who="Ishbel", parts=data_parts(job))


@cache
def demo_card(part: str, source: int, paper: PaperSize, language: str) -> str:
    job = demo_job(part).job
    with showing_in(job.brief.shown_in):
        case = demo_case(part, source)
        verdict = judge(case)
        words = CardWords(language=language)
        return card_file(card_of(job.name, case, verdict), words, facts(part), verdict.status, paper)


@pytest.fixture
def reader(browser: Browser) -> Iterator[Page]:
    """A browser with a file from the disk, and nothing else."""
    context = browser.new_context(viewport={"width": 1280, "height": 800})
    yield context.new_page()
    context.close()


def opened(page: Page, text: str, folder: Path) -> Page:
    """A file opened as anybody would open it: from the disk, without a server."""
    file = folder / "paper.html"
    file.write_text(text, encoding="utf-8")
    page.goto(file.as_uri())
    return page


def pages_of(page: Page) -> int:
    pdf = page.pdf(prefer_css_page_size=True, print_background=True)
    return len(re.findall(rb"/Type\s*/Page\b", pdf))


def letters_pt(text: str) -> float:
    found = re.search(r"--letters: ([\d.]+)pt", text)
    assert found is not None
    return float(found[1])


@pytest.mark.parametrize("language", LANGUAGES)
@pytest.mark.parametrize("paper", [PaperSize.A5, PaperSize.HALF_LETTER])
@pytest.mark.parametrize(("part", "source"), CARDS)
def test_every_demo_card_is_one_page_in_letters_that_are_read_by_a_torch(
    reader: Page, tmp_path: Path, part: str, source: int, paper: PaperSize, language: str
) -> None:
    text = demo_card(part, source, paper, language)
    assert letters_pt(text) >= LEAST_PT
    assert pages_of(opened(reader, text, tmp_path)) == 1


def test_a_card_of_forty_long_names_goes_on_overleaf_and_loses_nothing(reader: Page, tmp_path: Path) -> None:
    case = demo_case("net_loft", 0)
    name = "the light over the long stair by the north door, number"
    loads = tuple(
        Load(key=f"k{n}", name=f"{name.replace(',', '')} {n}", kind="electronic", run_w=20, pf=0.9, leg=Leg.ONE)
        for n in range(40)
    )
    many = replace(case, home=Home(case.home.brief, loads), played=None)
    verdict = replace(judge(case), status=Status.NOT_PROVEN)
    card = card_of("A home", many, verdict)
    text = card_file(card, CardWords(), facts("net_loft"), verdict.status, PaperSize.A5)
    page = opened(reader, text, tmp_path)
    assert 1 < pages_of(page) <= 3
    assert page.locator(".housecard li li").count() == 40
    expect(page.locator(".state.warns")).to_contain_text("NOT PROVEN")


def test_a_card_and_a_report_have_nothing_serious_before_axe_and_fit_a_phone(reader: Page, tmp_path: Path) -> None:
    for text in (demo_card("net_loft", 1, PaperSize.A5, "en"), demo_report("net_loft")):
        # axe-core is a script, and a paper runs none: its policy is taken out for the look.
        page = opened(reader, re.sub(r'<meta http-equiv="Content-Security-Policy"[^>]*>', "", text), tmp_path)
        page.set_viewport_size({"width": 390, "height": 844})
        assert page.evaluate("document.documentElement.scrollWidth") <= 390
        assert complaints(page) == []


@pytest.mark.parametrize(("part", "readers"), [("net_loft", ("owner", "electrician"))])
def test_one_readers_part_prints_alone_and_the_whole_has_running_heads(
    reader: Page, tmp_path: Path, part: str, readers: tuple[str, ...]
) -> None:
    page = opened(reader, demo_report(part), tmp_path)
    whole = pages_of(page)
    for whom in readers:
        page.goto(f"{page.url.partition('#')[0]}#{whom}")
        page.emulate_media(media="print")
        expect(page.locator(f"#{whom}")).to_be_visible()
        expect(page.locator("#engineer")).to_be_hidden()
        assert pages_of(page) < whole / 4
    assert "@top-left" in demo_report(part)


def test_from_the_verdict_to_a_card_worded_printed_and_older_than_its_job(cut_off: Page, demo: Job) -> None:
    desk = cut_off  # a refused form is told in the console of the browser
    desk.goto(f"/jobs/{demo.pk}/verdict/")
    desk.get_by_role("link", name="The household’s card").click()
    expect(desk.get_by_role("heading", name="When the power fails")).to_be_visible()
    desk.get_by_label("Who to call, 1").fill("Ishbel at the harbour, 555 0101")
    desk.get_by_text("Say a line otherwise").click()
    stop = desk.locator("[name='own:watch.watts']")
    stop.fill("Too much on it: switch the last thing off.")
    desk.get_by_role("button", name="Keep these words").click()
    expect(desk.locator("#wrong-watch\\.watts")).to_contain_text("{w}")
    stop = desk.locator("[name='own:watch.watts']")
    stop.fill("More than {w} on its display: switch the last thing off.")
    desk.get_by_role("button", name="Keep these words").click()
    expect(desk.locator(".housecard")).to_contain_text("4\u202f900\u202fW on its display: switch the last thing off.")
    expect(desk.locator(".housecard")).to_contain_text("Ishbel at the harbour")
    with desk.expect_popup() as opened_card:
        desk.get_by_role("button", name="Open to print").click()
    printed = opened_card.value
    expect(printed.locator(".housecard")).to_contain_text("Ishbel at the harbour")
    assert pages_of(printed) == 1
    printed.close()
    desk.reload()
    expect(desk.get_by_text("nothing of it has changed since")).to_be_visible()
    desk.goto(f"/jobs/{demo.pk}/brief/")
    desk.get_by_label("Outage", exact=False).first.fill("20")
    desk.get_by_role("button", name="Save").first.click()
    desk.goto(f"/jobs/{demo.pk}/verdict/card/")
    expect(desk.get_by_text("is older than the job: the brief was changed")).to_be_visible()
