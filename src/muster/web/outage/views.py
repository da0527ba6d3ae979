"""Stage 8: the outage: played through on a source, and what the home alone asks hour by hour."""

from __future__ import annotations

from typing import Any

from django.contrib import messages
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect
from django.urls import reverse
from django.utils.http import urlencode

from muster.core.advice.foresight import told_over_all
from muster.core.brief import Brief, Home
from muster.core.errors import MusterError
from muster.core.loads import TIERS, Tier
from muster.core.outage.household import HouseholdRule
from muster.core.outage.nights import Night, in_short
from muster.core.quantities import number
from muster.core.verdict.rule_search import RulesFound
from muster.formats.bounds import plain_json
from muster.formats.codec import load
from muster.formats.tables import outage_table, played_table
from muster.records import bridge
from muster.records.actions.rules import accept_rules, strike_rule
from muster.records.background import NotReady, Waiting, filling
from muster.records.foresight import real_outages
from muster.records.judging import demand_of
from muster.records.models import Job, SourceRow
from muster.records.playing import played_on
from muster.records.searching import ask_for_rules, rules_found
from muster.web.figures.night_strip import draw_night
from muster.web.figures.played_ribbon import draw_played, lead_words, share_words
from muster.web.figures.ribbon import draw_ribbon
from muster.web.outage.forms import RuleForm, WhatIfForm
from muster.web.outage.household import household_of
from muster.web.ui.downloads import csv_file
from muster.web.ui.error_text import error_sentence
from muster.web.ui.frame import chosen_source, get_job, live_sources, of_units, stage_page, to_findings

MOST_CAUSES, MOST_TOLD = 8, 40


def scope_of(request: HttpRequest) -> Tier:
    """The tier asked for in the address, else must."""
    wanted = request.GET.get("scope") or request.POST.get("scope", "")
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
    brief, rules = _what_if(request, source, bridge.home_of(job)).played()
    played, _ = played_on(source, scope, waiting, brief, rules)
    if played is None:
        raise NotReady(waiting.rows)
    return csv_file(played_table(played), f"{job.name} {source.name} outage")


def _what_if(request: HttpRequest, source: SourceRow, home: Home, proposal: RulesFound | None = None) -> WhatIfForm:
    """The day and the rules asked for in the address, with what fits the source."""
    return WhatIfForm(
        request.GET,
        home=home,
        sun=bool(bridge.source_of(source).panels),
        accepted=bridge.rules_of(source),
        tried=proposal.rules if proposal else (),
    )


def rules(request: HttpRequest, job_id: int) -> HttpResponse:
    """Posted: rules of the household are searched, accepted, struck, or added by hand."""
    job = get_job(job_id)
    source, scope = chosen_source(request, job), scope_of(request)
    if request.method != "POST" or source is None:
        return redirect("outage", job.pk)
    try:
        return _change_rules(request, source, scope) or redirect(_back(source, scope))
    except MusterError as error:
        messages.error(request, error_sentence(error))
        return redirect(_back(source, scope))


def _back(source: SourceRow, scope: Tier) -> str:
    return f"{reverse('outage', args=[source.job_id])}?{urlencode({'source': source.pk, 'scope': scope})}#household"


def _change_rules(request: HttpRequest, source: SourceRow, scope: Tier) -> HttpResponse | None:
    what = request.POST.get("do", "")
    if what == "search":
        with filling():
            ask_for_rules(source, scope)
    elif what == "add":
        form = RuleForm(request.POST, bridge.home_of(source.job), scope)
        rule = form.made()
        if rule is None:
            return _page(request, source.job, form)
        accept_rules(source, [rule], request.user)
    elif what == "strike":
        strike_rule(source, _posted(request), request.user)
    elif what == "accept":
        accept_rules(source, [_posted(request)], request.user)
    elif what == "accept-all":
        proposal, _ = rules_found(source, scope)
        accept_rules(source, proposal.rules if proposal else (), request.user)
    return None


def _posted(request: HttpRequest) -> HouseholdRule:
    """The rule that a button is for."""
    return load(HouseholdRule, plain_json(request.POST.get("rule", ""), "a rule"))


def day(request: HttpRequest, job_id: int) -> HttpResponse:
    """The outage of this home, on a source where there is one."""
    return _page(request, get_job(job_id))


def _page(request: HttpRequest, job: Job, form: RuleForm | None = None) -> HttpResponse:
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
        proposal, searching = (None, Waiting()) if request.htmx else rules_found(source, scope)  # type: ignore[attr-defined]
        context |= _played(request, source, home, scope, waiting, proposal)
        context |= {"searching": searching, "household": household_of(source, home, proposal), "found": proposal}
        context |= _afterwards(source) if not request.htmx else {}  # type: ignore[attr-defined]
        context |= {"rule_form": form or RuleForm(None, home, scope), "adding": form is not None}
    if demand is not None:
        names = home.by_key
        context |= {
            "ribbon": draw_ribbon(demand, home.brief) if loads else None,
            "energies": sorted(((names[k], wh) for k, wh in demand.load_wh.items()), key=lambda row: -row[1]),
            "starts": sorted(((names[s.load], s) for s in demand.starts), key=lambda row: -row[1].moment_va),
            "legs": list(zip(demand.leg_w, demand.leg_va, demand.leg_hour_w, strict=True)),
        }
    return stage_page(request, job, "outage", "outage/outage.html", {**context, "waiting": waiting})


def _played(
    request: HttpRequest, source: SourceRow, home: Home, scope: Tier, waiting: Waiting, proposal: RulesFound | None
) -> dict[str, Any]:
    """What comes of the outage on a source, as far as it has been played, on the day and by the rules that are asked for."""
    what_if = _what_if(request, source, home, proposal)
    brief, rules = what_if.played()
    played, character = played_on(source, scope, waiting, brief, rules)
    asked = {
        "what_if": what_if,
        "choices": [(at, rule.described(home.by_key), kept) for at, rule, kept in what_if.choices],
        "asked": brief,
        "otherwise": brief != home.brief or rules != what_if.accepted,
    }
    if played is None or character is None:
        return asked
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
            _night("The middle one of them", played.typical_night, brief),
            _night("The worst of a hundred", played.worst_night, brief),
        ],
    }


def _afterwards(source: SourceRow) -> dict[str, Any]:
    """The real outages of a source, each beside what was predicted, and how well they were foreseen."""
    waits = Waiting()
    outages = real_outages(source, waits)
    rows = [row for outage in outages for row in outage.rows]
    return {"outages": outages, "foreseen": told_over_all(rows, len(outages)), "still_played": waits}


def _night(title: str, night: Night, brief: Brief) -> dict[str, Any]:
    """One outage told: its strip, its first events in sentences, and how many more there are."""
    first, events = brief.outage_from_hour, in_short(night.events)
    return {
        "title": title,
        "strip": draw_night(night, brief),
        "lines": [event.told(first) for event in events[:MOST_TOLD]],
        "more": max(0, len(events) - MOST_TOLD),
    }
