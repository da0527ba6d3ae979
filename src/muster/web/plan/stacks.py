"""What stacks on a source: any set of loads tried on paper, the best sets, and the order of starts with its proof."""

from __future__ import annotations

from django.http import Http404, HttpRequest, HttpResponse

from muster.core.brief import Home
from muster.core.loads import TIERS, Load
from muster.core.sources.limits import drawn
from muster.core.stacking.best_sets import fits_together, leave_out
from muster.core.stacking.order import best_order, order_of_starts, start_order
from muster.core.stacking.what_if import next_to_start, what_if, whole_source
from muster.formats.tables import order_table, stacks_table
from muster.records import background, bridge
from muster.records.judging import character_now, stacks_of
from muster.web.figures.stack import draw_stack
from muster.web.ui.downloads import csv_file
from muster.web.ui.frame import chosen_source, get_job, live_sources, stage_page


def _wished(request: HttpRequest, home: Home) -> list[Load]:
    """The loads chosen in the address; at first the musts that run throughout or call by themselves."""
    if "tried" not in request.GET:
        return [load for load in home.within(TIERS[0]) if load.calls_at_once]
    chosen = request.GET.getlist("on")
    return [load for load in home.loads if load.key in chosen]


def stacks(request: HttpRequest, job_id: int) -> HttpResponse:
    """A set of loads tried on the source: each other load at once, the best sets, and the best order of starts."""
    job = get_job(job_id)
    source = chosen_source(request, job)
    home = bridge.home_of(job)
    context = {"source": source, "sources": live_sources(job), "loads": home.loads}
    if source is not None and home.loads:
        system = home.brief.system
        character = character_now(source)
        binding = character.binding_limits
        on = _wished(request, home)
        off = [load for load in home.loads if load not in on]
        starting = next_to_start(home.loads, [load.key for load in on])
        order = best_order(on, system)
        context |= {
            "on": on,
            "stack": draw_stack(on, starting, drawn(character.limits), system),
            "whole": whole_source(on, next(limit for limit in binding if limit.leg is None), system),
            "answers": [(load, what_if(load, on, binding, system, character.started_w)) for load in off],
            "fits": fits_together(on, binding, system),
            "out": leave_out(on, binding, system),
            "order": order,
            "others": [
                ("by the plain rule, (start − run) largest first", order_of_starts(start_order(on), system).peak_a),
                ("as they are listed", order_of_starts(on, system).peak_a),
                ("largest last, to prove the base-load case", order_of_starts(start_order(on)[::-1], system).peak_a),
            ],
            "two_legs": system.legs == 2,
            "tiers": TIERS,
        }
        with background.filling() as waiting:
            context["best"] = stacks_of(home, binding)
        context["waiting"] = waiting
    return stage_page(request, job, "plan", "plan/stacks.html", context)


def as_csv(request: HttpRequest, job_id: int) -> HttpResponse:
    """The best sets as a table."""
    job = get_job(job_id)
    source, home = chosen_source(request, job), bridge.home_of(job)
    if source is None:
        raise Http404("no source yet")
    stacks_found = stacks_of(home, character_now(source).binding_limits)
    return csv_file(stacks_table(stacks_found), f"{source.name} stacks")


def order_csv(request: HttpRequest, job_id: int) -> HttpResponse:
    """The order of starts of the set in the address, with each moment, as a table."""
    home = bridge.home_of(get_job(job_id))
    return csv_file(order_table(best_order(_wished(request, home), home.brief.system)), "start order")
