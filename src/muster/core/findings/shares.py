"""How a parallel pair shared each total, and where one of the two meets its limit."""

from __future__ import annotations

from dataclasses import dataclass

from ..errors import MusterError
from ..quantities import Grade, Value, number, plain
from ..sessions import Place
from ..sessions.replay import Segment
from ..sources import Share
from ..trade.pair import PairCapacity, pair_capacity
from ..working import Method, Working, rows_of
from .context import SessionContext
from .finding import Finding, Topic

UNITS = (Place.UNIT_A, Place.UNIT_B)
A_LEAST = 0.2


@dataclass(frozen=True)
class SharesSeen:
    """The shares read, and what follows; ``u_a`` is how unsure the capacity is from the meter [A]."""

    shares: tuple[Share, ...]
    limits_a: tuple[float, float]
    pair: PairCapacity
    u_a: float
    finding: Finding


def _share(segment: Segment) -> tuple[int, Share] | None:
    item, other = (segment.last("a", place) for place in UNITS)
    if item is None or other is None or item.value + other.value < A_LEAST:
        return None
    total = segment.last("a", Place.TOTAL)
    seq = max(seq for seq, _, r in segment.readings if r.place in UNITS)
    return seq, Share(total.value if total else item.value + other.value, item.value, other.value)


def shares(context: SessionContext) -> SharesSeen | None:
    """The share lines of a pair from the amps of each unit at two totals or more; None where they were not read.

    Amps are taken at the supply's whole voltage, as the units' ratings are.
    """
    source = context.source
    read = [item for segment in context.record.segments if (item := _share(segment)) is not None]
    if source is None or len(source.units) != 2 or len(read) < 2:
        return None
    volts = context.system.v_nominal * context.system.legs
    limits = (source.units[0].cont_w / volts, source.units[1].cont_w / volts)
    given = [share for _, share in read]
    try:
        pair = _capacity(given, limits)
    except MusterError:
        return None
    u_a = _unsure(context, given, limits, pair.measured_a)
    return SharesSeen(tuple(given), limits, pair, u_a, _describe(context, read, pair, limits, u_a))


Errs = tuple[float, float, float]
"""What the meters of the first unit, of the other and of the whole may err by, as factors."""


def _capacity(given: list[Share], limits: tuple[float, float], errs: Errs = (1.0, 1.0, 1.0)) -> PairCapacity:
    item, other, total = errs
    return pair_capacity(
        [s.total_a * total for s in given], [s.one_a * item for s in given], [s.other_a * other for s in given], limits
    )


def _unsure(context: SessionContext, given: list[Share], limits: tuple[float, float], measured_a: float) -> float:
    """How far the capacity moves when any of the three meters errs by its accuracy, either way."""
    top = max(share.total_a for share in given)
    err = context.record.kit.u("a", "", top) / top
    moved = [
        abs(_capacity(given, limits, (1 + item * err, 1 + other * err, 1 + total * err)).measured_a - measured_a)
        for item in (-1, 1)
        for other in (-1, 1)
        for total in (-1, 1)
    ]
    return max(moved)


def _describe(
    context: SessionContext, read: list[tuple[int, Share]], pair: PairCapacity, limits: tuple[float, float], u_a: float
) -> Finding:
    assert context.source is not None
    names = [unit.name for unit in context.source.units]
    volts = context.system.v_nominal * context.system.legs
    top = max(read, key=lambda item: item[1].total_a)[1]
    workings = (
        *(
            Working(
                f"amps of {name} = a + b · total",
                ", ".join(
                    f"{number(share.one_a if i == 0 else share.other_a, 'a')} at {number(share.total_a, 'a')}"
                    for _, share in read
                ),
                f"{line.a:.2f} + {line.b:.3f} · total; its limit of {plain(limits[i], 'a')} at {plain((limits[i] - line.a) / line.b, 'a') if line.b > 0 else 'no total'}",
                "least squares",
                rows_of(
                    Method.LINE,
                    ("A in all", f"A of {name}"),
                    ((share.total_a, share.one_a if i == 0 else share.other_a) for _, share in read),
                ),
            )
            for i, (name, line) in enumerate(zip(names, pair.lines, strict=True))
        ),
        Working(
            "another school: twice the smaller", f"2 × {number(min(limits), 'a')}", plain(pair.twice_smaller_a, "a")
        ),
        Working(
            "another school: the sum of the ratings",
            f"{number(limits[0], 'a')} + {number(limits[1], 'a')}",
            plain(pair.sum_a, "a"),
        ),
    )
    beyond = ", followed past what was read" if pair.beyond else ""
    said = (
        f"At {plain(top.total_a, 'a')} in all {names[0]} took {plain(top.one_a, 'a')} and {names[1]} {plain(top.other_a, 'a')}. "
        f"{names[pair.first].capitalize()} meets its rating first, at {plain(pair.measured_a, 'a')} in all ({plain(pair.measured_a * volts, 'w')}){beyond}."
    )
    return Finding(
        key="shares",
        topic=Topic.SHARES,
        title="How the two share",
        sentence=said,
        value=Value(pair.measured_a, "a", u_a, None, Grade.B if pair.beyond else Grade.A),
        workings=workings,
        seqs=tuple(seq for seq, _ in read),
        needs="a total nearer to the limit (Parallel)" if pair.beyond else "",
    )
