"""What was held and for how long, and where it tripped."""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from itertools import groupby, zip_longest

from ..kit import Kit
from ..loads import Load, short_name
from ..quantities import Bound, Grade, Value
from ..sessions import Place, Reading, Stat
from ..sessions.replay import BenchRecord, EndedBy, Outcome, Segment
from ..supply import System
from ..timeline.power import (
    PowerSample,
    Stood,
    fell,
    is_same_level,
    joined,
    stood,
    stood_before,
    until,
    whole_stretches,
)
from .finding import Finding
from .holds_told import COUNTS_AS_HELD_S, describe_bog, describe_stood, describe_trip, describe_unread_trip, went_empty

LEAST_SAID_S = 10.0
"""A shorter stretch is not worth a sentence."""
LIGHTER_SHARE = 0.95
LOGGED_WITHIN_S = 20.0
"""A trip as it was typed and as a log shows it: a thumb and two clocks apart."""

Logged = Mapping[Place, Sequence[Sequence[PowerSample]]]
"""Power as a log recorded it, by place: a run for each stretch without a gap."""


@dataclass(frozen=True)
class Held:
    """A level on a leg or the whole source (``place``) and how long it stood.

    ``tripped`` levels ended with a trip after ``held_s``. ``planned`` levels
    were never read: they are the sum of the loads that were on. ``ran_out``: it
    went off because tank or battery were empty, not for the level. ``bogged``: it
    slowed under the level without stopping. ``taken``: amps were read, and a power
    factor of 1 was taken.
    """

    place: Place
    w: float
    u_w: float
    held_s: float
    tripped: bool
    seq: int
    finding: Finding
    planned: bool = False
    ran_out: bool = False
    bogged: bool = False
    taken: bool = False
    va: float = 0.0
    """What it was in VA at the least. [VA]"""
    most_s: float = 0.0
    """How long it can have stood at most: to the reading, or the switch, before it. [s]"""
    measured_w: float | None = None
    """What was read, where ``w`` is what is left of it under other conditions. [W]"""
    here_w: float | None = None
    """What a hold would be under the brief's kinder conditions, by reckoning alone; None where they are no kinder. [W]"""

    @property
    def counts(self) -> bool:
        """Whether it stood long enough to count as held."""
        return self.was_held and self.held_s >= COUNTS_AS_HELD_S

    @property
    def was_held(self) -> bool:
        """Whether it was carried for as long as it stood: nothing tripped, or what ended it was an empty battery or tank."""
        return not self.bogged and not self.planned and (self.ran_out or not self.tripped)


def _places(system: System) -> tuple[Place, ...]:
    return (Place.TOTAL,) if system.legs == 1 else (Place.TOTAL, Place.LEG1, Place.LEG2)


@dataclass(frozen=True)
class _Around:
    """What a level is told by: half-around by the instruments that read it, the rating of its place, what was before it."""

    kit: Kit
    read_by: Mapping[int, str]
    rated_w: Mapping[Place, float]
    moments_s: Sequence[float]
    """When any power was read, and when anything was switched, in order: a load had not come before the last of these."""
    start_trips_s: frozenset[float] = frozenset()
    """When a start took the source down: the level beneath it was not what tripped."""

    def u_w(self, seq: int, w: float) -> float:
        """Of a power that an entry told. [W]"""
        return self.kit.u("w", self.read_by.get(seq, ""), w)

    def since_s(self, t_s: float) -> float:
        """The earliest that a load can have come that was first read at a time. [s]"""
        index = bisect_left(self.moments_s, t_s)
        return self.moments_s[index - 1] if index else t_s

    def until_s(self, t_s: float) -> float:
        """The latest that a load can have stood that was last read at a time. [s]"""
        index = bisect_right(self.moments_s, t_s)
        return self.moments_s[index] if index < len(self.moments_s) else t_s


GOES_ON = frozenset({EndedBy.SWITCH, EndedBy.LEVEL, EndedBy.STEP, EndedBy.BOG})
"""What ends a stretch and takes no load off."""


