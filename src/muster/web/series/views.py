"""Several units in one sitting: a grid of figures, a record of its own for each."""

from __future__ import annotations

from django.contrib import messages
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_POST

from muster.core.errors import MusterError
from muster.core.plan.protocols import standard_loads
from muster.core.plan.series import SeriesPlan, distances_of
from muster.records import bridge
from muster.records.actions import series as actions
from muster.records.models import Job, SeriesRow, SourceRow
from muster.web.ui.error_text import error_sentence
from muster.web.ui.frame import get_job, live_sources, stage_page

from .grid import grid_of

USUAL_FT, USUAL_M = "3, 10, 20, 35 ft", "1, 3, 7, 12 m"


def series_list(request: HttpRequest, job_id: int) -> HttpResponse:
    """The series of a job, and the layout of another."""
    job = get_job(job_id)
    error = ""
    if request.method == "POST":
        try:
            row = actions.begin_series(job, _chosen(request, job), _plan(request), request.user)
            return redirect("series", job.pk, row.pk)
        except MusterError as failed:
            error = error_sentence(failed)
    return _list_page(request, job, error)


def _list_page(request: HttpRequest, job: Job, error: str) -> HttpResponse:
    brief, loads = bridge.brief_of(job), list(actions.loads_of(job).values())
    step, motor = standard_loads(loads, brief.system.hz)
    posted = request.method == "POST"
    context = {
        "units": live_sources(job),
        "all_series": job.series_rows.all(),
        "loads": loads,
        "chosen": request.POST.getlist("units") if posted else [str(row.pk) for row in live_sources(job)],
        "step": request.POST.get("step", step.key if step else ""),
        "motor": request.POST.get("motor", motor.key if motor else ""),
        "distances": request.POST.get("distances", USUAL_FT if brief.measures.length == "ft" else USUAL_M),
        "error": error,
    }
    return stage_page(request, job, "bench", "series/list.html", context, 422 if error else 200)


def _chosen(request: HttpRequest, job: Job) -> list[SourceRow]:
    return [row for row in live_sources(job) if str(row.pk) in request.POST.getlist("units")]


def _plan(request: HttpRequest) -> SeriesPlan:
    said = request.POST.get("distances", "").strip()
    return SeriesPlan(
        distances=distances_of(said) if said else (),
        step=request.POST.get("step", ""),
        motor=request.POST.get("motor", ""),
    )


def _get(job_id: int, series_id: int) -> SeriesRow:
    return get_object_or_404(SeriesRow, pk=series_id, job_id=job_id)


def series(request: HttpRequest, job_id: int, series_id: int) -> HttpResponse:
    """The grid."""
    return _page(request, _get(job_id, series_id))


def _page(request: HttpRequest, row: SeriesRow, error: str = "", typed: str = "") -> HttpResponse:
    asked = _asked(request.GET.get("at") or request.POST.get("at", ""))
    grid = grid_of(row, asked)
    waiting = next((unit for unit in grid.units if not unit.begun), None)
    context = {
        "series": row,
        "grid": grid,
        "error": error,
        "typed": typed,
        "waiting": waiting,
        "checks": actions.checks_of(row, waiting.row, request.user) if waiting is not None else None,
        "confirmed": request.POST.getlist("confirmed"),
    }
    status = 422 if error else 200
    if request.headers.get("HX-Request"):  # the grid and the next cell alone; a 200, so that what is wrong is shown too
        return render(request, "series/grid.html", {**context, "job": row.job})
    return stage_page(request, row.job, "bench", "series/series.html", context, status)


def _asked(text: str) -> tuple[int, str] | None:
    unit, _, key = text.partition(":")
    return (int(unit), key) if unit.isdigit() and key else None


@require_POST
def confirm_shared(request: HttpRequest, job_id: int, series_id: int) -> HttpResponse:
    """Confirm the checks of the place and the people for all units."""
    row = _get(job_id, series_id)
    actions.confirm_shared(row, request.POST.getlist("confirmed"))
    return redirect("series", job_id, row.pk)


@require_POST
def begin_unit(request: HttpRequest, job_id: int, series_id: int, unit_id: int) -> HttpResponse:
    """Begin the next unit, once what is its own was confirmed."""
    row = _get(job_id, series_id)
    unit = _unit(row, unit_id)
    ticked = request.POST.getlist("confirmed")
    try:
        actions.confirm_shared(row, ticked)
        actions.begin_unit(row, unit, ticked, request.user)
    except MusterError as failed:
        return _page(request, row, error_sentence(failed))
    return redirect("series", job_id, row.pk)


def _unit(row: SeriesRow, unit_id: int) -> SourceRow:
    unit = next((item for item in actions.units_of(row) if item.pk == unit_id), None)
    if unit is None:
        raise Http404("no such unit in this series")
    return unit


@require_POST
def figure(request: HttpRequest, job_id: int, series_id: int) -> HttpResponse:
    """Keep a figure, or take it back where the cell was emptied; the next empty cell follows."""
    row = _get(job_id, series_id)
    asked = _asked(request.POST.get("cell", ""))
    if asked is None:
        raise Http404("no such cell")
    unit, text = _unit(row, asked[0]), request.POST.get("figure", "").strip()
    was = request.POST.get("was")
    try:
        if text:
            actions.put_figure(row, unit, asked[1], text, request.user, was)
        else:
            actions.clear_figure(row, unit, asked[1], request.user, was)
    except MusterError as failed:
        request.POST = request.POST.copy()
        request.POST["at"] = request.POST["cell"]
        return _page(request, row, error_sentence(failed), text)
    if request.headers.get("HX-Request"):
        return _page(request, row)
    return redirect("series", job_id, row.pk)


@require_POST
def close(request: HttpRequest, job_id: int, series_id: int) -> HttpResponse:
    """Close and seal each unit's record."""
    row = actions.close_series(_get(job_id, series_id))
    messages.success(request, f"{len(row.sessions)} records are closed and sealed, each unit's own.")
    return redirect("compare", job_id)
