"""Photos of a session: taken or dropped at an entry, looked at, named, removed."""

from __future__ import annotations

from typing import Any

from django.contrib import messages
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from muster.core.errors import MusterError
from muster.records.actions import photos as actions
from muster.records.models import EntryRow, PhotoRow, SessionRow
from muster.web.ui.error_text import error_sentence
from muster.web.ui.frame import stage_page
from muster.web.ui.said import say_undoable

from .find import find_session
from .views import live_context

A_YEAR_S = 365 * 24 * 3600


def photos(request: HttpRequest, job_id: int, session_id: int) -> HttpResponse:
    """The photos of a session, and a place to add one."""
    row = find_session(job_id, session_id)
    error = ""
    if request.method == "POST":
        try:
            taken = _taken(request, row)
        except MusterError as wrong:
            error = error_sentence(wrong)
            if request.htmx:
                response = HttpResponse(error, status=422)
                response["HX-Retarget"], response["HX-Reswap"] = "#refused", "textContent"
                return response
        else:
            if request.htmx:
                return render(request, "bench/live.html", live_context(row))
            return redirect("photo", job_id, session_id, taken.pk)
    rows = row.photo_rows.select_related("entry")
    entries = row.entry_rows.exclude(items=[]).order_by("-seq")
    context: dict[str, Any] = {
        "session": row,
        "source": row.source,
        "error": error,
        "open": row.closed_at is None,
        "photos": [photo for photo in rows if photo.removed_at is None],
        "away": [photo for photo in rows if photo.removed_at is not None],
        "entries": entries,
        "wanted": request.GET.get("entry", ""),
    }
    return stage_page(request, row.source.job, "bench", "bench/photos.html", context, 422 if error else 200)


def _taken(request: HttpRequest, row: SessionRow) -> PhotoRow:
    files = request.FILES.getlist("photo")
    if not files:
        raise MusterError("no photo was chosen", where="photo", want="one or more photos")
    wanted = request.POST.get("entry", "")
    entry = get_object_or_404(EntryRow, pk=wanted, session=row) if wanted.isdigit() else None
    caption = request.POST.get("caption", "")
    for file in files:
        kept = actions.take_photo(row, file.read(), request.user, entry, caption)
        entry = kept.entry
    return kept


def _find(job_id: int, session_id: int, photo_id: int) -> PhotoRow:
    rows = PhotoRow.objects.select_related("session__source__job", "entry")
    return get_object_or_404(rows, pk=photo_id, session=session_id, session__source__job=job_id)


def photo(request: HttpRequest, job_id: int, session_id: int, photo_id: int) -> HttpResponse:
    """A photo large, with the entry it belongs to."""
    row = _find(job_id, session_id, photo_id)
    context = {"session": row.session, "source": row.session.source, "row": row, "open": row.session.closed_at is None}
    return stage_page(request, row.session.source.job, "bench", "bench/photo.html", context)


def picture(request: HttpRequest, job_id: int, session_id: int, photo_id: int, size: str) -> HttpResponse:
    """The picture itself, whole or small: what stands under a digest never changes."""
    row = _find(job_id, session_id, photo_id)
    try:
        data = actions.photo_path(row.sha256, thumb=size == "small").read_bytes()
    except OSError:
        raise Http404("the photo’s file is gone; restore the folder “photos” from a backup") from None
    response = HttpResponse(data, content_type="image/jpeg")
    response["Cache-Control"] = f"private, max-age={A_YEAR_S}, immutable"
    return response


@require_POST
def name(request: HttpRequest, job_id: int, session_id: int, photo_id: int) -> HttpResponse:
    """Say what a photo shows."""
    row = _find(job_id, session_id, photo_id)
    try:
        actions.name_photo(row, request.POST.get("caption", ""), request.user)
    except MusterError as error:
        messages.error(request, error_sentence(error))
    return redirect("photo", job_id, session_id, photo_id)


@require_POST
def away(request: HttpRequest, job_id: int, session_id: int, photo_id: int) -> HttpResponse:
    """Remove a photo or put it back."""
    row = _find(job_id, session_id, photo_id)
    try:
        actions.put_away_photo(row, request.user)
        if row.removed_at is not None:
            say_undoable(request, "The photo is removed.", reverse("photo-away", args=[job_id, session_id, photo_id]))
    except MusterError as error:
        messages.error(request, error_sentence(error))
    return redirect("photos", job_id, session_id)
