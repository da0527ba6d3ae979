"""Stage 2: the loads."""

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
from muster.core.kit import Kit
from muster.core.loads import TIERS, Load, RankedFigure, Tier, in_weather, known_figures, ranked_figures, with_kind
from muster.core.loads.kinds import KINDS
from muster.core.loads.soft_start import compare_soft, describe_by_source
from muster.core.shelf import SHELF
from muster.core.sources.limits import limits_of
from muster.formats.tables import call_table, loads_table
from muster.records import bridge
from muster.records.actions import loads as actions
from muster.records.actions.kit import kit_at_hand
from muster.records.actions.shelf import own_shelf
from muster.records.models import Job, LoadRow
from muster.web.figures.glyph import Glyph, draw_glyph
from muster.web.figures.load_call import draw_call
from muster.web.ui.downloads import csv_file
from muster.web.ui.error_text import error_sentence
from muster.web.ui.frame import get_job, live_sources, stage_page
from muster.web.ui.said import say_undoable

from .forms import KnownForm, LoadForm, WholeLoadForm, initial_of, known_initial


@dataclass(frozen=True)
class LoadsRow:
    """A load in the list, with its drawing."""

    row: LoadRow
    load: Load
    glyph: Glyph


def _rows(job: Job) -> list[LoadsRow]:
    rows = list(job.load_rows.filter(removed_at=None))
    loads = [bridge.load_of(row) for row in rows]
    highest = max((load.start_total_va for load in loads), default=1.0)
    return [LoadsRow(row, load, draw_glyph(load, highest)) for row, load in zip(rows, loads, strict=True)]


def _context(job: Job, **more: Any) -> dict[str, Any]:
    rows = _rows(job)
    return {
        "rows": rows,
        "tiers": [(tier, [row for row in rows if row.load.tier is tier]) for tier in (*TIERS, Tier.TEST)],
        "run_w": sum(row.load.run_w for row in rows if row.load.tier is not Tier.TEST),
        "day_wh": sum(row.load.day_wh for row in rows if row.load.tier is not Tier.TEST),
        "two_legs": bridge.brief_of(job).system.legs == 2,
        "shelf": (*own_shelf(), *SHELF),
        "kinds": KINDS.values(),
        "asked": [
            row for row in rows if (row.load.start_unknown or not row.load.hours) and row.load.tier is not Tier.TEST
        ],
        **more,
    }


def roll(request: HttpRequest, job_id: int) -> HttpResponse:
    """The loads; a posted line adds a load."""
    job = get_job(job_id)
    line = request.POST.get("line", "")
    if request.method == "POST":
        try:
            row = actions.add_line(job, line, request.user)
        except MusterError as error:
            context = _context(job, line=line, error=_plain_words(error))
            return stage_page(request, job, "loads", "loads/loads.html", context, 422)
        return redirect(f"{reverse('loads', args=[job.pk])}?added={row.pk}")
    return stage_page(request, job, "loads", "loads/loads.html", _context(job, added=request.GET.get("added")))


def as_csv(request: HttpRequest, job_id: int) -> HttpResponse:
    """The loads as a table."""
    job = get_job(job_id)
    return csv_file(loads_table(bridge.loads_of(job)), f"{job.name} roll")


def _plain_words(error: MusterError) -> str:
    return f"{error.what[0].upper()}{error.what[1:]}: {error.want}." if error.want else f"{error.what}."


def understood(request: HttpRequest, job_id: int) -> HttpResponse:
    """What the line being typed would add."""
    line = request.GET.get("line", "")
    if not line.strip():
        return HttpResponse("")
    try:
        told, ok = actions.read_load_line(get_job(job_id), line).understood, True
    except MusterError as error:
        told, ok = _plain_words(error), False
    return render(request, "loads/understood.html", {"told": told, "ok": ok})


def _row(job: Job, load_id: int) -> LoadRow:
    return get_object_or_404(LoadRow, pk=load_id, job=job)


def edit(request: HttpRequest, job_id: int, load_id: int) -> HttpResponse:
    """A load's short form inside its row for htmx; in full on a page of its own."""
    job = get_job(job_id)
    row = _row(job, load_id)
    load = bridge.load_of(row)
    kind = LoadForm if request.htmx else WholeLoadForm
    form = kind(request.POST or None, initial=initial_of(load), system=bridge.brief_of(job).system)
    if request.method == "POST" and form.is_valid():
        value = form.load(load)
        saved = form.build(lambda: actions.edit_load(row, value, request.user)) if value is not None else None
        if saved is not None:
            url = f"{reverse('loads', args=[job.pk])}?added={row.pk}#load-{row.pk}"
            return HttpResponseClientRefresh() if request.htmx else redirect(url)
    if request.htmx:
        context = {"form": form, "row": row, "load": load, "job": job}
        return render(request, "loads/edit_row.html", context, status=422 if form.errors else 200)
    return _load_page(request, job, row, form=form)


