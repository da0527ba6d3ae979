"""Notes made into a job: what each section says, and each line told back."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from dataclasses import replace
from datetime import datetime, timedelta
from zoneinfo import ZoneInfo

from muster.core.brief import Brief, Home
from muster.core.brief_words import OUTAGE_SAID, UNITS_SAID, read_brief
from muster.core.errors import MusterError
from muster.core.kit import Kit
from muster.core.loads import Load, Tier
from muster.core.loads.line_parser import parse_load_line
from muster.core.measures import Measures, showing_in, typed_measures
from muster.core.plan import steps_of
from muster.core.quantities import THIN, plain
from muster.core.sessions import PROTOCOLS, Conditions, Reading, Session
from muster.core.sessions.condition_words import say_conditions
from muster.core.sessions.log_line import Jotting, code_meanings, read_line
from muster.core.sessions.log_line.times import read_when
from muster.core.sessions.writing_up import Circumstances, WrittenUp, write_up
from muster.core.sources import Claims, Source, SourceKind
from muster.core.sources.nameplate import LEAST_STATION_W, read_nameplate
from muster.core.supply import SYSTEMS, System

from ..jobfile import JobFile, SessionRecord, SourceRecord
from .headed_tests import SLASHED, WEEKDAY, WEEKDAYS
from .headings import DraftSource, DraftTest, NotesDraft, drafted
from .model import NotesFile, Section, ToldLine

MOST_LINES = 5000
"""Lines of one notes file."""
MOST_CHARS = 500_000
MONTH_FIRST_HZ, MONTHS_A_YEAR = 60.0, 12
"""Where mains is 60 Hz most people write the month first."""
NO_HOME = "no load of a home and no outage is said: taken for units alone, of which no home is judged, unless a line says “Home: NAME”"


def read_notes(text: str, now: datetime) -> NotesFile:
    """Read notes into a job.

    Parameters
    ----------
    text
        Headings and lines (docs/notes.md); without headings each line is taken for what it looks like.
    now
        The moment they are read, with its zone: a test whose date nobody said lies before it.

    Returns
    -------
    NotesFile
        Its job, and each line told back. Nothing is refused for a line that was not understood.

    Raises
    ------
    MusterError
        If there is no line at all, or too many.
    """
    if len(text) > MOST_CHARS or text.count("\n") > MOST_LINES:
        raise MusterError("too long for notes", where="notes", want=f"at most {MOST_LINES} lines")
    draft = drafted(text)
    told: list[ToldLine] = []
    typed = typed_measures(text)
    with showing_in(Brief(system=_supply_seen(text), measures=typed).shown_in):
        brief, kept = _brief(draft, text, told)
    if brief.measures == Measures() and not any(UNITS_SAID.search(line) for _, line in draft.home):
        brief = replace(brief, measures=typed)
    with showing_in(brief.shown_in):
        return _read(draft, brief, kept, told, now)


def _read(draft: NotesDraft, brief: Brief, kept: list[str], told: list[ToldLine], now: datetime) -> NotesFile:
    """The loads, sources and tests of notes, once the brief is known."""
    loads = read_loads(draft.loads, brief.system, told, kept)
    home = Home(brief, loads)
    sources = tuple(_sources(draft.sources, home, now, told))
    if kept:
        brief = replace(brief, notes="\n".join(kept))
    of_units = draft.of_units or _of_units(draft, loads)
    if of_units and not draft.of_units:
        told.append(ToldLine(number=0, text="", section=Section.HOME, told=("units alone",), asked=NO_HOME))
    brief = replace(brief, of_units=of_units)
    job = JobFile(name=(draft.name or "From notes")[:120], brief=brief, loads=loads, sources=sources)
    return NotesFile(job, tuple(sorted(told, key=lambda line: line.number)))


def _brief(draft: NotesDraft, text: str, told: list[ToldLine]) -> tuple[Brief, list[str]]:
    brief, said_system = Brief(system=_supply_seen(text)), False
    kept: list[str] = []
    for number, line in draft.home:
        try:
            after, left = read_brief(line, brief)
        except MusterError as error:
            after, left = brief, line
            told.append(ToldLine(number=number, text=line, section=Section.HOME, asked=f"{error}", kept=True))
            kept.append(left)
            continue
        says_system = after.system != brief.system or bool(re.search(r"\d{3} ?v|split", line, re.I))
        said_system = said_system or says_system
        if left:
            kept.append(left)
        said = (
            (f"note: {left}",)
            if left == line
            else (*_brief_told(brief, after, says_system=says_system), *((f"note: {left}",) if left else ()))
        )
        brief = after
        told.append(ToldLine(number=number, text=line, section=Section.HOME, told=said, kept=left == line))
    if not said_system:
        told.append(
            ToldLine(
                number=0,
                text="",
                section=Section.HOME,
                told=(brief.system.label,),
                asked=f"nobody said the supply: taken for {brief.system.label}, by the volts read",
            )
        )
    return brief, kept


def _told(value: float, unit: str) -> str:
    """A figure in the units of the notes, as it is told back."""
    return plain(value, unit).replace(THIN, " ")


def _brief_told(before: Brief, after: Brief, *, says_system: bool) -> tuple[str, ...]:
    said = []
    if after.system != before.system or says_system:
        said.append(after.system.label)
    pairs = (
        ("outage_h", "outage {:g} h"),
        ("outage_from_hour", "from {}:00"),
        ("reserve_pct", "reserve {:g} %"),
        ("noise_day_dba", "{:g} dBA by day"),
        ("noise_night_dba", "{:g} dBA at night"),
        ("zone", "zone {}"),
    )
    said += [
        words.format(getattr(after, name)) for name, words in pairs if getattr(after, name) != getattr(before, name)
    ]
    if after.neighbour_m != before.neighbour_m:
        said.append(f"neighbour at {_told(after.neighbour_m, 'm')}")
    if after.site != before.site:
        said.append(f"{_told(after.site.altitude_m, 'm')} above sea, {_told(after.site.temp_c, 'c')}")
    if after.wiring is not before.wiring:
        said.append(after.wiring.label)
    if (after.quiet_from_hour, after.quiet_to_hour) != (before.quiet_from_hour, before.quiet_to_hour):
        said.append(f"quiet {after.quiet_from_hour}:00 to {after.quiet_to_hour}:00")
    return tuple(said) or (after.system.label,)


def _supply_seen(text: str) -> System:
    """The supply that the volts and hertz of the notes are near to, where nobody says it."""
    volts = [
        float(number) for number in re.findall(r"(?<![\w.])(\d{2,3}(?:\.\d)?) ?v(?:olts?)?\b(?! ?dc)", text.lower())
    ]
    low, high = sum(95 <= v <= 132 for v in volts), sum(195 <= v <= 256 for v in volts)
    legs = bool(re.search(r"\bl2\b|\bleg ?2\b|both legs|split", text.lower()))
    if legs or "120/240" in text:
        return SYSTEMS["split-120-240-60"]
    return SYSTEMS["single-120-60"] if low > high else SYSTEMS["single-230-50"]


def read_loads(
    said: Sequence[tuple[int, str, bool]], system: System, told: list[ToldLine], kept: list[str]
) -> tuple[Load, ...]:
    """The loads of lines, each told back; ``kept`` collects what was not understood.

    Parameters
    ----------
    said
        Number, words, and whether it is there for tests alone, a load each.
    """
    loads: list[Load] = []
    for number, line, test in said:
        key = str(len(loads) + 1)
        try:
            entry = parse_load_line(f"{line} test" if test else line, key, system.v_nominal)
        except MusterError as error:
            kept.append(line)
            told.append(
                ToldLine(
                    number=number,
                    text=line,
                    section=Section.LOADS,
                    told=(f"note: {line}",),
                    asked=f"{error.what}; {error.want}",
                    kept=True,
                )
            )
            continue
        load = entry.load
        same = sum(other.name.lower() == load.name.lower() for other in loads)
        if same:
            load = replace(load, name=f"{load.name} {same + 1}")
        loads.append(load)
        asked = "what kind of load is it?" if load.start_unknown else ""
        told.append(
            ToldLine(
                number=number,
                text=line,
                section=Section.LOADS,
                told=(entry.understood.replace(THIN, " "),),
                asked=asked,
            )
        )
    return tuple(loads)


def _of_units(draft: NotesDraft, loads: tuple[Load, ...]) -> bool:
    """Whether several sources were tested, and nobody said a thing that a home must run nor what it must go through."""
    of_a_home = any(load.tier is not Tier.TEST for load in loads)
    return (
        len(draft.sources) > 1
        and not of_a_home
        and not draft.of_home
        and not any(OUTAGE_SAID.search(line) for _, line in draft.home)
    )


def _sources(drafts: Sequence[DraftSource], home: Home, now: datetime, told: list[ToldLine]) -> Iterator[SourceRecord]:
    """Every source; tests of which nobody said the date are of the day that was said last, of whatever source."""
    day: datetime | None = None
    for draft in drafts:
        yield _source(draft, home, now, told, day)
        said = [date for test in draft.tests if (date := _date_of(test.dated, home.brief, now)) is not None]
        day = said[-1].replace(hour=0, minute=0, second=0) if said else day


def _source(draft: DraftSource, home: Home, now: datetime, told: list[ToldLine], day: datetime | None) -> SourceRecord:
    words = ", ".join(line for _, line in draft.said)
    if not words and not draft.name:
        return _unsaid(draft, home, now, told, day)
    first = draft.said[0][0] if draft.said else draft.number
    try:
        head = words.split(",")[0].strip()
        name = draft.name or ("" if re.search(r"\d", head) or "," not in words else head)
        plate = read_nameplate(words, name)
        source, asked = plate.source, ", ".join(plate.asked)
        question = f"not said: {asked}" if asked else ""
        told.append(
            ToldLine(
                number=first,
                text=words or draft.name,
                section=Section.SOURCE,
                told=(f"{source.name}:", *plate.told),
                asked=question,
            )
        )
    except MusterError as error:
        source = _stand_in(draft, home, words)
        question = (
            f"{error.what}: taken for a generator of {source.claims.cont_w:g} W, the most that was read, until you say"
        )
        told.append(
            ToldLine(
                number=first, text=words, section=Section.SOURCE, told=(f"note: {words}",), asked=question, kept=True
            )
        )
    return SourceRecord(source=source, sessions=tuple(_sessions(draft, source, home, now, told, day)))


def _unsaid(draft: DraftSource, home: Home, now: datetime, told: list[ToldLine], day: datetime | None) -> SourceRecord:
    """Tests before any source was named."""
    source = _stand_in(draft, home, "")
    question = f"no source is described: taken for a generator of {source.claims.cont_w:g} W, the most that was read, until you say"
    told.append(ToldLine(number=draft.number, text="", section=Section.SOURCE, asked=question))
    return SourceRecord(source=source, sessions=tuple(_sessions(draft, source, home, now, told, day)))


def _stand_in(draft: DraftSource, home: Home, words: str) -> Source:
    """A source of which nobody said what it is: an engine set of the most watts that were read on it."""
    names = {load.key: load.name for load in home.every}
    lines = [line for test in draft.tests for _, line in test.lines]
    items = [item for line in lines for item in read_line(line, names, home.brief.system).items]
    most_w = max((item.value for item in items if isinstance(item, Reading) and item.quantity == "w"), default=0.0)
    claims = Claims(cont_w=max(LEAST_STATION_W, most_w))
    return Source(name=draft.name or "the source", kind=SourceKind.OPEN_FRAME, claims=claims, note=words, planned=True)


def _sessions(
    draft: DraftSource, source: Source, home: Home, now: datetime, told: list[ToldLine], day: datetime | None
) -> Iterator[SessionRecord]:
    """The tests of a source, one after the other: one that says no date goes on from the one before, the first from ``day``."""
    last = day
    for test in (test for test in draft.tests if test.lines):
        record, last = _session(test, source, home, now, told, last)
        yield record


def _session(
    test: DraftTest, source: Source, home: Home, now: datetime, told: list[ToldLine], after: datetime | None
) -> tuple[SessionRecord, datetime | None]:
    """A test as a session, and its last moment where its date is known."""
    of = circumstances(source, home)
    protocol = test.protocol or _protocol_of([line for _, line in test.lines], of)
    try:
        steps = steps_of(protocol, home, source, of.kit)
    except MusterError:
        steps = ()
    began = _date_of(test.dated, home.brief, now) or after
    if test.heading:
        name = PROTOCOLS[protocol].name.lower()
        asked = "" if test.protocol else f"which test it was is not said: taken for {name}"
        when = f"{began:%d %b %Y}" if began else "date not said"
        said = _conditions_told(test.conditions)
        told.append(
            ToldLine(
                number=test.number,
                text=test.heading,
                section=Section.TEST,
                told=(name, when, said) if said else (name, when),
                asked=asked,
            )
        )
    written = write_up(
        Session(protocol=protocol, steps=steps, conditions=test.conditions),
        [line for _, line in test.lines],
        of,
        now,
        began,
    )
    told += _told_lines(test, written, of)
    at = written.started_at.astimezone(ZoneInfo("UTC")).isoformat()
    last = written.lines[-1][2] if written.lines else None
    return SessionRecord(session=written.session, started_at=at), last


def _conditions_told(conditions: Conditions) -> str:
    """The conditions of a test, as they are told back."""
    said = [f"{_told(conditions.altitude_m, 'm')} up"] if conditions.altitude_m is not None else []
    said += [_told(conditions.temp_c, "c")] if conditions.temp_c is not None else []
    said += [say_conditions(replace(conditions, altitude_m=None, temp_c=None))]
    return ", ".join(words for words in said if words)


def circumstances(source: Source, home: Home) -> Circumstances:
    """What the lines of a source's tests are read against."""
    return Circumstances(
        names={load.key: load.name for load in home.every},
        start_s={load.key: load.start_s for load in home.every},
        system=home.brief.system,
        zone=home.brief.zone,
        battery=source.kind.has_battery,
        kit=Kit(wave=source.claims.wave),
        meaning_of=source.owning.meaning_of,
    )


