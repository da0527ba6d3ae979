"""The shelf of planning figures: Muster's own, and the assessor's."""

from __future__ import annotations

from typing import Any

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from muster.core.errors import MusterError
from muster.core.loads import KINDS
from muster.core.shelf import SHELF, SOURCE_SHELF
from muster.formats.shelfcsv import shelf_table
from muster.records import bridge
from muster.records.actions import measured as measured_actions
from muster.records.actions import shelf as actions
from muster.records.models import Job, LoadRow, MeasuredRow, ShelfRow
from muster.web.ui.downloads import csv_file
from muster.web.ui.said import say_undoable

from .forms import ShelfForm, initial_of
from .measured_rows import told_of

MOST_BYTES = 2_000_000


def shelf(request: HttpRequest, error: str = "") -> HttpResponse:
    """Kinds, appliances and sources, with what each is planned at."""
    context = {
        "kinds": KINDS.values(),
        "entries": SHELF,
        "sources": SOURCE_SHELF,
        "own": [(row, actions.entry_of(row)) for row in actions.own_rows()],
        "measured": [told_of(row) for row in measured_actions.on_shelf()],
        "jobs": Job.objects.filter(archived_at=None),
        "measured_away": MeasuredRow.objects.exclude(removed_at=None),
        "away": ShelfRow.objects.exclude(removed_at=None),
        "error": error,
    }
    return render(request, "shelf/shelf.html", context, status=422 if error else 200)


def as_csv(request: HttpRequest) -> HttpResponse:
    """The whole shelf as a table that can be changed and imported again."""
    return csv_file(shelf_table((*actions.own_shelf(), *SHELF)), "shelf")


@require_POST
def bring_in(request: HttpRequest) -> HttpResponse:
    """Import a table of entries, all or none."""
    sent = request.FILES.get("table")
    try:
        count = actions.bring_in(text_sent(sent, "a CSV in UTF-8, such as the one saved here"), request.user)
    except MusterError as error:
        return shelf(request, f"{sent.name if sent else 'No file'}: {error}. Nothing was taken.")
    messages.info(request, f"{count} entr{'y' if count == 1 else 'ies'} imported.")
    return redirect("shelf")


def text_sent(sent: Any, want: str, most_bytes: int = MOST_BYTES) -> str:
    """The text of a file that was sent.

    Raises
    ------
    MusterError
        If none was, it is too large, or no text.
    """
    if sent is None:
        raise MusterError("no file chosen", where="file", want=want)
    if sent.size > most_bytes:
        raise MusterError("this file is very large", where="file", want=f"under {most_bytes // 1_000_000} MB")
    try:
        text: str = sent.read().decode("utf-8-sig")
        return text
    except UnicodeDecodeError:
        raise MusterError("not text", where="file", want=want) from None


def _edit(request: HttpRequest, form: ShelfForm, title: str) -> HttpResponse:
    return render(request, "shelf/edit.html", {"form": form, "title": title}, status=422 if form.errors else 200)


def new(request: HttpRequest) -> HttpResponse:
    """Add an entry."""
    form = ShelfForm(request.POST or None, initial=initial_of(None))
    if request.method == "POST" and form.is_valid():
        entry = form.entry()
        if entry is not None and form.build(lambda: actions.add_entry(entry, request.user)) is not None:
            messages.info(request, f"{entry.name} is on your shelf.")
            return redirect("shelf")
    return _edit(request, form, "New entry")


def edit(request: HttpRequest, entry_id: int) -> HttpResponse:
    """Change an entry."""
    row = get_object_or_404(ShelfRow, pk=entry_id)
    was = actions.entry_of(row)
    form = ShelfForm(request.POST or None, initial=initial_of(was))
    if request.method == "POST" and form.is_valid():
        entry = form.entry(row.slug)
        if entry is not None:
            actions.edit_entry(row, entry)
            messages.info(request, f"{entry.name} is kept. Loads taken from it before keep their figures.")
            return redirect("shelf")
    return _edit(request, form, was.name)


@require_POST
def take_off(request: HttpRequest, entry_id: int) -> HttpResponse:
    """Take an entry off the shelf."""
    row = actions.take_off(get_object_or_404(ShelfRow, pk=entry_id))
    name = actions.entry_of(row).name
    say_undoable(request, f"{name} is off your shelf.", reverse("shelf-put-back", args=[row.pk]))
    return redirect("shelf")


@require_POST
def put_back(request: HttpRequest, entry_id: int) -> HttpResponse:
    """Put an entry back."""
    actions.put_back(get_object_or_404(ShelfRow, pk=entry_id))
    return redirect("shelf")


@require_POST
def shelve(request: HttpRequest, load_id: int) -> HttpResponse:
    """Put a load of a home on one's shelf."""
    row = get_object_or_404(LoadRow, pk=load_id)
    actions.shelve_load(bridge.load_of(row), request.user)
    messages.info(request, f"{row.name} is on your shelf, for the next home.")
    return redirect("loads-edit", row.job_id, row.pk)
