"""The calculators: a page each, its inputs in the address, its working line by line."""

from __future__ import annotations

from dataclasses import dataclass
from urllib.parse import urlencode

from django.contrib import messages
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from muster.core.brief import Brief
from muster.core.calculators import CALCULATIONS, TOPICS, Calculation, InputSpec, UncertainResult, answer
from muster.core.errors import MusterError
from muster.records import bridge
from muster.records.actions import calculations as actions
from muster.records.models import CalculationRow, Job, LoadRow
from muster.web.ui.error_text import error_sentence
from muster.web.ui.said import say_undoable


@dataclass(frozen=True)
class Field:
    """An input with what stands in it, and what is wrong with it."""

    spec: InputSpec
    text: str
    wrong: str


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


def _from_brief(brief: Brief) -> dict[str, str]:
    """What a job's brief says of inputs by the same name."""
    return {
        "v_nominal": f"{brief.system.v_nominal:g}",
        "hz": f"{brief.system.hz:g}",
        "altitude_m": f"{brief.site.altitude_m:g}",
        "temp_c": f"{brief.site.temp_c:g}",
        "outage_h": f"{brief.outage_h:g}",
        "reserve_pct": f"{brief.reserve_pct:g}",
        "r_m": f"{brief.neighbour_m:g}",
    }


def calculator(request: HttpRequest, slug: str) -> HttpResponse:
    """A calculation by its address; posted, it is saved with a job or given to a load."""
    calculation, job = CALCULATIONS.get(slug), _job(request)
    if calculation is None:
        raise Http404("no such calculator")
    sent = request.POST if request.method == "POST" else request.GET
    first = _from_brief(bridge.brief_of(job)) if job else {}
    typed = {each_input.name: sent.get(each_input.name, _first(each_input, first)) for each_input in calculation.inputs}
    result, wrong = _answered(calculation, typed)
    if request.method == "POST" and job is not None and result is not None:
        return _use(request, job, calculation, typed)
    context = {
        "calculation": calculation,
        "job": job,
        "answer": result,
        "address": request.build_absolute_uri(_address(slug, typed, None)),
        "fields": [
            Field(each_input, typed[each_input.name], wrong[1] if wrong[0] == each_input.name else "")
            for each_input in calculation.inputs
        ],
        "error": wrong[1] if wrong[1] and wrong[0] not in typed else "",
        "back": f"?job={job.pk}" if job else "",
        "loads": list(job.load_rows.filter(removed_at=None)) if job and calculation.gives_load else [],
        "jobs": [] if job else Job.objects.filter(archived_at=None),
    }
    template = "calculators/result.html" if request.htmx else "calculators/calculator.html"
    return render(request, template, context, status=422 if wrong[1] else 200)


def _first(spec: InputSpec, brief: dict[str, str]) -> str:
    return spec.first if spec.choices else brief.get(spec.name, spec.first)


def _answered(calculation: Calculation, typed: dict[str, str]) -> tuple[UncertainResult | None, tuple[str, str]]:
    """The answer, or the input at fault and what is wrong with it."""
    try:
        return answer(calculation, typed), ("", "")
    except MusterError as error:
        return None, (error.where, f"{error.what}; {error.want}" if error.want else error.what)


def _use(request: HttpRequest, job: Job, calculation: Calculation, typed: dict[str, str]) -> HttpResponse:
    wanted = request.POST.get("load", "")
    try:
        if wanted.isdigit():
            row = get_object_or_404(LoadRow, pk=wanted, job=job)
            actions.give_to_load(row, calculation.slug, typed, request.user)
            messages.info(request, f"{row.name} has it now; the history can undo it.")
            return redirect(f"{reverse('loads', args=[job.pk])}?added={row.pk}")
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
