"""What was noticed beside the figures: codes, smells, warm parts, flicker, sockets live when off; and amps nobody gave to a start."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass

from ..quantities import Bound, Grade, Value, plain
from ..sessions import Entry, Event, EventName, Note, Place, Reading, Stat
from ..sessions.log_line.telling import event_text
from ..sessions.replay import Segment
from ..trade.leads import ampacity_a, lead_named
from ..working import Working
from .context import SessionContext
from .finding import Finding, Topic, Warns

TITLES = {
    EventName.CODE: "A code",
    EventName.SMELL: "A smell",
    EventName.WARM: "A warm part",
    EventName.FLICKER: "Flicker",
    EventName.BEEP: "A warning sound",
    EventName.FAN: "The fan",
    EventName.NOISE: "An odd noise",
    EventName.LIVE: "Sockets live when off",
}
"""The events that are told, and what each is called."""
NEEDS = {
    EventName.SMELL: "stop, switch everything off, and find what is hot before it runs again",
    EventName.WARM: "its degrees, read (Endurance)",
    EventName.CODE: "what the booklet says of the code",
}
CORD = ("cord", "lead", "cable", "plug", "socket", "inlet")
"""Parts that carry the load's amps."""
AFTER_S = 120.0
"""What is noticed so soon after a load went belongs to it."""


@dataclass(frozen=True)
class _Noticed:
    """An event, the entries that tell it, and what was carried when it was first seen."""

    event: Event
    seqs: tuple[int, ...]
    carried: Segment | None


def noticed(context: SessionContext) -> tuple[Finding, ...]:
    """What somebody saw, heard or smelled, each with what was carried then; and the highest amps that belong to no start.

    Parameters
    ----------
    context
        The session replayed.

    Returns
    -------
    tuple of Finding
        In the order of the session; the same thing noticed twice is told once.
    """
    return (*(_describe(context, seen) for seen in _events(context)), *_peaks(context))


def _events(context: SessionContext) -> Iterator[_Noticed]:
    kept: dict[tuple[str, str], list[Entry]] = {}
    for entry, event in context.events(*TITLES):
        kept.setdefault((event.name, event.detail.lower()), []).append(entry)
    for (name, _), entries in kept.items():
        event = next(item for item in entries[0].items if isinstance(item, Event) and item.name == name)
        yield _Noticed(event, tuple(entry.seq for entry in entries), _carried(context, entries[0]))


def _carried(context: SessionContext, entry: Entry) -> Segment | None:
    """The stretch whose load was on at an entry, or had just gone: None where no power of it was read."""
    near = [
        segment
        for segment in context.record.segments
        if segment.t0_s <= entry.t_s <= segment.t1_s + AFTER_S and _load_words(context, segment)
    ]
    read = [segment for segment in near if segment.readings[0][0] <= entry.seq]
    return next(reversed(read or near), None)


def _load_words(context: SessionContext, segment: Segment) -> str:
    """What a stretch carried: leg by leg where that was read, else the whole; empty where nothing was."""
    if context.system.legs == 2:
        legs = [(place, segment.place_w(place)) for place in (Place.LEG1, Place.LEG2)]
        said = [f"{plain(w, 'w')} on {place.label}" for place, w in legs if w is not None]
        if said:
            return " and ".join(said)
    total_w = segment.total_w(context.system.legs)
    return "" if total_w is None else plain(total_w, "w")


