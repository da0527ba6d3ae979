"""The papers that leave the house: the report, the household's card, and whether one still speaks of a job."""

from __future__ import annotations

import argparse
from datetime import UTC, datetime
from pathlib import Path
from typing import TYPE_CHECKING

from ..core.errors import MusterError
from ..core.measures import showing_in
from . import database, jobs, judge, read_out
from .commands import DONE, Commands, takes_folder

if TYPE_CHECKING:
    from ..formats.jobzip import JobPackage
    from ..web.verdict.papers import PaperFacts

PAPERS = ("a4", "letter", "a5", "half_letter")
OUT_OF_DATE = 1
"""Exit code of ``check-report`` where the job has moved on."""


def add_commands(commands: Commands) -> None:
    """Add ``report``, ``card`` and ``check-report``."""
    report = commands.add("report", "write the report of a job as one file", _report, REPORT_EXAMPLES)
    card = commands.add("card", "write the household's card of a source as one file", _card, CARD_EXAMPLES)
    for command, paper in ((report, "a4"), (card, "a5")):
        command.add_argument("job", metavar="JOB", help="a job file, or one of your jobs by its name or number")
        command.add_argument(
            "--out", type=Path, default=Path("-"), metavar="FILE", help="where to; default: standard output"
        )
        command.add_argument("--paper", choices=PAPERS, default=paper, help=f"what it is printed on; default: {paper}")
        command.add_argument("--who", default="", help="who made it")
    report.add_argument(
        "--source", action="append", default=[], metavar="NAME", help="that source alone; may be repeated"
    )
    report.add_argument("--scope", choices=("must", "should", "could"), default="must", help="loads down to this tier")
    card.add_argument("--source", default="", metavar="NAME", help="of which source; default: the only one")
    card.add_argument("--language", default="", help="en or es; default: as the job has it")
    check = commands.add("check-report", "say whether a report or a card still speaks of a job", _check, CHECK_EXAMPLES)
    check.add_argument("file", type=Path, metavar="FILE", help="a report or a card as Muster wrote it")
    check.add_argument("job", metavar="JOB", help="a job file, or one of your jobs by its name or number")
    for command in (report, card, check):
        takes_folder(command)


REPORT_EXAMPLES = """\
  muster report "The Ferry House" --out ferry.html         every source, in one file with all it rests on
  muster report ferry.muster.zip --source "the hybrid inverter" --paper letter --out hybrid.html

Open it at #owner, #electrician or #engineer to print that part alone."""
CARD_EXAMPLES = """\
  muster card "Signal Cottage" --source "the battery station" --out card.html
  muster card loft.muster.zip --source "the inverter on the bank" --language es --paper half_letter --out card.html"""
CHECK_EXAMPLES = """\
  muster check-report ferry.html "The Ferry House"   exit code 0: it does; 1: it does not, and what was changed"""


def _package(name: str) -> JobPackage:
    """A job by its file, or out of the database."""
    path = Path(name)
    if path.is_file():
        _settings()
        return read_out.read_file(path)
    database.prepare()
    from ..records.actions.jobs import write_out

    return write_out(jobs.job_named(name))


def _settings() -> None:
    """What the templates need, without a database."""
    import os

    import django

    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "muster.web.settings")
    django.setup()


def _facts(kind: str, package: JobPackage, who: str, source: str = "") -> PaperFacts:
    from ..formats.data_digest import data_parts
    from ..web.verdict.papers import PaperFacts

    parts = data_parts(package.job, source)
    return PaperFacts(kind=kind, job=package.job.name, at=datetime.now(UTC), who=who, parts=parts, source=source)


def _report(args: argparse.Namespace) -> int:
    package = _package(args.job)
    from ..core.loads import Tier
    from ..web.verdict.papers import PaperSize
    from ..web.verdict.report import JudgedSource, report_file

    with showing_in(package.job.brief.shown_in):
        sources = [JudgedSource(*judged) for judged in judge.judged_sources(package, args.scope, args.source)]
        facts = _facts("report", package, args.who)
        text = report_file(package, sources, Tier(args.scope), facts, PaperSize(args.paper))
    jobs.write_file(args.out, text.encode())
    return DONE


def _card(args: argparse.Namespace) -> int:
    package = _package(args.job)
    from dataclasses import replace

    from ..core.card import card_of, language_named
    from ..web.verdict.card_page import card_file
    from ..web.verdict.papers import PaperSize

    names = [record.source.name for record in package.job.sources]
    name = args.source or (names[0] if len(names) == 1 else "")
    if not name:
        raise MusterError("which source is not said", where="--source", want=", ".join(names) or "a job with a source")
    with showing_in(package.job.brief.shown_in):
        ((record, case, verdict),) = judge.judged_sources(package, "must", [name])
        words = record.card
        if args.language:
            words = replace(words, language=language_named(args.language).code)
        facts = _facts("card", package, args.who, name)
        text = card_file(card_of(package.job.name, case, verdict), words, facts, verdict.status, PaperSize(args.paper))
    jobs.write_file(args.out, text.encode())
    return DONE


def _check(args: argparse.Namespace) -> int:
    from ..formats.data_digest import changed_parts, data_parts
    from ..formats.paper_marks import read_marks

    marks = read_marks(args.file)
    job = _package(args.job).job
    changed = changed_parts(marks.parts, data_parts(job, marks.source))
    made = f"The {marks.kind} of {marks.job}, made {marks.at[:16].replace('T', ' ')} UTC"
    if marks.job != job.name:
        changed = (f"it is of {marks.job}, and this job is {job.name}", *changed)
    if not changed:
        print(f"{made}, speaks of this data.")
        return DONE
    print(f"{made}, does not speak of this data any more:")
    for line in changed:
        print(f"  {line}")
    return OUT_OF_DATE
