"""Which loads were seen to run on a source: they started on it, whatever was read of their starts."""

from __future__ import annotations

from ..findings.collect import SessionFindings
from ..findings.context import SessionContext
from ..sessions import PROTOCOLS, Switch
from ..sessions.replay import EndedBy

RUNS_SHARE = 0.7
"""Loads that are on run where so much of their watts together were read. Ours."""
HEATED = "microwave"
"""The kind of load that a heating check is made with."""
LEAST_FALL_PCT = 5.0
"""A charge that fell by less than this between its first and last reading shows no load. Ours."""
ALONE_W = 1.0
"""On so little, as good as nothing, a load that was seen to run alone started. [W]"""


def seen_running(session: SessionFindings) -> frozenset[str]:
    """The loads that a session shows running.

    Parameters
    ----------
    session
        What one session found.

    Returns
    -------
    frozenset of str
        Keys of loads that were on with watts that hold them, of what heated water, and of a home's only load where a
        long run without a word of what was on took the charge down. Nothing of a session that is not of the source.
    """
    context = session.context
    if not PROTOCOLS[context.session.protocol].of_the_source:
        return frozenset()
    seen: set[str] = set()
    for segment in context.record.segments:
        w, on = segment.total_w(context.system.legs), [key for key in segment.on if key in context.loads]
        planned_w = sum(context.loads[key].run_w for key in on)
        if w is not None and segment.ended_by is not EndedBy.TRIP and w >= RUNS_SHARE * planned_w:
            seen |= set(on)
    if session.heating is not None and any(not run.on_mains for run in session.heating.runs):
        heated = [load.key for load in context.loads.values() if load.kind == HEATED]
        seen |= set(heated) if len(heated) == 1 else set()
    return frozenset(seen | _the_only_one(context))


def _the_only_one(context: SessionContext) -> set[str]:
    """The home's only load, where a run took the charge down and nothing else was ever said to be on."""
    if len(context.loads) != 1 or not PROTOCOLS[context.session.protocol].long:
        return set()
    (only,) = context.loads
    switched = {item.load for entry in context.session.effective for item in entry.items if isinstance(item, Switch)}
    charge = [reading.value for _, _, _, reading in context.readings("soc_pct")]
    fell = len(charge) > 1 and charge[0] - charge[-1] >= LEAST_FALL_PCT
    return {only} if fell and switched <= {only} else set()
