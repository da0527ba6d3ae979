"""What was held, and where it tripped, slowed or ran out, as findings."""

from __future__ import annotations

import re
from dataclasses import replace

from ..quantities import Bound, Grade, Value, duration, plain
from ..sessions import Place
from ..sessions.replay import Segment
from ..timeline.power import Stood
from ..working import Working
from .finding import Finding, Topic

COUNTS_AS_HELD_S = 600.0
"""A level counts as held when it stood at least 10 min (docs/method/entries.md#held)."""
RAN_OUT = re.compile(r"\b(empty|flat|out of fuel|ran dry|discharged|low battery|low volts)\b|(?<![\d.,])0\s?%", re.I)
"""What is said of a trip by running out: it says nothing of what the source can carry."""
UNSURE_SHARE, UNSURE_S = 1.1, 2.0
"""How much longer than the sure time, and by how many seconds, the possible time must be to be told."""


def went_empty(segment: Segment) -> bool:
    """Whether a stretch ended because tank or battery did."""
    return segment.ran_out or bool(RAN_OUT.search(segment.trip_detail))


def _of_rating(w: float, rated_w: float | None, place: Place) -> str:
    """How much of the rating a power is, in words; empty where no rating is known."""
    if not rated_w:
        return ""
    whose = "its rating" if place is Place.TOTAL else "its leg's rating"
    return f", {plain(w / rated_w * 100, 'pct')} of {whose}"


def _rating(w: float, rated_w: float | None) -> tuple[Working, ...]:
    if not rated_w:
        return ()
    put_in = f"{plain(w, 'w')} ÷ {plain(rated_w, 'w')}"
    return (Working("share of the rating = power ÷ rating", put_in, plain(w / rated_w * 100, "pct"), "the nameplate"),)


def describe_held(
    place: Place, w: float, u_w: float, held_s: float, working: Working, seq: int = 0, rated_w: float | None = None
) -> Finding:
    """A level held: at least this much, what of the rating it is, and what would make it count."""
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
        sentence=f"Held {plain(w, 'w')}{where} for {duration(held_s)}{_of_rating(w, rated_w, place)}.",
        value=Value(w, "w", u_w, Bound.AT_LEAST, Grade.B),
        workings=(working, *_rating(w, rated_w)),
        seqs=(seq,) if seq else (),
        needs=needs,
    )


def describe_stood(
    place: Place, level: Stood, u_w: float, most_s: float, rated_w: float | None, *, said: bool
) -> Finding:
    """A level held, from the readings that it stands on, or as somebody said it; and how long it can have stood at most."""
    working = Working(
        "the longest sure time at or above it",
        f"{level.held_s:.0f} s, as said" if said else f"{level.t1_s:.0f} s − {level.t0_s:.0f} s",
        duration(level.held_s),
        "the low figure of what was read; from the first reading to the last, the hold clock's end, or the trip",
    )
    finding = describe_held(place, level.w, u_w, level.held_s, working, level.seq, rated_w)
    if not _is_unsure(level.held_s, most_s):
        return finding
    possible = Working(
        "possible time: from the reading or switch before it to the one after",
        f"{level.held_s:.0f} s + {most_s - level.held_s:.0f} s",
        f"{duration(most_s)} at most",
        "the sure time and what may lie on both sides of it; nobody looked, and only the sure time is claimed",
    )
    return replace(finding, workings=(finding.workings[0], possible, *finding.workings[1:]))


def _is_unsure(sure_s: float, most_s: float) -> bool:
    """Whether the possible time is so much longer than the sure one that it is told."""
    return most_s > sure_s * UNSURE_SHARE and most_s - sure_s > UNSURE_S


def describe_trip(
    place: Place, level: Stood, u_w: float, held_s: float, most_s: float, segment: Segment, rated_w: float | None
) -> Finding:
    """A trip at a level: how long after its first reading, and how long it can have stood at most; or that it ran out."""
    said = segment.said_s is not None
    workings = [
        Working(
            "time to the trip = trip − first reading of this load",
            "as it was said" if said else f"{segment.t1_s:.0f} s − {segment.t1_s - held_s:.0f} s",
            duration(held_s),
            "" if said else "the load can have come between its first reading and the one before",
        )
    ]
    unsure = _is_unsure(held_s, most_s)
    if unsure:
        workings.append(
            Working(
                "at most = trip − the last reading, or switch, before this load",
                f"{segment.t1_s:.0f} s − {segment.t1_s - most_s:.0f} s",
                duration(most_s),
            )
        )
    where = "" if place is Place.TOTAL else f" on {place.label}"
    after = f" after {duration(held_s)}" if held_s > 0 else ""
    at_most = f"{',' if after else ' after'} at most {duration(most_s)}" if unsure else ""
    cause = f" ({segment.trip_detail})" if segment.trip_detail else ""
    empty = went_empty(segment)
    share = "" if empty else _of_rating(level.w, rated_w, place)
    return Finding(
        key=f"trips-{place.value}-{level.seq}",
        topic=Topic.TRIPS,
        title=f"{'Ran out' if empty else 'Tripped'}, {place.label}",
        sentence=f"{'Ran out' if empty else 'Tripped'} at {plain(level.w, 'w')}{where}{after}{at_most}{share}{cause}.",
        value=Value(level.w, "w", u_w, grade=Grade.A),
        workings=(*workings, *(() if empty else _rating(level.w, rated_w))),
        seqs=(level.seq,) if level.seq else (),
    )


def describe_unread_trip(names: str, segment: Segment, w: float, *, ran_out: bool) -> Finding:
    """A trip whose watts nobody read, with the loads that were on (``names``, empty where nobody said)."""
    cause = f" ({segment.trip_detail})" if segment.trip_detail else ""
    under = f" with {names} on" if names else "" if ran_out else " under a load that nobody wrote down"
    return Finding(
        key=f"trips-unread-{segment.t1_s:.0f}",
        topic=Topic.TRIPS,
        title="Ran out" if ran_out else "Tripped, load not read",
        sentence=f"It ran out{under}{cause}." if ran_out else f"Tripped{under}{cause}; its watts were not read.",
        value=Value(w, "w", grade=Grade.D),
        workings=(
            Working(
                "what was last read, and the running watts of what was switched on since; at least the sum of what was on",
                names or "not said",
                plain(w, "w"),
                "the loads",
            ),
        ),
        seqs=(),
        needs="" if ran_out else "the watts at the moment it trips (Overload)",
    )


def describe_bog(w: float, u_w: float, seq: int, *, read: bool) -> Finding:
    """It slowed under a load without stopping; ``read`` says whether its watts were."""
    working = Working(
        "the last power read before it" if read else "what was read before, and what was switched on since",
        plain(w, "w"),
        plain(w, "w"),
        "as it was written",
    )
    return Finding(
        key=f"bogged-{seq}",
        topic=Topic.TRIPS,
        title="Slowed under load",
        sentence=f"It bogged at {plain(w, 'w')}: it slowed under the load without stopping.",
        value=Value(w, "w", u_w, Bound.AT_MOST, Grade.A if read else Grade.D),
        workings=(working,),
        seqs=(seq,) if seq else (),
        needs="the same load with hertz and volts read (Ladder)",
    )
