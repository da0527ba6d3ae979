"""Fuel against load: litres an hour between two looks at the tank."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from ..fits import Line, fit_line
from ..quantities import Grade, Value, duration, number, plain
from ..sessions import Entry, EventName, Length, LengthOf, Reading
from ..working import Method, Working, rows_of
from .context import SessionContext
from .finding import Finding, Topic
from .under_load import under_load

TANK_U = 0.1
"""How far a tank is from what the nameplate says of it, full or dry: a share. Ours."""
SWITCHES_S = 0.001
"""So soon after one load went the next is on. [s]"""
COVERED_SHARE = 0.8
FILLED_FULL = "full"
"""What is said of a tank that was filled to the top."""
TOOK = "took"
"""What is said of a filling to the top whose litres were read: they are what was burnt since the one before."""
SO_FAR = "so far"
"""What is said of litres burnt in all, and not since the last figure."""
LEAST_S, LEAST_L = 600.0, 0.05
"""A shorter stretch, or less fuel, says nothing of an hour's use."""


@dataclass(frozen=True)
class FuelPoint:
    """Litres an hour at a load [W], between two looks at the tank."""

    w: float
    lph: float
    u_lph: float
    seqs: tuple[int, int]
    hours: float

    @property
    def lost_l(self) -> float:
        """What the tank lost meanwhile. [L]"""
        return self.lph * self.hours


@dataclass(frozen=True)
class FuelSeen:
    """The points, and the line ``a + b·P`` through them where there are two loads or more."""

    points: tuple[FuelPoint, ...]
    line: Line | None
    findings: tuple[Finding, ...]


@dataclass(frozen=True)
class TankLook:
    """How much was in the tank: the entry that says so, when [s], litres, and how far they may be out."""

    seq: int
    t_s: float
    litres: float
    u_l: float


def fuel(context: SessionContext) -> FuelSeen | None:
    """Litres an hour between two looks at the tank, each over the mean of what was carried meanwhile.

    Parameters
    ----------
    context
        The session replayed; a full tank and a dry one are looks where the nameplate says what the tank holds.

    Returns
    -------
    FuelSeen or None
        None where no two looks fit together.
    """
    points = [*_filled_up(context), *_said_burnt(context)]
    filled = [entry.t_s for entry, _ in context.events("refill")]
    for first, last in pairwise(looks_at_the_tank(context)):
        used = first.litres - last.litres
        if last.t_s - first.t_s < LEAST_S or used < LEAST_L or any(first.t_s < at <= last.t_s for at in filled):
            continue
        w = mean_w(context, first.t_s, last.t_s)
        if w is None:
            continue
        hours = (context.record.ran_s(last.t_s) - context.record.ran_s(first.t_s)) / 3600
        points.append(FuelPoint(w, used / hours, (first.u_l + last.u_l) / 2 / hours, (first.seq, last.seq), hours))
    if not points:
        return None
    apart = len({round(p.w / 50) for p in points}) >= 2
    line = fit_line([p.w for p in points], [p.lph for p in points]) if apart else None
    return FuelSeen(tuple(points), line, _describe(context, points, line))


def _filled_up(context: SessionContext) -> Iterator[FuelPoint]:
    """What each filling to the top took, over what was carried since the one before."""
    full: Entry | None = None
    for entry, event in context.events("refill"):
        took = next((i for i in entry.items if isinstance(i, Reading) and i.quantity == "fuel_l"), None)
        if full is not None and event.detail == TOOK and took is not None and entry.t_s - full.t_s >= LEAST_S:
            w = mean_w(context, full.t_s, entry.t_s)
            hours = (context.record.ran_s(entry.t_s) - context.record.ran_s(full.t_s)) / 3600
            if w is not None and took.value >= LEAST_L:
                yield FuelPoint(w, took.value / hours, context.record.u(took) / hours, (full.seq, entry.seq), hours)
        full = entry if event.detail in (TOOK, FILLED_FULL) else None


def _said_burnt(context: SessionContext) -> Iterator[FuelPoint]:
    """What was said to be burnt, over what was carried meanwhile: in the time that is said with it, else since the start or the last filling.

    A second figure with no time said is of the whole (``so far``), or, being smaller than the one before, of what came
    since; a greater one may be either, and is left out.
    """
    filled = [entry.t_s for entry, _ in context.events("refill")]
    since_s, so_far_l = _first_live_s(context), 0.0
    for entry, event in context.events("burnt"):
        used = next((i for i in entry.items if isinstance(i, Reading) and i.quantity == "fuel_l"), None)
        lasted = next((i for i in entry.items if isinstance(i, Length) and i.of is LengthOf.HELD), None)
        if used is None:
            continue
        if lasted is not None:
            yield from _burnt_in(context, entry, used.value, max(0.0, entry.t_s - lasted.for_s), used)
            since_s, so_far_l = entry.t_s, used.value
            continue
        refill_s = max((at for at in filled if at <= entry.t_s), default=0.0)
        if refill_s > since_s:
            since_s, so_far_l = refill_s, 0.0
        grown = event.detail == SO_FAR and used.value > so_far_l
        if grown or used.value < so_far_l or not so_far_l:
            litres = used.value - so_far_l if grown else used.value
            yield from _burnt_in(context, entry, litres, since_s, used)
        since_s, so_far_l = entry.t_s, used.value


