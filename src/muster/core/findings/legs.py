"""Imbalance held: what each leg carried, how far their volts came apart, and whether the neutral agrees."""

from __future__ import annotations

import cmath
import math
from dataclasses import dataclass

from ..quantities import Grade, Value, duration, number, plain
from ..sessions import Place
from ..sessions.replay import EndedBy, Segment
from ..working import Working
from .context import SessionContext
from .finding import Finding, Topic, Warns

LEAST_APART_W = 200.0
"""Legs nearer to each other than this are balanced."""
APART_PCT = 8.0
"""Legs whose volts come so far apart, with one above nominal by more than half of it, point at the neutral."""


@dataclass(frozen=True)
class LegsSeen:
    """One stretch with the legs unlike: watts and volts of each, the neutral read [A], None where not read."""

    leg_w: tuple[float, float]
    leg_v: tuple[float, float] | None
    neutral_a: float | None
    held_s: float
    findings: tuple[Finding, ...]
    u_neutral_a: float = 0.0

    @property
    def is_sound(self) -> bool:
        """Whether nothing about it points at the neutral, or at a current that goes another way."""
        return all(finding.warns not in (Warns.NEUTRAL, Warns.STRAY_CURRENT) for finding in self.findings)

    @property
    def apart_w(self) -> float:
        """How unlike the legs were."""
        return abs(self.leg_w[0] - self.leg_w[1])


def legs(context: SessionContext) -> LegsSeen | None:
    """The most unlike the legs were while both were read; None on one leg, or where they never were unlike."""
    if context.system.legs != 2:
        return None
    seen = [each_item for segment in context.record.segments if (each_item := _analyse(context, segment)) is not None]
    return max(seen, key=lambda item: item.apart_w, default=None)


def _analyse(context: SessionContext, segment: Segment) -> LegsSeen | None:
    item, two = segment.place_w(Place.LEG1), segment.place_w(Place.LEG2)
    if item is None or two is None or abs(item - two) < LEAST_APART_W:
        return None
    volts = [segment.last("v", place) for place in (Place.LEG1, Place.LEG2)]
    pair = (volts[0].value, volts[1].value) if volts[0] and volts[1] else None
    read = segment.last("a", Place.NEUTRAL)
    currents = [_current(context, segment, place) for place in (Place.LEG1, Place.LEG2)]
    findings = [_describe(context, segment, (item, two), pair)]
    if read and currents[0] and currents[1]:
        findings.append(_neutral(context, segment, read.value, context.record.u(read), (currents[0], currents[1])))
    return LegsSeen(
        leg_w=(item, two),
        leg_v=pair,
        neutral_a=read.value if read else None,
        held_s=segment.held_s(),
        findings=tuple(findings),
        u_neutral_a=context.record.u(read) if read else 0.0,
    )


@dataclass(frozen=True)
class _Current:
    """A leg's amps with their half-width, and how far they lag its volts [rad]: None where no power factor was read."""

    a: float
    u_a: float
    lag: float | None
    how: str

    @property
    def phasor(self) -> complex:
        """Against its own leg's volts; in step with them where no power factor was read."""
        return cmath.rect(self.a, -(self.lag or 0.0))


def _current(context: SessionContext, segment: Segment, place: Place) -> _Current | None:
    """Amps of a leg: read, else its watts over its volts (nominal where not read) and power factor (1 where not read)."""
    amps, watts, volts, pf = (segment.last(quantity, place) for quantity in ("a", "w", "v", "pf"))
    lag = math.acos(min(1.0, pf.value)) if pf is not None and pf.value > 0 else None
    u = context.record.u
    if amps is not None:
        return _Current(amps.value, u(amps), lag, number(amps.value, "a"))
    if watts is None:
        return None
    v = volts.value if volts is not None and volts.value > 0 else context.system.v_nominal
    factor = pf.value if pf is not None and pf.value > 0 else 1.0
    a = watts.value / (v * factor)
    return _Current(
        a,
        a * (u(watts) / watts.value if watts.value > 0 else 0.0),
        lag,
        f"{plain(watts.value, 'w')} ÷ ({plain(v, 'v')} × {factor:g})",
    )


def neutral_a(leg1: complex, leg2: complex) -> float:
    """What the neutral of a split-phase source carries: the legs' volts are opposed, so their currents subtract. [A]

    References
    ----------
    Kirchhoff's current law, in phasors (physics §2).
    """
    return abs(leg1 - leg2)


