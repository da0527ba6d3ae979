"""What to test next: the protocol that is likeliest to change the verdict for each of its minutes, and why."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass

from .requirement import SHARE, Requirement, Status
from .rows import PROTOCOLS_THAT_SETTLE, settles

SPREAD = {SHARE: 0.25, "v": 8.0, "hz": 1.5, "dba": 3.0, "pt": 2.0, "ms": 10.0}
"""How far a figure of nameplate or plan usually lies from what is then measured, one standard deviation, in the margin's
own unit (a share for ratios). Planning figures of ours, to weigh tests by; nothing is judged by them."""
EVEN = 0.5
LIKELY = 0.8
ALREADY_SHORT = 0.5
"""Weight of a line that falls short on paper alone: measuring it can only better the verdict."""


@dataclass(frozen=True)
class NextTest:
    """A protocol worth running: what it would decide [bits], for how many minutes, and why."""

    protocol: str
    minutes: float
    bits: float
    why: str

    @property
    def per_hour(self) -> float:
        """Bits decided an hour of testing."""
        return self.bits / self.minutes * 60


def chance_short(row: Requirement) -> float:
    """The chance that a line, once measured, falls short: by its margin and how far paper usually errs.

    Even where there is no margin to go by.
    """
    if row.margin is None or not math.isfinite(row.margin.value):
        return EVEN
    spread = SPREAD.get(row.margin.unit, 1.0)
    return 0.5 * math.erfc(row.margin.value / spread / math.sqrt(2))


def bits_of(chance: float) -> float:
    """What is not known about a yes or no of this chance [bit]: 1 when it is even, 0 when it is sure.

    References
    ----------
    Shannon 1948, entropy of a binary source.
    """
    return sum(-p * math.log2(p) for p in (chance, 1 - chance) if 0 < p < 1)


def _open(row: Requirement) -> bool:
    on_paper = row.grade is not None and not row.grade.is_measured
    return row.status is Status.NOT_PROVEN or (row.status is Status.FALLS_SHORT and on_paper)


def next_tests(
    rows: Sequence[Requirement], minutes_of: Callable[[str], float], if_measured: Sequence[Requirement] = ()
) -> tuple[NextTest, ...]:
    """The protocols that would change the verdict, most for each minute first.

    A line that is open is worth what is not known of it; a protocol is worth
    the lines that it can settle. ``if_measured`` are the same lines with the
    loads' own figures taken as measured: where they stand otherwise, the
    baseline would settle them.
    """
    asked = [row for row in rows if row.must and _open(row)]
    next_tests_found = []
    for protocol in PROTOCOLS_THAT_SETTLE:
        lines = [row for row in asked if settles(protocol, row)]
        if lines:
            next_tests_found.append(_weighed(protocol, lines, minutes_of(protocol)))
    eased = _eased(rows, if_measured)
    if eased:
        names = ", ".join(row.label.lower() for row in eased)
        why = f"With every load measured, and no longer raised by 25 %, this would stand otherwise: {names}."
        next_tests_found.append(NextTest("baseline", minutes_of("baseline"), float(len(eased)), why))
    return tuple(sorted(next_tests_found, key=lambda test: -test.per_hour))


def _eased(rows: Sequence[Requirement], if_measured: Sequence[Requirement]) -> list[Requirement]:
    planned = {row.key: row.status for row in if_measured}
    return [row for row in rows if row.must and planned.get(row.key, row.status) is not row.status]


def _weighed(protocol: str, lines: Sequence[Requirement], minutes: float) -> NextTest:
    bits = sum(
        bits_of(chance_short(row)) * (ALREADY_SHORT if row.status is Status.FALLS_SHORT else 1.0) for row in lines
    )
    said = "; ".join(f"{row.label.lower()} {_standing(row)}" for row in lines)
    return NextTest(protocol, minutes, bits, f"Settles {said}.")


def _standing(row: Requirement) -> str:
    """How an open line stands, in words."""
    if row.margin is None or not math.isfinite(row.margin.value):
        return "(nothing known)"
    chance = chance_short(row)
    if row.status is Status.FALLS_SHORT:
        return f"(short on paper, {row.margin})"
    if chance > LIKELY:
        return f"(likely short, {row.margin})"
    if chance < 1 - LIKELY:
        return f"(likely carries, {row.margin})"
    return f"(could go either way, {row.margin}, {chance * 100:.0f} % that it falls short)"
