"""How much a source holds and for how long above, whole and on each leg, as it is drawn: from the hold curve, what was held and tripped, or claims."""

from __future__ import annotations

import math

import numpy as np

from ..brief import Brief
from ..character import Character
from ..character.hold_curve import N_USUAL, HoldCurve
from ..quantities import Grade, worst_grade
from ..sources import SourceKind
from ..sources.limits import Limit
from ..supply import Leg
from .layout import Floats
from .layout import SourceColumn as U
from .unsure import UNKNOWN_SHARE, UnsureFigure, between, normal, times

HOLD_AT_TENTH_S = {True: 600.0, False: 60.0}
"""How long a tenth above its rating is held, of an open-frame set and of electronics, where nothing tripped and no surge is claimed: ours, grade D."""
HOLD_DOUBT_X = 3.0
"""And how far that may be out either way, a factor."""
BREAKERS = ("breaker", "inlet", "dc_fuse")
"""Limits that act by a breaker's or a fuse's own curve."""


def holds_into(
    character: Character, brief: Brief, kind: SourceKind, base: Floats, unsure: list[UnsureFigure], missing: list[str]
) -> None:
    """Put into a row and its doubts what is held for ever, whole and by leg, for how long above, and where breakers stand."""
    whole = _lasting(character, None)
    if character.hold is not None:
        unsure.append(_by_curve(character.hold))
    else:
        held = _held_for_ever(character, None, whole)
        if held is None:
            missing.append("what it carries: say its continuous watts, or hold a load (Ladder)")
        else:
            unsure.append(held)
            unsure += _usual_curve(character, kind, held.stated[0])
    for column, leg in ((U.HELD_1, Leg.ONE), (U.HELD_2, Leg.TWO)) if brief.system.legs == 2 else ():
        by_leg = _held_for_ever(character, leg, _lasting(character, leg), column)
        if by_leg is not None:
            unsure.append(by_leg)
    for limit in character.limits:
        if limit.key in BREAKERS:
            for place in _breaker_columns(limit, brief):
                base[place] = min(base[place], limit.w)


def _breaker_columns(limit: Limit, brief: Brief) -> tuple[int, ...]:
    """Where a breaker acts: a leg's on its leg; on a supply of one leg on the whole."""
    if limit.leg is None or brief.system.legs == 1:
        return (U.BREAKER_0,)
    return (U.BREAKER_1,) if limit.leg is Leg.ONE else (U.BREAKER_2,)


def _lasting(character: Character, leg: Leg | None) -> Limit | None:
    """The least of what is claimed, wired or reckoned to be carried for ever at a place, breakers apart."""
    lasting = [
        limit
        for limit in character.binding_limits
        if limit.leg == leg and limit.hold_s is None and limit.key not in (*BREAKERS, "trip", "battery_only")
    ]
    return min(lasting, key=lambda limit: limit.w, default=None)


def _by_curve(curve: HoldCurve) -> UnsureFigure:
    """What it holds for ever and for how long above: one of the curves that fit, by how well each fits, with its scatter."""
    ends = curve.ends or (curve,)
    weight = np.array([end.weight for end in ends])
    figures = np.array([(end.held_w, end.k_s, end.n) for end in ends])
    scatter = np.array([end.sigma or 0.1 for end in ends])

    def draw(rng: np.random.Generator, draws: int) -> Floats:
        chosen = rng.choice(len(ends), draws, p=weight / weight.sum())
        rows = figures[chosen].copy()
        rows[:, 1] *= np.exp(rng.normal(0.0, scatter[chosen]))
        return rows

    return UnsureFigure(
        name="what it holds, and for how long above",
        columns=(U.HELD_0, U.HOLD_K_S, U.HOLD_N),
        stated=(curve.held_w, curve.k_s, curve.n),
        draw=draw,
        grade=Grade.A if not curve.ends else Grade.B,
        settled_by="Overload" if curve.ends else "",
    )


def _held_for_ever(
    character: Character, leg: Leg | None, plate: Limit | None, column: int = U.HELD_0
) -> UnsureFigure | None:
    """What is held for ever at a place: at least what was held, at most what tripped; between them the nameplate's figure."""
    held = next((limit for limit in character.limits if limit.key == "held" and limit.leg == leg), None)
    trip = next((limit for limit in character.limits if limit.key == "trip" and limit.leg == leg), None)
    low = held.w if held is not None else 0.0
    high = trip.w if trip is not None else math.inf
    where = "what it holds" if leg is None else f"what it holds on {leg.label}"
    if held is None and trip is None and plate is None:
        return None
    if plate is not None and held is None and trip is None:
        share = UNKNOWN_SHARE["w"]
        draw, stated, grade = normal(plate.w, share * plate.w), plate.w, plate.grade
    elif high < low:
        # It tripped below what it held another time: until that is explained either may be so, and the trip is taken.
        draw, stated, grade = between(high, low), high, Grade.C
    else:
        likely = plate.w if plate is not None else low or high
        stated = min(max(low, likely), high)
        top = stated if math.isinf(high) else high
        bottom = low if held is not None else (1 - UNKNOWN_SHARE["w"]) * stated
        draw, grade = between(min(bottom, stated), top), Grade.B if held is not None else Grade.C
    return UnsureFigure(name=where, columns=(column,), stated=(stated,), draw=draw, grade=grade, settled_by="Ladder")


def _usual_curve(character: Character, kind: SourceKind, held_w: float) -> list[UnsureFigure]:
    """How long more than it holds is held, where nothing tripped: by the surge claimed, else the usual of its kind."""
    surge, seconds = character.best("surge_w"), character.best("surge_s")
    if surge is not None and seconds is not None and surge.value.value > 1.01 * held_w:
        k_s = seconds.value.value * (surge.value.value / held_w - 1) ** N_USUAL
        grade = worst_grade(surge.value.grade, seconds.value.grade)
    else:
        k_s, grade = HOLD_AT_TENTH_S[kind is SourceKind.OPEN_FRAME] * 0.1**N_USUAL, Grade.D
    return [
        UnsureFigure(
            name="how long it holds more",
            columns=(U.HOLD_K_S,),
            stated=(k_s,),
            draw=times(k_s, HOLD_DOUBT_X),
            grade=grade,
            settled_by="Overload",
        )
    ]
