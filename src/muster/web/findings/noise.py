"""The noise plan: where things stand, rings, what reaches the neighbour by day and by night."""

from __future__ import annotations

import math
from dataclasses import fields, replace

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect
from django.urls import reverse

from muster.core.advice.noise_layout import NoiseLayout
from muster.core.advice.noise_plan import against_limits, at_neighbour, hours_at_neighbour
from muster.core.character.sound import Sound
from muster.core.errors import MusterError, OutOfRange
from muster.core.measures import scale_of
from muster.core.quantities import shown, unit_word
from muster.records import bridge
from muster.records.actions import sources as actions
from muster.records.judging import demand_of
from muster.web.figures.noise_plan import draw_noise_plan
from muster.web.ui.error_text import error_sentence
from muster.web.ui.frame import get_job, live_sources, stage_page

from .study import Study, asked_source, study_of


def noise(request: HttpRequest, job_id: int) -> HttpResponse:
    """The plan of a source; a POST keeps where things stand."""
    job = get_job(job_id)
    row = asked_source(request, job)
    if request.method == "POST":
        try:
            source = bridge.source_of(row)
            actions.edit_source(row, replace(source, layout=_posted(request)), request.user)
        except MusterError as error:
            messages.error(request, error_sentence(error))
        return redirect(f"{reverse('noise-plan', args=[job_id])}?source={row.pk}")
    study = study_of(row)
    sound = study.character.sound
    context = {"source": row, "sources": live_sources(job), "sound": sound}
    if sound is not None:
        context |= _plan(study, sound)
    return stage_page(request, job, "findings", "findings/noise.html", context)


def _posted(request: HttpRequest) -> NoiseLayout:
    given = {}
    for field in fields(NoiseLayout):
        text = request.POST.get(field.name, "").strip().replace(",", ".").replace("\u2212", "-")
        try:
            given[field.name] = _si(field.name, float(text) if text else 0.0)
        except ValueError:
            given[field.name] = math.nan
        if not math.isfinite(given[field.name]):
            raise OutOfRange(f"got “{text[:20]}”", where=field.name, want=f"{unit_word('m')}, such as 12.5")
    return NoiseLayout(**{**given, "units": round(given["units"]) or 1})  # type: ignore[arg-type]


def _si(name: str, typed: float) -> float:
    """What was typed, in metres: all but the number of units is a length."""
    scale = scale_of("m")
    return typed if name == "units" or scale is None else scale.si(typed)


def _plan(study: Study, sound: Sound) -> dict[str, object]:
    brief = study.home.brief
    layout = study.source.layout or NoiseLayout(neighbour_x=brief.neighbour_m)
    peak = at_neighbour(sound, layout, sound.loaded_w)
    return {
        "layout": layout,
        "figure": draw_noise_plan(sound, layout, sound.loaded_w),
        "peak": peak,
        "idle": at_neighbour(sound, layout, 0.0),
        "hours": hours_at_neighbour(sound, layout, brief, demand_of(study.home.loads, brief))
        if study.home.loads
        else (),
        "said": against_limits(brief, peak.screened_dba),
        "plan_fields": _fields(layout),
        "differs": abs(layout.neighbour_m - brief.neighbour_m) > 0.5,
    }


def _fields(layout: NoiseLayout) -> list[tuple[str, tuple[str, str], tuple[str, str]]]:
    """What stands in the form, a pair a row."""
    rows = (
        ("house", "house_x", "house_y"),
        ("nearest neighbour", "neighbour_x", "neighbour_y"),
        ("wall from", "wall_x1", "wall_y1"),
        ("to", "wall_x2", "wall_y2"),
    )
    return [(words, (x, _shown(layout, x)), (y, _shown(layout, y))) for words, x, y in rows]


def _shown(layout: NoiseLayout, name: str) -> str:
    return f"{shown(getattr(layout, name), 'm'):.4g}"
