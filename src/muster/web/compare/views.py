"""Stage 10: sources side by side on one home; of units alone what was measured of each."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from time import monotonic

from django.http import Http404, HttpRequest, HttpResponse

from muster.core.character import Character, Given
from muster.core.compare import (
    ComparedParameter,
    ComparedSource,
    Comparison,
    PairJudged,
    claimed_rows,
    combinations,
    compare,
    compared_parameters,
    handling_rows,
    judged,
    ladder_of_units,
    pair_judged,
    pairs,
)
from muster.core.loads import TIERS, Tier
from muster.core.sources import Source
from muster.core.supply import Leg
from muster.core.verdict.inputs import VerdictInputs
from muster.core.verdict.requirement import ORDER, Status
from muster.formats.tables import comparison_table, parameters_table
from muster.records import bridge
from muster.records.background import Waiting, filling, has_workers
from muster.records.judged import verdict_of
from muster.records.judging import character_now, given_of_row
from muster.records.looking import looking
from muster.records.models import Job, SourceRow
from muster.records.playing import case_of
from muster.web.figures.compare_rows import CompareRow, draw_compare_row, letter_of
from muster.web.figures.price_front import draw_price
from muster.web.outage.views import scope_of
from muster.web.ui.downloads import csv_file
from muster.web.ui.frame import get_job, has_home_loads, live_sources, of_units, stage_page

from .drawings import conversion_curves, hold_curves, noise_curves, volts_curves

SORTS: dict[str, tuple[str, Callable[[ComparedSource], tuple[float, float]]]] = {
    "listed": ("as listed", lambda source: (0.0, 0.0)),
    "verdict": ("verdict, the best first", lambda source: (-ORDER.index(source.status), len(source.loses))),
    "rules": ("rules, the fewest first", lambda source: (len(source.rules), 0.0)),
    "fuel": ("fuel burnt, the least first", lambda source: _known_first(source.burnt_l)),
    "noise": ("noise, the quietest first", lambda source: _known_first(source.neighbour_dba)),
    "price": ("price, the lowest first", lambda source: _known_first(source.price)),
    "weight": ("weight, the lightest first", lambda source: _known_first(source.weight_kg)),
}


FIRST_S, FOREVER_S = 0.25, math.inf
"""Sources that nothing was kept of are worked out in a look for so long; the first rows are to be there within half a second."""


def _known_first(value: float | None) -> tuple[float, float]:
    return (1.0, 0.0) if value is None else (0.0, value)


@dataclass(frozen=True)
class ShownLine:
    """A line with its drawing, its cells in the order shown."""

    label: str
    alike: bool
    row: CompareRow
    cells: tuple[object, ...]


@looking()
def compare_page(request: HttpRequest, job_id: int) -> HttpResponse:
    """Sources beside one another: those that are shown, in the order asked for."""
    job = get_job(job_id)
    rows = _shown(request, live_sources(job))
    scope, waiting = scope_of(request), Waiting()
    common = {
        "all_sources": live_sources(job),
        "shown": {row.pk for row in rows},
        "scope": scope,
        "tiers": TIERS,
        "sorts": [(key, label) for key, (label, _) in SORTS.items()],
        "sort": request.GET.get("sort", "listed"),
        "pin": request.GET.get("pin", ""),
        "waiting": waiting,
        "units": of_units(job),
        "address": request.GET.urlencode(),
    }
    if of_units(job):
        return stage_page(request, job, "compare", "compare/compare.html", common | _units(rows, waiting))
    if not has_home_loads(job) or not rows:
        return stage_page(request, job, "compare", "compare/compare.html", common)
    ready, cases, later = first_cases(rows, scope, waiting)
    if not cases:
        return stage_page(request, job, "compare", "compare/compare.html", common)
    common |= {"later": later, "rows_asked": len(rows), "partial": len(ready) < len(rows)}
    comparison = compare(cases, verdict_of)
    order = _order(request, ready, comparison)
    context = {
        "comparison": comparison,
        "order": [_column(at, ready[at], comparison) for at in order],
        "lines": [
            _line(at, comparison, order) for at in range(len(comparison.lines)) if comparison.lines[at].is_required
        ],
        "parameters": _parameters([case.character for case in cases], order),
        "volts": _volts(cases, order),
        "noise": noise_curves([case.given for case in cases], [case.character for case in cases], order),
        "held": hold_curves([case.source for case in cases], [case.character for case in cases], order),
        "converts": conversion_curves([case.given for case in cases], order),
        "handling": _handling([case.given for case in cases], order),
        "claimed": _claimed([case.source for case in cases], order),
        "motors": _motors(comparison, order),
        "price": draw_price(comparison.priced, comparison.front),
        "together": [] if common["partial"] else _together(ready, cases, comparison, scope, waiting),
        "beside": [] if common["partial"] else _beside(cases, comparison),
        "enough": None if comparison.enough is None else comparison.sources[comparison.enough],
        "enough_letter": None if comparison.enough is None else letter_of(comparison.enough),
        "next_down": None if comparison.next_down is None else comparison.sources[comparison.next_down],
    }
    return stage_page(request, job, "compare", "compare/compare.html", common | context)


def _shown(request: HttpRequest, rows: list[SourceRow]) -> list[SourceRow]:
    """The sources that are not hidden; all where none was chosen."""
    asked = request.GET.getlist("show")
    return [row for row in rows if str(row.pk) in asked] or rows


def _cases(rows: Sequence[SourceRow], scope: Tier, waiting: Waiting) -> tuple[list[SourceRow], list[VerdictInputs]]:
    """What is ready of each source; what is not is waited for, and the others are shown meanwhile."""
    ready, cases, _ = first_cases(rows, scope, waiting, FOREVER_S)
    return ready, cases


def first_cases(
    rows: Sequence[SourceRow], scope: Tier, waiting: Waiting, within_s: float | None = None
) -> tuple[list[SourceRow], list[VerdictInputs], list[SourceRow]]:
    """Of as many sources as can be worked out at once, one at least; the others follow with the next look, which finds these kept."""
    limit_s = within_s if within_s is not None else FIRST_S if has_workers() else FOREVER_S
    ready, cases = [], []
    began = monotonic()
    for at, row in enumerate(rows):
        if cases and monotonic() - began > limit_s:
            return ready, cases, list(rows[at:])
        with filling(waiting):
            case = case_of(row, scope, waiting)
            verdict_of(case)
            cases.append(case)
            ready.append(row)
    return ready, cases, []


def _order(request: HttpRequest, rows: Sequence[SourceRow], comparison: Comparison) -> list[int]:
    """The places of the sources as they are shown: sorted as asked for, a pinned one before all."""
    _, key = SORTS.get(request.GET.get("sort", ""), SORTS["listed"])
    pin = request.GET.get("pin", "")
    return sorted(range(len(rows)), key=lambda at: (str(rows[at].pk) != pin, key(comparison.sources[at]), at))


def _column(at: int, row: SourceRow, comparison: Comparison) -> dict[str, object]:
    return {"letter": letter_of(at), "row": row, "source": comparison.sources[at], "is_enough": at == comparison.enough}


def _line(at: int, comparison: Comparison, order: Sequence[int]) -> ShownLine:
    line = comparison.lines[at]
    cells = tuple({"letter": letter_of(place), "cell": line.cells[place]} for place in order)
    return ShownLine(label=line.label, alike=line.alike, row=draw_compare_row(line, order), cells=cells)


def _parameters(characters: Sequence[Character], order: Sequence[int]) -> list[dict[str, object]]:
    """What was measured of two or more of them, in the order shown."""
    return [
        _parameter(item, order)
        for item in compared_parameters(characters)
        if sum(parameter is not None for parameter in item.measured) > 1
    ]


def _parameter(item: ComparedParameter, order: Sequence[int]) -> dict[str, object]:
    cells = [{"measured": item.measured[at], "claimed": item.claimed[at]} for at in order]
    return {"name": item.name, "alike": item.alike, "bounds": item.bounds, "cells": cells}


def _volts(cases: Sequence[VerdictInputs], order: Sequence[int]) -> object:
    lines = [(letter_of(at), line) for at in order if (line := cases[at].seen.regulation(Leg.ONE)) is not None]
    return volts_curves(lines)


def _handling(given: Sequence[Given], order: Sequence[int]) -> list[dict[str, object]]:
    """The points of their inspections, in the order shown."""
    return [{"point": row.point, "cells": [row.seen[at] for at in order]} for row in handling_rows(given)]


def _claimed(sources: Sequence[Source], order: Sequence[int]) -> list[dict[str, object]]:
    """What no measurement tells of them, in the order shown."""
    return [{"name": row.name, "cells": [row.said[at] for at in order]} for row in claimed_rows(sources)]


def _motors(comparison: Comparison, order: Sequence[int]) -> list[dict[str, object]]:
    """The ladder of motors, the heaviest start on top, in the order shown."""
    heaviest = max((step.start_va for step in comparison.motors), default=1.0)
    return [
        {
            "step": step,
            "width": round(100 * step.start_va / heaviest, 1),
            "cells": [_motor_cell(step.statuses[at]) for at in order],
        }
        for step in reversed(comparison.motors)
    ]


def _motor_cell(status: Status | None) -> dict[str, object]:
    return {
        "said": "" if status is None else status.label,
        "css": "" if status is None else status.value.replace("_", "-"),
    }


def _unit_motors(given: Sequence[Given], order: Sequence[int]) -> list[dict[str, object]]:
    """The motors that units were tried with, the heaviest start on top."""
    steps = ladder_of_units(given)
    heaviest = max((step.start_va for step in steps), default=1.0)
    told = {True: ("started and held", "carries"), False: ("failed", "falls-short"), None: ("", "")}
    return [
        {
            "step": step,
            "width": round(100 * step.start_va / heaviest, 1),
            "cells": [{"said": told[step.started[at]][0], "css": told[step.started[at]][1]} for at in order],
        }
        for step in reversed(steps)
    ]


def _together(
    rows: Sequence[SourceRow], cases: Sequence[VerdictInputs], comparison: Comparison, scope: Tier, waiting: Waiting
) -> list[dict[str, object]]:
    """Batteries that an engine charges, where no source alone is enough: those that carry the home so."""
    if comparison.enough is not None:
        return []
    carrying: list[dict[str, object]] = []
    charged: dict[int, VerdictInputs] = {}  # a battery with its charger's rule is the same whichever engine runs it
    for tried in combinations(cases):
        row = rows[tried.battery]
        with filling(waiting):
            case = charged.get(tried.battery) or case_of(row, scope, waiting, (*bridge.rules_of(row), tried.rule))
            charged[tried.battery] = case
            result = judged(tried, case, cases[tried.engine], verdict_of)
            if result.carries:
                carrying.append({"battery": row, "engine": rows[tried.engine], "result": result})
    return carrying


def _beside(cases: Sequence[VerdictInputs], comparison: Comparison) -> list[PairJudged]:
    """Two units side by side, where no source alone is enough and nothing speaks against both."""
    if comparison.enough is not None:
        return []
    tried = (pair_judged(pair, cases, comparison.sources) for pair in pairs(cases))
    return [pair for pair in tried if pair is not None]


def _units(rows: Sequence[SourceRow], waiting: Waiting) -> dict[str, object]:
    """Units of a job without a home: what was measured of each, and what each is like by hand."""
    characters, ready, given = [], [], []
    for row in rows:
        with filling(waiting):
            characters.append(character_now(row))
            given.append(given_of_row(row))
            ready.append(row)
    order = list(range(len(ready)))
    values = [bridge.source_of(row) for row in ready]
    every = [_parameter(item, order) for item in compared_parameters(characters)]
    columns = [
        {"letter": letter_of(at), "row": row, "owning": values[at].owning, "rated_w": values[at].claims.cont_w}
        for at, row in enumerate(ready)
    ]
    return {
        "parameters": every,
        "order": columns,
        "handling": _handling(given, order),
        "noise": noise_curves(given, characters, order),
        "held": hold_curves(values, characters, order),
        "converts": conversion_curves(given, order),
        "volts": _lines_of(given, order),
        "claimed": _claimed(values, order),
        "motors": _unit_motors(given, order),
    }


def _lines_of(given: Sequence[Given], order: Sequence[int]) -> object:
    """The widest line of volts against load of each unit."""
    lines = []
    for at in order:
        own = [line for dated in given[at].sessions for line in dated.findings.regulation]
        if own:
            lines.append((letter_of(at), max(own, key=lambda line: line.line.x_high)))
    return volts_curves(lines)


def as_csv(request: HttpRequest, job_id: int) -> HttpResponse:
    """The comparison as a table, a row a line and source."""
    job: Job = get_job(job_id)
    rows, waiting = _shown(request, live_sources(job)), Waiting()
    if of_units(job):
        names, parameters = [row.name for row in rows], compared_parameters([character_now(row) for row in rows])
        return csv_file(parameters_table(names, parameters), f"{job.name} compared")
    ready, cases = _cases(rows, scope_of(request), waiting)
    if not ready or not has_home_loads(job):
        raise Http404("nothing is compared here yet")
    return csv_file(comparison_table(compare(cases, verdict_of)), f"{job.name} compared")
