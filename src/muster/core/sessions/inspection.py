"""A unit looked over: the questions of hand and eye, the answers there are, and what each warns of."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from ..errors import UnknownChoice
from .model import Entry, LookedAt

PROTOCOL = "inspection"
MOST_NOTE = 120


@dataclass(frozen=True)
class PointAnswer:
    """An answer to a point; ``caution`` is what must be minded of it, empty where nothing is."""

    slug: str
    label: str
    caution: str = ""


@dataclass(frozen=True)
class InspectionPoint:
    """A point of an inspection: what is looked at, the question, and the answers there are."""

    slug: str
    title: str
    asks: str
    answers: tuple[PointAnswer, ...]

    def answer(self, slug: str) -> PointAnswer:
        """An answer by its slug.

        Raises
        ------
        UnknownChoice
            If there is none of that name.
        """
        for item in self.answers:
            if item.slug == slug:
                return item
        raise UnknownChoice(f"“{slug}”", where=self.title, want=", ".join(item.slug for item in self.answers))


POINTS = (
    InspectionPoint(
        slug="leads",
        title="Leads",
        asks="What are its battery and output leads made of, at a cut end or by the print?",
        answers=(
            PointAnswer("copper", "copper"),
            PointAnswer(
                "clad",
                "copper-clad aluminium",
                "carries less than its size says: take it as aluminium, and stop at a warm lead",
            ),
            PointAnswer("unseen", "not seen", "not known to be copper: stop at a warm lead"),
        ),
    ),
    InspectionPoint(
        slug="gauge",
        title="Gauge of its leads",
        asks="Is what is printed on them what their metal measures, and enough for its rating?",
        answers=(
            PointAnswer("enough", "as printed, and enough"),
            PointAnswer(
                "thin",
                "too thin for its rating",
                "the leads are too thin for its rating: not loaded to it before they are replaced by those licensed to",
            ),
            PointAnswer("unmarked", "not marked", "the gauge is not known: measured, or not loaded to its rating"),
        ),
    ),
    InspectionPoint(
        slug="lugs",
        title="Lugs and bolts",
        asks="Are lugs crimped, and bolts tight?",
        answers=(
            PointAnswer("tight", "crimped and tight"),
            PointAnswer(
                "loose",
                "loose or badly crimped",
                "a loose lug burns: tightened by those licensed to before it is loaded",
            ),
            PointAnswer("none", "none to be seen"),
        ),
    ),
    InspectionPoint(
        slug="fuse",
        title="Fuse on the DC side",
        asks="Is there a fuse, and where?",
        answers=(
            PointAnswer("at_battery", "close to the battery"),
            PointAnswer("inside", "inside the unit"),
            PointAnswer(
                "none", "none to be seen", "no fuse is to be seen on the battery side: none is run without one"
            ),
            PointAnswer("no_battery", "has no battery side"),
        ),
    ),
    InspectionPoint(
        slug="sockets",
        title="Sockets",
        asks="Do two large plugs fit side by side?",
        answers=(
            PointAnswer("room", "room for large plugs"),
            PointAnswer("tight", "a large plug covers its neighbour"),
            PointAnswer("loose", "a plug sits loosely", "a loose socket burns: not used"),
        ),
    ),
    InspectionPoint(
        slug="live_off",
        title="Live when off",
        asks="With its switch off, is any socket live, by a tester?",
        answers=(
            PointAnswer("dead", "all dead"),
            PointAnswer(
                "live",
                "sockets live when off",
                "sockets stay live with the switch off: unplugged before anything is touched",
            ),
            PointAnswer("untried", "not tried"),
        ),
    ),
    InspectionPoint(
        slug="protection",
        title="RCD or GFCI",
        asks="Fed from this unit, does it trip by its own test button?",
        answers=(
            PointAnswer("trips", "trips by its button"),
            PointAnswer(
                "dead",
                "does not trip",
                "its RCD or GFCI does not trip by its button: not used, and looked at by those licensed to",
            ),
            PointAnswer("none", "has none"),
        ),
    ),
    InspectionPoint(
        slug="display",
        title="Display",
        asks="What does it show of the load and of what is left?",
        answers=(
            PointAnswer("watts", "watts and what is left"),
            PointAnswer("bars", "bars or percent alone"),
            PointAnswer("volts", "volts alone"),
            PointAnswer("none", "nothing"),
        ),
    ),
    InspectionPoint(
        slug="counts",
        title="What its display counts",
        asks="Does it count what goes out, or what the battery gives?",
        answers=(
            PointAnswer("output", "what goes out"),
            PointAnswer("battery", "what the battery gives"),
            PointAnswer("unknown", "not said"),
        ),
    ),
    InspectionPoint(
        slug="cooling",
        title="Cooling",
        asks="Is the way of its air free, and which way does it blow?",
        answers=(
            PointAnswer("free", "free on all sides"),
            PointAnswer("one_side", "one side must stay free"),
            PointAnswer(
                "blocked", "easily blocked", "its air is easily blocked: stood free on every side before it is loaded"
            ),
        ),
    ),
    InspectionPoint(
        slug="covers",
        title="Covers",
        asks="Was anything opened, and by whom?",
        answers=(
            PointAnswer("closed", "nothing was opened"),
            PointAnswer("licensed", "opened by those licensed to"),
            PointAnswer(
                "before",
                "opened before, seal broken",
                "somebody has been inside: looked at by those licensed to before it is run",
            ),
        ),
    ),
    InspectionPoint(
        slug="returns",
        title="Return and warranty",
        asks="Who pays for sending it back?",
        answers=(
            PointAnswer("maker", "whoever sold it"),
            PointAnswer("buyer", "the buyer"),
            PointAnswer("unsaid", "not said"),
        ),
    ),
)
"""In the order in which one walks round a unit."""
BY_SLUG: Mapping[str, InspectionPoint] = {point.slug: point for point in POINTS}


@dataclass(frozen=True)
class Inspected:
    """A point as it was answered, with a note and the entry that holds it."""

    point: InspectionPoint
    answer: PointAnswer
    note: str
    seq: int


def answered(point: str, answer: str, note: str = "") -> LookedAt:
    """A point answered.

    Raises
    ------
    UnknownChoice
        If there is no such point or answer.
    """
    if point not in BY_SLUG:
        raise UnknownChoice(f"“{point}”", where="point", want=", ".join(BY_SLUG))
    BY_SLUG[point].answer(answer)
    return LookedAt(point, answer, " ".join(note.split())[:MOST_NOTE])


def text_of(looked: LookedAt) -> str:
    """An answer in words, with its note; its slugs where it is none that is known here."""
    point, answer = _known(looked)
    said = (
        f"{looked.point}: {looked.answer}"
        if answer is None or point is None
        else f"{point.title.lower()}: {answer.label}"
    )
    return f"{said}, {looked.note}" if looked.note else said


def inspected(entries: Iterable[Entry]) -> tuple[Inspected, ...]:
    """The points answered in some entries, each as it was answered last, in the order in which one walks."""
    last: dict[str, Inspected] = {}
    for entry in entries:
        for item in entry.items:
            if isinstance(item, LookedAt):
                point, answer = _known(item)
                if point is not None and answer is not None:
                    last[point.slug] = Inspected(point, answer, item.note, entry.seq)
    return tuple(last[point.slug] for point in POINTS if point.slug in last)


def _known(looked: LookedAt) -> tuple[InspectionPoint | None, PointAnswer | None]:
    """A point and its answer; None where another Muster wrote one that is not known here."""
    point = BY_SLUG.get(looked.point)
    return point, next((item for item in (point.answers if point else ()) if item.slug == looked.answer), None)
