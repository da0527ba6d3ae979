"""The sums of the trade: a page each, its inputs in the address, its working line by line."""

from __future__ import annotations

from dataclasses import dataclass
from urllib.parse import urlencode

from django.contrib import messages
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from muster.core.brief import Brief
from muster.core.calculators import SUMS, TOPICS, Answer, Asked, Sum, answer
from muster.core.errors import MusterError
from muster.records import bridge
from muster.records.actions import sums as actions
from muster.records.models import Job, LoadRow, SumRow
from muster.web.ui.said import say_undoable
from muster.web.ui.words import told


@dataclass(frozen=True)
class Field:
    """An input with what stands in it, and what is wrong with it."""

    asked: Asked
    text: str
    wrong: str


def _job(request: HttpRequest) -> Job | None:
    """The job the sums are done for, None for none."""
    wanted = request.GET.get("job", "") or request.POST.get("job", "")
    return Job.objects.filter(pk=wanted).first() if wanted.isdigit() else None


def sums(request: HttpRequest) -> HttpResponse:
    """Every sum by its topic, and those kept with a job."""
    job = _job(request)
    context = {
        "topics": [(topic, [one for one in SUMS.values() if one.topic == topic]) for topic in TOPICS],
        "job": job,
        "kept": [(row, SUMS[row.slug], _address(row.slug, row.typed, job)) for row in _kept(job) if row.slug in SUMS],
    }
    return render(request, "sums/sums.html", context)


def _kept(job: Job | None) -> list[SumRow]:
    return list(job.sum_rows.filter(removed_at=None).select_related("created_by")) if job else []


def _address(slug: str, typed: dict[str, str], job: Job | None) -> str:
    query = urlencode({**typed, **({"job": job.pk} if job else {})})
    return f"{reverse('sum', args=[slug])}?{query}"


def _from_brief(brief: Brief) -> dict[str, str]:
    """What a job's brief says of inputs by the same name."""
    return {
        "v_nominal": f"{brief.system.v_nominal:g}", "hz": f"{brief.system.hz:g}", "altitude_m": f"{brief.site.altitude_m:g}",
        "temp_c": f"{brief.site.temp_c:g}", "outage_h": f"{brief.outage_h:g}", "reserve_pct": f"{brief.reserve_pct:g}",
        "r_m": f"{brief.ear_m:g}",
    }  # fmt: skip


def one(request: HttpRequest, slug: str) -> HttpResponse:
    """A sum worked out by its address; posted, it is kept with a job or given to a load."""
    the, job = SUMS.get(slug), _job(request)
    if the is None:
        raise Http404("no such sum")
    asked = request.POST if request.method == "POST" else request.GET
    first = _from_brief(bridge.brief_of(job)) if job else {}
    typed = {one.name: asked.get(one.name, _first(one, first)) for one in the.asks}
    found, wrong = _answered(the, typed)
    if request.method == "POST" and job is not None and found is not None:
        return _use(request, job, the, typed)
    context = {
        "sum": the, "job": job, "answer": found, "address": request.build_absolute_uri(_address(slug, typed, None)),
        "fields": [Field(one, typed[one.name], wrong[1] if wrong[0] == one.name else "") for one in the.asks],
        "error": wrong[1] if wrong[1] and wrong[0] not in typed else "", "back": f"?job={job.pk}" if job else "",
        "loads": list(job.load_rows.filter(removed_at=None)) if job and the.gives_load else [],
        "jobs": [] if job else Job.objects.filter(archived_at=None),
    }  # fmt: skip
    template = "sums/worked.html" if request.htmx else "sums/sum.html"
    return render(request, template, context, status=422 if wrong[1] else 200)


def _first(asked: Asked, brief: dict[str, str]) -> str:
    return asked.first if asked.choices else brief.get(asked.name, asked.first)


def _answered(the: Sum, typed: dict[str, str]) -> tuple[Answer | None, tuple[str, str]]:
    """The answer, or the input at fault and what is wrong with it."""
    try:
        return answer(the, typed), ("", "")
    except MusterError as error:
        return None, (error.where, f"{error.what}; {error.want}" if error.want else error.what)


def _use(request: HttpRequest, job: Job, the: Sum, typed: dict[str, str]) -> HttpResponse:
    wanted = request.POST.get("load", "")
    try:
        if wanted.isdigit():
            row = get_object_or_404(LoadRow, pk=wanted, job=job)
            actions.give_to_load(row, the.slug, typed, request.user)
            messages.info(request, f"{row.name} has it now; the history can undo it.")
            return redirect(f"{reverse('roll', args=[job.pk])}?added={row.pk}")
        actions.keep_sum(job, the.slug, typed, request.user)
        messages.info(request, f"Kept with {job.name}.")
    except MusterError as error:
        messages.error(request, told(error))
    return redirect(f"{reverse('sums')}?job={job.pk}")


@require_POST
def put_away(request: HttpRequest, sum_id: int) -> HttpResponse:
    """Put a kept sum away."""
    row = get_object_or_404(SumRow.objects.select_related("job"), pk=sum_id)
    actions.remove_sum(row, request.user)
    change = row.job.change_rows.first()
    undo = reverse("undo-change", args=[row.job_id, change.pk]) if change else ""
    say_undoable(request, "The sum is put away.", undo)
    return redirect(f"{reverse('sums')}?job={row.job_id}")
