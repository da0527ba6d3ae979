"""A real outage as it was written down: how long there was no power, trips, fuel, charge, the lowest volts read."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass, replace
from itertools import pairwise

from ..quantities import Value, duration, plain
from ..sessions import EventName, Reading
from ..working import Working
from .context import SessionContext
from .finding import Finding, Topic
from .from_logs import interrupted, lowest_logged_v
from .fuel import looks_at_the_tank

TAKES_DOWN = (EventName.TRIP, EventName.EMPTY, EventName.CUT_OFF, EventName.PAUSE)
"""What leaves the home without power."""
BRINGS_BACK = (EventName.RESET, EventName.BACK, EventName.RESUME)
LIVE = ("v", "w", "a", "hz")
LIVE_V_SHARE = 0.5
"""Volts below this share of nominal are no supply, and no lowest of one. Ours."""


@dataclass(frozen=True)
class OutageLived:
    """What came of a real outage, each figure None where nobody wrote it down.

    ``began_at_s`` and ``length_s`` are of the record; ``without_s`` the time without power; ``burnt_l`` what was burnt,
    ``left_pct`` the charge at its end, ``from_pct`` at its beginning; ``on`` the keys of loads that were on.
    """

    length_s: float
    without_s: float
    trips: int
    lowest_v: float | None
    burnt_l: float | None
    from_pct: float | None
    left_pct: float | None
    on: frozenset[str]
    findings: tuple[Finding, ...]


def lived(context: SessionContext) -> OutageLived | None:
    """What came of a real outage.

    Parameters
    ----------
    context
        The session replayed, of the protocol for a real outage.

    Returns
    -------
    OutageLived or None
        None for any other session, and for one of a single moment.
    """
    entries = context.session.effective
    if context.session.protocol != "outage" or not entries:
        return None
    begin_s = min([entries[0].t_s, *(log.span[0] for log in context.logs)])
    end_s = max([*(entry.t_s for entry in entries), *(log.span[1] for log in context.logs)])
    if end_s <= begin_s:
        return None
    spans = joined([*_without(context, end_s), *interrupted(context.logs)])
    charge = [(t_s, reading.value) for _, t_s, _, reading in context.readings("soc_pct")]
    charge = sorted([*charge, *(point for log in context.logs for point in log.charge)])
    logged_v = lowest_logged_v(context.logs)
    volts = [
        reading.value
        for _, _, _, reading in context.readings("v")
        if reading.value > LIVE_V_SHARE * context.system.v_nominal
    ]
    volts += [] if logged_v is None else [logged_v]
    on = frozenset(key for segment in context.record.segments for key in segment.on)
    seen = OutageLived(
        length_s=end_s - begin_s,
        without_s=sum(to_s - from_s for from_s, to_s in spans),
        trips=sum(1 for _ in context.events(EventName.TRIP)),
        lowest_v=min(volts, default=None),
        burnt_l=_burnt_l(context),
        from_pct=charge[0][1] if charge else None,
        left_pct=charge[-1][1] if len(charge) > 1 else None,
        on=on,
        findings=(),
    )
    seqs = tuple(entry.seq for entry, _ in context.events(*TAKES_DOWN, *BRINGS_BACK))
    return replace(seen, findings=(_finding(seen, len(spans), seqs),))


def _without(context: SessionContext, end_s: float) -> Iterator[tuple[float, float]]:
    """When there was no power: from what took it to what brought it back, or to the next reading of a live source."""
    live_s = sorted(t_s for _, t_s, _, reading in context.readings(*LIVE) if reading.value > 0)
    back_s = sorted({entry.t_s for entry, _ in context.events(*BRINGS_BACK)})
    until_s = float("-inf")
    for entry, _ in context.events(*TAKES_DOWN):
        if entry.t_s < until_s:
            continue
        until_s = min([at for at in (*live_s, *back_s) if at > entry.t_s], default=end_s)
        if until_s > entry.t_s:
            yield entry.t_s, until_s


def joined(spans: Iterable[tuple[float, float]]) -> list[tuple[float, float]]:
    """Spans in order, those that touch or overlap made one: two legs, or a log and a line, tell of the same break."""
    result: list[tuple[float, float]] = []
    for first, last in sorted(spans):
        if result and first <= result[-1][1]:
            result[-1] = (result[-1][0], max(result[-1][1], last))
        else:
            result.append((first, last))
    return result


def _burnt_l(context: SessionContext) -> float | None:
    """What the tank lost between looks, fillings apart, and what was said to be burnt; None where neither was written down."""
    looks = looks_at_the_tank(context)
    filled = [entry.t_s for entry, _ in context.events(EventName.REFILL)]
    falls = [
        first.litres - last.litres
        for first, last in pairwise(looks)
        if last.litres < first.litres and not any(first.t_s < at <= last.t_s for at in filled)
    ]
    if falls:
        return sum(falls)
    said = [
        item.value
        for entry, _ in context.events(EventName.BURNT)
        for item in entry.items
        if isinstance(item, Reading) and item.quantity == "fuel_l"
    ]
    return max(said, default=None)


def _finding(seen: OutageLived, times: int, seqs: tuple[int, ...]) -> Finding:
    live_s = seen.length_s - seen.without_s
    said = f"Power for {duration(live_s)} of {duration(seen.length_s)}"
    if times:
        said += f"; without it {times} time{'s' if times > 1 else ''}, {duration(seen.without_s)} in all"
    more = [f"{plain(seen.burnt_l, 'l')} burnt"] if seen.burnt_l is not None else []
    if seen.from_pct is not None and seen.left_pct is not None:
        more.append(f"charge from {plain(seen.from_pct, 'pct')} to {plain(seen.left_pct, 'pct')}")
    if seen.lowest_v is not None:
        more.append(f"{plain(seen.lowest_v, 'v')} the lowest read")
    share = live_s / seen.length_s
    return Finding(
        key="outage",
        topic=Topic.OUTAGE,
        title="A real outage",
        sentence=f"{said}{'; ' if more else ''}{', '.join(more)}.",
        value=Value(share * 100, "pct", None),
        workings=(
            Working(
                "share with power = (length − time without) / length",
                f"({duration(seen.length_s)} − {duration(seen.without_s)}) / {duration(seen.length_s)}",
                plain(share * 100, "pct"),
                "the record of the outage, from its first line to its last",
            ),
        ),
        seqs=seqs,
    )
