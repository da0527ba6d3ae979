"""Verdicts kept in memory: a case that was judged before, under the same units, is not judged again."""

from __future__ import annotations

from typing import Any

from muster.core.measures import shown_in
from muster.core.verdict import Verdict, judge
from muster.core.verdict.inputs import VerdictInputs

from .recent import Recent

MOST_KEPT = 128
"""Cases of a few jobs looked at side by side, with and without their rules and beside one another."""


def verdict_of(case: VerdictInputs) -> Verdict:
    """The verdict on a case.

    Parameters
    ----------
    case
        What it hangs on is compared each time: the large parts, which are kept themselves, by being the same; all others by
        their value.

    Returns
    -------
    Verdict
        As ``judge``.
    """
    key, says = (id(case.given), case.rules), _says(case)
    kept = _JUDGED.get(key)
    if kept is None or kept[0] != says:
        kept = _JUDGED.put(key, (says, case, judge(case)))
    return kept[2]


def _says(case: VerdictInputs) -> tuple[Any, ...]:
    return (
        *(id(part) for part in (case.given, case.demand, case.planned, case.played)),
        case.home,
        case.source,
        case.passed,
        case.left_out,
        case.rules,
        case.kernel_rules,
        case.elsewhere,
        shown_in(),
        None if case.without is None else _says(case.without),
    )


_JUDGED: Recent[tuple[tuple[Any, ...], VerdictInputs, Verdict]] = Recent(MOST_KEPT)
"""What a case said, the case itself, which keeps the parts that are known by being the same, and its verdict."""
