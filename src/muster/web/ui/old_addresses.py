"""Addresses that pages had until November 2026: they lead to where the pages are now, for one version."""

from __future__ import annotations

from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect
from django.urls import path

RENAMED = {"roll": "loads", "sheet": "plan", "gates": "safety", "day": "outage"}
"""Stages of a job by the word that stood in their addresses."""


def _moved(request: HttpRequest, where: str) -> HttpResponse:
    query = request.META.get("QUERY_STRING", "")
    return redirect(f"{where}?{query}" if query else where)


def stage(request: HttpRequest, job_id: int, old: str, rest: str = "") -> HttpResponse:
    """A page of a stage that has another name now."""
    return _moved(request, f"/jobs/{job_id}/{RENAMED[old]}/{rest}")


def calculator(request: HttpRequest, rest: str = "") -> HttpResponse:
    """A calculator, or the list of them."""
    return _moved(request, f"/calculators/{rest}")


urlpatterns = [
    *(path(f"jobs/<int:job_id>/{old}/{rest}", stage, {"old": old}) for old in RENAMED for rest in ("", "<path:rest>")),
    path("sums/", calculator),
    path("sums/<path:rest>", calculator),
]
