"""Endurance and heat."""

from __future__ import annotations

import math

from ..character.evidence import HeatSeen, Held
from ..quantities import Grade, duration, plain
from ..sessions import Place
from ..trade.rise import LONG_ENOUGH_X
from .inputs import VerdictInputs
from .requirement import Evidence, Margin, Requirement, status_of, unproven

HEAT_SHARE = 0.9
"""A temperature counts for a hold at a load no more than a tenth above the one it was read under."""


def endurance(case: VerdictInputs) -> Requirement:
    """Endurance and heat: the longest stretch near the peak, against the longest hold at what its busiest hour draws.

    Heat follows the mean over about an hour: a hold at four fifths of a load that stands for hours has settled at too little.
    """
    stretch_s, level_w = case.demand.stretch_s, case.demand.longest_hour_w
    held = [h for h in case.seen.holds if h.place is Place.TOTAL and h.was_held and h.w >= level_w]
    longest = max(held, key=lambda h: h.held_s, default=None)
    demand = f"{duration(stretch_s)} at {plain(level_w, 'w')}"
    if longest is None:
        return unproven("endurance", demand, "No hold at that level yet.")
    settled = _settled(case, longest)
    settles_s = LONG_ENOUGH_X * settled.rise.tau_s if settled else case.source.kind.settles_s
    long_enough = longest.held_s >= case.source.kind.settles_s
    # Once its heat has settled it bears the level for as long as it is fed.
    spare_s = longest.held_s - min(stretch_s, settles_s)
    margin = Margin(spare_s, spare_s, math.inf, "s")
    heat = "heat not known to have settled"
    if settled:
        heat = f"heat settled at {plain(round(settled.rise.end_c), 'c')}"
    elif long_enough:
        heat = f"after {duration(case.source.kind.settles_s)} the heat of its kind has settled"
    grade = Grade.A if settled else Grade.B
    status = status_of(margin, Evidence(grade, missing=settled is None and not long_enough))
    return Requirement(
        key="endurance",
        demand=demand,
        capability=f"held {duration(longest.held_s)}",
        margin=margin if settled or long_enough else None,
        grade=grade,
        status=status,
        sentence=f"Held {plain(longest.w, 'w')} for {duration(longest.held_s)}; {heat}.",
        workings=settled.finding.workings if settled else (),
        seqs=(longest.seq,),
        findings=(longest.finding,),
    )


def _settled(case: VerdictInputs, held: Held) -> HeatSeen | None:
    """The warmest spot whose end temperature is known under nearly such a load; the hold must last three time constants."""
    seen = [
        heat
        for heat in case.seen.heats
        if heat.rise.long_enough and heat.w is not None and heat.w >= HEAT_SHARE * held.w
    ]
    slowest = max(seen, key=lambda heat: heat.rise.tau_s, default=None)
    if slowest is None or held.held_s < LONG_ENOUGH_X * slowest.rise.tau_s:
        return None
    return max(seen, key=lambda heat: heat.rise.end_c)
