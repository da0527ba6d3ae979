"""The sums; still to come."""

from __future__ import annotations

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render

from muster.web.ui.coming import Coming, Link


def sums(request: HttpRequest) -> HttpResponse:
    """Say what the sums will be, and where arithmetic is shown now."""
    coming = Coming(
        "Sums",
        "Not here yet. The small calculations of the trade will stand here, each with its working: lead drop and fuse, "
        "rpm and hertz, code letters, noise over distance, neutral current, fuel hours.",
        (
            Link("Derating, with its working, on each job's source page"),
            Link("Regulation, droop, dips and noise, with their working, on each job's findings page"),
            Link("Each margin, with its working, behind every line of a verdict"),
        ),
    )
    return render(request, "ui/coming.html", {"coming": coming, "frame": "ui/base.html"})