def unread_w(segments: Sequence[Segment], segment: Segment, loads: Mapping[str, Load], legs: int) -> float:
    """What a stretch most likely drew whose watts nobody read.

    Parameters
    ----------
    segments
        The record's, in order.
    segment
        The stretch, one of them.
    loads
        Of the home, by key.
    legs
        Of the supply.

    Returns
    -------
    float
        The planned watts of what was on; no less than what was last read with
        less on, and what was switched on since by its planned watts. [W]
    """
    planned_w = sum(loads[key].run_w for key in segment.on if key in loads)
    later = segment
    for before in reversed(segments[: next(i for i, other in enumerate(segments) if other is segment)]):
        if set(before.on) - set(later.on) or before.ended_by not in GOES_ON:
            break
        read_w = before.total_w(legs)
        if read_w is not None:
            added_w = sum(loads[key].run_w for key in set(segment.on) - set(before.on) if key in loads)
            return max(planned_w, read_w + added_w)
        later = before
    return planned_w


def _unread_trip(segment: Segment, loads: Mapping[str, Load], w: float) -> Held:
    """A trip whose watts nobody read, at grade D."""
    names = ", ".join(short_name(loads[key]) for key in segment.on if key in loads)
    ran_out = went_empty(segment)
    finding = describe_unread_trip(names, segment, w, ran_out=ran_out)
    return Held(
        place=Place.TOTAL, w=w, u_w=0.0, held_s=0.0, tripped=True, seq=0, finding=finding, planned=True, ran_out=ran_out
    )


@dataclass(frozen=True)
class _Run:
    """Samples of one place between which nothing can have come, and the stretch whose trip ended them."""

    samples: tuple[PowerSample, ...]
    tripped: Segment | None = None


def holds(
    record: BenchRecord,
    system: System,
    loads: Mapping[str, Load],
    logged: Sequence[Logged] = (),
    waiting: frozenset[int] = frozenset(),
    rated_w: Mapping[Place, float] | None = None,
) -> tuple[Held, ...]:
    """What was held, and for how long: of each run of readings every power with the longest sure time at or above it.

    A hold is at grade B until its heat is known to have settled; a trip point
    is at grade A, or at D where its watts were not read.

    Parameters
    ----------
    record
        The session replayed.
    system
        Volts, hertz and legs.
    loads
        Of the home, by key: a trip whose watts were not read is told with what was planned.
    logged
        Power as it was recorded meanwhile: of a trip they know the watts to the last second.
    waiting
        Entries flagged as misread that nobody confirmed: nothing was held by them.

    rated_w
        What the nameplate claims for each place, where there is one. [W]

    Returns
    -------
    tuple of Held
        By place, in the order of the session.

    References
    ----------
    physics §11; docs/method/entries.md#held.
    """
    record = _without(record, waiting)
    at_starts = frozenset(_start_trips_s(record, system, loads))
    helds = [
        _unread_trip(run.tripped, loads, unread_w(record.segments, run.tripped, loads, system.legs))
        for run in _runs(record, Place.TOTAL, system, loads)
        if run.tripped is not None
        and run.tripped.t1_s not in at_starts
        and not run.samples
        and _logged_trip(logged, Place.TOTAL, run.tripped) is None
    ]
    around = _Around(
        kit=record.kit,
        read_by=record.read_by("w"),
        rated_w=rated_w or {},
        moments_s=_moments_s(record),
        start_trips_s=at_starts,
    )
    for place in _places(system):
        for run in _runs(record, place, system, loads):
            helds += _helds(around, place, run, logged)
        helds += _said(record, around, place, system, loads)
    helds += _bogged(record, around, system, loads)
    return tuple(helds)


def _start_trips_s(record: BenchRecord, system: System, loads: Mapping[str, Load]) -> Iterator[float]:
    """When the start of a motor took the source down; what has no start of its own tripped it by its level. [s]"""
    for run in record.starts:
        load = loads.get(run.load)
        if run.outcome is Outcome.TRIPPED and load is not None and load.has_start(system.hz):
            yield run.t_s


def _moments_s(record: BenchRecord) -> list[float]:
    """When a power was read, or anything but the level itself ended a stretch; in order."""
    read = {
        t_s
        for segment in record.segments
        for _, t_s, r in segment.readings
        if r.quantity in ("w", "a") and not r.place.is_dc
    }
    ended = {segment.t1_s for segment in record.segments if segment.ended_by not in (EndedBy.LEVEL, EndedBy.END)}
    return sorted(read | ended | {0.0})


def _without(record: BenchRecord, waiting: frozenset[int]) -> BenchRecord:
    """The record with no power read in entries that wait to be confirmed."""
    if not waiting:
        return record
    segments = [
        replace(
            segment, readings=[r for r in segment.readings if r[0] not in waiting or r[2].quantity not in ("w", "a")]
        )
        for segment in record.segments
    ]
    return replace(record, segments=tuple(segments))


