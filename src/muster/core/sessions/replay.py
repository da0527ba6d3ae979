"""The bench replayed: from the running record to what is on, what was read, and for how long."""

from __future__ import annotations

from bisect import insort
from collections import deque
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field, replace
from enum import StrEnum
from itertools import pairwise
from typing import Any

from ..kit import Instrument, Kit
from ..loads import Wave
from ..timeline.power import is_same_level
from .model import Entry, Event, EventName, Length, LengthOf, Reading, Session, Start, Switch
from .places import Place, Stat


class EndedBy(StrEnum):
    """What ended a stretch; ``END``: nothing later is known."""

    SWITCH = "switch"
    TRIP = "trip"
    STEP = "step"
    PAUSE = "pause"
    RESUME = "resume"
    LEVEL = "level"
    SET = "set"
    BOG = "bog"
    END = "end"


class Outcome(StrEnum):
    """How a start ended."""

    HELD = "held"
    STALLED = "stalled"
    TRIPPED = "tripped"
    UNKNOWN = "unknown"

    @property
    def failed(self) -> bool:
        """Whether the load did not come to run."""
        return self in (Outcome.STALLED, Outcome.TRIPPED)


ENDS = frozenset({EventName.TRIP, EventName.CUT_OFF})
"""Events after which the output is dead."""
OUTCOMES = {EventName.TRIP: Outcome.TRIPPED, EventName.STALL: Outcome.STALLED, EventName.HELD: Outcome.HELD}
"""Events that say how a start ended, the first that was said."""
LIVE_AGAIN = frozenset({EventName.RESET, EventName.BACK})
"""Events after which it is live."""
PARTS = frozenset({EventName.ADJUST, EventName.SERVICE, EventName.BOG})
"""Events that part what stood before from what stands after: it is another source then, or it gave way meanwhile."""
OPEN_STRETCHES = 2
"""The last of them, and the one before it that may have ended in a trip of which watts are told later."""
TOLD_AFTER_S = 120.0
"""Watts like those it tripped at, written down so soon after, are those it tripped at."""
RAN_LOW_PCT, RAN_LOW_S = 15.0, 1800.0
"""A gauge so low at the last look, under a load that had stood for so long: what then went off had run out. Most stations
keep 5 to 15 % back, and none lets a load go for its watts after half an hour of it."""
RAN_OUT_PCT = 1.0
"""A gauge that shows so little when it goes off: it ran out."""


