"""Stage 4: the sheet of each protocol, planned for this house and changed by hand; what to test next; what stacks."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect
from django.urls import reverse
from django.views.decorators.http import require_POST

from muster.core.bench import replay
from muster.core.errors import MusterError
from muster.core.findings.lines import LoadLine
from muster.core.kit import Kit
from muster.core.limits import limits_of
from muster.core.loads import Load
from muster.core.plan import Changes, Planning, compared, misses, moved, plan_cost, steps_of, toggled
from muster.core.sessions import PROTOCOLS, Session, Step
from muster.core.sheets import Sheet, build_sheet
from muster.core.supply import Leg
from muster.core.verdict import NextTest, requirements, worth_testing
from muster.records import bridge
from muster.records.actions import sources as actions
from muster.records.actions.kit import kit_at_hand
from muster.records.actions.sessions import live_sessions, plan_steps
from muster.records.judging import case_of, session_findings
from muster.records.models import SourceRow
from muster.web.figures.ladder import Ladder, draw_ladder
from muster.web.ui.frame import chosen_source, get_job, live_sources, stage_page
from muster.web.ui.words import told


def _measured(source: SourceRow) -> tuple[dict[Leg, LoadLine], LoadLine | None]:
    """The lines of earlier sessions with the widest span of load."""
    found = [session_findings(row) for row in live_sessions(source)]
    lines = sorted((line for one in found for line in one.regulation), key=lambda line: line.line.x_high)
    regulation = {Leg(line.place.value): line for line in lines if line.place.value in ("1", "2")}
    droops = [one.droop for one in found if one.droop is not None]
    return regulation, max(droops, key=lambda line: line.line.x_high, default=None)


def _kit(request: HttpRequest, source: SourceRow) -> Kit:
    return Kit(kit_at_hand(request.user), bridge.source_of(source).claims.wave)


def _sheet(request: HttpRequest, source: SourceRow, protocol: str) -> tuple[Sheet | None, str]:
    """The sheet, or the reason why there is none."""
    home, value = bridge.home_of(source.job), bridge.source_of(source)
    try:
        steps = plan_steps(source, protocol, request.user)
    except MusterError as error:
        return None, told(error)
    return build_sheet(protocol, home, value, steps, _kit(request, source), *_measured(source)), ""


def _ladder(source: SourceRow, found: Sheet) -> Ladder | None:
    """The rungs drawn, with what the latest session of like steps read inked over; None where nothing is climbed."""
    steps = tuple(one.step for one in found.steps)
    if not any(step.target_w for step in steps):
        return None
    brief = bridge.brief_of(source.job)
    rows = live_sessions(source).filter(protocol=found.protocol.slug).order_by("-started_at")
    alike = next((row for row in rows if bridge.session_data(row).steps == steps), None)
    record = session_findings(alike).record if alike else replay(Session(found.protocol.slug), brief.system.legs)
    claim = limits_of(bridge.source_of(source), brief.system, brief.site)[0]
    return draw_ladder(steps, record, claim.w, brief.system.legs)


@dataclass(frozen=True)
class Plan:
    """A plan as it can be changed: its loads and how they are held, what the changes cost, what it cannot reach."""

    loads: tuple[tuple[Load, str], ...]
    left_out: tuple[str, ...]
    costs: tuple[str, ...]
    misses: tuple[str, ...]
    changed: bool


def _plan(request: HttpRequest, source: SourceRow, protocol: str, steps: tuple[Step, ...]) -> Plan:
    """What was changed in a plan, against the plan as Muster makes it."""
    home, value, kit = bridge.home_of(source.job), bridge.source_of(source), _kit(request, source)
    changes = bridge.changes_of(source, protocol)
    of = Planning(protocol, home, value, kit, changes)
    most_w = None if of.leg_va is None else of.leg_va * home.brief.system.legs
    own = plan_cost(steps_of(protocol, home, value, kit)) if changes.any else plan_cost(steps)
    held = {**dict.fromkeys(changes.locked, "lock"), **dict.fromkeys(changes.dropped, "drop")}
    return Plan(
        tuple((load, held.get(load.key, "")) for load in home.loads),
        changes.left_out,
        compared(plan_cost(steps), own),
        misses(steps, of.claim_w, of.tested, most_w),
        changes.any,
    )


def _next_tests(request: HttpRequest, source: SourceRow) -> tuple[NextTest, ...]:
    """The tests most worth their minutes, by the time that this house's own sheets take."""
    if not source.job.load_rows.filter(removed_at=None).exists():
        return ()

    def minutes_of(protocol: str) -> float:
        sheet, _ = _sheet(request, source, protocol)
        return sheet.minutes if sheet is not None else PROTOCOLS[protocol].minutes

    case = case_of(source)
    return worth_testing(case, requirements(case), minutes_of)


def sheet(request: HttpRequest, job_id: int) -> HttpResponse:
    """A protocol planned: what for, what with, step by step with what it should read, when to stop."""
    job = get_job(job_id)
    source = chosen_source(request, job)
    protocol = PROTOCOLS.get(request.GET.get("protocol", ""), PROTOCOLS["ladder"])
    context: dict[str, Any] = {
        "source": source, "sources": live_sources(job), "protocol": protocol, "protocols": PROTOCOLS.values(),
    }  # fmt: skip
    if source is not None:
        found, why_not = _sheet(request, source, protocol.slug)
        context |= {
            "sheet": found,
            "why_not": why_not,
            "ladder": _ladder(source, found) if found else None,
            "plan": _plan(request, source, protocol.slug, tuple(s.step for s in found.steps)) if found else None,
            "quantities": [p.words for p in found.steps[-1].predicted] if found and found.steps else [],
            "tests": _next_tests(request, source),
        }
    return stage_page(request, job, "sheet", "sheet/sheet.html", context)


@require_POST
def change(request: HttpRequest, job_id: int) -> HttpResponse:
    """Lock, drop or free a load; move, leave out or take back a step; or go back to the plan as it was made."""
    job = get_job(job_id)
    source = chosen_source(request, job)
    protocol = PROTOCOLS.get(request.POST.get("protocol", ""), PROTOCOLS["ladder"]).slug
    if source is None:
        return redirect("sheet", job.pk)
    do, _, what = request.POST.get("do", "").partition(":")
    changes = bridge.changes_of(source, protocol)
    actions.change_plan(source, protocol, _changed(request, source, protocol, changes, do, what), request.user)
    return redirect(f"{reverse('sheet', args=[job.pk])}?source={source.pk}&protocol={protocol}#plan")


def _changed(request: HttpRequest, source: SourceRow, protocol: str, changes: Changes, do: str, what: str) -> Changes:
    if do == "reset":
        return Changes()
    if do in ("lock", "drop", "free"):
        known = any(load.key == what for load in bridge.loads_of(source.job))
        return toggled(changes, what, do) if known else changes
    try:
        steps = plan_steps(source, protocol, request.user)
    except MusterError:
        return changes
    if do in ("up", "down"):
        return replace(changes, order=moved(steps, what, -1 if do == "up" else 1))
    if do == "leave" and any(step.label == what for step in steps):
        return replace(changes, left_out=(*changes.left_out, what))
    if do == "back":
        return replace(changes, left_out=tuple(label for label in changes.left_out if label != what))
    return changes