def _helds(around: _Around, place: Place, run: _Run, logged: Sequence[Logged]) -> Iterator[Held]:
    seq = run.samples[-1].seq if run.samples else 0
    segment = run.tripped if run.tripped is not None and not _lighter(run.tripped, place) else None
    if segment is not None and segment.t1_s in around.start_trips_s:
        segment = None
    last = stood_before(run.samples, segment.t1_s) if segment is not None else None
    if segment is not None and (seen := _logged_trip(logged, place, segment)) is not None:
        last, seq = seen, 0
    for level in stood(run.samples):
        if level.w <= 0 or (last is not None and level.t1_s >= last.t1_s and is_same_level(level.w, last.w)):
            continue  # of the load that tripped it: that is told once
        yield _held(around, place, level, said=False)
    if segment is None or last is None or last.w <= 0:
        return
    u_w = around.u_w(seq, last.w)
    held_s = last.held_s if segment.said_s is None else segment.said_s
    most_s = held_s if segment.said_s is not None or seq == 0 else segment.t1_s - around.since_s(last.t0_s)
    finding = describe_trip(place, last, u_w, held_s, most_s, segment, around.rated_w.get(place))
    yield Held(
        place=place,
        w=last.w,
        u_w=u_w,
        held_s=held_s,
        tripped=True,
        seq=seq,
        finding=finding,
        ran_out=went_empty(segment),
        va=last.va,
        most_s=most_s,
    )


def _logged_trip(logged: Sequence[Logged], place: Place, segment: Segment) -> Stood | None:
    """What a log shows that a trip fell from, None if no log saw it."""
    falls = (fell(run, segment.t1_s, LOGGED_WITHIN_S) for powers in logged for run in powers.get(place, ()))
    return next((level for level in falls if level is not None), None)


def _held(around: _Around, place: Place, level: Stood, *, said: bool) -> Held:
    u_w = around.u_w(level.seq, level.w)
    surely = said or level.seq == 0
    most_s = level.held_s if surely else around.until_s(level.t1_s) - around.since_s(level.t0_s)
    finding = describe_stood(place, level, u_w, most_s, around.rated_w.get(place), said=said)
    if level.taken:
        finding = replace(
            finding,
            sentence=f"{finding.sentence[:-1]}, if its power factor was 1: amps were read.",
            value=Value(level.w, "w", u_w, Bound.AT_MOST, Grade.C),
            needs="watts, or the power factor, or which loads were on",
        )
    return Held(
        place=place,
        w=level.w,
        u_w=u_w,
        held_s=level.held_s,
        va=level.va,
        most_s=most_s,
        tripped=False,
        seq=level.seq,
        finding=finding,
        taken=level.taken,
    )


def _said(
    record: BenchRecord, around: _Around, place: Place, system: System, loads: Mapping[str, Load]
) -> Iterator[Held]:
    """Levels that were said to have been held for so long."""
    for segment in record.segments:
        if segment.held_for_s <= 0:
            continue
        for sample in _samples(segment, place, system, loads):
            if sample.seq == segment.held_for_seq:
                began_s = sample.t_s - segment.held_for_s
                va = max(sample.w, sample.va)
                level = Stood(w=sample.w, t0_s=began_s, t1_s=sample.t_s, seq=sample.seq, taken=sample.taken, va=va)
                yield _held(around, place, level, said=True)
                break


def _runs(record: BenchRecord, place: Place, system: System, loads: Mapping[str, Load]) -> Iterator[_Run]:
    """The samples of a place, cut where something went off, was set, paused or tripped."""
    chain: list[list[PowerSample]] = []
    stretch: list[PowerSample] = []
    for segment, following in zip_longest(record.segments, record.segments[1:]):
        stretch += _watched(segment, _samples(segment, place, system, loads))
        if segment.ended_by is EndedBy.STEP and following is not None and following.on == segment.on:
            continue
        tripped = segment if segment.ended_by is EndedBy.TRIP else None
        chain += whole_stretches(until(stretch, segment.t1_s) if tripped else stretch)
        if tripped and not stretch:
            yield from (_Run(tuple(run)) for run in joined(chain))
            yield _Run((), tripped)
            chain = []
        elif following is None or _parts(segment, following):
            *before, last = joined(chain) or [[]]
            yield from (_Run(tuple(run)) for run in before)
            yield _Run(tuple(last), tripped)
            chain = []
        stretch = []


def _parts(segment: Segment, following: Segment) -> bool:
    """Whether nothing that was held before can be held after."""
    went_off = bool(set(segment.on) - set(following.on))
    return went_off or segment.ended_by not in GOES_ON - {EndedBy.BOG}