@dataclass
class Segment:
    """A stretch in which the same loads were on; ``readings`` are (entry seq, seconds, reading)."""

    t0_s: float
    on: tuple[str, ...]
    step: int
    t1_s: float = 0.0
    ended_by: EndedBy = EndedBy.END
    hold_from_s: float | None = None
    readings: list[tuple[int, float, Reading]] = field(default_factory=list)
    trip_detail: str = ""
    ran_out: bool = False
    """Whether it ended because the energy did, or the DC side reached its cut-off: that says nothing of the load."""
    said_s: float | None = None
    """How long it was said to stand until its trip."""
    stood_s: float | None = None
    """When it was last said to stand still, beside its own readings: by the word, or by the hold clock's end."""
    held_for_s: float = 0.0
    """The longest that it was said to have been held."""
    held_for_seq: int = 0
    """The entry that said so."""
    bogged_seq: int = 0
    """The entry that says that it slowed under this load without stopping."""
    levels: dict[tuple[Place, str], list[float]] = field(default_factory=dict)
    """Steady watts read so far by place and instrument, in order of size."""
    drawn: dict[Any, Any] = field(default_factory=dict, init=False, compare=False, repr=False)
    """What was drawn of it, by whatever it hangs on: it changes no more once it is in a record."""
    drawn_before: dict[Any, Any] = field(default_factory=dict, init=False, compare=False, repr=False)
    """What was drawn of the stretch that this one is a copy of, with fewer readings perhaps: to go on from."""
    latest: dict[tuple[str, Place, Stat], Reading] = field(default_factory=dict, init=False, compare=False, repr=False)
    indexed: int = field(default=0, init=False, compare=False, repr=False)
    """The last reading of each quantity at each place among so many of the readings, which are only ever added to."""

    def copied(self) -> Segment:
        """A copy that changes alone."""
        levels = {at: list(read) for at, read in self.levels.items()}
        copy = replace(self, readings=list(self.readings), levels=levels)
        copy.drawn_before = self.drawn
        return copy

    def last(self, quantity: str, place: Place, stat: Stat = Stat.STEADY) -> Reading | None:
        """The last reading of a quantity at a place, None if there is none."""
        if self.indexed > len(self.readings):
            self.latest, self.indexed = {}, 0
        for _, _, reading in self.readings[self.indexed :]:
            self.latest[reading.quantity, reading.place, reading.stat] = reading
        self.indexed = len(self.readings)
        return self.latest.get((quantity, place, stat))

    def place_w(self, place: Place) -> float | None:
        """Watts at a place: read, else volts × amps × power factor, None if not read."""
        read = self.last("w", place)
        if read is not None:
            return read.value
        volts, amps = self.last("v", place), self.last("a", place)
        if volts is None or amps is None:
            return None
        factor = self.last("pf", place)
        return volts.value * amps.value * (factor.value if factor else 1.0)

    def total_w(self, legs: int) -> float | None:
        """Watts of the whole source: read as a total, else the sum of its legs."""
        if legs == 1:
            return self.place_w(Place.LEG1)
        parts = [self.place_w(place) for place in (Place.LEG1, Place.LEG2)]
        known = [part for part in parts if part is not None]
        legs_w = sum(known) if len(known) == len(parts) else None
        read = self.last("w", Place.TOTAL)
        if read is None:
            return legs_w
        return read.value if legs_w is None or self._read_later(Place.TOTAL) else legs_w

    def _read_later(self, place: Place) -> bool:
        """Whether a place's power was read in the last entry that read any."""
        seq = next((seq for seq, _, r in reversed(self.readings) if r.quantity in ("w", "a") and not r.place.is_dc), 0)
        return any(s == seq and r.place is place and r.quantity == "w" for s, _, r in self.readings)

    def first_w_s(self) -> float | None:
        """When power was first read in this stretch."""
        power = {"w", "a"}
        return next((t for _, t, r in self.readings if r.quantity in power and r.stat is Stat.STEADY), None)

    def last_w_s(self) -> float | None:
        """When power was last read in this stretch."""
        power = {"w", "a"}
        return next((t for _, t, r in reversed(self.readings) if r.quantity in power and r.stat is Stat.STEADY), None)

    def held_s(self) -> float:
        """Seconds this load is surely known to have been held.

        From its first power reading, or the hold clock, to its last power reading, to the word that it stood, to the
        end of the hold clock, or to its trip: a note, or a reading of something else, prolongs nothing (physics §11).
        """
        if self.said_s is not None:
            return self.said_s
        first = self.first_w_s()
        starts = [t for t in (first, self.hold_from_s) if t is not None]
        if not starts:
            return 0.0
        whole = self.ended_by is EndedBy.TRIP or self.hold_from_s is not None
        ends = [t for t in (self.last_w_s(), self.stood_s, self.t1_s if whole else None) if t is not None]
        return max(0.0, self.held_for_s, max(ends) - min(starts)) if ends else self.held_for_s


@dataclass(frozen=True)
class StartRun:
    """A start as it was logged: its readings, and how it ended (``held``, ``stalled``, ``tripped``, ``unknown``)."""

    seq: int
    load: str
    hot: bool
    base: tuple[str, ...]
    readings: tuple[Reading, ...]
    outcome: Outcome
    base_w: float | None
    t_s: float = 0.0
    eased: bool = False
    together: tuple[str, ...] = ()
    """The others that started at the same moment: what was read is of all of them, of none alone."""
    said: bool = False
    """Whether its outcome was said, and not only taken from what the volts settled to."""


@dataclass(frozen=True)
class SwitchOn:
    """A load switched on without its start being read: when, and what ran beneath it."""

    seq: int
    t_s: float
    load: str
    base: tuple[str, ...]
    base_w: float | None


