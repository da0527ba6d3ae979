"""Verdicts kept in memory: a case that was judged before, under the same units, is not judged again."""

from __future__ import annotations

from dataclasses import fields
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


KNOWN_BY_BEING = frozenset({"given", "demand", "planned", "played"})
"""Parts that are large and kept themselves: known by being the same, not by their values."""


def _says(case: VerdictInputs) -> tuple[Any, ...]:
    """Every field of a case, and the units shown."""
    parts = ((field.name, getattr(case, field.name)) for field in fields(case))
    said = (
        _says(part) if isinstance(part, VerdictInputs) else id(part) if name in KNOWN_BY_BEING else part
        for name, part in parts
    )
    return (*said, shown_in())


_JUDGED: Recent[tuple[tuple[Any, ...], VerdictInputs, Verdict]] = Recent(MOST_KEPT)
"""What a case said, the case itself, which keeps the parts that are known by being the same, and its verdict."""
