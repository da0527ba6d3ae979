"""Write the example card and report of the docs again: ``python -m tools.papers``."""

from __future__ import annotations

from datetime import UTC, datetime
from pathlib import Path

import django

from muster.cli.judge import judged_sources
from muster.core.card import CardWords, card_of
from muster.core.loads import Tier
from muster.core.measures import showing_in
from muster.demo import files, package
from muster.formats.data_digest import data_parts

DOCS = Path(__file__).parents[1] / "docs" / "examples"
HOME, SOURCE = "net_loft", "the inverter on the bank"
MADE = datetime(2026, 11, 29, 9, tzinfo=UTC)


def main() -> None:
    """Write both."""
    django.setup()
    from muster.web.verdict.card_page import card_file
    from muster.web.verdict.papers import PaperFacts, PaperSize
    from muster.web.verdict.report import JudgedSource, report_file

    job = package(next(path for path in files() if HOME in str(path)))
    DOCS.mkdir(exist_ok=True)
    with showing_in(job.job.brief.shown_in):
        judged = judged_sources(job, "must", [SOURCE])
        ((_, case, verdict),) = judged
        about = {"job": job.job.name, "at": MADE, "who": "Ishbel"}
        report = PaperFacts(kind="report", parts=data_parts(job.job), **about)
        card = PaperFacts(kind="card", parts=data_parts(job.job, SOURCE), source=SOURCE, **about)
        words = CardWords(calls=("Ishbel at the harbour, 555 0101",), beside="es")
        papers = {
            "report.html": report_file(job, [JudgedSource(*item) for item in judged], Tier.MUST, report),
            "card.html": card_file(card_of(job.job.name, case, verdict), words, card, verdict.status, PaperSize.A5),
        }
    for name, text in papers.items():
        (DOCS / name).write_text(text, encoding="utf-8")
        print(DOCS / name, len(text.encode()))


if __name__ == "__main__":
    main()
