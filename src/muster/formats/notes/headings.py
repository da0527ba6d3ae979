"""Which line of notes belongs where: headings, and what a line under none looks like."""

from __future__ import annotations

import re
from dataclasses import dataclass, field

from muster.core.brief_words import SPOKEN as BRIEF_WORDS
from muster.core.errors import MusterError
from muster.core.loads.said_parts import parts_said
from muster.core.sessions import Conditions
from muster.core.sources import SourceKind
from muster.core.sources.nameplate import kind_in

from .headed_tests import DATE_IN, dated_alone, heading_of_test, heads_like_a_test
from .model import Section

UNITS_WORDS = r"units?(?: only| alone)?"
"""A heading of a job without a home."""
UNITS_HEAD = re.compile(
    rf"(?P<bare>{UNITS_WORDS})\s*:?$|(?=.*\b(?:compar(?:ed|ing|ison)|side by side|head to head|(?:all )?in (?:one|an) (?:afternoon|morning|day|sitting)|tested the same way)\b)(?!.*\b(?:for|home|house|cabin|flat|fridge|run)\b)(?:\w+[\s,]+){{0,6}}?(?:sets|units|stations|boxes|packs|banks|gensets|generators|inverters)\b[^\d]{{0,60}}$",
    re.I,
)
"""The same on a line of its own: ``Units``, ``six small sets in one afternoon``, ``comparing three stations``."""
HOME_WORDS = rf"(?:the )?(?:{UNITS_WORDS}|home|house|household|job|cabin|flat|site)"
BRIEF_HEAD = r"brief|supply|conditions|what it must do"
LOADS_WORDS = r"(?:loads?|appliances?|things to run|what must run|what runs)"
TIER_HEAD = re.compile(
    r"(?:(?:what |they |we )?(?P<tier>must|should|could)(?: (?:have|run|runs|be on|stay on))?|(?P<must>musts|must-haves|essentials?|critical|(?:what )?(?:we |it )?needs?|has to run|have to run)|(?P<could>nice to have))(?: loads?)?\s*(?::|$)\s*(?P<rest>.*)$",
    re.I,
)
"""``must: fridge 120 W, pump 750 W``: loads of one tier."""
TIERS_SAID = re.compile(r"\b(?:must|should|could|test)\b", re.I)
TEST_LOADS_WORDS = r"(?:test loads?|loads? for tests?)"
SOURCE_WORDS = r"(?:source|set|generator|genny|gen(?:set)?|inverter(?: (?:set|generator))?|hybrid(?: inverter)?|(?:battery |power )?station|battery box)(?: ?\d)?"
HEADS: tuple[tuple[Section, re.Pattern[str]], ...] = (
    (Section.HOME, re.compile(rf"(?:{HOME_WORDS}|{BRIEF_HEAD})\s*(?::|-|–)\s*(?P<rest>.*)$", re.I)),
    (Section.LOADS, re.compile(rf"(?P<test>{TEST_LOADS_WORDS})\s*(?::|$)\s*(?P<rest>.*)$", re.I)),
    (Section.LOADS, re.compile(rf"{LOADS_WORDS}\s*(?::|$)\s*(?P<rest>.*)$", re.I)),
    (Section.SOURCE, re.compile(rf"{SOURCE_WORDS}\s*:\s*(?P<rest>.*)$", re.I)),
)
OF_A_LOAD = re.compile(r"\d ?(?:k?w|k?va|amps?|a|hp|min|btu)\b|\b(?:must|should|could|l[12]|both)\b", re.I)
"""What is said of an appliance, and never of a home: a line under the loads without it may be of the brief."""
OF_SOURCES_ALONE = re.compile(
    r"\d ?k?wh\b|\d ?ah\b|\bsurge\b|\btank\b|\b(?:petrol|gasoline|diesel|propane|lpg|lfp)\b", re.I
)
"""What is said of no appliance: a line under the loads that says it is the source's nameplate, its heading left out."""
HOURS = re.compile(r"\d{1,2}[:.]\d{2} ?(?:-|–|to|till|until) ?\d")
"""``17:00-23:00 lights``: when a load runs, and no time of a test."""
NAME_ENDS = re.compile(r",|\s[-–]\s")
NAMED_SOURCE = re.compile(r"(?P<name>(?:the |my )?(?:[\w'’-]+ ){0,3}[\w'’-]+)\s*(?::|\s[–-]\s)\s*(?P<rest>.+)$", re.I)
OF_A_NAMEPLATE = re.compile(
    rf"{OF_SOURCES_ALONE.pattern}|\d ?w? (?:running|run|rated|peak|continuous|cont|starting|start)\b"
    r"|\b(?:running|rated|peak|continuous|cont|starting)(?: of| at)? \d|\d ?db|\d ?k?(?:w|va)\b",
    re.I,
)
"""What is said of a source after its name and a colon; once alone may be of a run: ``the inverter - running hot``."""
WORDY = 4
"""A line of so many words without a figure is a remark, and no load."""
ARTICLE = re.compile(r"^(?:an?|the|my|our|one)\s+", re.I)
UNDERLINE = re.compile(r"[-=_*~]{3,}$")
BULLET = re.compile(r"^(?:[-*•]\s+|\d{1,2}[.)]\s+(?=[a-z]))", re.I)


