"""Lines that rest on evidence from elsewhere: told as such, and one grade lower where no correction covers what changed since."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace

from ..quantities import Grade
from ..shelf.measured import Elsewhere
from .inputs import VerdictInputs
from .requirement import ORDER, PASSES, SHARE, Margin, Requirement, Status

AGE_TOUCHES = ("energy", "endurance")
"""Lines that hang on what a battery gives: age is corrected by nothing."""
LOWER = {Grade.A: Grade.B, Grade.B: Grade.C}
ITS_OWN = ("connection",)
"""Lines of this home alone, whatever was measured where."""


Judge = Callable[[VerdictInputs], Sequence[Requirement]]


def told_of_elsewhere(judge: Judge, case: VerdictInputs) -> tuple[Requirement, ...]:
    """Lines of a verdict where a source was measured elsewhere.

    Parameters
    ----------
    judge
        Judges lines by all that a case knows.
    case
        With what is from elsewhere.

    Returns
    -------
    tuple of Requirement
        A line that stands no worse by the sessions of this job alone stands by them. Of the others the sentence says where
        it was read; a service since takes a grade off each, a battery's age off those that hang on it, with what it has
        lost since.

    References
    ----------
    docs/method/verdict.md#elsewhere.
    """
    elsewhere = case.elsewhere
    if elsewhere is None:
        return tuple(judge(case))
    by_here = {_name(row): row for row in _judged_here(judge, case, elsewhere)}
    return tuple(_told(row, by_here.get(_name(row)), elsewhere) for row in judge(case))


def _judged_here(judge: Judge, case: VerdictInputs, elsewhere: Elsewhere) -> Sequence[Requirement]:
    """The lines by what was measured on this job alone; none where nothing was."""
    here = [dated for dated in case.given.sessions if dated.at not in elsewhere.began]
    if not here:
        return ()
    alone = replace(case, given=replace(case.given, sessions=here), elsewhere=None, played=None, without=None)
    return judge(alone)


def _name(row: Requirement) -> tuple[str, str]:
    return row.key, row.label


def _told(row: Requirement, here: Requirement | None, elsewhere: Elsewhere) -> Requirement:
    """The line by this job's own sessions where it stands no worse by them, but never better than by all that is known."""
    if _is_of_here(row):
        return row
    lowered = _lowered(row, elsewhere)
    if here is None or here.grade is None or not here.grade.is_measured:
        return lowered
    status = min(row.status, here.status, key=ORDER.index)
    return replace(here, status=status) if ORDER.index(status) >= ORDER.index(lowered.status) else lowered


def _is_of_here(row: Requirement) -> bool:
    measured = row.grade is not None and row.grade.is_measured
    return row.key in ITS_OWN or not row.must or not measured


def _lowered(row: Requirement, elsewhere: Elsewhere) -> Requirement:
    ages = elsewhere.ages and row.key in AGE_TOUCHES
    sentence = f"{row.sentence} {elsewhere.told[0].upper()}{elsewhere.told[1:]}."
    if not (ages or elsewhere.serviced) or row.grade is None:
        return replace(row, sentence=sentence)
    grade = LOWER.get(row.grade, row.grade)
    margin = _faded(row.margin, elsewhere.fade) if ages else row.margin
    status = row.status
    if status in PASSES and not grade.is_measured:
        status = Status.NOT_PROVEN
    if status in PASSES and margin is not None and margin is not row.margin:
        status = min(status, _by_margin(margin), key=ORDER.index)
    return replace(row, grade=grade, margin=margin, status=status, sentence=sentence)


def _faded(margin: Margin | None, fade: float) -> Margin | None:
    """A margin of energy with what the battery has lost since: the figure and its low end; nothing is condemned by it."""
    if margin is None or margin.unit != SHARE:
        return margin
    return replace(margin, value=(1 + margin.value) * (1 - fade) - 1, low=(1 + margin.low) * (1 - fade) - 1)


def _by_margin(margin: Margin) -> Status:
    return Status.CARRIES if margin.low > 0 else Status.TIGHT if margin.value >= 0 else Status.NOT_PROVEN
