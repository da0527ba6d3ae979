"""Stage 4: the sheet of each protocol, planned for this house; printed as a clipboard page."""

from __future__ import annotations

from django.http import HttpRequest, HttpResponse

from muster.core.bench import replay
from muster.core.errors import MusterError
from muster.core.findings.lines import LoadLine
from muster.core.kit import Kit
from muster.core.limits import limits_of
from muster.core.plan import steps_of
from muster.core.sessions import PROTOCOLS, RUNNABLE, Session
from muster.core.sheets import Sheet, build_sheet
from muster.core.supply import Leg
from muster.records import bridge
from muster.records.actions.kit import kit_at_hand
from muster.records.actions.sessions import live_sessions
from muster.records.judging import session_findings
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


def _sheet(request: HttpRequest, source: SourceRow, protocol: str) -> tuple[Sheet | None, str]:
    """The sheet, or the reason why there is none."""
    home, value = bridge.home_of(source.job), bridge.source_of(source)
    try:
        steps = steps_of(protocol, home, value)
    except MusterError as error:
        return None, told(error)
    kit = Kit(kit_at_hand(request.user), value.claims.wave)
    return build_sheet(protocol, home, value, steps, kit, *_measured(source)), ""


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


def sheet(request: HttpRequest, job_id: int) -> HttpResponse:
    """A protocol planned: what for, what with, step by step with what it should read, when to stop."""
    job = get_job(job_id)
    source = chosen_source(request, job)
    protocol = PROTOCOLS.get(request.GET.get("protocol", ""), PROTOCOLS["ladder"])
    found, why_not = _sheet(request, source, protocol.slug) if source else (None, "")
    context = {
        "source": source, "sources": live_sources(job), "protocol": protocol, "protocols": PROTOCOLS.values(), "sheet": found,
        "ladder": _ladder(source, found) if source and found else None, "why_not": why_not, "runnable": protocol.slug in RUNNABLE,
        "quantities": [p.words for p in found.steps[-1].predicted] if found and found.steps else [],
    }  # fmt: skip
    return stage_page(request, job, "sheet", "sheet/sheet.html", context)
