"""The noise plan: where things stand, rings, what reaches the ear by day and by night."""

from __future__ import annotations

from dataclasses import dataclass, fields, replace

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect
from django.urls import reverse

from muster.core.brief import Brief, Home
from muster.core.errors import MusterError, OutOfRange
from muster.core.layout import Layout
from muster.core.noise_plan import AtEar, Sound, at_ear, sound_of
from muster.core.quantities import plain
from muster.records import bridge
from muster.records.actions import sources as actions
from muster.records.judging import demand_of
from muster.web.figures.noise_plan import draw_noise_plan
from muster.web.ui.frame import get_job, live_sources, stage_page
from muster.web.ui.words import told

from .told import Study, asked_source, study_of


@dataclass(frozen=True)
class Hour:
    """An hour of the outage: its mean load, the level at the ear, the limit then (None: none)."""

    hour: int
    w: float
    dba: float
    limit: float | None

    @property
    def over(self) -> bool:
        """Whether it is too loud."""
        return self.limit is not None and round(self.dba, 1) > self.limit


def noise(request: HttpRequest, job_id: int) -> HttpResponse:
    """The plan of a source; a POST keeps where things stand."""
    job = get_job(job_id)
    row = asked_source(request, job)
    if request.method == "POST":
        try:
            source = bridge.source_of(row)
            actions.edit_source(row, replace(source, layout=_posted(request)), request.user)
        except MusterError as error:
            messages.error(request, told(error))
        return redirect(f"{reverse('noise-plan', args=[job_id])}?source={row.pk}")
    study = study_of(row)
    walks = [walk for dated in study.sessions for walk in dated.found.noise]
    sound = sound_of(walks, _loaded_w(study))
    context = {"source": row, "sources": live_sources(job), "sound": sound}
    if sound is not None:
        context |= _plan(study, sound)
    return stage_page(request, job, "findings", "findings/noise.html", context)


def _posted(request: HttpRequest) -> Layout:
    given = {}
    for one in fields(Layout):
        text = request.POST.get(one.name, "").strip().replace(",", ".").replace("\u2212", "-")
        try:
            given[one.name] = float(text) if text else 0.0
        except ValueError:
            raise OutOfRange(f"got “{text[:20]}”", where=one.name, want="metres, such as 12.5") from None
    return Layout(**{**given, "units": round(given["units"]) or 1})  # type: ignore[arg-type]


def _loaded_w(study: Study) -> float:
    """What was on when it was walked under load: read, else by the roll."""
    for dated in reversed(study.sessions):
        if dated.found.noise:
            loads = study.home.by_key
            on = [s for s in dated.found.record.segments if s.on and any(r.quantity == "dba" for _, _, r in s.readings)]
            if on:
                read = on[-1].total_w(study.home.brief.system.legs)
                return read or sum(loads[key].run_w for key in on[-1].on if key in loads)
    return 0.0


def _plan(study: Study, sound: Sound) -> dict[str, object]:
    brief = study.home.brief
    layout = study.source.layout or Layout(ear_x=brief.ear_m)
    peak = at_ear(sound, layout, sound.loaded_w)
    return {
        "layout": layout, "figure": draw_noise_plan(sound, layout, sound.loaded_w), "peak": peak,
        "idle": at_ear(sound, layout, 0.0), "hours": _hours(study.home, sound, layout), "said": _said(brief, peak),
        "plan_fields": _fields(layout), "differs": abs(layout.ear_m - brief.ear_m) > 0.5,
    }  # fmt: skip


def _fields(layout: Layout) -> list[tuple[str, tuple[str, str], tuple[str, str]]]:
    """What stands in the form, a pair a row."""
    rows = (
        ("house", "house_x", "house_y"),
        ("nearest ear", "ear_x", "ear_y"),
        ("wall from", "wall_x1", "wall_y1"),
        ("to", "wall_x2", "wall_y2"),
    )
    return [(words, (x, f"{getattr(layout, x):g}"), (y, f"{getattr(layout, y):g}")) for words, x, y in rows]


def _said(brief: Brief, peak: AtEar) -> str:
    limits = [
        (word, limit) for word, limit in (("by day", brief.noise_day_dba), ("by night", brief.noise_night_dba)) if limit
    ]
    told_of = [
        f"{plain(abs(limit - peak.screened_dba), 'db')} {'within' if peak.screened_dba <= limit else 'over'} what is allowed {word}"
        for word, limit in limits
    ]
    return " and ".join(told_of)


def _hours(home: Home, sound: Sound, layout: Layout) -> list[Hour]:
    """Each hour of the simulated outage; the first day of a long one."""
    if not home.loads:
        return []
    demand, brief = demand_of(home.loads, home.brief), home.brief
    quiet = brief.quiet_hours
    return [
        Hour(
            hour,
            w,
            at_ear(sound, layout, w).screened_dba,
            brief.noise_night_dba if hour in quiet else brief.noise_day_dba,
        )
        for hour, w in list(zip(demand.hours, demand.hour_wh, strict=True))[:24]
    ]
