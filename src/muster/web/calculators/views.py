"""The calculators: a page each, its inputs in the address, its working line by line."""

from __future__ import annotations

from dataclasses import dataclass
from urllib.parse import urlencode

from django.contrib import messages
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from muster.core.calculators import (
    CALCULATIONS,
    TOPICS,
    Calculation,
    InputSpec,
    JobFigures,
    Known,
    UncertainResult,
    answer,
    beside_meter,
    known_inputs,
)
from muster.core.errors import MusterError
from muster.core.kit import USUAL_KIT, Kit
from muster.core.measures import show_in
from muster.records import bridge
from muster.records.actions import calculations as actions
from muster.records.actions.sessions import live_sessions
from muster.records.judging import figures_of
from muster.records.models import CalculationRow, Job, LoadRow, SessionRow, SourceRow
from muster.web.ui.error_text import error_sentence
from muster.web.ui.frame import live_sources
from muster.web.ui.said import say_undoable


@dataclass(frozen=True)
class Field:
    """An input with what stands in it, what is wrong with it, and what it is known from while it stands as the job has it."""

    spec: InputSpec
    text: str
    wrong: str
    known: Known | None = None


def _job(request: HttpRequest) -> Job | None:
    """The job the calculations are for, None for none."""
    wanted = request.GET.get("job", "") or request.POST.get("job", "")
    return Job.objects.filter(pk=wanted).first() if wanted.isdigit() else None


def calculations(request: HttpRequest) -> HttpResponse:
    """Every calculator by its topic, and what was saved with a job."""
    job = _job(request)
    context = {
        "topics": [
            (topic, [calculation for calculation in CALCULATIONS.values() if calculation.topic == topic])
            for topic in TOPICS
        ],
        "job": job,
        "saved": [
            (row, CALCULATIONS[row.slug], _address(row.slug, row.typed, job))
            for row in _saved(job)
            if row.slug in CALCULATIONS
        ],
    }
    return render(request, "calculators/calculators.html", context)


def _saved(job: Job | None) -> list[CalculationRow]:
    return list(job.calculation_rows.filter(removed_at=None).select_related("created_by")) if job else []


def _address(slug: str, typed: dict[str, str], job: Job | None) -> str:
    query = urlencode({**typed, **({"job": job.pk} if job else {})})
    return f"{reverse('calculator', args=[slug])}?{query}"


def calculator(request: HttpRequest, slug: str) -> HttpResponse:
    """A calculation by its address; posted, it is saved with a job or given to a load."""
    calculation, job = CALCULATIONS.get(slug), _job(request)
    if calculation is None:
        raise Http404("no such calculator")
    if job is not None:
        show_in(bridge.brief_of(job).shown_in)
    sent = request.POST if request.method == "POST" else request.GET
    source = _source(request, job)
    figures = figures_of(job, source) if job else None
    known = known_inputs(calculation, figures) if figures else {}
    typed = {spec.name: sent.get(spec.name, _first(spec, known)) for spec in calculation.inputs}
    result, wrong = _answered(calculation, typed)
    if request.method == "POST" and job is not None and result is not None:
        return _use(request, job, calculation, typed)
    context = {
        "calculation": calculation,
        "job": job,
        "answer": result,
        "address": request.build_absolute_uri(_address(slug, typed, None)),
        "fields": [
            Field(
                spec,
                typed[spec.name],
                wrong[1] if wrong[0] == spec.name else "",
                known[spec.name] if spec.name in known and known[spec.name].text == typed[spec.name] else None,
            )
            for spec in calculation.inputs
        ],
        "error": wrong[1] if wrong[1] and wrong[0] not in typed else "",
        "back": f"?job={job.pk}" if job else "",
        "loads": list(job.load_rows.filter(removed_at=None)) if job and calculation.gives_load else [],
        "source": source,
        "sources": live_sources(job) if job else [],
        "sessions": _open_sessions(source),
        "beside": _beside(result, figures),
        "jobs": [] if job else Job.objects.filter(archived_at=None),
    }
    template = "calculators/result.html" if request.htmx else "calculators/calculator.html"
    return render(request, template, context, status=422 if wrong[1] else 200)


def _source(request: HttpRequest, job: Job | None) -> SourceRow | None:
    """The source of the job that is asked for, else its first."""
    rows = live_sources(job) if job else []
    wanted = request.GET.get("source", "") or request.POST.get("source", "")
    return next((row for row in rows if str(row.pk) == wanted), rows[0] if rows else None)


def _open_sessions(source: SourceRow | None) -> list[SessionRow]:
    return [row for row in live_sessions(source) if row.closed_at is None] if source else []


def _beside(result: UncertainResult | None, figures: JobFigures | None) -> str:
    """A frequency worked out beside the meter; empty for what is no frequency."""
    hz = result.value_of("hz") if result else None
    if hz is None or figures is None:
        return ""
    meter = figures.read("hz")
    return beside_meter(hz, meter, Kit(USUAL_KIT).u("hz", meter.instrument, meter.value) if meter else 0.0)


def _first(spec: InputSpec, known: dict[str, Known]) -> str:
    return known[spec.name].text if spec.name in known else spec.first


def _answered(calculation: Calculation, typed: dict[str, str]) -> tuple[UncertainResult | None, tuple[str, str]]:
    """The answer, or the input at fault and what is wrong with it."""
    try:
        return answer(calculation, typed), ("", "")
    except MusterError as error:
        return None, (error.where, f"{error.what}; {error.want}" if error.want else error.what)


def _use(request: HttpRequest, job: Job, calculation: Calculation, typed: dict[str, str]) -> HttpResponse:
    wanted, session = request.POST.get("load", ""), request.POST.get("session", "")
    try:
        if session.isdigit():
            row = get_object_or_404(SessionRow, pk=session, source__job=job)
            entry = actions.log_calculation(row, calculation.slug, typed, request.user)
            messages.info(request, f"Logged: {entry.raw}")
            return redirect("session", job.pk, row.pk)
        if wanted.isdigit():
            load = get_object_or_404(LoadRow, pk=wanted, job=job)
            actions.give_to_load(load, calculation.slug, typed, request.user)
            messages.info(request, f"{load.name} has it now; the history can undo it.")
            return redirect(f"{reverse('loads', args=[job.pk])}?added={load.pk}")
        actions.save_calculation(job, calculation.slug, typed, request.user)
        messages.info(request, f"Saved with {job.name}.")
    except MusterError as error:
        messages.error(request, error_sentence(error))
    return redirect(f"{reverse('calculators')}?job={job.pk}")


@require_POST
def archive(request: HttpRequest, calculation_id: int) -> HttpResponse:
    """Archive a saved calculation."""
    row = get_object_or_404(CalculationRow.objects.select_related("job"), pk=calculation_id)
    actions.remove_calculation(row, request.user)
    change = row.job.change_rows.first()
    undo = reverse("undo-change", args=[row.job_id, change.pk]) if change else ""
    say_undoable(request, "The calculation is archived.", undo)
    return redirect(f"{reverse('calculators')}?job={row.job_id}")
