"""Steady capacity in VA and by breakers: what watts alone do not tell."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Protocol

from ..character.evidence import best_held_va
from ..outage.demand import HighestDraws
from ..quantities import Grade, duration, plain
from ..sessions import Place
from ..sources.limits import Limit
from ..working import Working
from .inputs import VerdictInputs
from .requirement import ORDER, PASSES, Evidence, Margin, Requirement, Status, ratio, status_of

BY_CURRENT = ("breaker", "inlet")
"""Limits that act by amps and time, whatever was held for as long as a test lasts."""
BREAKER_H = 2.0
"""What a breaker carried for so long it carries (IEC 60898-1: it opens within one hour, or within two above 63 A, or not at all)."""
MORE_VA = 1.02
"""Less more VA than watts is none."""


class Asked(Protocol):
    """What a place must give, raised for what is unmeasured and as planned. [W], [VA]"""

    @property
    def place(self) -> Place: ...
    @property
    def label(self) -> str: ...
    @property
    def upper_w(self) -> float: ...
    @property
    def upper_va(self) -> float: ...
    @property
    def planned_va(self) -> float: ...
    @property
    def tail_va(self) -> HighestDraws: ...


def tightest(watts_row: Requirement, case: VerdictInputs, asked: Asked) -> Requirement:
    """The worst of a steady line by watts, by VA and by breaker; of those that stand alike that by watts, where it passes.

    Parameters
    ----------
    watts_row
        The line as watts alone give it.
    case
        What is judged on.
    asked
        What the home asks of the place.

    Returns
    -------
    Requirement
        Under the same key and label.

    References
    ----------
    physics §10: asked in W and VA, whole and per leg, and against each breaker.
    """
    if not watts_row.must:
        return watts_row
    rows = [watts_row, *_by_va(watts_row, case, asked), *_by_breaker(watts_row, case, asked)]
    worst = min(rows, key=lambda row: (ORDER.index(row.status), row.margin.value if row.margin else 0.0))
    return watts_row if watts_row.status in PASSES and worst.status in PASSES else worst


def _by_va(watts_row: Requirement, case: VerdictInputs, asked: Asked) -> Iterator[Requirement]:
    """VA against the most that was held in VA, each hold no less than its watts."""
    held = best_held_va(case.seen.holds, asked.place)
    if held is None or asked.upper_va <= MORE_VA * asked.upper_w:
        return
    share = held.u_w / held.w if held.w else 0.0
    margin = ratio(asked.upper_va, held.va, held.va * share, asked.planned_va)
    # Held is a lower bound: less of it than is asked condemns nothing.
    margin = Margin(margin.value, margin.low, max(margin.high, 0.0))
    status = status_of(margin, Evidence(Grade.B, missing=margin.value < 0))
    read = "by the amps read with it" if held.va > held.w * MORE_VA else "nobody read its amps: no less than its watts"
    yield Requirement(
        key=watts_row.key,
        label=asked.label,
        demand=plain(asked.upper_va, "va"),
        capability=plain(held.va, "va"),
        margin=margin,
        grade=Grade.B,
        status=status,
        sentence=f"Held {plain(held.va, 'va')} for {duration(held.held_s)} ({read}); the home's motors and electronics "
        f"ask {plain(asked.upper_va, 'va')} of it for their {plain(asked.upper_w, 'w')}: "
        + ("enough." if status is not Status.NOT_PROVEN else "hold that, read in amps, and it is settled."),
        workings=(
            Working(
                "VA = √(watts² + reactive²) of all that is on",
                f"{plain(asked.upper_w, 'w')} at the power factors of the loads",
                plain(asked.upper_va, "va"),
                "highest minute of the simulated outages, 99th percentile",
                asked.tail_va.rows("VA in the highest minute"),
            ),
        ),
        seqs=(held.seq,) if held.seq else (),
        findings=(held.finding,),
    )


def _by_breaker(watts_row: Requirement, case: VerdictInputs, asked: Asked) -> Iterator[Requirement]:
    """VA against each breaker and inlet of the place."""
    lasted_s = max(
        (h.held_s for h in case.seen.holds if h.place is asked.place and h.va >= asked.upper_va), default=0.0
    )
    if lasted_s >= BREAKER_H * 3600:
        return
    for limit in _breakers(case, asked.place):
        margin = ratio(asked.upper_va, limit.w, 0.0, asked.planned_va)
        if margin.value >= 0:
            continue
        yield Requirement(
            key=watts_row.key,
            label=asked.label,
            demand=plain(asked.upper_va, "va"),
            capability=f"{limit.basis}: {plain(limit.w, 'va')}",
            margin=margin,
            grade=limit.grade,
            status=status_of(margin, Evidence(limit.grade)),
            sentence=f"The {limit.basis} carries {plain(limit.w, 'va')}; the home asks {plain(asked.upper_va, 'va')}: "
            "within the hour it opens, whatever the source holds.",
            workings=(),
        )


def _breakers(case: VerdictInputs, place: Place) -> list[Limit]:
    """Those of a leg; on a supply of one leg those of the whole."""
    single = case.home.brief.system.legs == 1
    return [
        limit
        for limit in case.limits
        if limit.key in BY_CURRENT and (single or (limit.leg is not None and limit.leg.value == place.value))
    ]
