"""The way in: a link that lets one browser in, once; and another link for another browser."""

from __future__ import annotations

from django.conf import settings
from django.contrib.auth import login
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_POST

from muster.core.errors import MusterError
from muster.records.actions.people import new_link, use_link

BACKEND = "django.contrib.auth.backends.ModelBackend"


def come_in(request: HttpRequest, token: str) -> HttpResponse:
    """Let a browser in by its link; one that is in already goes on to the jobs."""
    if request.user.is_authenticated:
        return redirect("board")
    try:
        login(request, use_link(token), backend=BACKEND)
    except MusterError as error:
        return render(request, "ui/outside.html", {"error": str(error)}, status=403)
    return redirect("board")


@require_POST
def another(request: HttpRequest) -> HttpResponse:
    """An address for another browser."""
    address = "" if settings.OPEN_TO_MACHINE else f"{request.scheme}://{request.get_host()}/in/{new_link()}/"
    return render(request, "ui/another.html", {"address": address})
