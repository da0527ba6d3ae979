"""What a job file, a log or a capture shows, read out without a browser: findings, and the character of each source."""

from __future__ import annotations

import argparse
import json
import sys
from dataclasses import replace
from datetime import UTC, datetime
from pathlib import Path
from typing import TYPE_CHECKING, Any

from ..core.errors import MusterError
from ..core.measures import show_in
from .commands import DONE, Commands, takes_job_file, takes_json

if TYPE_CHECKING:
    from ..core.brief import Home
    from ..core.character import Character, Given
    from ..core.findings import SessionFindings
    from ..core.shelf.measured import Elsewhere
    from ..core.supply import System
    from ..formats.jobfile import SessionRecord, SourceRecord
    from ..formats.jobzip import JobPackage
    from ..formats.reports import JobFindings, LogFindings

LOGS, CAPTURES, NOTES = (".csv", ".tsv", ".txt"), (".cff", ".cfg"), (".txt", ".md")


def add_commands(commands: Commands) -> None:
    """Add ``findings`` and ``character``."""
    listed = commands.add(
        "findings",
        "read out every finding of a job file, a recorded log or a waveform capture, with its working",
        findings,
        FINDINGS_EXAMPLES,
    )
    listed.add_argument(
        "--nominal",
        default="230/50",
        metavar="V/HZ",
        help="supply of a log: 230/50, 120/60, 120/240/60; default 230/50",
    )
    listed.add_argument(
        "file", type=Path, metavar="FILE", help="a job file, the .csv log of a meter, or a .cff or .cfg capture"
    )
    measured = commands.add(
        "character",
        "what each source of a job file was measured to be, and what that predicts",
        character,
        CHARACTER_EXAMPLES,
    )
    takes_job_file(measured)
    for command in (listed, measured):
        takes_json(command)


FINDINGS_EXAMPLES = """\
  muster findings ferry.muster.zip                 session by session, each with its arithmetic
  muster findings log.csv --nominal 120/240/60     a meter's log alone: dips, energy, duty, conversion
  muster findings start.cff --nominal 230/50       a scope's capture alone: dips, distortion, kind of wave
  muster findings ferry.muster.zip --json

A log's columns are taken from their headings (time, l1_v, power [kW], Freq. …); where they say too little,
import it on the bench and say which is what."""
CHARACTER_EXAMPLES = """\
  muster character ferry.muster.zip                each parameter with its band, grade, and what it rests on
  muster character ferry.muster.zip --json > ferry.character.json

Several sessions are weighed together; where they disagree, that is said. Then what is predicted for every load."""


def read_file(path: Path) -> JobPackage:
    """The job of a file: a job file, or notes, whose questions are told beside.

    Raises
    ------
    MusterError
        If it cannot be read.
    """
    if path.suffix.lower() in NOTES:
        return _read_notes(path)
    from ..formats.jobzip import read_package_file

    return read_package_file(path)


def _read_notes(path: Path) -> JobPackage:
    from datetime import datetime

    from ..formats.jobzip import JobPackage
    from ..formats.notes import read_notes, with_questions

    try:
        text = path.read_text(encoding="utf-8-sig")
    except (OSError, UnicodeDecodeError) as error:
        reason = error.strerror if isinstance(error, OSError) and error.strerror else "is no plain UTF-8 text"
        raise MusterError(str(reason).lower(), where=str(path), want="a notes file, .txt or .md") from None
    notes = read_notes(text, datetime.now().astimezone())
    for line in notes.asked:
        print(f"line {line.number}: {line.text}: {line.asked}" if line.number else line.asked, file=sys.stderr)
    return JobPackage(with_questions(notes))


def print_json(data: Any) -> None:
    """Write plain values as JSON, for a reader and for a program."""
    print(json.dumps(data, indent=1, ensure_ascii=False))


def found_in(package: JobPackage, home: Home, record: SourceRecord, kept: SessionRecord) -> SessionFindings:
    """Every finding of one session of a job file, with what its logs and captures show."""
    from ..core.findings.collect import session_findings
    from ..core.timeline.captures import read_capture
    from ..core.timeline.traces.features import extract_features

    system = home.brief.system
    kit = kept.session.kit_on(record.source.claims.wave)
    logs = tuple(extract_features(package.traces[trace.file], kit, system) for trace in kept.traces)
    captures = tuple(read_capture(package.captures[capture.file], system) for capture in kept.captures)
    return session_findings(home, record.source, kept.session, logs, captures)


def given_in(package: JobPackage, home: Home, record: SourceRecord) -> tuple[Given, Elsewhere | None]:
    """A source of a job file with what each of its sessions found, those of another job among them, and what must be said of these."""
    from ..core.character import dated_elsewhere, given_of
    from ..core.shelf.measured import elsewhere_of, findings_elsewhere

    seen = [found_in(package, home, record, kept) for kept in record.sessions]
    dates = [kept.started_at for kept in record.sessions]
    given = given_of(record.source, home.brief.system, home.brief.site, seen, dates)
    if record.elsewhere is None:
        return given, None
    taken = dated_elsewhere(findings_elsewhere(record.elsewhere.measured, home.brief.neighbour_m))
    sessions = sorted([*taken, *given.sessions], key=lambda dated: dated.at)
    return replace(given, sessions=sessions), elsewhere_of(record.elsewhere, datetime.now(UTC))


