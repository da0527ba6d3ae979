"""Calculations saved with a job, and what they give to a load."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

from django.contrib.auth.models import AbstractUser
from django.utils import timezone

from muster.core.calculators import CALCULATIONS, answer, record_line
from muster.core.errors import MusterError
from muster.core.loads import Duty
from muster.core.quantities import Grade
from muster.records import bridge
from muster.records.models import CalculationRow, EntryRow, Job, LoadRow, SessionRow

from .history import changing
from .loads import edit_load
from .sessions import log_line


def save_calculation(job: Job, slug: str, typed: Mapping[str, str], who: AbstractUser) -> CalculationRow:
    """Save a calculation with a job.

    Raises
    ------
    MusterError
        If an input does not fit.
    """
    calculation = CALCULATIONS[slug]
    answered = answer(calculation, typed)
    complete = {spec.name: typed.get(spec.name, spec.first) for spec in calculation.inputs}
    row = CalculationRow(job=job, slug=slug, typed=complete, sentence=answered.result.sentence, created_by=who)
    with changing(row, f"calculation saved: {calculation.title}", who):
        row.save()
    return row


def log_calculation(session: SessionRow, slug: str, typed: Mapping[str, str], who: AbstractUser) -> EntryRow:
    """Log a calculation into a session: what was read where it is a reading, else its sentence and working as a note.

    Raises
    ------
    MusterError
        If an input does not fit.
    Refused
        If the session is closed.
    """
    calculation = CALCULATIONS[slug]
    return log_line(session, record_line(calculation, answer(calculation, typed)), who)


def remove_calculation(row: CalculationRow, who: AbstractUser) -> CalculationRow:
    """Archive a saved calculation; the history brings it back."""
    with changing(row, f"calculation archived: {CALCULATIONS[row.slug].title}", who):
        row.removed_at = timezone.now()
        row.save(update_fields=["removed_at"])
    return row


def give_to_load(row: LoadRow, slug: str, typed: Mapping[str, str], who: AbstractUser) -> LoadRow:
    """Give a load the result of a calculation: its start from the nameplate, or its duty on another day.

    Raises
    ------
    MusterError
        If an input does not fit, or the calculation gives a load nothing.
    """
    calculation = CALCULATIONS[slug]
    figures = {result.key: value.value for result, value in answer(calculation, typed).values}
    load = bridge.load_of(row)
    if calculation.gives_load == "start_va":
        return edit_load(row, replace(load, start_va=round(figures["start_va"], 1), start_grade=Grade.C), who)
    if calculation.gives_load == "duty":
        cycle_min, share = load.duty.on_min + load.duty.off_min, figures["share_pct"] / 100
        if share <= 0:
            raise MusterError("it would not run at all", where="duty", want="a day on which it runs")
        on_min = min(cycle_min, max(0.1, round(cycle_min * share, 1)))
        return edit_load(row, replace(load, duty=Duty(on_min, round(cycle_min - on_min, 1), load.duty.caller)), who)
    raise MusterError(
        f"{calculation.title} gives a load nothing", where="calculation", want="a calculation of starts or of duty"
    )