def _seq(segment: Segment) -> tuple[int, ...]:
    return tuple(
        dict.fromkeys(seq for seq, _, r in segment.readings if r.place in (Place.LEG1, Place.LEG2, Place.NEUTRAL))
    )


def _describe(
    context: SessionContext, segment: Segment, leg_w: tuple[float, float], leg_v: tuple[float, float] | None
) -> Finding:
    nominal = context.system.v_nominal
    held = f" for {duration(segment.held_s())}" if segment.held_s() else ""
    ended = ", and then it tripped" if segment.ended_by is EndedBy.TRIP else ""
    said = f"With {plain(leg_w[0], 'w')} on leg 1 and {plain(leg_w[1], 'w')} on leg 2 it ran{held}{ended}"
    needs, u_v, warns = "", 0.0, None
    workings = [
        Working(
            "imbalance = leg 1 − leg 2",
            f"{number(leg_w[0], 'w')} − {number(leg_w[1], 'w')}",
            plain(leg_w[0] - leg_w[1], "w"),
        )
    ]
    if leg_v is None:
        return Finding(
            key=f"legs-{segment.t0_s:.0f}",
            topic=Topic.LEGS,
            title="Imbalance",
            sentence=said + "; the volts of both legs were not read.",
            value=Value(abs(leg_w[0] - leg_w[1]), "w", None, None, Grade.A),
            workings=tuple(workings),
            seqs=_seq(segment),
            needs="volts of both legs (Legs)",
        )
    apart = abs(leg_v[0] - leg_v[1])
    u_v = sum(context.record.kit.u("v", "", v) for v in leg_v)
    workings.append(
        Working(
            "volts apart = |leg 1 − leg 2|", f"|{number(leg_v[0], 'v')} − {number(leg_v[1], 'v')}|", plain(apart, "v")
        )
    )
    said += f"; the legs stood at {plain(leg_v[0], 'v')} and {plain(leg_v[1], 'v')}."
    if apart > APART_PCT / 100 * nominal and max(leg_v) > nominal * (1 + APART_PCT / 200):
        said += " The lighter leg rises as the heavier falls: that is how a poor or open neutral looks. Stop, and have it looked at by a licensed electrician."
        needs, warns = "the neutral and its joints, looked at by those licensed to", Warns.NEUTRAL
    return Finding(
        key=f"legs-{segment.t0_s:.0f}",
        topic=Topic.LEGS,
        title="Imbalance",
        sentence=said,
        value=Value(apart, "v", u_v, None, Grade.A),
        workings=tuple(workings),
        seqs=_seq(segment),
        needs=needs,
        warns=warns,
    )


def _neutral(
    context: SessionContext, segment: Segment, read_a: float, u_a: float, legs: tuple[_Current, _Current]
) -> Finding:
    """The neutral read against the phasor difference of the legs: it cannot be less than that; harmonics make it more.

    A leg whose power factor nobody read is taken at 1; it may be like the other's, so that less than the difference of
    the amps alone goes astray for sure.
    """
    known = [current.lag for current in legs if current.lag is not None]
    expected = neutral_a(legs[0].phasor, legs[1].phasor)
    least_a = expected if len(known) == len(legs) else abs(legs[0].a - legs[1].a)
    u_all = u_a + sum(current.u_a for current in legs)
    alike = "" if known else ", like power factors; unlike ones make it more"
    working = Working(
        "neutral = |leg 1 − leg 2|, in phasors",
        f"|{legs[0].how} − {legs[1].how}|",
        plain(expected, "a"),
        f"Kirchhoff's current law{alike}; {number(read_a, 'a')} were read",
    )
    astray = read_a < least_a - u_all
    if astray:
        said = f"The neutral carries {plain(read_a, 'a')} where the legs differ by {plain(least_a, 'a')}: the rest goes another way. Ask a licensed electrician."
    elif read_a > expected + u_all:
        said = f"The neutral carries {plain(read_a, 'a')}, more than the {plain(expected, 'a')} by which the legs differ: {'unlike power factors, or ' if not known else ''}harmonics that add in it."
    else:
        nearer_a = min(least_a, expected, key=lambda a: abs(a - read_a))
        said = f"The neutral carries {plain(read_a, 'a')}, as the legs' difference of {plain(nearer_a, 'a')} has it."
    return Finding(
        key=f"neutral-{segment.t0_s:.0f}",
        topic=Topic.LEGS,
        title="Neutral",
        sentence=said,
        value=Value(read_a, "a", u_a, None, Grade.A),
        workings=(working,),
        seqs=_seq(segment),
        warns=Warns.STRAY_CURRENT if astray else None,
    )
