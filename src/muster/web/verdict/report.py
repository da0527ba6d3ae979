"""The report: one file that answers the owner, shows the electrician the connection, and lets the engineer re-do every figure."""

from __future__ import annotations

import base64
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from zoneinfo import ZoneInfo

import numpy as np
from django.template.loader import render_to_string
from django.utils.safestring import SafeString, mark_safe
from django.utils.text import slugify

from muster.core.brief import Brief
from muster.core.character import Parameter
from muster.core.findings import Finding, SessionFindings
from muster.core.findings.finding import Topic
from muster.core.findings.lines import LoadLine
from muster.core.kit import USUAL_KIT, Instrument
from muster.core.loads import Tier
from muster.core.loads.kinds import MOTOR_HZ_PCT, MOTOR_V_PCT
from muster.core.quantities import THIN, duration, plain
from muster.core.safety.checks import KNOWN, connection_checks
from muster.core.safety.sequence import switching
from muster.core.sessions import PROTOCOLS, Event, EventName
from muster.core.sessions.writing_up import NOT_CONFIRMED
from muster.core.trade.schools import QUESTIONS, answer
from muster.core.verdict import Requirement, Verdict
from muster.core.verdict.inputs import VerdictInputs
from muster.core.working import Working
from muster.formats.jobfile import SessionRecord, SourceRecord
from muster.formats.jobzip import JobPackage
from muster.web.figures.hold import draw_hold
from muster.web.figures.line import LineFigure, draw_line
from muster.web.figures.played_ribbon import PlayedRibbon, draw_played, lead_words
from muster.web.figures.record_plot import RecordPlot, draw_record
from muster.web.figures.tally import TallyRow, draw_tally

from .papers import POLICY, PaperFacts, PaperSize, styles_inside

ELECTRICAL_ROWS = ("legs", "steady", "connection", "transfer", "voltage", "frequency")
"""Lines of a verdict that an electrician looks at first."""


@dataclass(frozen=True)
class JudgedSource:
    """A source as its job file holds it, what it was judged on, and the verdict."""

    record: SourceRecord
    case: VerdictInputs
    verdict: Verdict


@dataclass(frozen=True)
class PlaceInReport:
    """Where something stands in the file, and how it is called there."""

    anchor: str
    label: str


@dataclass(frozen=True)
class RowShown:
    """A line of the verdict with its bar, its workings as they are numbered here, and what it rests on."""

    tally: TallyRow
    workings: tuple[NumberedWorking, ...]
    rests_on: tuple[PlaceInReport, ...]


@dataclass(frozen=True)
class NumberedWorking:
    """A working with its number in this report."""

    number: int
    working: Working


@dataclass(frozen=True)
class FindingShown:
    """A finding with its workings, and the entries it rests on."""

    finding: Finding
    anchor: str
    workings: tuple[NumberedWorking, ...]
    entries: tuple[PlaceInReport, ...]
    recorded: PlaceInReport | None
    """The log or the capture that it was read from."""


@dataclass(frozen=True)
class EntryShown:
    """A line of the record as it was written."""

    anchor: str
    seq: int
    at: str
    raw: str
    who: str
    state: str


@dataclass(frozen=True)
class PlotShown:
    """A log or a capture drawn."""

    anchor: str
    name: str
    about: str
    plot: RecordPlot


@dataclass(frozen=True)
class PhotoShown:
    """A photo, inside the file."""

    anchor: str
    caption: str
    entry: PlaceInReport
    data: SafeString


@dataclass(frozen=True)
class SessionShown:
    """A session: when, by whom, with what, under what; its findings, its record, its logs, captures and photos."""

    anchor: str
    name: str
    at: datetime
    record: SessionRecord
    who: tuple[str, ...]
    kit: PlaceInReport
    not_confirmed: tuple[str, ...]
    topics: tuple[tuple[str, tuple[FindingShown, ...]], ...]
    entries: tuple[EntryShown, ...]
    lines: tuple[LineFigure, ...]
    logs: tuple[PlotShown, ...]
    captures: tuple[PlotShown, ...]
    photos: tuple[PhotoShown, ...]


@dataclass(frozen=True)
class KitShown:
    """The instruments of one or more sessions."""

    place: PlaceInReport
    instruments: tuple[Instrument, ...]