@dataclass
class DraftTest:
    """A test being read: its heading, protocol, date and lines."""

    number: int
    heading: str
    protocol: str
    dated: str
    day: str = ""
    """The date that a line of its own said, for the timed line that comes next."""
    lines: list[tuple[int, str]] = field(default_factory=list)
    conditions: Conditions = field(default_factory=Conditions)


@dataclass
class DraftSource:
    """A source being read."""

    number: int
    name: str
    said: list[tuple[int, str]] = field(default_factory=list)
    tests: list[DraftTest] = field(default_factory=list)


@dataclass
class NotesDraft:
    """Notes being read, section by section."""

    name: str = ""
    of_units: bool = False
    of_home: bool = False
    """Whether a heading says that a home is judged."""
    home: list[tuple[int, str]] = field(default_factory=list)
    loads: list[tuple[int, str, bool]] = field(default_factory=list)
    tier: str = ""
    """The tier of the loads that are being listed, where a heading says one."""
    sources: list[DraftSource] = field(default_factory=list)


def drafted(text: str) -> NotesDraft:
    """Notes parted into their sections.

    Raises
    ------
    MusterError
        If there is no line at all.
    """
    draft, section = NotesDraft(), None
    test_loads = False
    lines = [(number, line.strip()) for number, line in enumerate(text.lstrip("\ufeff").splitlines(), 1)]
    if not any(line for _, line in lines):
        raise MusterError("nothing is written there", where="notes", want="a home, its loads, a source, its tests")
    for number, raw in lines:
        if not raw or UNDERLINE.match(raw):
            continue
        marked = raw.startswith("#")
        line = raw.lstrip("# ").strip() if marked else BULLET.sub("", raw)
        opened = _heading(line, draft, number, marked=marked)
        if opened is not None:
            section, test_loads = opened
            continue
        _put(draft, section, number, line, test_loads=test_loads)
    return draft


def _heading(line: str, draft: NotesDraft, number: int, *, marked: bool) -> tuple[Section, bool] | None:
    """Open the section that a heading names; None if the line is no heading."""
    of_units = UNITS_HEAD.match(line)
    if of_units is not None and not (draft.loads or draft.sources):
        draft.of_units = True
        draft.name = draft.name or ("" if of_units["bare"] else line.strip(" .:"))
        return Section.HOME, False
    tiered = TIER_HEAD.match(line)
    if tiered is not None:
        draft.tier = (tiered["tier"] or ("must" if tiered["must"] else "could")).lower()
        draft.loads += [(number, _of_tier(part, draft.tier), False) for part in listed(tiered["rest"])]
        return Section.LOADS, False
    for section, head in HEADS:
        match = head.match(line)
        if match is None:
            continue
        rest = match["rest"].strip()
        if section is Section.HOME:
            if re.match(rf"{UNITS_WORDS}\s*(?::|-|–)", line, re.I):
                draft.of_units = True
            elif not re.match(BRIEF_HEAD, line, re.I):
                draft.of_home = True
            if not draft.name and not re.match(BRIEF_HEAD, line, re.I):
                draft.name, _, rest = rest.partition(",")
                draft.name = draft.name.strip()
            if rest.strip():
                draft.home.append((number, rest.strip()))
        elif section is Section.LOADS:
            is_test, draft.tier = bool(match.groupdict().get("test")), ""
            draft.loads += [(number, part, is_test) for part in listed(rest)]
            return section, is_test
        else:
            _open_source(draft, number, rest or line.rstrip(":"), line)
        return section, False
    named_source = NAMED_SOURCE.match(line)
    if named_source is not None and not _is_timed(line) and _says_a_source(named_source["name"], named_source["rest"]):
        _open_source(draft, number, f"{named_source['name']}, {named_source['rest']}", line)
        return Section.SOURCE, False
    return _test_heading(line, draft, number, marked=marked)


