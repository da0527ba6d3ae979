"""Stage 4: the plan of each protocol, planned for this house and changed by hand; what to test next; what stacks."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect
from django.urls import reverse
from django.views.decorators.http import require_POST

from muster.core.errors import MusterError
from muster.core.loads import Load
from muster.core.plan import Changes, Planning, compared, misses, moved, plan_cost, steps_of, toggled
from muster.core.plan.fitting import fitting
from muster.core.plan.sheets import PlanSheet, build_sheet
from muster.core.sessions import PROTOCOLS, Session, Step
from muster.core.sessions.clipboard import boxes_of
from muster.core.sessions.replay import replay
from muster.core.sources.limits import limits_of
from muster.core.verdict import NextTest, requirements, worth_testing
from muster.records import bridge
from muster.records.actions import sources as actions
from muster.records.actions.sessions import live_sessions
from muster.records.background import Waiting, filling
from muster.records.judging import character_now, session_findings
from muster.records.playing import case_of
from muster.web.figures.ladder import Ladder, draw_ladder
from muster.web.ui.error_text import error_sentence
from muster.web.ui.frame import chosen_source, get_job, live_sources, stage_page

from .desk import Desk, desk_of


def _sheet(desk: Desk, protocol: str) -> tuple[PlanSheet | None, str]:
    """The plan, or the reason why there is none."""
    try:
        steps = desk.steps(protocol)
    except MusterError as error:
        return None, error_sentence(error)
    return build_sheet(protocol, desk.home, desk.source, steps, desk.kit, character_now(desk.row)), ""


def _ladder(desk: Desk, plan_sheet: PlanSheet) -> Ladder | None:
    """The steps drawn, with what the latest session of the same steps read inked over; None where nothing is climbed."""
    steps = tuple(each_step.step for each_step in plan_sheet.steps)
    if not any(step.target_w for step in steps):
        return None
    brief = desk.home.brief
    rows = live_sessions(desk.row).filter(protocol=plan_sheet.protocol.slug).order_by("-started_at")
    labels = [step.label for step in steps]
    alike = next((row for row in rows if [s.label for s in bridge.session_data(row).steps] == labels), None)
    record = (
        session_findings(alike).record
        if alike
        else replay(Session(protocol=plan_sheet.protocol.slug), brief.system.legs)
    )
    claim = limits_of(desk.source, brief.system, brief.site)[0]
    return draw_ladder(steps, record, claim.w, brief.system.legs)


@dataclass(frozen=True)
class Plan:
    """A plan as it can be changed: its loads and how they are held, what the changes cost, what it cannot reach."""

    loads: tuple[tuple[Load, str], ...]
    left_out: tuple[str, ...]
    costs: tuple[str, ...]
    misses: tuple[str, ...]
    changed: bool


def _plan(desk: Desk, protocol: str, steps: tuple[Step, ...]) -> Plan:
    """What was changed in a plan, against the plan as Muster makes it."""
    home, changes = desk.home, bridge.changes_of(desk.row, protocol)
    planning = Planning(protocol, home, desk.source, desk.kit, changes)
    most_w = planning.most_va
    own = plan_cost(steps_of(protocol, home, desk.source, desk.kit)) if changes.any else plan_cost(steps)
    held = {**dict.fromkeys(changes.locked, "lock"), **dict.fromkeys(changes.dropped, "drop")}
    return Plan(
        tuple((load, held.get(load.key, "")) for load in home.every),
        changes.left_out,
        compared(plan_cost(steps), own),
        misses(steps, planning.claim_w, planning.tested, most_w),
        changes.any,
    )


def _next_tests(desk: Desk) -> tuple[NextTest, ...]:
    """The tests most worth their minutes, by the time that this house's own sheets take."""
    if not desk.home.loads:
        return ()
    case = case_of(desk.row)
    return worth_testing(case, requirements(case), desk.minutes)


def sheet(request: HttpRequest, job_id: int) -> HttpResponse:
    """A protocol planned: what for, what with, step by step with what it should read, when to stop."""
    job = get_job(job_id)
    source = chosen_source(request, job)
    protocol = PROTOCOLS.get(request.GET.get("protocol", ""), PROTOCOLS["ladder"])
    context: dict[str, Any] = {
        "source": source,
        "sources": live_sources(job),
        "protocol": protocol,
        "protocols": fitting(bridge.source_of(source), bridge.brief_of(job).system)
        if source
        else (PROTOCOLS.values(), ()),
    }
    if source is not None:
        desk, waiting = desk_of(request, source), Waiting()
        result, why_not = _sheet(desk, protocol.slug)
        context |= {
            "sheet": result,
            "why_not": why_not,
            "ladder": _ladder(desk, result) if result else None,
            "plan": _plan(desk, protocol.slug, tuple(s.step for s in result.steps)) if result else None,
            "quantities": [p.label for p in result.steps[-1].predicted] if result and result.steps else [],
            "boxes": boxes_of(protocol.slug, desk.home.brief.system),
            "waiting": waiting,
        }
        with filling(waiting):
            context["tests"] = _next_tests(desk)
    return stage_page(request, job, "plan", "plan/plan.html", context)


@require_POST
def change(request: HttpRequest, job_id: int) -> HttpResponse:
    """Lock, drop or free a load; move, leave out or take back a step; or go back to the plan as it was made."""
    job = get_job(job_id)
    source = chosen_source(request, job)
    protocol = PROTOCOLS.get(request.POST.get("protocol", ""), PROTOCOLS["ladder"]).slug
    if source is None:
        return redirect("plan", job.pk)
    do, _, what = request.POST.get("do", "").partition(":")
    changes = _changed(desk_of(request, source), protocol, do, what)
    actions.change_plan(source, protocol, changes, request.user)
    return redirect(f"{reverse('plan', args=[job.pk])}?source={source.pk}&protocol={protocol}#plan")


def _changed(desk: Desk, protocol: str, do: str, what: str) -> Changes:
    changes = bridge.changes_of(desk.row, protocol)
    if do == "reset":
        return Changes()
    if do in ("lock", "drop", "free"):
        return toggled(changes, what, do) if what in desk.home.by_key else changes
    try:
        steps = desk.steps(protocol)
    except MusterError:
        return changes
    if do in ("up", "down"):
        return replace(changes, order=moved(steps, what, -1 if do == "up" else 1))
    if do == "leave" and any(step.label == what for step in steps):
        return replace(changes, left_out=(*changes.left_out, what))
    if do == "back":
        return replace(changes, left_out=tuple(label for label in changes.left_out if label != what))
    return changes
