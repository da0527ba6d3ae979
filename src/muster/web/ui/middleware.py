"""Who is here, and that nothing leaves this machine."""

from __future__ import annotations

import ipaddress
from collections.abc import Callable
from typing import Any

from django.conf import settings
from django.http import HttpRequest, HttpResponse, HttpResponseForbidden
from django.shortcuts import render

from muster.core.brief import Brief
from muster.core.measures import METRIC, show_in, showing_in
from muster.formats.codec import load
from muster.records.actions.people import local_account
from muster.records.models import Job

Respond = Callable[[HttpRequest], HttpResponse]
WAY_IN = "/in/"
POLICY = (
    "default-src 'self'; img-src 'self' data:; style-src 'self' 'unsafe-inline'; "
    "frame-ancestors 'none'; form-action 'self'; base-uri 'self'"
)
"""Content policy: everything from Muster itself; inline styles for widths computed here."""


def is_loopback(address: str) -> bool:
    """Whether an address is this machine's own."""
    try:
        return ipaddress.ip_address(address).is_loopback
    except ValueError:
        return False


def let_in(respond: Respond) -> Respond:
    """Know who asks: in the demo whoever sits at this machine, else a browser that came by a link; others are told how.

    No session is kept of anybody who is not let in.
    """

    def answer(request: HttpRequest) -> HttpResponse:
        if not is_loopback(request.META.get("REMOTE_ADDR", "")):
            return HttpResponseForbidden("Muster serves this machine alone.")
        if not request.user.is_authenticated and settings.OPEN_TO_MACHINE:
            request.user = local_account()
        if not request.user.is_authenticated and not request.path.startswith(WAY_IN):
            return _told_how(request)
        return respond(request)

    return answer


def _told_how(request: HttpRequest) -> HttpResponse:
    """The page for a browser that is not let in; a script is told in a line."""
    if request.headers.get("Accept", "").startswith("application/json") or request.headers.get("HX-Request"):
        return HttpResponseForbidden(
            "Sign in again: open the address that “muster url” prints.", content_type="text/plain; charset=utf-8"
        )
    return render(request, "ui/outside.html", status=403)


def stay_on_this_machine(respond: Respond) -> Respond:
    """Tell the browser to fetch nothing from anywhere else, and to keep no page.

    A page kept by a browser would come back by its history as it once was, or
    as the part of it that was fetched last.
    """

    def answer(request: HttpRequest) -> HttpResponse:
        response = respond(request)
        response.headers.setdefault("Content-Security-Policy", POLICY)
        response.headers.setdefault("Cache-Control", "no-store")
        return response

    return answer


class InTheUnitsOfTheJob:
    """Show every figure of a job's pages in the units of that job."""

    def __init__(self, respond: Respond) -> None:
        self.respond = respond

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Whatever was shown before is shown again afterwards."""
        with showing_in(METRIC):
            return self.respond(request)

    def process_view(self, request: HttpRequest, view: Respond, args: Any, kwargs: dict[str, Any]) -> None:
        """Once the address is known, so is the job."""
        del request, view, args
        brief = (
            Job.objects.filter(pk=kwargs["job_id"]).values_list("brief", flat=True).first()
            if "job_id" in kwargs
            else None
        )
        if brief is not None:
            show_in(load(Brief, brief).shown_in)