def _describe(context: SessionContext, seen: _Noticed) -> Finding:
    name, detail = EventName(seen.event.name), seen.event.detail
    words = event_text(seen.event)
    meaning = ""
    needs = NEEDS.get(name, "")
    if name is EventName.CODE and context.source is not None:
        meaning = context.source.owning.meaning_of(detail)
        needs = "" if meaning else needs
    carried = _load_words(context, seen.carried) if seen.carried is not None else ""
    times = f", {len(seen.seqs)} times" if len(seen.seqs) > 1 else ""
    sentence = f"{words[0].upper()}{words[1:]}{f': {meaning}' if meaning else ''}{f', with {carried} last read' if carried else ''}{times}."
    workings: tuple[Working, ...] = ()
    if name is EventName.WARM and seen.carried is not None and any(part in detail.lower() for part in CORD):
        workings = _cord(context, seen.carried)
        sentence += f" {workings[0].result}." if workings else ""
    if name is EventName.LIVE:
        sentence = "Its sockets are live though it is switched off: treat them as live, whatever the switch says."
    return Finding(
        key=f"noticed-{name}-{seen.seqs[0]}",
        topic=Topic.NOTICED,
        title=TITLES[name],
        sentence=sentence,
        value=Value(math.nan, "w", None, None, Grade.B),
        workings=workings,
        seqs=seen.seqs,
        needs=needs,
        warns=Warns.HOT if name is EventName.SMELL else Warns.LIVE if name is EventName.LIVE else None,
    )


def _cord(context: SessionContext, segment: Segment) -> tuple[Working, ...]:
    """The amps that a cord carried against what its size may carry; nothing where either is not known."""
    wires = context.source.wires if context.source is not None else None
    places = (Place.TOTAL,) if context.system.legs == 1 else (Place.LEG1, Place.LEG2)
    powers = [
        w
        for place in places
        if (w := segment.total_w(1) if place is Place.TOTAL else segment.place_w(place)) is not None
    ]
    if wires is None or not wires.lead or not powers:
        return ()
    laid, size = lead_named(wires.lead)
    amps, carries_a = max(powers) / context.system.v_nominal, ampacity_a(size, laid)
    verdict = "more than" if amps > carries_a else "within"
    return (
        Working(
            "amps = watts ÷ nominal volts, against the table of its size",
            f"{plain(max(powers), 'w')} ÷ {plain(context.system.v_nominal, 'v')}",
            f"The lead, {size} {laid.unit}, carried {plain(amps, 'a')}, {verdict} the {plain(carries_a, 'a')} of its table",
            "power factor taken as 1; local code decides",
        ),
    )


def _peaks(context: SessionContext) -> Iterator[Finding]:
    """The highest amps of each place that were read of no start: at least so much was drawn, by whom nobody wrote down."""
    of_starts = {run.seq for run in context.record.starts}
    highest: dict[Place, tuple[int, Reading]] = {}
    for seq, _, _, reading in context.readings("a"):
        if reading.stat is not Stat.HIGHEST or reading.place.is_dc or seq in of_starts:
            continue
        if reading.place not in highest or reading.value > highest[reading.place][1].value:
            highest[reading.place] = seq, reading
    for place, (seq, reading) in highest.items():
        entry = next(entry for entry in context.session.effective if entry.seq == seq)
        said = "; ".join(item.text for item in entry.items if isinstance(item, Note))
        where = f" on {place.label}" if place in (Place.LEG1, Place.LEG2) and context.system.legs == 2 else ""
        by = context.record.kit.instrument_for("a", reading.instrument).name
        va = reading.value * context.system.v_nominal
        yield Finding(
            key=f"peak-{place.value}-{seq}",
            topic=Topic.STARTS,
            title="Highest amps",
            sentence=f"At least {plain(reading.value, 'a')}{where} for a moment{f' ({said})' if said else ''}, "
            f"by {by}: {plain(va, 'va')} at nominal volts, of no single load.",
            value=Value(reading.value, "a", context.record.u(reading), Bound.AT_LEAST, Grade.B),
            workings=(
                Working(
                    "start VA = highest amps × nominal volts",
                    f"{plain(reading.value, 'a')} × {plain(context.system.v_nominal, 'v')}",
                    plain(va, "va"),
                    "of all that was on; nobody wrote down which load it was",
                ),
            ),
            seqs=(seq,),
            needs="the same with one load at a time (Starts)",
        )
