"""Stage 8: the outage, its first form: what the home needs, hour by hour."""

from __future__ import annotations

from django.http import HttpRequest, HttpResponse

from muster.core.loads import TIERS, Tier
from muster.formats.tables import outage_table
from muster.records import bridge
from muster.records.background import filling
from muster.records.judging import demand_of
from muster.web.figures.ribbon import draw_ribbon
from muster.web.ui.downloads import csv_file
from muster.web.ui.frame import get_job, of_units, stage_page, to_findings


def scope_of(request: HttpRequest) -> Tier:
    """The tier asked for in the address, else must."""
    wanted = request.GET.get("scope", "")
    return Tier(wanted) if wanted in TIERS else Tier.MUST


def as_csv(request: HttpRequest, job_id: int) -> HttpResponse:
    """The hours of the outage as a table."""
    job = get_job(job_id)
    home = bridge.home_of(job)
    return csv_file(outage_table(demand_of(home.within(scope_of(request)), home.brief)), f"{job.name} day")


def day(request: HttpRequest, job_id: int) -> HttpResponse:
    """The simulated outage of this home."""
    job = get_job(job_id)
    if of_units(job):
        return to_findings(request, job)
    home, scope = bridge.home_of(job), scope_of(request)
    loads = home.within(scope)
    demand = None
    with filling() as waiting:
        demand = demand_of(loads, home.brief)
    if demand is None:
        return stage_page(
            request,
            job,
            "outage",
            "outage/outage.html",
            {"scope": scope, "tiers": TIERS, "waiting": waiting, "loads": loads},
        )
    names = home.by_key
    context = {
        "scope": scope,
        "tiers": TIERS,
        "loads": loads,
        "demand": demand,
        "ribbon": draw_ribbon(demand, home.brief) if loads else None,
        "energies": sorted(((names[k], wh) for k, wh in demand.load_wh.items()), key=lambda row: -row[1]),
        "starts": sorted(((names[s.load], s) for s in demand.starts), key=lambda row: -row[1].moment_va),
        "legs": list(zip(demand.leg_w, demand.leg_va, demand.leg_hour_w, strict=True)),
    }
    return stage_page(request, job, "outage", "outage/outage.html", context)
