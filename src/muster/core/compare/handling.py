"""What sources are like to handle: the points of their inspections side by side, and what it is to own each."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from ..character import Given
from ..findings.inspection import PointSeen
from ..sessions.inspection import POINTS, InspectionPoint


@dataclass(frozen=True)
class HandlingRow:
    """A point across the sources, in their order; None where it was not looked at."""

    point: InspectionPoint
    seen: tuple[PointSeen | None, ...]


def handling_rows(given: Sequence[Given]) -> tuple[HandlingRow, ...]:
    """Every point that was looked at of any source, as each was answered last.

    Parameters
    ----------
    given
        One a source, its sessions the earliest first.

    Returns
    -------
    tuple of HandlingRow
        In the order in which one walks round a unit.
    """
    seen = [
        {item.point.slug: item for dated in source.sessions for item in dated.findings.inspection} for source in given
    ]
    rows = (HandlingRow(point, tuple(own.get(point.slug) for own in seen)) for point in POINTS)
    return tuple(row for row in rows if any(item is not None for item in row.seen))
