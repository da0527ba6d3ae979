"""What a unit was found to be by hand and eye, with what must be minded of it."""

from __future__ import annotations

from dataclasses import dataclass

from ..quantities import Grade, Value
from ..sessions.inspection import InspectionPoint, PointAnswer, inspected
from ..working import Working
from .context import SessionContext
from .finding import Finding, Topic, Warns

WARN = {("live_off", "live"): Warns.LIVE}


@dataclass(frozen=True)
class PointSeen:
    """A point of an inspection as it was answered."""

    point: InspectionPoint
    answer: PointAnswer
    note: str
    finding: Finding


def points_seen(context: SessionContext) -> tuple[PointSeen, ...]:
    """Every point that was answered, as it was answered last.

    Parameters
    ----------
    context
        The session replayed; of any protocol: what was looked at counts wherever it was written down.

    Returns
    -------
    tuple of PointSeen
        In the order in which one walks round a unit.
    """
    return tuple(
        PointSeen(item.point, item.answer, item.note, _describe(item.point, item.answer, item.note, item.seq))
        for item in inspected(context.session.effective)
    )


def _describe(point: InspectionPoint, answer: PointAnswer, note: str, seq: int) -> Finding:
    said = f"{point.title}: {answer.label}{f', {note}' if note else ''}."
    caution = f" Mind: {answer.caution}." if answer.caution else ""
    return Finding(
        key=f"inspection-{point.slug}",
        topic=Topic.INSPECTION,
        title=point.title,
        sentence=said + caution,
        value=Value(0.0 if answer.caution else 1.0, "n", None, None, Grade.A),
        workings=(
            Working(point.asks, answer.label, "mind" if answer.caution else "nothing to mind", "by hand and eye"),
        ),
        seqs=(seq,),
        warns=WARN.get((point.slug, answer.slug)),
    )
