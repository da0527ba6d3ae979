"""Who is here, and that nothing leaves this machine."""

from __future__ import annotations

import ipaddress
from collections.abc import Callable

from django.contrib.auth import login
from django.http import HttpRequest, HttpResponse, HttpResponseForbidden

from muster.records.actions.people import local_account as get_local_account

Respond = Callable[[HttpRequest], HttpResponse]
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


def local_account(respond: Respond) -> Respond:
    """Sign in the local account by itself for requests from this machine; refuse all others."""

    def answer(request: HttpRequest) -> HttpResponse:
        if not is_loopback(request.META.get("REMOTE_ADDR", "")):
            return HttpResponseForbidden("Muster serves this machine alone.")
        if not request.user.is_authenticated:
            login(request, get_local_account(), backend="django.contrib.auth.backends.ModelBackend")
        return respond(request)

    return answer


def stay_on_this_machine(respond: Respond) -> Respond:
    """Tell the browser to fetch nothing from anywhere else."""

    def answer(request: HttpRequest) -> HttpResponse:
        response = respond(request)
        response.headers.setdefault("Content-Security-Policy", POLICY)
        return response

    return answer