def _says_a_source(name: str, rest: str) -> bool:
    """Whether a name and what follows are a nameplate: ``Big red: open frame 7500 running 9500 peak``.

    The bare word *inverter* is said of fridges too: then something is wanted that is said of sources alone.
    """
    kind = kind_in(f"{name} {rest}")
    of_an_appliance = kind is SourceKind.INVERTER and kind_in(name) is None and not OF_SOURCES_ALONE.search(rest)
    return kind is not None and not of_an_appliance and len(OF_A_NAMEPLATE.findall(rest)) > 1


def _test_heading(line: str, draft: NotesDraft, number: int, *, marked: bool) -> tuple[Section, bool] | None:
    """Open the test that a line heads; a marked line that heads none may be the name of the job."""
    headed = dated_alone(line, first=not draft.sources[-1].tests) if draft.sources else None
    headed = headed or heading_of_test(line, marked=marked)
    if headed is None:
        if marked and not draft.name and not draft.home and not heads_like_a_test(line):
            draft.name = line
            return Section.HOME, False
        return None
    if not draft.sources:
        _open_source(draft, number, "", "")
    test = DraftTest(
        number=number, heading=line, protocol=headed.protocol, dated=headed.dated, conditions=headed.conditions
    )
    if headed.tells:
        test.lines.append((number, line))
    draft.sources[-1].tests.append(test)
    return Section.TEST, False


def _open_source(draft: NotesDraft, number: int, rest: str, line: str) -> None:
    name, _, said = rest.partition(",") if "," in rest else (rest, "", "")
    looks_said = bool(re.search(r"\d", name))
    source = DraftSource(number, "" if looks_said else name.strip())
    words = rest if looks_said else said
    if words.strip():
        head = line.split(":")[0]
        source.said.append((number, f"{head} {words}".strip() if kind_in(words) is None else words.strip()))
    elif line:
        source.said.append((number, line.replace(":", " ")))
    draft.sources.append(source)


def _put(draft: NotesDraft, section: Section | None, number: int, line: str, *, test_loads: bool) -> None:
    if section is Section.LOADS and _is_source(line) and OF_SOURCES_ALONE.search(line):
        draft.sources.append(DraftSource(number, "", [(number, line)]))
    elif section is Section.LOADS and _is_timed(line) and not HOURS.match(line):
        _guess(draft, section, number, line)  # ``18:00 100% 53.1v``: of a test whose heading was no heading
    elif section is Section.LOADS and _is_brief(line) and not OF_A_LOAD.search(line):
        draft.home.append((number, line))
    elif section is Section.LOADS:
        draft.loads += [(number, _of_tier(part, draft.tier), test_loads) for part in listed(line)]
    elif section is Section.TEST:
        _of_a_test(draft.sources[-1].tests[-1], number, line)
    elif section is Section.SOURCE and not _is_timed(line):
        draft.sources[-1].said.append((number, line))
    elif section is Section.HOME and (_is_brief(line) or not re.search(r"\d", line)) and not _is_source(line):
        draft.home.append((number, line))
    else:
        _guess(draft, section, number, line)


