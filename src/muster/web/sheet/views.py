"""Stage 4: the sheet; still to come."""

from __future__ import annotations

from django.http import HttpRequest, HttpResponse
from django.urls import reverse

from muster.web.ui.coming import Coming, Link
from muster.web.ui.frame import get_job, stage_page


def sheet(request: HttpRequest, job_id: int) -> HttpResponse:
    """Say what the sheet will hold, and what can be planned now."""
    job = get_job(job_id)
    bench = reverse("bench", args=[job.pk])
    coming = Coming(
        "Sheet",
        "Not here yet. This stage will plan every protocol before an engine runs: which tests, in which order, with "
        "which of the house's loads, the reading each step should give, the time it takes, and a clipboard page to fill by hand.",
        (
            Link(
                "Plan and run a ladder", f"{bench}?protocol=ladder", "rungs at 25 to 100 % from the house's own loads"
            ),
            Link(
                "Plan and run the starts", f"{bench}?protocol=starts", "each motor alone, on base load, and hot again"
            ),
            Link("Plan and run a noise walk", f"{bench}?protocol=noise_walk", "background, then four distances"),
        ),
    )
    return stage_page(request, job, "sheet", "ui/coming.html", {"coming": coming, "frame": "ui/frame.html"})