def _told_lines(test: DraftTest, written: WrittenUp, of: Circumstances) -> Iterator[ToldLine]:
    numbers = iter(test.lines)
    number, whole = next(numbers)
    for line, jotting, at in written.lines:
        while line not in whole:
            number, whole = next(numbers)
        asked = jotting.doubt.question if jotting.doubt else ""
        if jotting.unknown:
            asked = f"“{jotting.unknown}” is not on the list of loads"
        told = tuple(phrase.replace(THIN, " ") for phrase in jotting.told[1 if jotting.when.said else 0 :])
        told = (*told, *code_meanings(jotting.items, of.meaning_of))
        only = all(phrase.startswith("note:") for phrase in told)
        yield ToldLine(
            number=number, text=line, section=Section.TEST, told=(f"{at:%d %b %H:%M}", *told), asked=asked, kept=only
        )


def _date_of(words: str, brief: Brief, now: datetime) -> datetime | None:
    """The date of a heading as the moment a test began; None where it says none."""
    slashed, weekday = SLASHED.search(words), WEEKDAY.search(words)
    if slashed is not None:
        return _slashed(slashed, brief, now)
    if weekday is not None and not re.search(
        r"\d{1,2}(?:st|nd|rd|th)? [a-z]{3}|[a-z]{3,} \d{1,2}\b(?![:.])", words[weekday.end() :], re.I
    ):
        today = now.astimezone(ZoneInfo(brief.zone)).replace(hour=0, minute=0, second=0, microsecond=0)
        return today - timedelta(days=(today.weekday() - WEEKDAYS.index(weekday["day"].lower())) % 7)
    if not words or (when := read_when(words)) is None or when.date is None:
        return None
    year, month, day = when.date
    local = now.astimezone(ZoneInfo(brief.zone))
    hour, minute, second = when.clock or (0, 0, 0)
    try:
        at = local.replace(
            year=year or local.year, month=month, day=day, hour=hour, minute=minute, second=second, microsecond=0
        )
    except ValueError:
        return None
    return at.replace(year=at.year - 1) if year is None and at > local else at


