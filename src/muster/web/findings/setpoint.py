"""Where to set a governor: the measured droop line, four schools, and a slider that shows what moves."""

from __future__ import annotations

import math

from django.http import HttpRequest, HttpResponse

from muster.core.advice.set_point import Advice, Droop, OutageLoads, advice, droop_of, outage_loads, set_by_hand
from muster.core.brief import Home
from muster.core.sources import Source
from muster.core.sources.limits import limits_of
from muster.core.trade.schools import SetPointSchool
from muster.records.judging import demand_of
from muster.web.figures.setpoint import draw_setpoint
from muster.web.ui.frame import get_job, live_sources, stage_page

from .study import Study, asked_source, study_of

SLIDER_PCT = 10.0
"""The slider runs so far either side of nominal."""


def setpoint(request: HttpRequest, job_id: int) -> HttpResponse:
    """The set-point adviser."""
    job = get_job(job_id)
    row = asked_source(request, job)
    study = study_of(row)
    hz = study.home.brief.system.hz
    droop = droop_of(study.character, hz)
    context = {"source": row, "sources": live_sources(job), "droop": droop}
    if droop is not None:
        context |= _adviser(request, study, droop)
    part = request.headers.get("HX-Request") and droop is not None
    template = "findings/setpoint_moves.html" if part else "findings/setpoint.html"
    return stage_page(request, job, "findings", template, context)


def _adviser(request: HttpRequest, study: Study, droop: Droop) -> dict[str, object]:
    loads = _day(study.home, study.source)
    schools = advice(droop, loads)
    chosen = _chosen(request, droop, schools, study.home.brief.schools.governor)
    moved = set_by_hand(droop, chosen, loads)
    hz = droop.nominal_hz
    return {
        "loads": loads,
        "schools": schools,
        "now": set_by_hand(droop, droop.no_load_hz, loads),
        "moved": moved,
        "chosen": chosen,
        "low": hz * (1 - SLIDER_PCT / 100),
        "high": hz * (1 + SLIDER_PCT / 100),
        "figure": draw_setpoint(droop, moved, loads),
    }


def _chosen(request: HttpRequest, droop: Droop, schools: tuple[Advice, ...], own: SetPointSchool) -> float:
    """The no-load frequency asked for; else that of the job's own school, of the first that may be set, or as it is now."""
    try:
        wanted = float(request.GET["hz"].replace(",", "."))
    except (KeyError, ValueError):
        wanted = math.nan
    if not math.isfinite(wanted):
        may = sorted((school for school in schools if not school.refused), key=lambda item: item.school is not own)
        return may[0].no_load_hz if may else droop.no_load_hz
    span = droop.nominal_hz * SLIDER_PCT / 100
    return min(max(wanted, droop.nominal_hz - span), droop.nominal_hz + span)


def _day(home: Home, source: Source) -> OutageLoads:
    brief = home.brief
    demand = demand_of(home.loads, brief) if home.loads else None
    return outage_loads(limits_of(source, brief.system, brief.site)[0].w, demand, brief.outage_h)