def _of_a_test(test: DraftTest, number: int, line: str) -> None:
    """A line of a test; a date alone is the test's where nothing was written yet, else that of the line that comes next."""
    if DATE_IN.fullmatch(line.strip(" :,")):
        if test.lines or test.dated:
            test.day = line.strip(" :,")
        else:
            test.dated = line.strip(" :,")
        return
    test.lines.append((number, f"{test.day} {line}" if test.day and _is_timed(line) else line))
    test.day = ""


def _guess(draft: NotesDraft, section: Section | None, number: int, line: str) -> None:
    """A line under no heading: what it looks like."""
    if _is_timed(line) or (draft.sources and draft.sources[-1].tests):
        if not draft.sources:
            _open_source(draft, number, "", "")
        if not draft.sources[-1].tests:
            draft.sources[-1].tests.append(DraftTest(number=number, heading="", protocol="", dated=""))
        draft.sources[-1].tests[-1].lines.append((number, line))
    elif _is_source(line):
        draft.sources.append(DraftSource(number, "", [(number, line)]))
    elif not draft.name and not _is_brief(line) and not re.search(r"\d", line):
        draft.name = line.strip(" .:")
    elif _is_brief(line):
        head = NAME_ENDS.split(line, maxsplit=1)
        if not draft.name and len(head) > 1 and not _is_brief(head[0]) and re.search(r"[a-z]{3}", head[0], re.I):
            draft.name, line = head
        draft.home.append((number, line.strip()))
    elif not re.search(r"\d", line) and len(line.split()) >= WORDY:
        draft.home.append((number, line))
    else:
        draft.loads += [(number, part, False) for part in listed(line)]


def _of_tier(part: str, tier: str) -> str:
    """A load with the tier that its heading says, unless it says one itself."""
    return part if not tier or TIERS_SAID.search(part) else f"{part} {tier}"


def _is_timed(line: str) -> bool:
    return bool(
        re.match(r"(?:day \d+ |next day )?\d{1,2}[:.]\d{2}\b(?!\s*(?:k?w|v|a|l|hz|kwh)\b)|\d{1,2} ?[ap]m\b", line, re.I)
    )


def _is_source(line: str) -> bool:
    return kind_in(line) is not None and bool(re.search(r"\d ?k?(?:w|va|wh)\b", line, re.I))


def _is_brief(line: str) -> bool:
    return any(spoken.search(line) for spoken, _ in BRIEF_WORDS)


def listed(line: str) -> list[str]:
    """Loads of one line: commas part them where each part says something of its own."""
    if re.match(r"(?:no|none)\b", line, re.I) or not line.strip():
        return []
    if parts_said(line)[1]:
        return [line]
    each = re.split(r"\s+(?:and|plus|\+|&)\s+", line)
    if len(each) > 1 and all(re.search(r"\d", part) and re.search(r"[a-z]{3,}", part, re.I) for part in each):
        return [load for part in each for load in listed(part)]  # ``fridge 120w and kettle 2.2kw``
    parts = [part.strip() for part in re.split(r"[;·]|,(?=\s)(?![^(]*\))", line) if part.strip()]
    if len(parts) > 1 and all(re.search(r"[a-z]{3,}", part, re.I) for part in parts):
        own = [
            part
            for part in parts
            if re.match(
                r"(?:must|should|could|starts?|pf|l[12]|both|all day|once|at |in the |peaks?|from|overnight|evenings?|mornings?)\b",
                part,
                re.I,
            )
        ]
        if not own:
            return [ARTICLE.sub("", part) for part in parts]
        joined: list[str] = []
        for part in parts:
            if part in own and joined:
                joined[-1] += f" {part}"
            else:
                joined.append(part)
        return joined
    return [ARTICLE.sub("", line.strip())]


CELLS = re.compile(r"[;,\t]")
NUMERIC = re.compile(r"^[\s\d.:eE+TZ/-]*$")
MOSTLY = 0.6


def are_notes(text: str) -> bool:
    """Whether a text is notes: not a table, most of whose cells are bare numbers."""
    lines = [line for line in text.splitlines() if line.strip() and not line.startswith("#")][:50]
    rows = [CELLS.split(line) for line in lines[1:]]
    table = [row for row in rows if len(row) > 1 and all(NUMERIC.match(cell) for cell in row)]
    return len(table) < MOSTLY * max(1, len(rows))