@dataclass(frozen=True)
class ParameterShown:
    """A parameter of the character with where each estimate was read."""

    parameter: Parameter
    claim: Parameter | None
    read_at: tuple[PlaceInReport, ...]


@dataclass(frozen=True)
class RuleShown:
    """A rule of the household as it is read, and what to mind."""

    text: str
    caution: str


@dataclass(frozen=True)
class CheckShown:
    """A safety check of the connection, and who confirmed it when; empty where nobody did."""

    title: str
    what: str
    by: str
    note: str


@dataclass(frozen=True)
class SourceShown:
    """Everything that the report says of one source."""

    anchor: str
    judged: JudgedSource
    brief_rows: tuple[TallyRow, ...]
    electrical_rows: tuple[TallyRow, ...]
    rows: tuple[RowShown, ...]
    starts: tuple[RowShown, ...]
    rules: tuple[RuleShown, ...]
    checks: tuple[CheckShown, ...]
    over: tuple[str, ...]
    back: tuple[str, ...]
    costs: tuple[tuple[str, str], ...]
    in_short: str
    next_test: str
    ribbon: PlayedRibbon | None
    hold: object | None
    parameters: tuple[ParameterShown, ...]
    disagreements: tuple[tuple[str, str], ...]
    kits: tuple[KitShown, ...]
    sessions: tuple[SessionShown, ...]


@dataclass
class Numbering:
    """Numbers every working of a report, in the order in which they stand."""

    last: int = 0

    def of(self, workings: Sequence[Working]) -> tuple[NumberedWorking, ...]:
        """The workings with their numbers."""
        numbered = tuple(NumberedWorking(self.last + at, working) for at, working in enumerate(workings, 1))
        self.last += len(numbered)
        return numbered


def report_file(
    package: JobPackage,
    sources: Sequence[JudgedSource],
    scope: Tier,
    facts: PaperFacts,
    paper: PaperSize = PaperSize.A4,
) -> str:
    """The report of a job as one file that asks for nothing.

    Parameters
    ----------
    package
        The job with its logs, captures and photos.
    sources
        Those that it is about, judged.
    scope
        Loads of this tier and above were judged.
    facts
        When it was made, by whom, of what data.
    paper
        What it is printed on.
    """
    brief, numbering = package.job.brief, Numbering()
    shown = tuple(_source(at, judged, package, numbering) for at, judged in enumerate(sources, 1))
    context: Mapping[str, object] = {
        "package": package,
        "brief": brief,
        "sources": shown,
        "scope": scope.value,
        "facts": facts,
        "loads": package.job.loads,
        "schools": _schools(brief),
        "paper": paper,
        "running": _css_text(f"{package.job.name}: backup power report"),
        "running_data": _css_text(f"data {facts.short}"),
        "policy": mark_safe(POLICY),
        "styles": styles_inside(("papers/page.css", "components.css", "outage.css", "papers/report.css")),
        "workings": numbering.last,
        "thin": THIN,
    }
    return render_to_string("verdict/report.html", context)


def _css_text(text: str) -> SafeString:
    """A string inside a style sheet: nothing in it ends the string, the rule or the block."""
    return mark_safe("".join(letter if letter.isalnum() or letter == " " else f"\\{ord(letter):x} " for letter in text))


def _schools(brief: Brief) -> tuple[tuple[str, str], ...]:
    return tuple((question, answer(getattr(brief.schools, name)).label) for name, (question, _) in QUESTIONS.items())


def _source(at: int, judged: JudgedSource, package: JobPackage, numbering: Numbering) -> SourceShown:
    case, verdict = judged.case, judged.verdict
    brief, character = case.home.brief, case.character
    anchors = _anchors(at, judged)
    over, back = switching(brief.wiring, case.source.kind)
    kits, parameters = _kits(at, judged), tuple(_parameters(case, at))
    return SourceShown(
        anchor=f"source-{at}",
        judged=judged,
        brief_rows=draw_tally(verdict.requirements),
        electrical_rows=draw_tally(tuple(row for row in verdict.requirements if _is_electrical(row))),
        rows=_rows(verdict.requirements, anchors, numbering, parameters),
        starts=_rows(verdict.start_rows, anchors, numbering, parameters),
        rules=tuple(_rules(case)),
        checks=tuple(_checks(judged)),
        over=over,
        back=back,
        costs=tuple(_costs(case)),
        in_short=lead_words(case.played) if case.played is not None else "",
        next_test=_next_test(verdict),
        ribbon=draw_played(case.played, character, brief) if case.played is not None else None,
        hold=draw_hold(character.hold, case.source.claims.surge_w, case.source.claims.surge_s)
        if character.hold
        else None,
        parameters=parameters,
        disagreements=tuple((item.name, item.apart) for item in character.parameters if item.apart),
        kits=kits,
        sessions=tuple(_sessions(at, judged, package, numbering, kits)),
    )


