"""What was carried when something was read: a reading of volts, hertz or noise stands beside the watts of its own moment."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import replace
from itertools import groupby

from ..sessions import Reading
from ..sessions.replay import BenchRecord, EndedBy, Segment

Read = tuple[int, float, Reading, float | None]
"""An entry's seq, when, a reading of it, and the watts carried then (None: not known) [W]."""
SOON_S = 60.0
"""Volts written down, and then the watts alone within so long, are of one look at the meter. [s]"""


def since_set(record: BenchRecord) -> Sequence[Segment]:
    """The stretches since it was last adjusted or serviced: before that it was another source (physics §10)."""
    segments = record.segments
    last = max((i for i, segment in enumerate(segments) if segment.ended_by is EndedBy.SET), default=-1)
    return segments[last + 1 :]


def under_load(segment: Segment, watts: Callable[[Segment], float | None], *wanted: str) -> Iterator[Read]:
    """Each reading of some quantities in a stretch with what was carried at its moment.

    Parameters
    ----------
    segment
        The stretch.
    watts
        Of a stretch, as last read in it; None where they were not. [W]
    wanted
        The quantities.

    Yields
    ------
    tuple
        In the order of the record. Before any watts were read it is what was read next, where something was on or the
        next look at the meter brought the watts alone; else 0 W.
    """
    if not any(reading.quantity in wanted for _, _, reading in segment.readings):
        return
    entries = [(seq, list(group)) for seq, group in groupby(segment.readings, key=lambda read: read[0])]
    so_far = replace(segment, readings=[], levels={})
    waiting: list[tuple[int, float, Reading]] = []
    first_w: float | None = None
    for index, (_, entry) in enumerate(entries):
        so_far.readings += entry
        read_w = watts(so_far)
        if read_w is None:
            waiting += entry
            continue
        if first_w is None:
            first_w = read_w
            yield from (
                read for read in _before(segment, waiting, entries[index][1], first_w) if read[2].quantity in wanted
            )
        yield from ((seq, t_s, reading, read_w) for seq, t_s, reading in entry if reading.quantity in wanted)
    if first_w is None:
        unread_w = None if segment.on else 0.0
        yield from ((seq, t_s, reading, unread_w) for seq, t_s, reading in waiting if reading.quantity in wanted)


def _before(
    segment: Segment,
    waiting: Sequence[tuple[int, float, Reading]],
    then: Sequence[tuple[int, float, Reading]],
    w: float,
) -> Iterator[Read]:
    """What was read before the first watts of a stretch."""
    again = {reading.quantity for _, _, reading in then}
    for seq, t_s, reading in waiting:
        alike = segment.on or (then[0][1] - t_s <= SOON_S and reading.quantity not in again)
        yield seq, t_s, reading, w if alike else 0.0