def _slashed(said: re.Match[str], brief: Brief, now: datetime) -> datetime | None:
    """``6/11/26``: the day first; the month first where mains is 60 Hz, unless it can be none."""
    first, second = int(said["first"]), int(said["second"])
    month, day = (
        (first, second)
        if (brief.system.hz == MONTH_FIRST_HZ and first <= MONTHS_A_YEAR) or second > MONTHS_A_YEAR
        else (second, first)
    )
    year = int(said["year"]) % 100 + 2000
    try:
        return now.astimezone(ZoneInfo(brief.zone)).replace(
            year=year, month=month, day=day, hour=0, minute=0, second=0, microsecond=0
        )
    except ValueError:
        return None


def _protocol_of(lines: Sequence[str], of: Circumstances) -> str:
    """Which test lines are of, by what was read in them."""
    read = [read_line(line, of.names, of.system, battery=of.battery) for line in lines]
    quantities = [getattr(item, "quantity", "") for jotting in read for item in jotting.items]
    count = {name: quantities.count(name) for name in ("w", "soc_pct", "wh", "dba", "heat_s", "hz", "v", "gap_ms")}
    if count["heat_s"]:
        return "heating_check"
    if count["soc_pct"] + count["wh"] > max(2, count["w"]):
        return "recharge" if _rises(read) else "endurance"
    if count["dba"] > max(2, count["w"]):
        return "noise_walk"
    names = [getattr(item, "name", "") for jotting in read for item in jotting.items]
    if "cut_off" in names:
        return "cut_offs"
    starts = sum(hasattr(item, "eased") for jotting in read for item in jotting.items)
    if starts > count["w"]:
        return "starts"
    return "ladder"


def _rises(read: Sequence[Jotting]) -> bool:
    charge = [item.value for jotting in read for item in jotting.items if getattr(item, "quantity", "") == "soc_pct"]  # type: ignore[union-attr]
    return len(charge) > 1 and charge[-1] > charge[0]