def _is_electrical(row: Requirement) -> bool:
    return any(row.key == key or row.key.startswith(f"{key}-") for key in ELECTRICAL_ROWS)


def _next_test(verdict: Verdict) -> str:
    if not verdict.tests or verdict.past_testing:
        return ""
    test = verdict.tests[0]
    return f"{PROTOCOLS[test.protocol].name}, about {duration(round(test.minutes) * 60)}: {test.why.rstrip('.')}"


# Where things stand


def _in_order(judged: JudgedSource) -> list[SessionRecord]:
    """The sessions as they were judged: the earliest first, those of another job among them."""
    taken = judged.record.elsewhere
    elsewhere = (
        SessionRecord(session=kept.session, started_at=kept.started_at, sha256=kept.seal)
        for kept in (taken.measured.sessions if taken is not None else ())
    )
    return sorted([*elsewhere, *judged.record.sessions], key=lambda kept: kept.started_at)


def _session_name(judged: JudgedSource, kept: SessionRecord) -> str:
    """A session by its protocol, and where it was run if that was not here."""
    name, elsewhere = PROTOCOLS[kept.session.protocol].name, judged.case.elsewhere
    there = elsewhere is not None and kept.started_at in elsewhere.began
    return f"{name}, measured elsewhere for {elsewhere.measured_for}" if there and elsewhere is not None else name


def _anchors(at: int, judged: JudgedSource) -> dict[int, PlaceInReport]:
    """Where each finding stands, by the identity of the finding itself."""
    result = {}
    for number, dated in enumerate(judged.case.given.sessions, 1):
        for held in dated.findings.holds:
            said = f", entry {held.seq}" if held.seq else ""  # a level read off a log alone stands under no entry
            anchor = _entry(at, number, held.seq).anchor if held.seq else f"s-{at}-{number}"
            result[id(held.finding)] = PlaceInReport(anchor, f"{dated.name} of {dated.at[:10]}{said}")
        for finding in dated.findings.findings:
            label = f"{dated.name} of {dated.at[:10]}: {finding.title.lower()}"
            result[id(finding)] = PlaceInReport(_finding_anchor(at, number, finding), label)
    return result


def _finding_anchor(at: int, number: int, finding: Finding) -> str:
    return f"f-{at}-{number}-{slugify(finding.key)}"


def _entry(at: int, number: int, seq: int) -> PlaceInReport:
    return PlaceInReport(f"e-{at}-{number}-{seq}", f"entry {seq}")


ROW_PARAMETERS = {"energy": ("delivered_wh", "usable_pct", "lph_per_kw", "idle_lph")}
"""What of the character a line rests on that rests on no single finding: by the beginnings of their keys."""


def _by_findings(row: Requirement, anchors: Mapping[int, PlaceInReport]) -> Iterator[PlaceInReport]:
    """Where the findings of a line stand; of several of one name the first."""
    places = [anchors[id(finding)] for finding in row.findings if id(finding) in anchors]
    yield from {place.label: place for place in reversed(places)}.values()


def _by_parameters(row: Requirement, parameters: Sequence[ParameterShown]) -> Iterator[PlaceInReport]:
    wanted = ROW_PARAMETERS.get(row.key, ())
    places = (place for shown in parameters if shown.parameter.key.startswith(wanted) for place in shown.read_at)
    if wanted:
        yield from dict.fromkeys(place for place in places if place.anchor.startswith("s-"))


def _rows(
    rows: Sequence[Requirement],
    anchors: Mapping[int, PlaceInReport],
    numbering: Numbering,
    parameters: Sequence[ParameterShown],
) -> tuple[RowShown, ...]:
    return tuple(
        RowShown(
            tally=tally,
            workings=numbering.of(row.workings),
            rests_on=tuple(_by_findings(row, anchors)) or tuple(_by_parameters(row, parameters)),
        )
        for row, tally in zip(rows, draw_tally(tuple(rows)), strict=True)
    )


