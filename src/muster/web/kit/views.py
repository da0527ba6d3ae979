"""The kit at hand, beside the jobs: one kit serves them all."""

from __future__ import annotations

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils import timezone
from django.views.decorators.http import require_POST

from muster.core.errors import MusterError
from muster.core.kit.cross_check import CrossChecked
from muster.records.actions import kit as actions
from muster.records.actions.recordings import link_of
from muster.records.models import InstrumentRow, StripRow
from muster.web.ui.error_text import error_sentence
from muster.web.ui.said import say_undoable

from .forms import CheckForm, InstrumentForm, initial_of


def kit(request: HttpRequest) -> HttpResponse:
    """The instruments, in the order in which readings fall to them."""
    rows = actions.kit_rows(request.user)
    away = InstrumentRow.objects.exclude(removed_at=None)
    context = {
        "rows": [(row, actions.instrument_of(row), link_of(row)) for row in rows],
        "strips": [(row, link_of(row)) for row in StripRow.objects.filter(removed_at=None)],
        "away": [(row, actions.instrument_of(row)) for row in away],
    }
    return render(request, "kit/kit.html", context)


def new(request: HttpRequest) -> HttpResponse:
    """Add an instrument."""
    form = InstrumentForm(request.POST or None, initial=initial_of(None))
    if request.method == "POST" and form.is_valid():
        made = form.instrument()
        if made is not None and form.build(lambda: actions.add_instrument(made, request.user)) is not None:
            messages.info(request, f"The {made.name} is in the kit.")
            return redirect("kit")
    context = {"form": form, "title": "New instrument"}
    return render(request, "kit/edit.html", context, status=422 if form.errors else 200)


def _row(instrument_id: int) -> InstrumentRow:
    return get_object_or_404(InstrumentRow, pk=instrument_id)


def edit(request: HttpRequest, instrument_id: int) -> HttpResponse:
    """Describe an instrument again."""
    row = _row(instrument_id)
    was = actions.instrument_of(row)
    form = InstrumentForm(request.POST or None, initial=initial_of(was), known=True)
    if request.method == "POST" and form.is_valid():
        made = form.instrument()
        if made is not None and form.build(lambda: actions.edit_instrument(row, made, request.user)) is not None:
            messages.info(request, f"The {made.name} is kept. Sealed sessions keep the kit they were sealed with.")
            return redirect("kit")
    return render(request, "kit/edit.html", {"form": form, "title": was.name}, status=422 if form.errors else 200)


def check(request: HttpRequest) -> HttpResponse:
    """Every instrument held against the others on the mains, before a day's work."""
    rows = actions.kit_rows(request.user)
    instruments = [actions.instrument_of(row) for row in rows]
    form = CheckForm(request.POST or None, instruments=instruments)
    seen: tuple[CrossChecked, ...] | None = None
    if request.method == "POST" and form.is_valid():
        seen = form.build(lambda: actions.check_on_the_mains(form.read(), request.user, timezone.localdate()))
    names = {instrument.slug: instrument.name for instrument in instruments}
    shown = [(names[checked.slug], checked) for checked in seen or ()]
    context = {"form": form, "seen": shown, "apart": [name for name, checked in shown if checked.is_apart]}
    return render(request, "kit/check.html", context, status=422 if form.errors else 200)


@require_POST
def up(request: HttpRequest, instrument_id: int) -> HttpResponse:
    """Let readings fall to an instrument sooner."""
    actions.move_up(_row(instrument_id), request.user)
    return redirect("kit")


@require_POST
def take_out(request: HttpRequest, instrument_id: int) -> HttpResponse:
    """Take an instrument out of the kit."""
    row = _row(instrument_id)
    try:
        actions.remove_instrument(row, request.user)
        name = actions.instrument_of(row).name
        say_undoable(request, f"The {name} is out of the kit.", reverse("kit-put-back", args=[row.pk]))
    except MusterError as error:
        messages.error(request, error_sentence(error))
    return redirect("kit")


@require_POST
def put_back(request: HttpRequest, instrument_id: int) -> HttpResponse:
    """Put an instrument back."""
    actions.put_back_instrument(_row(instrument_id), request.user)
    return redirect("kit")