@dataclass(frozen=True)
class BenchRecord:
    """A session replayed, and the state it ends in."""

    segments: tuple[Segment, ...]
    starts: tuple[StartRun, ...]
    switched_on: tuple[SwitchOn, ...]
    on: tuple[str, ...]
    step: int
    tripped: bool
    hold_from_s: float | None
    latest: dict[tuple[str, Place], Reading]
    end_s: float
    kit: Kit
    pauses: tuple[tuple[float, float | None], ...] = ()

    @property
    def paused(self) -> bool:
        """Whether the session stands still."""
        return bool(self.pauses) and self.pauses[-1][1] is None

    def ran_s(self, t_s: float) -> float:
        """Seconds run by a time of the session, pauses left out."""
        stood = sum(
            min(t_s, to_s if to_s is not None else t_s) - from_s for from_s, to_s in self.pauses if from_s < t_s
        )
        return t_s - stood

    def read_by(self, quantity: str) -> dict[int, str]:
        """The instrument that a quantity was read by, entry by entry."""
        return {
            seq: reading.instrument
            for segment in self.segments
            for seq, _, reading in segment.readings
            if reading.quantity == quantity
        }

    def u(self, reading: Reading) -> float:
        """Half-width of a reading's uncertainty, from the instrument it names."""
        return self.kit.u(reading.measured, reading.instrument, reading.value, reading.resolution)


