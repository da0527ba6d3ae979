"""A single reading of power that stands aside from those before and after it: named, and no level of its own."""

from __future__ import annotations

import math
from collections.abc import Iterator
from itertools import pairwise

from ..quantities import Grade, Value, plain
from ..sessions import Place, Reading, Stat
from ..sessions.replay import EndedBy
from ..timeline.power import is_same_level
from ..working import Working
from .context import SessionContext
from .finding import Finding, Topic

TIMES_U = 3.0
"""Readings within so many standard uncertainties of one another are one level."""

Sample = tuple[int, float, Reading]


def excursions(context: SessionContext) -> tuple[Finding, ...]:
    """Single readings that stand aside from two that agree, with nothing switched or set between them.

    Parameters
    ----------
    context
        The session replayed.

    Returns
    -------
    tuple of Finding
        One a reading, in the order of the session.
    """
    return tuple(
        _describe(context, before, aside, after)
        for samples in _unswitched(context)
        for (before, aside), (_, after) in pairwise(pairwise(samples))
        if _alike(context, before, after) and not _alike(context, before, aside) and not _alike(context, after, aside)
    )


def _unswitched(context: SessionContext) -> Iterator[list[Sample]]:
    """The steady watts of each place and instrument, over stretches between which nothing was switched, set or tripped."""
    runs: dict[tuple[Place, str], list[Sample]] = {}
    for segment in context.record.segments:
        for seq, t_s, reading in segment.readings:
            if reading.quantity == "w" and reading.stat is Stat.STEADY and not reading.place.is_dc:
                runs.setdefault((reading.place, reading.instrument), []).append((seq, t_s, reading))
        if segment.ended_by is not EndedBy.LEVEL:
            yield from runs.values()
            runs = {}
    yield from runs.values()


def _alike(context: SessionContext, left: Sample, right: Sample) -> bool:
    """Whether two readings are of one level."""
    a, b = left[2], right[2]
    u_w = max(context.record.u(a), context.record.u(b)) / math.sqrt(3)  # a half-width, evenly spread
    return is_same_level(a.value, b.value) or abs(a.value - b.value) <= TIMES_U * u_w


def _describe(context: SessionContext, before: Sample, aside: Sample, after: Sample) -> Finding:
    w, read = aside[2].value, context.record.u(aside[2])
    around = sorted({before[2].value, after[2].value})
    between = " and ".join(plain(level, "w") for level in around)
    return Finding(
        key=f"excursion-{aside[0]}",
        topic=Topic.NOTICED,
        title="A reading that stands aside",
        sentence=f"One reading of {plain(w, 'w')} stands between readings of {between}, with nothing switched: "
        "something came and went by itself, or it was misread; no level is made of it.",
        value=Value(w, "w", read, None, Grade.B),
        workings=(
            Working(
                "an excursion lies outside max(3u, 5 %, 3 W) of both its neighbours, which agree",
                f"{plain(before[2].value, 'w')}, {plain(w, 'w')}, {plain(after[2].value, 'w')}",
                "one reading alone",
                "",
            ),
        ),
        seqs=(before[0], aside[0], after[0]),
        needs="",
    )