# What is said of a source


def _rules(case: VerdictInputs) -> Iterator[RuleShown]:
    names = case.without.home.by_key if case.without is not None else case.home.by_key
    yield from (RuleShown(rule.described(names), rule.kind.caution) for rule in case.rules)


def _checks(judged: JudgedSource) -> Iterator[CheckShown]:
    confirmed = {check.slug: check for check in judged.record.safety_checks}
    zone = ZoneInfo(judged.case.home.brief.zone)
    of_connection = connection_checks(judged.case.home, judged.case.source)
    others = [KNOWN[slug] for slug in confirmed if KNOWN[slug] not in of_connection]
    for item in (*of_connection, *others):
        by = confirmed.get(item.slug)
        at = f", {datetime.fromisoformat(by.at).astimezone(zone):%Y-%m-%d %H:%M}" if by is not None else ""
        yield CheckShown(
            title=item.title,
            what=item.what,
            by=f"{by.who or 'confirmed'}{at}" if by is not None else "",
            note=by.note if by is not None else "",
        )


def _costs(case: VerdictInputs) -> Iterator[tuple[str, str]]:
    """What an outage costs with this source, and what it costs to own."""
    played, owning = case.played, case.source.owning
    if played is not None and played.burnt_l.p90 > 0:
        burnt = f"{plain(played.burnt_l.p50, 'l')}, in one outage of ten more than {plain(played.burnt_l.p90, 'l')}"
        yield "fuel in such an outage", burnt
        yield "stops to fill the tank", f"{played.refuels.p50:.0f}"
    if played is not None and played.sun_wh.p50 > 0:
        yield "from the sun in such an outage", plain(played.sun_wh.p50, "wh")
    if owning.price is not None:
        yield "price, as said", f"{owning.price:,.0f}".replace(",", THIN)
    if owning.service_h is not None:
        yield "hours between services", plain(owning.service_h, "h")


def _parameters(case: VerdictInputs, at: int) -> Iterator[ParameterShown]:
    claims = {claim.key: claim for claim in case.character.claims}
    numbers = {(dated.name, dated.at): number for number, dated in enumerate(case.given.sessions, 1)}
    for parameter in case.character.parameters:
        places = []
        for estimate in parameter.estimates:
            number = numbers.get((estimate.session, estimate.at))
            if number is None:
                continue
            label = f"{estimate.session} of {estimate.at[:10]}"
            places.append(PlaceInReport(f"s-{at}-{number}", label))
            places += [_entry(at, number, seq) for seq in estimate.seqs[:4]]
        yield ParameterShown(parameter, claims.get(parameter.key), tuple(places))


# Sessions


def _kits(at: int, judged: JudgedSource) -> tuple[KitShown, ...]:
    """Every kit that a source was read with, once."""
    different = dict.fromkeys(kept.session.kit or USUAL_KIT for kept in _in_order(judged))
    return tuple(
        KitShown(PlaceInReport(f"k-{at}-{number}", f"kit {number}" if len(different) > 1 else "the kit"), kit)
        for number, kit in enumerate(different, 1)
    )


def _sessions(
    at: int, judged: JudgedSource, package: JobPackage, numbering: Numbering, kits: Sequence[KitShown]
) -> Iterator[SessionShown]:
    zone = ZoneInfo(judged.case.home.brief.zone)
    for number, (kept, dated) in enumerate(zip(_in_order(judged), judged.case.given.sessions, strict=True), 1):
        session = kept.session
        began = datetime.fromisoformat(kept.started_at)
        yield SessionShown(
            anchor=f"s-{at}-{number}",
            name=_session_name(judged, kept),
            at=began.astimezone(zone).replace(tzinfo=None),
            record=kept,
            who=tuple(dict.fromkeys(entry.who for entry in session.entries if entry.who)),
            kit=next(kit.place for kit in kits if kit.instruments == (session.kit or USUAL_KIT)),
            not_confirmed=tuple(_not_confirmed(kept)),
            topics=tuple(_topics(at, number, dated.findings, numbering, _recorded(at, number, kept))),
            entries=tuple(_entries(at, number, kept, began, zone)),
            lines=tuple(_line(fit) for fit in (*dated.findings.regulation, *dated.findings.droops)),
            logs=tuple(_logs(at, number, kept, package)),
            captures=tuple(_captures(at, number, kept, package)),
            photos=tuple(_photos(at, number, kept, package)),
        )


