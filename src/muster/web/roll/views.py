"""Stage 2: the roll call of loads."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST
from django_htmx.http import HttpResponseClientRefresh

from muster.core.errors import MusterError
from muster.core.loads import TIERS, Load
from muster.core.shelf import SHELF
from muster.formats.tables import roll_table
from muster.records import bridge
from muster.records.actions import roll as actions
from muster.records.models import Job, LoadRow
from muster.web.figures.glyph import Glyph, draw_glyph
from muster.web.ui.answers import csv_file
from muster.web.ui.frame import get_job, stage_page

from .forms import LoadForm, initial_of


@dataclass(frozen=True)
class RollRow:
    """A load in the list, with its drawing."""

    row: LoadRow
    load: Load
    glyph: Glyph


def _rows(job: Job) -> list[RollRow]:
    rows = list(job.load_rows.filter(removed_at=None))
    loads = [bridge.load_of(row) for row in rows]
    highest = max((load.start_total_va for load in loads), default=1.0)
    return [RollRow(row, load, draw_glyph(load, highest)) for row, load in zip(rows, loads, strict=True)]


def _context(job: Job, **more: Any) -> dict[str, Any]:
    rows = _rows(job)
    return {
        "rows": rows,
        "tiers": [(tier, [row for row in rows if row.load.tier is tier]) for tier in TIERS],
        "run_w": sum(row.load.run_w for row in rows),
        "day_wh": sum(row.load.day_wh for row in rows),
        "two_legs": bridge.brief_of(job).system.legs == 2,
        "shelf": SHELF,
        **more,
    }


def roll(request: HttpRequest, job_id: int) -> HttpResponse:
    """The roll; a posted line adds a load."""
    job = get_job(job_id)
    line = request.POST.get("line", "")
    if request.method == "POST":
        try:
            row = actions.add_line(job, line, request.user)
        except MusterError as error:
            context = _context(job, line=line, error=_plain_words(error))
            return stage_page(request, job, "roll", "roll/roll.html", context, 422)
        return redirect(f"{reverse('roll', args=[job.pk])}?added={row.pk}")
    return stage_page(request, job, "roll", "roll/roll.html", _context(job, added=request.GET.get("added")))


def as_csv(request: HttpRequest, job_id: int) -> HttpResponse:
    """The roll as a table."""
    job = get_job(job_id)
    return csv_file(roll_table(bridge.loads_of(job)), f"{job.name} roll")


def _plain_words(error: MusterError) -> str:
    return f"{error.what[0].upper()}{error.what[1:]}: {error.want}." if error.want else f"{error.what}."


def understood(request: HttpRequest, job_id: int) -> HttpResponse:
    """What the line being typed would add."""
    line = request.GET.get("line", "")
    if not line.strip():
        return HttpResponse("")
    try:
        told, ok = actions.read_roll_line(get_job(job_id), line).understood, True
    except MusterError as error:
        told, ok = _plain_words(error), False
    return render(request, "roll/understood.html", {"told": told, "ok": ok})


def _row(job: Job, load_id: int) -> LoadRow:
    return get_object_or_404(LoadRow, pk=load_id, job=job)


def edit(request: HttpRequest, job_id: int, load_id: int) -> HttpResponse:
    """A load's form, inside its row for htmx, else a page of its own."""
    job = get_job(job_id)
    row = _row(job, load_id)
    load = bridge.load_of(row)
    form = LoadForm(request.POST or None, initial=initial_of(load), system=bridge.brief_of(job).system)
    if request.method == "POST" and form.is_valid():
        value = form.load(load)
        saved = form.build(lambda: actions.edit_load(row, value, request.user)) if value is not None else None
        if saved is not None:
            url = f"{reverse('roll', args=[job.pk])}?added={row.pk}#load-{row.pk}"
            return HttpResponseClientRefresh() if request.htmx else redirect(url)
    context = {"form": form, "row": row, "load": load, "job": job}
    if request.htmx:
        return render(request, "roll/edit_row.html", context, status=422 if form.errors else 200)
    return stage_page(request, job, "roll", "roll/edit.html", context, 422 if form.errors else 200)


@require_POST
def hours(request: HttpRequest, job_id: int, load_id: int) -> HttpResponse:
    """Keep painted hours."""
    job = get_job(job_id)
    row = _row(job, load_id)
    painted = [int(hour) for hour in request.POST.getlist("hour") if hour.isdigit()]
    try:
        actions.paint_hours(row, painted, request.user)
    except MusterError as error:
        return HttpResponse(str(error), status=422)
    if request.htmx:
        return render(request, "roll/totals.html", {"job": job, **_context(job)})
    return redirect("roll", job.pk)


@require_POST
def remove(request: HttpRequest, job_id: int, load_id: int) -> HttpResponse:
    """Take a load off the roll."""
    job = get_job(job_id)
    row = actions.remove_load(_row(job, load_id), request.user)
    url = reverse("roll-put-back", args=[job.pk, row.pk])
    messages.info(request, f"{row.name} is off the roll.", extra_tags=url)
    return redirect("roll", job.pk)


@require_POST
def put_back(request: HttpRequest, job_id: int, load_id: int) -> HttpResponse:
    """Put a removed load back."""
    job = get_job(job_id)
    actions.put_back(_row(job, load_id), request.user)
    return redirect("roll", job.pk)
