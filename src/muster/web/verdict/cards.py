"""The household's card: looked at, worded, printed and kept on a phone."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from django.contrib import messages
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect
from django.urls import reverse
from django.utils import timezone
from django.views.decorators.http import require_POST

from muster.core.card import LANGUAGES, Card, CardWords, OwnText, WrittenCard, card_of, language_named, write_card
from muster.core.errors import MusterError
from muster.core.verdict import Verdict
from muster.formats.data_digest import data_parts
from muster.formats.jobfile import JobFile
from muster.records import bridge
from muster.records.actions import cards as actions
from muster.records.actions.jobs import job_file
from muster.records.background import Waiting, filling
from muster.records.judged import verdict_of
from muster.records.models import Job, SourceRow
from muster.records.playing import case_of
from muster.web.ui.downloads import file_name, keep_as
from muster.web.ui.error_text import error_sentence
from muster.web.ui.frame import chosen_source, get_job, has_home_loads, live_sources, of_units, stage_page, to_findings

from .card_page import card_file, fitted, warns
from .papers import POLICY, PaperFacts, PaperSize

FOR_CARDS = (PaperSize.A5, PaperSize.HALF_LETTER, PaperSize.A4, PaperSize.LETTER)
CALL_FIELDS = 3
OWN = "own:"
"""A field of the form that holds own words of a line begins so."""


@dataclass(frozen=True)
class Judged:
    """A source with its verdict and card; the job as its file holds it."""

    source: SourceRow
    verdict: Verdict
    card: Card
    file: JobFile


def _judged(job: Job, source: SourceRow, playing: Waiting | None = None) -> Judged:
    case = case_of(source, waits=playing)
    verdict = verdict_of(case)
    return Judged(source, verdict, card_of(job.name, case, verdict), job_file(job))


def _asked_source(request: HttpRequest, job: Job) -> SourceRow:
    source = chosen_source(request, job)
    if source is None or not has_home_loads(job):
        raise Http404("a card wants a source and loads first")
    return source


def card(request: HttpRequest, job_id: int) -> HttpResponse:
    """The card of a source, with the words that may be changed beside it."""
    job = get_job(job_id)
    if of_units(job):
        return to_findings(request, job)
    return _page(request, job, chosen_source(request, job), {})


def _page(
    request: HttpRequest, job: Job, source: SourceRow | None, wrong: dict[str, str], status: int = 200
) -> HttpResponse:
    has_loads = has_home_loads(job)
    judged, playing = None, Waiting()
    with filling() as waiting:
        judged = _judged(job, source, playing) if source is not None and has_loads else None
    context: dict[str, object] = {
        "source": source,
        "sources": live_sources(job),
        "waiting": waiting,
        "playing": playing,
    }
    if judged is not None:
        words = bridge.card_words_of(judged.source)
        shown = request.GET.get("language", "")
        language = shown if shown in LANGUAGES else words.language
        written = write_card(judged.card, words, language)
        context |= {
            "written": written,
            "fitted": fitted(written, PaperSize.A5),
            "status": judged.verdict.status,
            "warns": warns(judged.verdict.status),
            "facts": _facts(request, job, judged),
            "words": words,
            "calls": (*(request.POST.getlist("call") if wrong else words.calls), *[""] * CALL_FIELDS)[:CALL_FIELDS],
            "language": language,
            "languages": [language_named(code) for code in LANGUAGES],
            "editable": _editable(written, request.POST, wrong),
            "given": bridge.card_given_of(judged.source),
            "changed": actions.changed_since(judged.source, judged.file),
            "papers": FOR_CARDS,
            "wrong": wrong,
        }
    return stage_page(request, job, "verdict", "verdict/card.html", context, status)


def _editable(written: WrittenCard, typed: object, wrong: dict[str, str]) -> list[dict[str, object]]:
    """Each line once, under its heading, with its words as they are edited."""
    seen: set[str] = set()
    groups: list[dict[str, object]] = []
    for section in written.sections:
        lines = []
        for line in (item for top in section.lines for item in (top, *top.items)):
            if line.key in seen or line.key == "fails.load":
                continue
            seen.add(line.key)
            kept = typed.get(OWN + line.key) if wrong and hasattr(typed, "get") else None
            lines.append({"line": line, "text": kept or line.template, "error": wrong.get(line.key, "")})
        groups.append({"title": section.title, "lines": lines})
    return groups


def _facts(request: HttpRequest, job: Job, judged: Judged) -> PaperFacts:
    parts = data_parts(judged.file, judged.source.name)
    return PaperFacts(
        kind="card",
        job=job.name,
        at=timezone.now(),
        who=bridge.shown_name(request.user),
        parts=parts,
        source=judged.source.name,
    )


@require_POST
def words(request: HttpRequest, job_id: int) -> HttpResponse:
    """Keep own words, the language, and whom to call."""
    job = get_job(job_id)
    source = _asked_source(request, job)
    kept = bridge.card_words_of(source)
    language = request.POST.get("language", kept.language)
    wrong: dict[str, str] = {}
    own = tuple(_own_texts(request, language, wrong))
    if wrong:
        return _page(request, job, source, wrong, 422)
    spoken = request.POST.get("spoken", kept.language)
    beside = request.POST.get("beside", "")
    try:
        chosen = CardWords(
            language=spoken,
            own=(*(text for text in kept.own if text.language != language or OWN + text.key not in request.POST), *own),
            calls=tuple(call.strip() for call in request.POST.getlist("call") if call.strip()),
            beside=beside if beside != spoken else "",
        )
    except MusterError as error:
        return _page(request, job, source, {"calls": error_sentence(error)}, 422)
    actions.choose_words(source, chosen, request.user)
    messages.success(request, "The card's words are kept.")
    return redirect(f"{reverse('card', args=[job_id])}?source={source.pk}")


def _own_texts(request: HttpRequest, language: str, wrong: dict[str, str]) -> Iterator[OwnText]:
    """Lines that are worded otherwise than they are shipped; what is wrong with one goes into ``wrong`` by its key."""
    if language not in LANGUAGES:
        raise Http404("there is no such language")
    shipped = language_named(language).texts
    for name, typed in request.POST.items():
        key, text = name.removeprefix(OWN), " ".join(str(typed).split())
        if not name.startswith(OWN) or text in ("", shipped.get(key)):
            continue
        try:
            yield OwnText(language=language, key=key, text=text)
        except MusterError as error:
            wrong[key] = error_sentence(error)


@require_POST
def give_out(request: HttpRequest, job_id: int) -> HttpResponse:
    """The card as a file, to print or to keep; that it was given out is remembered."""
    job = get_job(job_id)
    source = _asked_source(request, job)
    try:
        paper = PaperSize(request.POST.get("paper", PaperSize.A5))
    except ValueError:
        paper = PaperSize.A5
    playing, judged = Waiting(), None
    with filling(playing):
        judged = _judged(job, source, playing)
    if judged is None or not playing.over:
        messages.info(
            request, "The outage is still being played through: the card's hours follow from it. Once more in a moment."
        )
        return redirect(f"{reverse('card', args=[job_id])}?source={source.pk}")
    text = card_file(
        judged.card, bridge.card_words_of(source), _facts(request, job, judged), judged.verdict.status, paper
    )
    actions.give_out(source, judged.file, request.user)
    response = HttpResponse(text, content_type="text/html; charset=utf-8")
    response["Content-Security-Policy"] = POLICY
    if request.POST.get("do") == "save":
        keep_as(response, file_name(job.name, source.name, "card", ending=".html"))
    return response