@dataclass
class _Replay:
    legs: int
    kit: Kit
    segments: list[Segment] = field(default_factory=list)
    by_loads: dict[frozenset[str], list[Segment]] = field(default_factory=dict)
    """The stretches by what was on, for the base load of a start."""
    starts: list[StartRun] = field(default_factory=list)
    switched_on: list[SwitchOn] = field(default_factory=list)
    latest: dict[tuple[str, Place], Reading] = field(default_factory=dict)
    tripped: bool = False
    hold_from_s: float | None = None
    pauses: list[tuple[float, float | None]] = field(default_factory=list)

    def __post_init__(self) -> None:
        if not self.segments:
            self._open(Segment(t0_s=0.0, on=(), step=0))

    @property
    def now(self) -> Segment:
        return self.segments[-1]

    def copied(self) -> _Replay:
        """The same, to go on with: the stretches that may still change are copies, those before them the same."""
        still_open = {id(segment): segment.copied() for segment in self.segments[-OPEN_STRETCHES:]}
        return replace(
            self,
            segments=[still_open.get(id(segment), segment) for segment in self.segments],
            by_loads={on: [still_open.get(id(s), s) for s in own] for on, own in self.by_loads.items()},
            starts=list(self.starts),
            switched_on=list(self.switched_on),
            latest=dict(self.latest),
            pauses=list(self.pauses),
        )

    def take(self, entry: Entry) -> None:
        self.now.t1_s = max(self.now.t1_s, entry.t_s)
        events = {item.name: item for item in entry.items if isinstance(item, Event)}
        switches = [item for item in entry.items if isinstance(item, Switch)]
        if switches:
            self._switch(switches, entry)
        readings = [item for item in entry.items if isinstance(item, Reading) and item.believable]
        starts = [item for item in entry.items if isinstance(item, Start)]
        if starts:
            self._start(entry, starts, readings, events)
        if starts:
            events.pop(EventName.BOG, None)  # of its dip, and no level's
        if PARTS & set(events):
            self._cut(entry.t_s, EndedBy.BOG if EventName.BOG in events else EndedBy.SET, self.now.on)
        if told := self._told_of_trip(entry, switches, events, readings):
            readings = [reading for reading in readings if reading not in told]
        elif not starts and not switches and self._is_another_level(readings):
            self._cut(self.now.readings[-1][1], EndedBy.LEVEL, self.now.on)
            self.now.t0_s = self.now.t1_s = entry.t_s  # nothing is known of the time between
        self._read(entry, readings, alive=not ENDS & set(events))
        self._mark(entry, events)

    def _is_another_level(self, readings: Iterable[Reading]) -> bool:
        """Whether watts were read that are of another load than those before: something was switched that nobody wrote down."""
        for reading in readings:
            if reading.quantity != "w" or reading.stat is not Stat.STEADY or reading.place.is_dc:
                continue
            read = self.now.levels.get((reading.place, reading.instrument))
            if read and not is_same_level(reading.value, read[len(read) // 2]):
                return True
        return self._is_other_than_the_whole(readings)

    def _is_other_than_the_whole(self, readings: Iterable[Reading]) -> bool:
        """Whether both legs were read that together are another load than the whole read before them."""
        legs = {r.place: r.value for r in readings if r.quantity == "w" and r.stat is Stat.STEADY}
        before = [read for (place, _), read in self.now.levels.items() if place is Place.TOTAL]
        if not before or not {Place.LEG1, Place.LEG2} <= set(legs) or Place.TOTAL in legs:
            return False
        return not is_same_level(legs[Place.LEG1] + legs[Place.LEG2], before[0][len(before[0]) // 2])

    def _told_of_trip(
        self, entry: Entry, switches: list[Switch], events: dict[str, Event], readings: Iterable[Reading]
    ) -> list[Reading]:
        """Watts told after a trip of the load that tripped it, put where they belong: nothing is a level until it is live again.

        A display that still shows the very figures of before shows nothing live, however much later.
        """
        tripped = self.segments[-2] if self.tripped and len(self.segments) > 1 else None
        if tripped is None or switches or LIVE_AGAIN & set(events):
            return []
        if entry.t_s > tripped.t1_s + TOLD_AFTER_S:
            return _unchanged(readings, tripped)
        told = [
            reading
            for reading in readings
            if reading.quantity == "w"
            and (before := tripped.last("w", reading.place)) is not None
            and is_same_level(reading.value, before.value)
        ]
        tripped.readings += [(entry.seq, tripped.t1_s, reading) for reading in told]
        return told

    def _switch(self, switches: Iterable[Switch], entry: Entry) -> None:
        on = list(self.now.on)
        for switch in switches:
            if switch.on and switch.load not in on:
                base = tuple(on)
                self.switched_on.append(SwitchOn(entry.seq, entry.t_s, switch.load, base, self._base_w(base)))
                on.append(switch.load)
            elif not switch.on and switch.load in on:
                on.remove(switch.load)
        if tuple(on) != self.now.on:
            self._cut(entry.t_s, EndedBy.SWITCH, tuple(on))

    def _cut(self, t_s: float, why: EndedBy, on: tuple[str, ...], step: int | None = None) -> None:
        self.now.t1_s, self.now.ended_by = t_s, why
        self._open(Segment(t0_s=t_s, on=on, step=self.now.step if step is None else step, t1_s=t_s))
        self.hold_from_s = None

    def _open(self, segment: Segment) -> None:
        self.segments.append(segment)
        self.by_loads.setdefault(frozenset(segment.on), []).append(segment)

    def _start(self, entry: Entry, starts: list[Start], readings: list[Reading], events: dict[str, Event]) -> None:
        start, loads = starts[0], [start.load for start in starts]
        if any(start.alone for start in starts) and set(self.now.on) - set(loads):
            self._cut(entry.t_s, EndedBy.SWITCH, tuple(key for key in self.now.on if key in loads))
        base = tuple(key for key in self.now.on if key not in loads)
        said_w = [r.value for r in readings if r.quantity == "w" and r.stat is Stat.BEFORE and not r.place.is_dc]
        before = self.latest.get(("v", Place.LEG1)), self.latest.get(("v", Place.LEG2))
        known = [
            Reading(
                quantity="v",
                value=r.value,
                place=r.place,
                stat=Stat.BEFORE,
                instrument=r.instrument,
                resolution=r.resolution,
            )
            for r in before
            if r is not None and not any(x.stat is Stat.BEFORE for x in readings)
        ]
        self.starts.append(
            StartRun(
                seq=entry.seq,
                load=start.load,
                hot=start.hot,
                base=base,
                readings=(*known, *readings),
                outcome=_outcome(events, readings),
                base_w=sum(said_w) if said_w else self._base_w(base),
                t_s=entry.t_s,
                eased=start.eased,
                together=tuple(loads[1:]),
                said=bool(OUTCOMES.keys() & events.keys()),
            )
        )
        added = [key for key in loads if key not in self.now.on]
        if added and _outcome(events, readings) is Outcome.HELD:
            self._cut(entry.t_s, EndedBy.SWITCH, (*self.now.on, *added))

    def _base_w(self, base: tuple[str, ...]) -> float | None:
        """Watts of the base load as last read with just these loads on, None if never read."""
        if not base:
            return 0.0
        alike = reversed(self.by_loads.get(frozenset(base), []))
        return next((w for segment in alike if (w := segment.total_w(self.legs)) is not None), None)

    def _read(self, entry: Entry, readings: list[Reading], *, alive: bool) -> None:
        for reading in _surest_last(readings, self.kit):
            self.now.readings.append((entry.seq, entry.t_s, reading))
            if reading.quantity == "w" and reading.stat is Stat.STEADY and not reading.place.is_dc:
                insort(self.now.levels.setdefault((reading.place, reading.instrument), []), reading.value)
            if reading.stat in (Stat.STEADY, Stat.SETTLED):
                self.latest[(reading.quantity, reading.place)] = reading
            if alive and reading.quantity in ("v", "w") and reading.value > 0:
                self.tripped = False

    def _mark(self, entry: Entry, events: dict[str, Event]) -> None:
        if EventName.HELD in events and not any(isinstance(item, Start) for item in entry.items):
            self.now.stood_s = entry.t_s
        lengths = [item.for_s for item in entry.items if isinstance(item, Length) and item.of is LengthOf.HELD]
        if lengths and any(isinstance(item, Reading) and item.quantity in ("w", "a") for item in entry.items):
            self.now.held_for_s, self.now.held_for_seq = max(
                (self.now.held_for_s, self.now.held_for_seq), *((length, entry.seq) for length in lengths)
            )
        if EventName.BOG in events:
            self.now.bogged_seq = entry.seq
            self._cut(entry.t_s, EndedBy.BOG, self.now.on)
        if EventName.HOLD in events:
            self.hold_from_s = self.now.hold_from_s = entry.t_s
        if LIVE_AGAIN & set(events):
            self.tripped = False
        if ends := [events[name] for name in events if name in ENDS]:
            self._trip(entry, events, ends[0].detail)
        for name in (EndedBy.PAUSE, EndedBy.RESUME):
            if name in events:
                self._pause(entry.t_s, name)
        if EventName.STEP in events:
            self._cut(entry.t_s, EndedBy.STEP, self.now.on, self.now.step + 1)

    def _trip(self, entry: Entry, events: dict[str, Event], detail: str) -> None:
        self.now.trip_detail = detail
        empty = any(
            isinstance(item, Reading) and item.quantity == "soc_pct" and item.value <= RAN_OUT_PCT
            for item in entry.items
        )
        gauge = self.latest.get(("soc_pct", Place.NONE))
        stood_s = entry.t_s - first if (first := self.now.first_w_s()) is not None else 0.0
        low = gauge is not None and gauge.value <= RAN_LOW_PCT and stood_s >= RAN_LOW_S
        self.now.ran_out = empty or low or bool({EventName.EMPTY, EventName.CUT_OFF} & set(events))
        lengths = [item.for_s for item in entry.items if isinstance(item, Length) and item.of is LengthOf.TRIP]
        self.now.said_s = lengths[0] if lengths else None
        back = [item for item in entry.items if isinstance(item, Length) and item.of is LengthOf.BACK]
        self._cut(entry.t_s, EndedBy.TRIP, self.now.on)
        self.tripped = not back and not LIVE_AGAIN & set(events)

    def _pause(self, t_s: float, name: EndedBy) -> None:
        """A pause ends the stretch it falls in, and so does going on: nothing is held across it."""
        standing = bool(self.pauses) and self.pauses[-1][1] is None
        if name is EndedBy.PAUSE and not standing:
            self.pauses.append((t_s, None))
        elif name is EndedBy.RESUME and standing:
            self.pauses[-1] = (self.pauses[-1][0], t_s)
        else:
            return
        self._cut(t_s, name, self.now.on)


def _unchanged(readings: Iterable[Reading], tripped: Segment) -> list[Reading]:
    """The readings of an entry if every one that could show it live is to the digit what stood before the trip; else none."""
    shown = [r for r in readings if r.quantity in ("v", "w") and r.stat is Stat.STEADY]
    before = [tripped.last(r.quantity, r.place) for r in shown]
    same = all(b is not None and b.value == r.value for r, b in zip(shown, before, strict=True))
    return shown if same else []


def _outcome(events: dict[str, Event], readings: Iterable[Reading]) -> Outcome:
    """How a start ended: as said, else held if it settled to a reading, else unknown."""
    for name, outcome in OUTCOMES.items():
        if name in events:
            return outcome
    return Outcome.HELD if any(reading.stat is Stat.SETTLED for reading in readings) else Outcome.UNKNOWN


def _surest_last(readings: Sequence[Reading], kit: Kit) -> Sequence[Reading]:
    """The readings of an entry, of two instruments at one place the surer one last: the last one is gone by, both are kept."""
    instruments: dict[tuple[str, Place], set[str]] = {}
    for reading in readings:
        if reading.stat is Stat.STEADY:
            instruments.setdefault((reading.quantity, reading.place), set()).add(reading.instrument)
    several = {of for of, names in instruments.items() if len(names) > 1}
    if not several:
        return readings

    def doubt(reading: Reading) -> float:
        if reading.stat is not Stat.STEADY or (reading.quantity, reading.place) not in several:
            return 0.0
        return -kit.u(reading.measured, reading.instrument, reading.value, reading.resolution)

    return sorted(readings, key=doubt)


def replay(session: Session, legs: int, wave: Wave = Wave.SINE) -> BenchRecord:
    """Replay a session's effective entries, in the order of their times; figures that cannot be true are left out.

    Switches cut the record into stretches of constant load; a reading belongs
    to the stretch that stands after the switches of its own entry; a trip
    ends a stretch with the readings of its entry inside it.
    """
    run, added = _Replay(legs=legs, kit=session.kit_on(wave)), session.effective
    for kept in tuple(_REPLAYED):
        if kept.of != (legs, wave) or kept.kit is not session.kit:
            continue
        if kept.entries is session.entries:
            return kept.record
        if (new := kept.goes_on_with(session.entries)) is not None:
            run, added = kept.run.copied(), new
            break
    for entry in added:
        run.take(entry)
    record = BenchRecord(
        segments=tuple(run.segments),
        starts=tuple(run.starts),
        switched_on=tuple(run.switched_on),
        on=run.now.on,
        step=run.now.step,
        tripped=run.tripped,
        hold_from_s=run.hold_from_s,
        latest=run.latest,
        end_s=run.now.t1_s,
        kit=run.kit,
        pauses=tuple(run.pauses),
    )
    if session.entries:
        last_s = added[-1].t_s if added else run.now.t1_s
        _REPLAYED.appendleft(
            _Replayed(entries=session.entries, of=(legs, wave), kit=session.kit, record=record, run=run, last_s=last_s)
        )
    return record


@dataclass(frozen=True)
class _Replayed:
    """A record, the very entries it was replayed from, and the replay where it stands, to go on with what comes."""

    entries: tuple[Entry, ...]
    of: tuple[int, Wave]
    kit: tuple[Instrument, ...]
    record: BenchRecord
    run: _Replay
    last_s: float

    def goes_on_with(self, entries: tuple[Entry, ...]) -> tuple[Entry, ...] | None:
        """The entries that came since, None where these are others, or one of them changes what stands before it."""
        count = len(self.entries)
        if len(entries) <= count or entries[0] is not self.entries[0] or entries[count - 1] is not self.entries[-1]:
            return None
        added = entries[count:]
        if any(entry.supersedes is not None or not entry.items for entry in added):
            return None
        times = [self.last_s, *(entry.t_s for entry in added)]
        return added if all(later >= before for before, later in pairwise(times)) else None


MOST_REPLAYED = 8
_REPLAYED: deque[_Replayed] = deque(maxlen=MOST_REPLAYED)
"""The records last replayed, by the very entries they were replayed from: a page asks for the same one several times."""