def _first_live_s(context: SessionContext) -> float:
    """When it was first seen to run: what was written down before that burnt nothing. [s]"""
    return next((t_s for _, t_s, _, r in context.readings("v", "hz", "w", "a", "rpm") if r.value > 0), 0.0)


def _burnt_in(
    context: SessionContext, entry: Entry, litres: float, since_s: float, used: Reading
) -> Iterator[FuelPoint]:
    """The point of so many litres gone since a time [s]; none where that is too little or too short to say anything."""
    hours = (context.record.ran_s(entry.t_s) - context.record.ran_s(since_s)) / 3600
    w = mean_w(context, since_s, entry.t_s)
    if w is not None and hours * 3600 >= LEAST_S and litres >= LEAST_L:
        yield FuelPoint(w, litres / hours, context.record.u(used) / hours, (entry.seq, entry.seq), hours)


def looks_at_the_tank(context: SessionContext) -> list[TankLook]:
    """Looks at the tank in the order of their times: litres read, the tank full, and the tank dry."""
    u = context.record.u
    amounts = {entry.seq for entry, event in context.events("refill") if event.detail == TOOK}
    amounts |= {entry.seq for entry, _ in context.events("burnt")}
    read_l = [(seq, t_s, r) for seq, t_s, _, r in context.readings("fuel_l") if seq not in amounts]
    looks = [TankLook(seq, t_s, r.value, u(r)) for seq, t_s, r in read_l]
    claims = context.source.claims if context.source is not None and context.source.kind.has_engine else None
    if claims is None or claims.tank_l is None:
        return looks
    read = {look.seq for look in looks}  # what stood in the tank then was said
    u_l = TANK_U * claims.tank_l
    for entry, event in context.events("refill", "empty"):
        if entry.seq in read:
            continue
        if event.name == EventName.EMPTY:
            looks.append(TankLook(entry.seq, entry.t_s, 0.0, u_l))
        elif event.detail in (FILLED_FULL, TOOK):
            looks.append(TankLook(entry.seq, entry.t_s, claims.tank_l, u_l))
    return sorted(looks, key=lambda look: (look.t_s, look.seq))


def mean_w(context: SessionContext, t0_s: float, t1_s: float) -> float | None:
    """The mean load between two times: straight between the watts read, 0 where nothing was on.

    Parameters
    ----------
    context
        The session replayed.
    t0_s, t1_s
        From when to when. [s]

    Returns
    -------
    float or None
        None where the watts of more than a fifth of the time are not known. [W]
    """
    samples: dict[float, float] = {}
    unread_s = 0.0
    for segment in context.record.segments:
        read = under_load(segment, lambda stretch: stretch.total_w(context.system.legs), "w", "a")
        own = {t_s: w for _, t_s, r, w in read if r.quantity in ("w", "a") and w is not None}
        if not own and segment.on:
            unread_s += max(0.0, min(t1_s, segment.t1_s) - max(t0_s, segment.t0_s))
            continue
        watts_read = list(own.values()) or [0.0]
        if own or segment.t1_s > segment.t0_s:  # switched at once: it stood from end to end of its stretch
            samples |= {segment.t0_s + SWITCHES_S: watts_read[0]} | own | {segment.t1_s: watts_read[-1]}
    if not samples or unread_s > (1 - COVERED_SHARE) * (t1_s - t0_s):
        return None
    read_s = sorted(samples)
    at_s = np.array([t0_s, *(t_s for t_s in read_s if t0_s < t_s < t1_s), t1_s])
    watts = np.interp(at_s, read_s, [samples[t_s] for t_s in read_s])
    return float(np.trapezoid(watts, at_s)) / (t1_s - t0_s)


def _describe(context: SessionContext, points: Sequence[FuelPoint], line: Line | None) -> tuple[Finding, ...]:
    seqs = tuple(dict.fromkeys(seq for point in points for seq in point.seqs))
    tank = context.source.claims.tank_l if context.source else None
    most = max(points, key=lambda point: point.w)
    said = ", ".join(f"{plain(p.lph, 'lph')} at {plain(p.w, 'w')}" for p in sorted(points, key=lambda p: p.w))
    hours = (
        f"; a tank of {plain(tank, 'l')} lasts {duration(tank / most.lph * 3600)} at {plain(most.w, 'w')}"
        if tank
        else ""
    )
    workings = [
        Working(
            "litres an hour = what the tank lost ÷ hours",
            f"{number(most.lost_l, 'l')} ÷ {most.hours:.3f}",
            plain(most.lph, "lph"),
            f"between two looks at the tank; in all {said}",
        )
    ]
    if line is not None:
        workings.append(
            Working(
                "use = a + b · load",
                f"{line.n} stretches",
                f"{line.a:.2f} L/h + {line.b * 1000:.2f} L/h for each kW",
                "least squares, Willans line",
                rows_of(Method.LINE, ("kW", "L/h"), ((p.w / 1000, p.lph) for p in points)),
            )
        )
    return (
        Finding(
            key="fuel",
            topic=Topic.FUEL,
            title="Fuel",
            sentence=f"It uses {said}{hours}.",
            value=Value(most.lph, "lph", most.u_lph, None, Grade.A),
            workings=tuple(workings),
            seqs=seqs,
            needs="" if line is not None else "the use at another load, to draw the line (Endurance)",
        ),
    )
