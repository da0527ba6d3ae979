"""Stage 1: the brief."""

from __future__ import annotations

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect

from muster.records import bridge
from muster.records.actions.jobs import edit_brief
from muster.web.ui.frame import get_job, stage_page

from .forms import BriefForm, initial_of


def brief(request: HttpRequest, job_id: int) -> HttpResponse:
    """Show and change the brief."""
    job = get_job(job_id)
    form = BriefForm(request.POST or None, initial=initial_of(job.name, bridge.brief_of(job)))
    if request.method == "POST" and form.is_valid():
        value = form.brief()
        if value is not None:
            edit_brief(job, form.cleaned_data["name"], value, request.user)
            messages.info(request, "The brief is kept.")
            return redirect("loads" if "on" in request.POST else "brief", job.pk)
    return stage_page(request, job, "brief", "brief/brief.html", {"form": form}, 422 if form.errors else 200)
