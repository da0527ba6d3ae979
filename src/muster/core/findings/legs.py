"""Imbalance held: what each leg carried, how far their volts came apart, and whether the neutral agrees."""

from __future__ import annotations

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
    amps = [segment.last("a", place) for place in (Place.LEG1, Place.LEG2)]
    findings = [_describe(context, segment, (item, two), pair)]
    if read and amps[0] and amps[1]:
        findings.append(_neutral(context, segment, read.value, context.record.u(read), (amps[0].value, amps[1].value)))
    return LegsSeen((item, two), pair, read.value if read else None, segment.held_s(), tuple(findings))


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
    context: SessionContext, segment: Segment, read_a: float, u_a: float, leg_a: tuple[float, float]
) -> Finding:
    """The neutral read against the difference of the legs: it cannot be less, with power factors alike it is no more."""
    expected = abs(leg_a[0] - leg_a[1])
    u_all = u_a + sum(context.record.kit.u("a", "", a) for a in leg_a)
    working = Working(
        "neutral = |leg 1 amps − leg 2 amps|",
        f"|{number(leg_a[0], 'a')} − {number(leg_a[1], 'a')}| against {number(read_a, 'a')} read",
        plain(expected, "a"),
        "Kirchhoff's current law, like power factors; unlike ones make it more",
    )
    astray = read_a < expected - u_all
    if astray:
        said = f"The neutral carries {plain(read_a, 'a')} where the legs differ by {plain(expected, 'a')}: the rest goes another way. Ask a licensed electrician."
    elif read_a > expected + u_all:
        said = f"The neutral carries {plain(read_a, 'a')}, more than the {plain(expected, 'a')} by which the legs differ: unlike power factors, or harmonics that add in it."
    else:
        said = f"The neutral carries {plain(read_a, 'a')}, as the legs' difference of {plain(expected, 'a')} has it."
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
