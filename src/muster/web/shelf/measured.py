"""Measured sources: put on the shelf, taken into a job, in and out as files, two of them beside one another."""

from __future__ import annotations

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from muster.core.compare import compared_parameters
from muster.core.errors import MusterError
from muster.core.measures import showing_in
from muster.formats.measured_source import MOST_BYTES
from muster.records.actions import measured as actions
from muster.records.background import Waiting, filling
from muster.records.models import MeasuredRow, SourceRow
from muster.web.ui.downloads import file_name, keep_as
from muster.web.ui.error_text import error_sentence
from muster.web.ui.frame import get_job
from muster.web.ui.said import say_undoable

from .measured_rows import character_of_shelf, told_of
from .views import shelf, text_sent


@require_POST
def put(request: HttpRequest, job_id: int, source_id: int) -> HttpResponse:
    """Put a source on the shelf as it was measured so far."""
    source = get_object_or_404(SourceRow, pk=source_id, job_id=job_id)
    try:
        with filling(Waiting()) as waiting:
            actions.put_on_shelf(source, request.user)
        if waiting:
            messages.info(request, "A log of it is still being read. Once more in a moment.")
            return redirect("source", job_id)
    except MusterError as failed:
        messages.error(request, error_sentence(failed))
        return redirect("source", job_id)
    messages.success(request, f"{source.name[0].upper()}{source.name[1:]} is on the shelf, with its evidence.")
    return redirect("shelf")


@require_POST
def take(request: HttpRequest, job_id: int) -> HttpResponse:
    """Take a measured source into a job."""
    job = get_job(job_id)
    chosen = request.POST.get("measured", "")
    row = get_object_or_404(MeasuredRow, pk=int(chosen) if chosen.isdigit() else 0)
    try:
        source = actions.take(job, row, request.user, serviced=request.POST.get("serviced") == "yes")
    except MusterError as failed:
        messages.error(request, error_sentence(failed))
        return redirect("source", job_id)
    return redirect(f"{reverse('source', args=[job_id])}#source-{source.pk}")


@require_POST
def take_any(request: HttpRequest) -> HttpResponse:
    """Take a measured source into the job that was chosen on the shelf."""
    chosen = request.POST.get("job", "")
    return take(request, int(chosen) if chosen.isdigit() else 0)


@require_POST
def serviced(request: HttpRequest, job_id: int, source_id: int) -> HttpResponse:
    """Say whether a taken source was serviced since it was measured."""
    source = get_object_or_404(SourceRow, pk=source_id, job_id=job_id)
    try:
        actions.say_serviced(source, request.user, serviced=request.POST.get("serviced") == "yes")
    except MusterError as failed:
        messages.error(request, error_sentence(failed))
    return redirect("source", job_id)


def file(request: HttpRequest, measured_id: int) -> HttpResponse:
    """A measured source as a file."""
    row = get_object_or_404(MeasuredRow, pk=measured_id)
    response = HttpResponse(actions.write_out(row), content_type="application/json; charset=utf-8")
    keep_as(response, file_name(row.name, ending=".muster-source.json"))
    return response


@require_POST
def bring_in(request: HttpRequest) -> HttpResponse:
    """Put a measured source from a file on the shelf."""
    sent = request.FILES.get("source")
    try:
        row = actions.bring_in(text_sent(sent, "a *.muster-source.json that Muster wrote", MOST_BYTES), request.user)
    except MusterError as failed:
        return shelf(request, f"{sent.name if sent else 'No file'}: {failed}. Nothing was taken.")
    messages.success(request, f"{row.name[0].upper()}{row.name[1:]} is on the shelf.")
    return redirect("shelf")


@require_POST
def remove(request: HttpRequest, measured_id: int) -> HttpResponse:
    """Take a measured source off the shelf."""
    row = actions.remove(get_object_or_404(MeasuredRow, pk=measured_id))
    say_undoable(request, f"{row.name} is off the shelf.", reverse("measured-put-back", args=[row.pk]))
    return redirect("shelf")


@require_POST
def put_back(request: HttpRequest, measured_id: int) -> HttpResponse:
    """Put it back."""
    actions.put_back(get_object_or_404(MeasuredRow, pk=measured_id))
    return redirect("shelf")


def beside(request: HttpRequest, measured_id: int, other_id: int) -> HttpResponse:
    """Two measurements beside one another: what changed beyond its doubt."""
    rows = [get_object_or_404(MeasuredRow, pk=pk) for pk in (measured_id, other_id)]
    shown = sorted((told_of(row) for row in rows), key=lambda item: item.measured.last_at)
    with showing_in(shown[0].measured.brief.shown_in):
        parameters = compared_parameters([character_of_shelf(item.measured) for item in shown])
        return render(request, "shelf/beside.html", {"shown": shown, "parameters": parameters})