def _watched(segment: Segment, samples: list[PowerSample]) -> list[PowerSample]:
    """The samples of a stretch, and the moments beside them at which somebody saw that it stood."""
    if not samples:
        return []
    if segment.hold_from_s is not None:
        if segment.hold_from_s < samples[0].t_s:
            samples = [replace(samples[0], t_s=segment.hold_from_s), *samples]
        samples = until(samples, segment.t1_s)
    return until(samples, segment.stood_s) if segment.stood_s is not None else samples


def _samples(segment: Segment, place: Place, system: System, loads: Mapping[str, Load]) -> list[PowerSample]:
    """Watts at a place, each as it was read: itself, or volts × amps × power factor; drawn once of each stretch."""
    pf = _planned_pf([loads[key] for key in segment.on if key in loads])
    key = ("power", place, system.legs, pf)
    drawn: _Drawn | None = segment.drawn.get(key)
    if drawn is None:
        before: _Drawn | None = segment.drawn_before.get(key)
        drawn = before.copied() if before is not None and before.leads_to(segment.readings) else _Drawn()
        drawn.take(segment.readings[drawn.count :], place, system, pf)
        segment.drawn[key] = drawn
    return list(drawn.samples)


@dataclass
class _Drawn:
    """Samples drawn of a stretch so far, and what the next ones hang on: a stretch that grows is not drawn again from its beginning."""

    samples: list[PowerSample] = field(default_factory=list)
    count: int = 0
    last: tuple[int, float, Reading] | None = None
    seen: dict[tuple[str, Place], Reading] = field(default_factory=dict)
    read_s: dict[Place, float] = field(default_factory=dict)

    def copied(self) -> _Drawn:
        """The same, to go on with."""
        return replace(self, samples=list(self.samples), seen=dict(self.seen), read_s=dict(self.read_s))

    def leads_to(self, readings: Sequence[tuple[int, float, Reading]]) -> bool:
        """Whether readings are those that were drawn, with whole entries added to them."""
        if not self.count or len(readings) < self.count or readings[self.count - 1] is not self.last:
            return False
        return len(readings) == self.count or readings[self.count][0] != readings[self.count - 1][0]

    def take(
        self, readings: Sequence[tuple[int, float, Reading]], place: Place, system: System, pf: float | None
    ) -> None:
        """Draw what was read after."""
        seen, read_s = self.seen, self.read_s
        for seq, group in groupby(readings, key=lambda read: read[0]):
            now: set[tuple[str, Place]] = set()
            for _, at_s, reading in group:
                t_s = at_s
                if reading.stat is Stat.STEADY:
                    seen[reading.quantity, reading.place] = reading
                    now.add((reading.quantity, reading.place))
                    read_s[reading.place] = at_s
            w = _watts(seen, now, place, system, pf or 1.0)
            if w is None:
                continue
            taken = pf is None and _by_amps(seen, place, system)
            if place is Place.TOTAL and system.legs == 2 and ("w", place) not in now:
                # Both stood when the older was read.
                t_s = min(read_s.get(leg, t_s) for leg in (Place.LEG1, Place.LEG2))
            self.samples.append(PowerSample(t_s, w, seq, taken, _va(seen, now, place, system, w, pf)))
        self.count += len(readings)
        self.last = readings[-1] if readings else self.last


def _watts(
    seen: Mapping[tuple[str, Place], Reading], now: set[tuple[str, Place]], place: Place, system: System, pf: float
) -> float | None:
    """Watts at a place, if any of it was read just now; of the whole source both legs."""
    if place is Place.TOTAL and system.legs == 1:
        place = Place.LEG1
    if place is Place.TOTAL:
        if ("w", place) in now:
            return seen["w", place].value
        legs = (Place.LEG1, Place.LEG2)
        if not any((quantity, leg) in now for quantity in ("w", "a") for leg in legs):
            return None
        parts = [_leg_watts(seen, leg, pf) for leg in legs]
        known = [part for part in parts if part is not None]
        return sum(known) if len(known) == len(parts) else None
    return _leg_watts(seen, place, pf) if {("w", place), ("a", place)} & now else None


