"""Stage 5: the safety checks of a protocol on a source: computed, confirmed, withdrawn."""

from __future__ import annotations

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect
from django.urls import reverse

from muster.core.errors import MusterError
from muster.core.safety.planned import SafetyCheck
from muster.core.safety.sequence import switching
from muster.core.sessions import PROTOCOLS, Step
from muster.records import bridge
from muster.records.actions import safety as actions
from muster.records.actions.sessions import plan_steps
from muster.records.models import SafetyCheckRow, SourceRow
from muster.web.ui.error_text import error_sentence
from muster.web.ui.frame import chosen_source, get_job, live_sources, stage_page


def _steps(request: HttpRequest, source: SourceRow, protocol: str) -> tuple[Step, ...]:
    """The planned steps; none where the loads lack what they need."""
    try:
        return plan_steps(source, protocol, request.user)
    except MusterError:
        return ()


def _rows(source: SourceRow, checks: tuple[SafetyCheck, ...]) -> list[tuple[SafetyCheck, SafetyCheckRow | None]]:
    effective = actions.effective(source)
    return [(check, None if check.computed else effective.get(check.slug)) for check in checks]


def safety(request: HttpRequest, job_id: int) -> HttpResponse:
    """Every check of a protocol on a source; posted, one is confirmed or withdrawn."""
    job = get_job(job_id)
    source = chosen_source(request, job)
    wanted = request.GET.get("protocol", "") or request.POST.get("protocol", "")
    protocol = PROTOCOLS.get(wanted, PROTOCOLS["ladder"])
    if request.method == "POST" and source is not None:
        return _change(request, source, protocol.slug)
    safety_checks = (
        actions.safety_checks_of(source, protocol.slug, _steps(request, source, protocol.slug), request.user)
        if source
        else ()
    )
    over, back = (
        switching(bridge.brief_of(job).wiring, bridge.source_of(source).kind) if source is not None else ((), ())
    )
    context = {
        "over": over,
        "back": back,
        "source": source,
        "sources": live_sources(job),
        "protocol": protocol,
        "protocols": PROTOCOLS.values(),
        "checks": _rows(source, safety_checks) if source else [],
        "failed": [check for check in safety_checks if not check.passed],
    }
    return stage_page(request, job, "safety", "safety/safety.html", context)


def _change(request: HttpRequest, source: SourceRow, protocol: str) -> HttpResponse:
    slug = request.POST.get("check", "")
    try:
        effective = actions.effective(source).get(slug)
        if request.POST.get("do") == "withdraw" and effective is not None:
            actions.withdraw_check(effective, request.user)
        elif request.POST.get("do") == "confirm" and effective is None:
            actions.confirm_check(source, slug, request.user, request.POST.get("note", ""))
    except MusterError as error:
        messages.error(request, error_sentence(error))
    return redirect(f"{reverse('safety', args=[source.job_id])}?source={source.pk}&protocol={protocol}#check-{slug}")
