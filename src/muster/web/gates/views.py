"""Stage 5: the gates of a protocol on a source: as they stand, confirmed, reopened."""

from __future__ import annotations

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect
from django.urls import reverse

from muster.core.errors import MusterError
from muster.core.safety.checks import Gate
from muster.core.sessions import PROTOCOLS, Step
from muster.records.actions import gates as actions
from muster.records.actions.sessions import plan_steps
from muster.records.models import GateRow, SourceRow
from muster.web.ui.frame import chosen_source, get_job, live_sources, stage_page
from muster.web.ui.words import told


def _steps(request: HttpRequest, source: SourceRow, protocol: str) -> tuple[Step, ...]:
    """The planned steps; none where the roll lacks what they need."""
    try:
        return plan_steps(source, protocol, request.user)
    except MusterError:
        return ()


def _rows(source: SourceRow, gates: tuple[Gate, ...]) -> list[tuple[Gate, GateRow | None]]:
    standing = actions.standing(source)
    return [(gate, None if gate.computed else standing.get(gate.slug)) for gate in gates]


def gates(request: HttpRequest, job_id: int) -> HttpResponse:
    """Every gate of a protocol on a source; posted, one is confirmed or reopened."""
    job = get_job(job_id)
    source = chosen_source(request, job)
    wanted = request.GET.get("protocol", "") or request.POST.get("protocol", "")
    protocol = PROTOCOLS.get(wanted, PROTOCOLS["ladder"])
    if request.method == "POST" and source is not None:
        return _change(request, source, protocol.slug)
    found = (
        actions.gates_of(source, protocol.slug, _steps(request, source, protocol.slug), request.user) if source else ()
    )
    context = {
        "source": source, "sources": live_sources(job), "protocol": protocol, "protocols": PROTOCOLS.values(),
        "gates": _rows(source, found) if source else [], "shut": [gate for gate in found if not gate.open],
    }  # fmt: skip
    return stage_page(request, job, "gates", "gates/gates.html", context)


def _change(request: HttpRequest, source: SourceRow, protocol: str) -> HttpResponse:
    slug = request.POST.get("gate", "")
    try:
        standing = actions.standing(source).get(slug)
        if request.POST.get("do") == "reopen" and standing is not None:
            actions.reopen_gate(standing, request.user)
        elif request.POST.get("do") == "confirm" and standing is None:
            actions.confirm_gate(source, slug, request.user, request.POST.get("note", ""))
    except MusterError as error:
        messages.error(request, told(error))
    return redirect(f"{reverse('gates', args=[source.job_id])}?source={source.pk}&protocol={protocol}#gate-{slug}")