def _load_page(request: HttpRequest, job: Job, row: LoadRow, **more: Any) -> HttpResponse:
    """The load in full: its call, what it rests on, a soft starter, and its forms."""
    load, brief = bridge.load_of(row), bridge.brief_of(job)
    sources = [bridge.source_of(source_row) for source_row in live_sources(job)]
    limits = [limits_of(source, brief.system, brief.site) for source in sources]
    ways = compare_soft(load, limits, brief.system)
    context = {
        "row": row,
        "load": load,
        "call": draw_call(load),
        "stood": _ranked(load),
        "sited": in_weather(load, brief.site.temp_c, brief.room_c),
        "outside_c": brief.site.temp_c,
        "ways": ways,
        "soft_told": describe_by_source(ways, [source.name for source in sources]),
        "form": WholeLoadForm(initial=initial_of(load), system=brief.system),
        "known": KnownForm(initial=known_initial(load, brief.system), kit=_kit(request)),
        **more,
    }
    wrong = context["form"].errors or context["known"].errors
    return stage_page(request, job, "loads", "loads/edit.html", context, 422 if wrong else 200)


def _ranked(load: Load) -> list[tuple[int | None, RankedFigure]]:
    """Every figure with the place by which it can be struck; the computed one has none."""
    kept = known_figures(load)
    return [
        (None if ranked_figure.computed else kept.index(ranked_figure.figure), ranked_figure)
        for ranked_figure in ranked_figures(load)
    ]


def call_csv(request: HttpRequest, job_id: int, load_id: int) -> HttpResponse:
    """A load's call, part by part."""
    load = bridge.load_of(_row(get_job(job_id), load_id))
    return csv_file(call_table(load), f"{load.name} call")


def _kit(request: HttpRequest) -> Kit:
    return Kit(kit_at_hand(request.user))


@require_POST
def known(request: HttpRequest, job_id: int, load_id: int) -> HttpResponse:
    """Add what was read off a nameplate or a meter."""
    job = get_job(job_id)
    row = _row(job, load_id)
    form = KnownForm(request.POST, kit=_kit(request))
    figures = form.figures(bridge.load_of(row)) if form.is_valid() else None
    if figures is None:
        return _load_page(request, job, row, known=form)
    actions.add_known(row, figures, request.user)
    return redirect(f"{reverse('loads-edit', args=[job.pk, row.pk])}#rests")


@require_POST
def strike(request: HttpRequest, job_id: int, load_id: int) -> HttpResponse:
    """Strike one figure of a load."""
    job = get_job(job_id)
    row = _row(job, load_id)
    index = request.POST.get("index", "")
    try:
        actions.strike_known(row, int(index) if index.isdigit() else -1, request.user)
    except MusterError as error:
        messages.error(request, _plain_words(error))
    return redirect(f"{reverse('loads-edit', args=[job.pk, row.pk])}#rests")


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
        return render(request, "loads/totals.html", {"job": job, **_context(job)})
    return redirect("loads", job.pk)


@require_POST
def kind(request: HttpRequest, job_id: int, load_id: int) -> HttpResponse:
    """Say what kind of load it is; nothing else of it changes."""
    job = get_job(job_id)
    row = _row(job, load_id)
    try:
        actions.edit_load(row, with_kind(bridge.load_of(row), request.POST.get("kind", "")), request.user)
    except MusterError as error:
        messages.error(request, error_sentence(error))
    return redirect(f"{reverse('loads', args=[job.pk])}?added={row.pk}#load-{row.pk}")


@require_POST
def remove(request: HttpRequest, job_id: int, load_id: int) -> HttpResponse:
    """Remove a load."""
    job = get_job(job_id)
    row = actions.remove_load(_row(job, load_id), request.user)
    url = reverse("loads-put-back", args=[job.pk, row.pk])
    say_undoable(request, f"{row.name} is removed.", url)
    return redirect("loads", job.pk)


@require_POST
def put_back(request: HttpRequest, job_id: int, load_id: int) -> HttpResponse:
    """Put a removed load back."""
    job = get_job(job_id)
    actions.put_back(_row(job, load_id), request.user)
    return redirect("loads", job.pk)