def findings(args: argparse.Namespace) -> int:
    """Read out what a file shows, with its working."""
    result_found = _of(args)
    if args.json:
        print_json(result_found.report())
        return DONE
    for heading, told in result_found.parts():
        print(heading)
        for finding in told:
            print(f"  {finding.value.grade}  {finding.sentence}")
            for line in finding.workings:
                print(f"       {line.formula}: {line.put_in} = {line.result}")
    return DONE


def _of(args: argparse.Namespace) -> JobFindings | LogFindings:
    suffix = args.file.suffix.lower()
    if suffix in CAPTURES:
        return _capture_findings(args.file, args.nominal)
    if suffix in LOGS and not (suffix in NOTES and _are_notes(args.file)):
        return _log_findings(args.file, args.nominal)
    return _job_findings(args.file)


def _are_notes(path: Path) -> bool:
    """Whether a text file is somebody's notes, and no table of a meter's."""
    from ..formats.notes import are_notes

    try:
        with path.open(encoding="utf-8-sig", errors="replace") as file:
            return are_notes(file.read(20_000))
    except OSError:
        return False


def _system(nominal: str) -> System:
    """The supply said as volts and hertz: 230/50, or 120/240/60 for a split phase."""
    from ..core.supply import System

    try:
        *volts, hz = (float(part) for part in nominal.split("/"))
        if len(volts) == 2 and volts[1] == 2 * volts[0]:
            return System(volts[0], hz, 2)
        (single,) = volts
    except ValueError:
        raise MusterError(f"got {nominal}", where="--nominal", want="230/50, 120/60 or 120/240/60") from None
    return System(single, hz)


def _alone(system: System, **read: Any) -> SessionFindings:
    """The findings of a log or a capture of nobody's source in nobody's home."""
    from ..core.findings import findings_of
    from ..core.sessions import Session

    return findings_of(Session(protocol="endurance"), {}, system, 20.0, **read)


def _log_findings(path: Path, nominal: str) -> LogFindings:
    from ..core.sessions import Session
    from ..core.timeline.traces.features import extract_features
    from ..formats.logs.bare import read_bare_log
    from ..formats.reports import LogFindings

    system = _system(nominal)
    trace, notes = read_bare_log(path, system)
    log_findings = _alone(system, logs=(extract_features(trace, Session(protocol="endurance").kit_on(), system),))
    return LogFindings(trace.name, trace.t_s.size, notes.told, log_findings.findings)


def _capture_findings(path: Path, nominal: str) -> LogFindings:
    from ..core.timeline.captures import read_capture
    from ..formats.captures import read_capture_files
    from ..formats.reports import LogFindings

    beside = path.with_suffix(".dat")
    try:
        files = {item.name: item.read_bytes() for item in (path, beside) if item == path or item.is_file()}
    except OSError as wrong:
        raise MusterError(f"{path}: {wrong.strerror}", where="FILE", want="a capture that can be read") from None
    read = read_capture_files(files)
    system = _system(nominal)
    capture = read.capture(0.0, "scope")
    notes = (f"left out: {', '.join(read.left_out)}",) if read.left_out else ()
    return LogFindings(
        read.name, capture.values.shape[1], notes, _alone(system, captures=(read_capture(capture, system),)).findings
    )


def _job_findings(path: Path) -> JobFindings:
    from ..core.brief import Home
    from ..core.findings.across import SourceSeen, across_sources
    from ..formats.reports import JobFindings, SessionFound

    package = read_file(path)
    show_in(package.job.brief.shown_in)
    home = Home(package.job.brief, package.job.loads)
    session_founds, seen = [], []
    for record in package.job.sources:
        founds = tuple(found_in(package, home, record, kept) for kept in record.sessions)
        seen.append(SourceSeen(record.source.name, record.source.claims.wave, founds))
        session_founds += [
            SessionFound(record.source.name, kept, told.findings)
            for kept, told in zip(record.sessions, founds, strict=True)
        ]
    return JobFindings(package.job.name, tuple(session_founds), across_sources(seen))


def character(args: argparse.Namespace) -> int:
    """Read out the character of each source of a job file, and what it predicts for the loads."""
    from ..core.brief import Home
    from ..core.character import predictions
    from ..formats.reports import character_report

    package = read_file(args.file)
    show_in(package.job.brief.shown_in)
    home = Home(package.job.brief, package.job.loads)
    told = []
    for record in package.job.sources:
        made = character_in(package, home, record)
        told.append((made, predictions(made, home.loads, home.brief.system)))
    if args.json:
        print_json(
            {"job": package.job.name, "sources": [character_report(made, predicted) for made, predicted in told]}
        )
        return DONE
    print(package.job.name)
    for made, predicted in told:
        print(f"\n{made.source}")
        for parameter in made.parameters:
            print(
                f"  {parameter.value.grade}  {parameter.name}: {parameter.value}  ({parameter.rests_on}){'; ' + parameter.apart if parameter.apart else ''}"
            )
        if made.hold is not None:
            print(f"     {made.hold.sentence}")
        for parameter in predicted:
            print(f"     {parameter.load.name}: {parameter.sentence}")
    return DONE


def character_in(package: JobPackage, home: Home, record: SourceRecord) -> Character:
    """The character of one source of a job file, by all its sessions."""
    from ..core.character import Dated, character_of
    from ..core.sessions import PROTOCOLS

    sessions = [
        Dated(found_in(package, home, record, kept), PROTOCOLS[kept.session.protocol].name, kept.started_at)
        for kept in record.sessions
    ]
    return character_of(record.source, home.brief.system, home.brief.site, sessions)
