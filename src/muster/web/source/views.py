"""Stage 3: the source, its claims, its limits here, and what they say on paper."""

from __future__ import annotations

from dataclasses import dataclass

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils import timezone
from django.views.decorators.http import require_POST

from muster.core.brief import Brief
from muster.core.errors import MusterError
from muster.core.shelf import SOURCE_BY_SLUG, SOURCE_SHELF
from muster.core.shelf.measured import Elsewhere, elsewhere_of
from muster.core.sources import Derating, Source, SourceKind, derate
from muster.core.sources.limits import Limit, binding_words, limits_of
from muster.core.sources.nameplate import read_nameplate
from muster.core.sources.pairs import BySchool, by_schools, chosen
from muster.core.verdict import Verdict
from muster.records import bridge
from muster.records.actions import sources as actions
from muster.records.actions.measured import on_shelf
from muster.records.actions.measures import follow_typed
from muster.records.actions.sessions import live_sessions
from muster.records.background import Waiting, filling
from muster.records.judging import character_now
from muster.records.models import Job, SourceRow
from muster.records.playing import verdict_on
from muster.web.figures.tally import TallyRow, draw_tally
from muster.web.ui.frame import get_job, has_home_loads, live_sources, stage_page
from muster.web.ui.said import say_undoable

from .forms import SourceForm, initial_from_shelf, initial_of


@dataclass(frozen=True)
class SourceCard:
    """A source with its limits at this site and its verdict so far."""

    row: SourceRow
    source: Source
    derating: Derating
    limits: tuple[Limit, ...]
    binds: tuple[str, ...]
    with_sun: tuple[str, ...]
    schools: tuple[BySchool, ...]
    chosen: BySchool | None
    verdict: Verdict | None
    tally: tuple[TallyRow, ...]
    tested: int
    elsewhere: Elsewhere | None = None


def _card(row: SourceRow, brief: Brief, waiting: Waiting, *, judged: bool) -> SourceCard:
    source = bridge.source_of(row)
    verdict = None
    with filling(waiting):
        verdict = verdict_on(row) if judged else None
    plate, sunny = (limits_of(source, brief.system, brief.site, sun=sun) for sun in (False, True))
    limits = plate
    tested, taken = live_sessions(row).count(), bridge.taken_of(row)
    if tested or taken is not None:
        with filling(waiting):
            limits = character_now(row).limits
    binding = tuple(limit for limit in limits if not limit.key.startswith("held"))
    sunny_words = binding_words(sunny, brief.system) if sunny != plate else ()
    return SourceCard(
        row=row,
        source=source,
        derating=derate(source.kind, source.claims.derated_fuel, brief.site),
        limits=limits,
        binds=binding_words(binding, brief.system),
        with_sun=sunny_words,
        schools=by_schools(source, brief.system),
        chosen=chosen(source, brief.system),
        verdict=verdict,
        tally=draw_tally(verdict.requirements) if verdict else (),
        tested=tested,
        elsewhere=elsewhere_of(taken, timezone.now()) if taken is not None else None,
    )


def sources(request: HttpRequest, job_id: int) -> HttpResponse:
    """Each source with its derated limits and the verdict on paper."""
    return _sources(request, get_job(job_id))


def _sources(request: HttpRequest, job: Job, line: str = "", line_error: str = "") -> HttpResponse:
    brief = bridge.brief_of(job)
    judged = has_home_loads(job) and not brief.of_units
    waiting = Waiting()
    context = {
        "cards": [_card(row, brief, waiting, judged=judged) for row in live_sources(job)],
        "waiting": waiting,
        "kinds": list(SourceKind),
        "shelf": SOURCE_SHELF,
        "measured": on_shelf(),
        "archived": list(job.source_rows.exclude(archived_at=None)),
        "has_loads": judged,
        "of_units": brief.of_units,
        "line": line,
        "line_error": line_error,
    }
    return stage_page(request, job, "source", "source/sources.html", context, 422 if line_error else 200)


def new(request: HttpRequest, job_id: int) -> HttpResponse:
    """Add a source of the kind in the address, or as the shelf has it."""
    job = get_job(job_id)
    entry = SOURCE_BY_SLUG.get(request.GET.get("shelf", ""))
    wanted = request.GET.get("kind", "")
    if entry is None and wanted not in set(SourceKind):
        return redirect("source", job.pk)
    kind = entry.kind if entry else SourceKind(wanted)
    initial = initial_from_shelf(entry) if entry else None
    form = SourceForm(request.POST or None, initial=initial, kind=kind, legs=bridge.brief_of(job).system.legs)
    if request.method == "POST" and form.is_valid():
        source = form.source()
        if source is not None:
            actions.add_source(job, source, request.user)
            return redirect("source", job.pk)
    context = {"form": form, "kind": kind, "title": "New source", "entry": entry}
    return stage_page(request, job, "source", "source/edit.html", context, 422 if form.errors else 200)


def read(request: HttpRequest, job_id: int) -> HttpResponse:
    """A line about a source told back while it is typed; nothing is kept."""
    get_job(job_id)
    line, told, error = request.GET.get("line", ""), None, ""
    if line.strip():
        try:
            told = read_nameplate(line[:MOST_LINE])
        except MusterError as wrong:
            error = str(wrong)
    return render(request, "source/read.html", {"told": told, "error": error})


@require_POST
def add_line(request: HttpRequest, job_id: int) -> HttpResponse:
    """Add a source by one line."""
    job = get_job(job_id)
    line = request.POST.get("line", "")
    try:
        plate = read_nameplate(line[:MOST_LINE])
        row = actions.add_source(job, plate.source, request.user)
        follow_typed(job, line)
    except MusterError as wrong:
        return _sources(request, job, line=line, line_error=str(wrong))
    asked = f" Not said: {', '.join(plate.asked)}." if plate.asked else ""
    messages.info(request, f"{row.name}: {', '.join(plate.told)}.{asked}")
    return redirect("source", job.pk)


MOST_LINE = 1000


def _row(job: Job, source_id: int) -> SourceRow:
    return get_object_or_404(SourceRow, pk=source_id, job=job)


def edit(request: HttpRequest, job_id: int, source_id: int) -> HttpResponse:
    """Change a source's claims."""
    job = get_job(job_id)
    row = _row(job, source_id)
    was = bridge.source_of(row)
    legs = bridge.brief_of(job).system.legs
    form = SourceForm(request.POST or None, initial=initial_of(was), kind=was.kind, legs=legs, was=was)
    if request.method == "POST" and form.is_valid():
        source = form.source()
        if source is not None:
            actions.edit_source(row, source, request.user)
            return redirect("source", job.pk)
    context = {"form": form, "kind": was.kind, "title": was.name}
    return stage_page(request, job, "source", "source/edit.html", context, 422 if form.errors else 200)


@require_POST
def archive(request: HttpRequest, job_id: int, source_id: int) -> HttpResponse:
    """Archive a source with its sessions."""
    row = actions.archive_source(_row(get_job(job_id), source_id), request.user)
    url = reverse("source-restore", args=[job_id, row.pk])
    say_undoable(request, f"{row.name} is archived with its sessions.", url)
    return redirect("source", job_id)


@require_POST
def restore(request: HttpRequest, job_id: int, source_id: int) -> HttpResponse:
    """Bring a source back."""
    actions.restore_source(_row(get_job(job_id), source_id), request.user)
    return redirect("source", job_id)
