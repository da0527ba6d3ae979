"""Stage 8: the outage: played through on a source, and what the home alone asks hour by hour."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.utils.http import urlencode

from muster.core.brief import Home
from muster.core.loads import TIERS, Tier
from muster.core.outage.played import OutageEvent
from muster.core.outage.rules import Rules
from muster.core.quantities import number
from muster.formats.tables import outage_table, played_table
from muster.records import bridge
from muster.records.background import NotReady, Waiting, filling
from muster.records.judging import demand_of
from muster.records.models import SourceRow
from muster.records.playing import played_on
from muster.web.figures.played_ribbon import draw_played, lead_words, share_words
from muster.web.figures.ribbon import draw_ribbon
from muster.web.outage.forms import WhatIfForm
from muster.web.ui.downloads import csv_file
from muster.web.ui.frame import chosen_source, get_job, live_sources, of_units, stage_page, to_findings

MOST_CAUSES, MOST_TOLD = 8, 40


def scope_of(request: HttpRequest) -> Tier:
    """The tier asked for in the address, else must."""
    wanted = request.GET.get("scope", "")
    return Tier(wanted) if wanted in TIERS else Tier.MUST


def as_csv(request: HttpRequest, job_id: int) -> HttpResponse:
    """The hours of the outage as a table."""
    job = get_job(job_id)
    home = bridge.home_of(job)
    return csv_file(outage_table(demand_of(home.within(scope_of(request)), home.brief)), f"{job.name} day")


def played_csv(request: HttpRequest, job_id: int) -> HttpResponse:
    """The hours of the outage as it is played on a source, on the day and by the rules asked for, as a table."""
    job = get_job(job_id)
    source, scope, waiting = chosen_source(request, job), scope_of(request), Waiting()
    if source is None:
        raise Http404("no source, so nothing is played")
    brief, rules = _what_if(request, source, bridge.home_of(job), scope).played()
    played, _ = played_on(source, scope, waiting, brief, rules)
    if played is None:
        raise NotReady(waiting.rows)
    return csv_file(played_table(played), f"{job.name} {source.name} outage")


def _what_if(request: HttpRequest, source: SourceRow, home: Home, scope: Tier) -> WhatIfForm:
    """The day and the rules asked for in the address, with what fits the source."""
    value = bridge.source_of(source)
    return WhatIfForm(
        request.GET,
        brief=home.brief,
        battery=value.kind.has_battery,
        tank=value.kind.has_engine,
        sun=bool(value.panels),
        could=scope is Tier.COULD,
    )


def day(request: HttpRequest, job_id: int) -> HttpResponse:
    """The outage of this home, on a source where there is one."""
    job = get_job(job_id)
    if of_units(job):
        return to_findings(request, job)
    home, scope, source = bridge.home_of(job), scope_of(request), chosen_source(request, job)
    loads = home.within(scope)
    waiting = Waiting()
    demand = None
    with filling(waiting):
        demand = demand_of(loads, home.brief)
    context: dict[str, Any] = {
        "scope": scope,
        "tiers": TIERS,
        "loads": loads,
        "source": source,
        "sources": live_sources(job),
        "demand": demand,
    }
    if loads and source is not None:
        context |= _played(request, source, home, scope, waiting)
    if demand is not None:
        names = home.by_key
        context |= {
            "ribbon": draw_ribbon(demand, home.brief) if loads else None,
            "energies": sorted(((names[k], wh) for k, wh in demand.load_wh.items()), key=lambda row: -row[1]),
            "starts": sorted(((names[s.load], s) for s in demand.starts), key=lambda row: -row[1].moment_va),
            "legs": list(zip(demand.leg_w, demand.leg_va, demand.leg_hour_w, strict=True)),
        }
    return stage_page(request, job, "outage", "outage/outage.html", {**context, "waiting": waiting})


def _played(request: HttpRequest, source: SourceRow, home: Home, scope: Tier, waiting: Waiting) -> dict[str, Any]:
    """What comes of the outage on a source, as far as it has been played, on the day and by the rules that are asked for."""
    what_if = _what_if(request, source, home, scope)
    brief, rules = what_if.played()
    played, character = played_on(source, scope, waiting, brief, rules)
    asked = {"what_if": what_if, "asked": brief, "otherwise": brief != home.brief or rules != Rules()}
    if played is None or character is None:
        return asked
    first = played.hours[0]
    return {
        **asked,
        "played": played,
        "in_short": lead_words(played),
        "address": urlencode({**request.GET.dict(), "source": source.pk, "scope": scope}),
        "draws": number(played.draws),
        "drawn": draw_played(played, character, brief),
        "chances": [
            (
                failure.label,
                share_words(chance.share),
                chance.ends,
                played.stated_chances[failure],
                played.spreads[failure][:2],
            )
            for failure, chance in played.chances.items()
        ],
        "served": [(tier, seconds) for tier, seconds in ((t, h * 3600) for t, h in played.served_h.items())],
        "causes": played.causes[:MOST_CAUSES],
        "nights": [
            _night("The middle one of them", played.typical_events, first),
            _night("The worst of a hundred", played.worst_events, first),
        ],
    }


def _night(title: str, events: Sequence[OutageEvent], first_hour: int) -> tuple[str, list[str], int]:
    """One outage told: its title, its first events in sentences, and how many more there are."""
    return title, [event.told(first_hour) for event in events[:MOST_TOLD]], max(0, len(events) - MOST_TOLD)