def _va(
    seen: Mapping[tuple[str, Place], Reading],
    now: set[tuple[str, Place]],
    place: Place,
    system: System,
    w: float,
    pf: float | None,
) -> float:
    """VA at a place: by the amps read with the watts, else by the power factor read, or that of the loads that were on; else 0."""
    places = (Place.LEG1, Place.LEG2)[: system.legs] if place is Place.TOTAL else (place,)
    if all(("a", leg) in now and ("v", leg) in seen for leg in places):
        return sum(seen["v", leg].value * seen["a", leg].value for leg in places)
    if all(("pf", leg) in seen and ("w", leg) in seen for leg in places):
        return sum(seen["w", leg].value / seen["pf", leg].value for leg in places if seen["pf", leg].value > 0)
    return w / pf if pf else 0.0


def _leg_watts(seen: Mapping[tuple[str, Place], Reading], leg: Place, pf: float) -> float | None:
    if ("w", leg) in seen:
        return seen["w", leg].value
    volts, amps, factor = seen.get(("v", leg)), seen.get(("a", leg)), seen.get(("pf", leg))
    if volts is None or amps is None:
        return None
    return volts.value * amps.value * (factor.value if factor else pf)


def _planned_pf(on: Sequence[Load]) -> float | None:
    """The power factor of the loads that were on, by what is known of them; None where nobody said what was on."""
    va = sum(load.run_va for load in on)
    return sum(load.run_w for load in on) / va if va > 0 else None


def _by_amps(seen: Mapping[tuple[str, Place], Reading], place: Place, system: System) -> bool:
    """Whether watts at a place are volts times amps, and nobody read the power factor."""
    if place is Place.TOTAL and ("w", place) in seen:
        return False
    legs = (Place.LEG1, Place.LEG2)[: system.legs] if place is Place.TOTAL else (place,)
    return any(("w", leg) not in seen and ("pf", leg) not in seen for leg in legs)


def _bogged(record: BenchRecord, around: _Around, system: System, loads: Mapping[str, Load]) -> Iterator[Held]:
    """Each time it slowed under its load without stopping: at what was read then, else at what was on by the plan."""
    previous: Segment | None = None
    for segment in record.segments:
        if seq := segment.bogged_seq:
            read = _samples(segment, Place.TOTAL, system, loads)
            if not read and previous is not None and previous.on == segment.on:
                read = _samples(previous, Place.TOTAL, system, loads)
            w = read[-1].w if read else unread_w(record.segments, segment, loads, system.legs)
            u_w = around.u_w(read[-1].seq, w) if read else 0.0
            finding = describe_bog(w, u_w, seq, read=bool(read))
            yield Held(
                place=Place.TOTAL, w=w, u_w=u_w, held_s=0.0, tripped=False, seq=seq, finding=finding, bogged=True
            )
        previous = segment


def _lighter(segment: Segment, place: Place) -> bool:
    """Whether a leg carried clearly less than the other: then a trip says nothing of it but that it had held."""
    other = {Place.LEG1: Place.LEG2, Place.LEG2: Place.LEG1}.get(place)
    here, there = segment.place_w(place), segment.place_w(other) if other else None
    return here is not None and there is not None and here < LIGHTER_SHARE * there


def best_held(helds: tuple[Held, ...], place: Place) -> Held | None:
    """The highest level at a place that stood long enough to count."""
    return max((h for h in helds if h.place is place and h.counts), key=lambda h: h.w, default=None)


def best_held_va(helds: tuple[Held, ...], place: Place) -> Held | None:
    """The level at a place that stood long enough to count with the most VA, each no less than its watts."""
    return max((h for h in helds if h.place is place and h.counts), key=lambda h: h.va, default=None)


def lowest_trip(helds: tuple[Held, ...], place: Place) -> Held | None:
    """The lowest level at a place at which the source tripped."""
    read = (h for h in helds if h.place is place and h.tripped and not h.planned and not h.ran_out)
    return min(read, key=lambda h: h.w, default=None)


def worth_saying(helds: tuple[Held, ...]) -> tuple[Held, ...]:
    """Of each place: the highest level that counts, the highest held at all, and every trip."""
    kept: list[Held] = []
    for place in dict.fromkeys(h.place for h in helds):
        standing = [h for h in helds if h.place is place and not (h.tripped or h.bogged) and h.held_s >= LEAST_SAID_S]
        best = best_held(helds, place)
        highest = max(standing, key=lambda h: (h.w, h.held_s), default=None)
        kept += [h for h in dict.fromkeys((best, highest)) if h is not None]
    ended = (h for h in helds if h.tripped or h.bogged)
    kept += [h for h in ended if not (h.ran_out and h.planned and h.w <= 0)]  # its run tells that it ran out
    return tuple(dict.fromkeys(kept))
