"""Legs and neutral of a split-phase supply."""

from __future__ import annotations

from ..character.evidence import COUNTS_AS_HELD_S
from ..quantities import Grade, duration, plain
from ..sources.limits import binding
from ..supply import Leg
from ..working import Working
from .inputs import VerdictInputs
from .requirement import Evidence, Requirement, not_required, ratio, status_of, unproven
from .workings import margin_working


def legs(case: VerdictInputs) -> Requirement:
    """Legs and neutral of a split-phase supply: the neutral's amps against the leg's rating."""
    system = case.home.brief.system
    if system.legs == 1:
        return not_required("legs", "One leg only.")
    limit = binding(case.limits, Leg.ONE)
    needed_a = case.demand.neutral_a
    if needed_a <= 0:
        return not_required("legs", "Nothing runs from one leg to the neutral: it carries nothing.")
    read = _neutral_read(case, needed_a)
    if read is not None:
        return read
    if limit is None:
        return unproven("legs", plain(needed_a, "a"), "The nameplate does not say.")
    limit_a = limit.w / system.v_nominal
    margin = ratio(needed_a, limit_a, None, case.planned.neutral_a)
    status = status_of(margin, Evidence(limit.grade))
    return Requirement(
        key="legs",
        demand=f"neutral {plain(needed_a, 'a')}",
        capability=plain(limit_a, "a"),
        margin=margin,
        grade=limit.grade,
        status=status,
        sentence=f"The neutral carries up to {plain(needed_a, 'a')}; a leg is good for {plain(limit_a, 'a')} ({limit.basis}).",
        workings=(
            Working(
                "neutral = |leg 1 amps − leg 2 amps|",
                "highest of each simulated outage, 99th percentile",
                plain(needed_a, "a"),
                "Kirchhoff's current law, like power factors",
                case.planned.neutral_tail_a.rows("A in the neutral"),
            ),
            margin_working(needed_a, limit_a, "a"),
        ),
    )


def _neutral_read(case: VerdictInputs, needed_a: float) -> Requirement | None:
    """What the neutral was read to carry with its legs unlike, where that is no less than the home needs and nothing was amiss."""
    held = [
        seen
        for seen in case.seen.legs
        if seen.neutral_a is not None and seen.held_s >= COUNTS_AS_HELD_S and seen.is_sound
    ]
    best = max(held, key=lambda seen: seen.neutral_a or 0.0, default=None)
    if best is None or best.neutral_a is None or best.neutral_a < needed_a:
        return None
    margin = ratio(needed_a, best.neutral_a, best.u_neutral_a, case.planned.neutral_a)
    return Requirement(
        key="legs",
        demand=f"neutral {plain(needed_a, 'a')}",
        capability=plain(best.neutral_a, "a"),
        margin=margin,
        grade=Grade.B,
        status=status_of(margin, Evidence(Grade.B)),
        sentence=f"With {plain(best.leg_w[0], 'w')} on leg 1 and {plain(best.leg_w[1], 'w')} on leg 2 its neutral was read at "
        f"{plain(best.neutral_a, 'a')} for {duration(best.held_s)}; the home asks {plain(needed_a, 'a')} of it.",
        workings=(margin_working(needed_a, best.neutral_a, "a"),),
        seqs=best.findings[0].seqs,
        findings=best.findings[:1],
    )
