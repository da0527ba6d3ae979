"""The rehearsal; still to come."""

from __future__ import annotations

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.urls import reverse

from muster.web.ui.coming import Coming, Link


def rehearsal(request: HttpRequest) -> HttpResponse:
    """Say what the rehearsal will be, and what can be practised now."""
    coming = Coming(
        "Rehearsal",
        "Not here yet. A simulated bench with hidden faults will stand here, to train on without burning fuel.",
        (
            Link("Copy the demo job and log a session against it", reverse("board"), "nothing of yours is touched"),
            Link("Learn the keys and the log line", reverse("help")),
        ),
    )
    return render(request, "ui/coming.html", {"coming": coming, "frame": "ui/base.html"})
