"""Sums kept with a job, and what they give to a load."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

from django.contrib.auth.models import AbstractUser
from django.utils import timezone

from muster.core.calculators import SUMS, answer
from muster.core.errors import MusterError
from muster.core.loads import Duty
from muster.core.quantities import Grade
from muster.records import bridge
from muster.records.models import Job, LoadRow, SumRow

from .history import changing
from .roll import edit_load


def keep_sum(job: Job, slug: str, typed: Mapping[str, str], who: AbstractUser) -> SumRow:
    """Keep a sum with a job.

    Raises
    ------
    MusterError
        If an input does not fit.
    """
    the = SUMS[slug]
    found = answer(the, typed)
    asked = {one.name: typed.get(one.name, one.first) for one in the.asks}
    row = SumRow(job=job, slug=slug, typed=asked, sentence=found.worked.sentence, created_by=who)
    with changing(row, f"sum kept: {the.title}", who):
        row.save()
    return row


def remove_sum(row: SumRow, who: AbstractUser) -> SumRow:
    """Put a kept sum away; the history brings it back."""
    with changing(row, f"sum put away: {SUMS[row.slug].title}", who):
        row.removed_at = timezone.now()
        row.save(update_fields=["removed_at"])
    return row


def give_to_load(row: LoadRow, slug: str, typed: Mapping[str, str], who: AbstractUser) -> LoadRow:
    """Give a load what a sum worked out: its start from the plate, or its duty on another day.

    Raises
    ------
    MusterError
        If an input does not fit, or the sum gives a load nothing.
    """
    the = SUMS[slug]
    figures = {result.key: value.value for result, value in answer(the, typed).values}
    load = bridge.load_of(row)
    if the.gives_load == "start_va":
        return edit_load(row, replace(load, start_va=round(figures["start_va"], 1), start_grade=Grade.C), who)
    if the.gives_load == "duty":
        cycle_min, share = load.duty.on_min + load.duty.off_min, figures["share_pct"] / 100
        if share <= 0:
            raise MusterError("it would not run at all", where="duty", want="a day on which it runs")
        on_min = min(cycle_min, max(0.1, round(cycle_min * share, 1)))
        return edit_load(row, replace(load, duty=Duty(on_min, round(cycle_min - on_min, 1), load.duty.caller)), who)
    raise MusterError(f"{the.title} gives a load nothing", where="sum", want="a sum of starts or of duty")
