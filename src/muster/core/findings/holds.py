"""What was held and for how long, and where it tripped."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass

from ..loads import Load, short_name
from ..quantities import Bound, Grade, Value, duration, plain
from ..sessions import Place
from ..sessions.replay import BenchRecord, EndedBy, Segment
from ..supply import System
from ..working import Working
from .finding import Finding, Topic

RAN_OUT = re.compile(r"\b(empty|flat|out of fuel|ran dry|discharged|low battery|low volts)\b|(?<![\d.,])0\s?%", re.I)
"""What is said of a trip by running out: it says nothing of what the source can carry."""
LEAST_SAID_S = 10.0
"""A shorter stretch is not worth a sentence."""
LIGHTER_SHARE = 0.95
COUNTS_AS_HELD_S = 600.0
"""A level counts as held when it stood at least 10 min (docs/method/entries.md#held)."""


@dataclass(frozen=True)
class Held:
    """A level on a leg or the whole source (``place``) and how long it stood.

    ``tripped`` levels ended with a trip after ``held_s``. ``planned`` levels
    were never read: they are the sum of the loads that were on. ``ran_out``: it
    went off because tank or battery were empty, not for the level.
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

    @property
    def counts(self) -> bool:
        """Whether it stood long enough to count as held."""
        return not self.tripped and self.held_s >= COUNTS_AS_HELD_S


def _places(system: System) -> tuple[Place, ...]:
    return (Place.TOTAL,) if system.legs == 1 else (Place.TOTAL, Place.LEG1, Place.LEG2)


def _place_w(segment: Segment, place: Place, system: System) -> float | None:
    return segment.total_w(system.legs) if place is Place.TOTAL else segment.place_w(place)


def _power_seq(segment: Segment) -> int:
    return next((s for s, _, r in reversed(segment.readings) if r.quantity in ("w", "a", "v")), 0)


def _u_w(record: BenchRecord, segment: Segment, w: float) -> float:
    slug = next((r.instrument for _, _, r in segment.readings if r.quantity == "w"), "")
    return record.kit.u("w", slug, w)


def describe_held(place: Place, w: float, u_w: float, held_s: float, working: Working, seq: int = 0) -> Finding:
    """A level held: at least this much, and what would make it count."""
    where = "" if place is Place.TOTAL else f" on {place.label}"
    needs = (
        "heat settled: run Endurance"
        if held_s >= COUNTS_AS_HELD_S
        else f"a hold of {duration(COUNTS_AS_HELD_S)} or more"
    )
    return Finding(
        key=f"held-{place.value}-{seq}",
        topic=Topic.HELD,
        title=f"Held, {place.label}",
        sentence=f"Held {plain(w, 'w')}{where} for {duration(held_s)}.",
        value=Value(w, "w", u_w, Bound.AT_LEAST, Grade.B),
        workings=(working,),
        seqs=(seq,) if seq else (),
        needs=needs,
    )


def _describe(place: Place, w: float, u_w: float, held_s: float, segment: Segment, *, tripped: bool) -> Finding:
    working = Working(
        "held = end of this load − first power reading in it",
        f"{segment.t1_s:.0f} s − {segment.t1_s - held_s:.0f} s",
        duration(held_s),
        "the time before the first reading is not counted",
    )
    seq = _power_seq(segment)
    if not tripped:
        return describe_held(place, w, u_w, held_s, working, seq)
    where = "" if place is Place.TOTAL else f" on {place.label}"
    after = f" after {duration(held_s)}" if held_s > 0 else ""
    cause = f" ({segment.trip_detail})" if segment.trip_detail else ""
    return Finding(
        key=f"trips-{place.value}-{seq}",
        topic=Topic.TRIPS,
        title=f"Tripped, {place.label}",
        sentence=f"Tripped at {plain(w, 'w')}{where}{after}{cause}.",
        value=Value(w, "w", u_w, grade=Grade.A),
        workings=(working,),
        seqs=(seq,),
    )


def _unread_trip(segment: Segment, loads: Mapping[str, Load]) -> Held:
    """A trip whose watts nobody read: told with the planned sum of what was on, at grade D."""
    w = sum(loads[key].run_w for key in segment.on if key in loads)
    names = ", ".join(short_name(loads[key]) for key in segment.on if key in loads) or "nothing"
    cause = f" ({segment.trip_detail})" if segment.trip_detail else ""
    finding = Finding(
        key=f"trips-unread-{segment.t1_s:.0f}",
        topic=Topic.TRIPS,
        title="Tripped, load not read",
        sentence=f"Tripped with {names} on{cause}; its watts were not read.",
        value=Value(w, "w", grade=Grade.D),
        workings=(Working("sum of the running watts of what was on", names, plain(w, "w"), "the loads"),),
        seqs=(),
        needs="the watts at the moment it trips (Overload)",
    )
    return Held(place=Place.TOTAL, w=w, u_w=0.0, held_s=0.0, tripped=True, seq=0, finding=finding, planned=True)


def holds(record: BenchRecord, system: System, loads: Mapping[str, Load]) -> tuple[Held, ...]:
    """Each stretch of constant load whose watts were read, and how long it was held.

    A hold is at grade B until its heat is known to have settled; a trip point
    is at grade A, or at D where its watts were not read.
    """
    helds = []
    for segment in record.segments:
        held_s = segment.held_s()
        if segment.ended_by is EndedBy.TRIP and _place_w(segment, Place.TOTAL, system) is None:
            helds.append(_unread_trip(segment, loads))
        for place in _places(system):
            w = _place_w(segment, place, system)
            tripped = segment.ended_by is EndedBy.TRIP and not _lighter(segment, place)
            if w is None or w <= 0 or (held_s <= 0 and not tripped):
                continue
            u_w = _u_w(record, segment, w)
            finding = _describe(place, w, u_w, held_s, segment, tripped=tripped)
            ran_out = tripped and (segment.ran_out or bool(RAN_OUT.search(segment.trip_detail)))
            helds.append(
                Held(
                    place=place,
                    w=w,
                    u_w=u_w,
                    held_s=held_s,
                    tripped=tripped,
                    seq=_power_seq(segment),
                    finding=finding,
                    ran_out=ran_out,
                )
            )
    return tuple(helds)


def _lighter(segment: Segment, place: Place) -> bool:
    """Whether a leg carried clearly less than the other: then a trip says nothing of it but that it had held."""
    other = {Place.LEG1: Place.LEG2, Place.LEG2: Place.LEG1}.get(place)
    here, there = segment.place_w(place), segment.place_w(other) if other else None
    return here is not None and there is not None and here < LIGHTER_SHARE * there


def best_held(helds: tuple[Held, ...], place: Place) -> Held | None:
    """The highest level at a place that stood long enough to count."""
    return max((h for h in helds if h.place is place and h.counts), key=lambda h: h.w, default=None)


def lowest_trip(helds: tuple[Held, ...], place: Place) -> Held | None:
    """The lowest level at a place at which the source tripped."""
    read = (h for h in helds if h.place is place and h.tripped and not h.planned and not h.ran_out)
    return min(read, key=lambda h: h.w, default=None)


def worth_saying(helds: tuple[Held, ...]) -> tuple[Held, ...]:
    """Of each place: the highest level that counts, the highest held at all, and every trip."""
    kept: list[Held] = []
    for place in dict.fromkeys(h.place for h in helds):
        standing = [h for h in helds if h.place is place and not h.tripped and h.held_s >= LEAST_SAID_S]
        best = best_held(helds, place)
        highest = max(standing, key=lambda h: (h.w, h.held_s), default=None)
        kept += [h for h in dict.fromkeys((best, highest)) if h is not None]
    return (*kept, *(h for h in helds if h.tripped))
