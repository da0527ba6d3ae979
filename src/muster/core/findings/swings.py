"""How far volts and hertz went for a moment, high or low, when loads came or went: what lines of steady readings do not show."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from ..quantities import Grade, Value, plain
from ..sessions import Place, Reading, Stat
from ..sessions.replay import EndedBy, Segment
from ..working import Working
from .context import SessionContext
from .finding import Finding, Topic

EXTREMES = (Stat.HIGHEST, Stat.LOWEST)
PROVOKED = frozenset({"overload", "cut_offs", "transfer", "set_point", "waveform"})
"""Tests that drive volts and hertz beyond what a home ever would, or set them."""
LEAST_SHARE = {"v": 0.05, "hz": 0.02}
"""An extreme nearer to nominal than this is not worth a sentence. Ours."""


@dataclass(frozen=True)
class SwingSeen:
    """An extreme of volts or hertz outside of a start: on which leg, under how many watts (None where nobody read them)."""

    quantity: str
    value: Value
    highest: bool
    place: Place
    under_w: float | None
    seq: int
    finding: Finding | None = None


def swings(context: SessionContext) -> tuple[SwingSeen, ...]:
    """Every extreme that was read or logged, tests that provoke them and stretches that ended in a trip left out.

    Parameters
    ----------
    context
        A session and what was read off its logs.

    Returns
    -------
    tuple of SwingSeen
        In the order of the record, then of the logs.

    References
    ----------
    physics §10: transients of load steps belong to volts and hertz both.
    """
    if context.session.protocol in PROVOKED:
        return ()
    return (*_typed(context), *_logged(context))


def _typed(context: SessionContext) -> Iterator[SwingSeen]:
    starts = {run.seq for run in context.record.starts}
    before_w: float | None = None
    for segment in context.record.segments:
        here_w = segment.total_w(context.system.legs) if segment.on else before_w
        if segment.ended_by is not EndedBy.TRIP:
            yield from _of_segment(context, segment, starts, before_w, here_w)
        before_w = here_w if here_w is not None else before_w


def _of_segment(
    context: SessionContext, segment: Segment, starts: set[int], before_w: float | None, here_w: float | None
) -> Iterator[SwingSeen]:
    for seq, _, reading in segment.readings:
        if reading.quantity not in LEAST_SHARE or reading.stat not in EXTREMES or reading.place.is_dc or seq in starts:
            continue
        highest = reading.stat is Stat.HIGHEST
        known = [w for w in (before_w, here_w) if w is not None]
        value = Value(reading.value, reading.quantity, context.record.u(reading), None, Grade.A)
        under_w = max(known, default=None)
        place = _placed(context, reading)
        yield SwingSeen(
            quantity=reading.quantity,
            value=value,
            highest=highest,
            place=place,
            under_w=under_w,
            seq=seq,
            finding=_told(context, value, highest, seq, under_w),
        )


def _placed(context: SessionContext, reading: Reading) -> Place:
    """Where it was read: volts that are near those of one leg are of a leg, whatever was taken for granted."""
    both = context.system.legs == 2 and reading.quantity == "v" and reading.place is Place.TOTAL
    return Place.LEG1 if both and reading.value < 1.5 * context.system.v_nominal else reading.place


def _logged(context: SessionContext) -> Iterator[SwingSeen]:
    for log in context.logs:
        for step in log.load_steps:
            for quantity, swing in (("v", step.v), ("hz", step.hz)):
                if swing is None:
                    continue
                value = Value(swing.extreme, quantity, None, None, Grade.A)
                under_w = max(step.before_w, step.after_w)
                place = Place.LEG1 if quantity == "v" else Place.NONE
                yield SwingSeen(
                    quantity=quantity,
                    value=value,
                    highest=swing.extreme > swing.before,
                    place=place,
                    under_w=under_w,
                    seq=0,
                )


def _told(context: SessionContext, value: Value, highest: bool, seq: int, under_w: float | None) -> Finding | None:
    """A sentence, where it went far enough for one; steps of an engine set are told by their class."""
    nominal = context.system.hz if value.unit == "hz" else context.system.v_nominal
    if value.unit == "v" and not highest:
        return None  # told as a dip
    if context.session.protocol == "load_steps" or abs(value.value / nominal - 1) < LEAST_SHARE[value.unit]:
        return None
    what, way = ("Hertz", "rose") if value.unit == "hz" else ("Volts", "rose")
    way = way if highest else "fell"
    under = f", about {plain(under_w, 'w')} coming or going" if under_w else ""
    return Finding(
        key=f"swing-{value.unit}-{seq}",
        topic=Topic.STEPS,
        title=f"{what}, for a moment",
        sentence=f"{what} {way} to {plain(value.value, value.unit)} for a moment{under}.",
        value=value,
        workings=(
            Working(
                "off nominal = (extreme − nominal) ÷ nominal",
                f"({plain(value.value, value.unit)} − {plain(nominal, value.unit)}) ÷ {plain(nominal, value.unit)}",
                plain((value.value / nominal - 1) * 100, "pct"),
                "steps of a set are told by class: load steps",
            ),
        ),
        seqs=(seq,) if seq else (),
    )