def _line(fit: LoadLine) -> LineFigure:
    return draw_line(fit, MOTOR_HZ_PCT if fit.unit == "hz" else MOTOR_V_PCT)


def _not_confirmed(kept: SessionRecord) -> Iterator[str]:
    """What of its cautions nobody confirmed before it was run."""
    for entry in kept.session.entries:
        for item in entry.items:
            if isinstance(item, Event) and item.name == EventName.CAUTIONS and NOT_CONFIRMED in item.detail:
                yield "its safety checks: it was written up from notes"


def _recorded(at: int, number: int, kept: SessionRecord) -> dict[str, PlaceInReport]:
    """Where the logs and captures of a session stand, by name."""
    logs = {
        record.name: PlaceInReport(f"l-{at}-{number}-{count}", f"log “{record.name}”")
        for count, record in enumerate(kept.traces, 1)
    }
    shots = {
        record.name: PlaceInReport(f"c-{at}-{number}-{count}", f"capture “{record.name}”")
        for count, record in enumerate(kept.captures, 1)
    }
    return logs | shots


def _topics(
    at: int, number: int, seen: SessionFindings, numbering: Numbering, recorded: Mapping[str, PlaceInReport]
) -> Iterator[tuple[str, tuple[FindingShown, ...]]]:
    for topic in Topic:
        group = [finding for finding in seen.findings if finding.topic is topic]
        if group:
            yield (
                topic.heading,
                tuple(
                    FindingShown(
                        finding=finding,
                        anchor=_finding_anchor(at, number, finding),
                        workings=numbering.of(finding.workings),
                        entries=tuple(_entry(at, number, seq) for seq in finding.seqs),
                        recorded=recorded.get(finding.log or finding.capture),
                    )
                    for finding in group
                ),
            )


def _entries(at: int, number: int, kept: SessionRecord, began: datetime, zone: ZoneInfo) -> Iterator[EntryShown]:
    voided = kept.session.voided
    for entry in kept.session.entries:
        moment = datetime.fromtimestamp(began.timestamp() + entry.t_s, zone)
        state = "superseded" if entry.seq in voided else ""
        if entry.supersedes is not None:
            state = f"{state} instead of {entry.supersedes}".strip()
        if entry.amendment:
            state = f"{state} amendment {entry.amendment}".strip()
        yield EntryShown(
            anchor=_entry(at, number, entry.seq).anchor,
            seq=entry.seq,
            at=f"{moment:%H:%M:%S}",
            raw=entry.raw or "taken back",
            who=entry.who,
            state=state,
        )


def _logs(at: int, number: int, kept: SessionRecord, package: JobPackage) -> Iterator[PlotShown]:
    for count, record in enumerate(kept.traces, 1):
        trace = package.traces.get(record.file)
        if trace is None or not trace.t_s.size:
            continue
        about = f"{record.rows} rows by {record.instrument or 'an instrument nobody named'}; {'; '.join(record.notes)}"
        yield PlotShown(
            anchor=f"l-{at}-{number}-{count}",
            name=record.name,
            about=f"{about.rstrip('; ')}; digest {record.sha256 or 'not kept'}",
            plot=draw_record(trace.t_s, trace.values, trace.channels),
        )


def _captures(at: int, number: int, kept: SessionRecord, package: JobPackage) -> Iterator[PlotShown]:
    for count, record in enumerate(kept.captures, 1):
        shot = package.captures.get(record.file)
        if shot is None:
            continue
        t_s = np.arange(shot.values.shape[1]) * shot.step_s
        yield PlotShown(
            anchor=f"c-{at}-{number}-{count}",
            name=record.name,
            about=f"{record.samples} samples, {1 / record.step_s:.0f} a second, by {record.instrument}",
            plot=draw_record(t_s, shot.values, shot.channels, fine=True),
        )


def _photos(at: int, number: int, kept: SessionRecord, package: JobPackage) -> Iterator[PhotoShown]:
    for count, record in enumerate(kept.photos, 1):
        photo = package.photos.get(record.file)
        if photo is not None:
            data = base64.b64encode(photo.data).decode()
            yield PhotoShown(
                anchor=f"p-{at}-{number}-{count}",
                caption=record.caption,
                entry=_entry(at, number, record.entry),
                data=mark_safe(f"data:image/jpeg;base64,{data}"),
            )
