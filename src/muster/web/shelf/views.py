"""The shelf of planning figures."""

from __future__ import annotations

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render

from muster.core.loads import KINDS
from muster.core.shelf import SHELF


def shelf(request: HttpRequest) -> HttpResponse:
    """Kinds and appliances, with what each is planned at."""
    return render(request, "shelf/shelf.html", {"kinds": KINDS.values(), "entries": SHELF})
