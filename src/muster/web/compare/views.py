"""Stage 10: compare; still to come."""

from __future__ import annotations

from django.http import HttpRequest, HttpResponse
from django.urls import reverse

from muster.web.ui.coming import Coming, Link
from muster.web.ui.frame import get_job, live_sources, stage_page


def compare(request: HttpRequest, job_id: int) -> HttpResponse:
    """Say what comparing will show, and lead to each verdict."""
    job = get_job(job_id)
    url = reverse("verdict", args=[job.pk])
    links = tuple(Link(f"The verdict on {row.name}", f"{url}?source={row.pk}") for row in live_sources(job))
    coming = Coming(
        "Compare",
        "Not here yet. This stage will set the sources of one job side by side: the same requirement rows, the same loads.",
        links or (Link("Describe a source first", reverse("source", args=[job.pk])),),
    )
    return stage_page(request, job, "compare", "ui/coming.html", {"coming": coming, "frame": "ui/frame.html"})
