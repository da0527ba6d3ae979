"""Typing in a clipboard page that was filled by hand: one row a step, in the order of the printed page."""

from __future__ import annotations

from typing import Any

from django import forms
from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect

from muster.core.kit import Kit
from muster.core.sessions import Reading, Stat, Step
from muster.core.sessions.clipboard import OUTCOMES, FilledRow, Look, boxes_of, look_boxes_of
from muster.core.sessions.protocols import Box
from muster.core.sessions.replay import replay
from muster.core.supply import System
from muster.records import bridge
from muster.records.actions import pages
from muster.records.models import SessionRow
from muster.web.ui.forms import CoreForm, number_field
from muster.web.ui.frame import stage_page

from .find import find_session


class ClipboardForm(CoreForm):
    """A row a step: a box for each figure, how long it was held, when it was read, and words."""

    def __init__(
        self, *args: Any, protocol: str, steps: tuple[Step, ...], system: System, kit: Kit, **kwargs: Any
    ) -> None:
        super().__init__(*args, **kwargs)
        self.steps, self.boxes, self.starts = steps, boxes_of(protocol, system), protocol == "starts"
        for box in self.boxes:
            able = [
                i
                for i in kit.instruments
                if i.measure(Reading(quantity=box.quantity, value=0, place=box.place).measured)
            ]
            field = forms.ChoiceField(
                label=f"{box.label} by",
                choices=[(i.slug, i.name) for i in able] or [("", "not in the kit")],
                initial=_usual(able, box),
                required=False,
            )
            field.widget.attrs["class"] = "form-select"
            self.fields[f"by_{box.name}"] = field
        for number, step in enumerate(steps, 1):
            self._row(number, step)

    def _row(self, number: int, step: Step) -> None:
        for box in self.boxes:
            self.fields[f"{number}_{box.name}"] = number_field(f"{step.label}: {box.label}")
        if self.starts:
            choices = [("", "–"), *OUTCOMES.items()]
            self.fields[f"{number}_outcome"] = forms.ChoiceField(
                label=f"{step.label}: it", choices=choices, required=False
            )
        self.fields[f"{number}_held"] = number_field(f"{step.label}: held", "min")
        self.fields[f"{number}_minutes"] = number_field(f"{step.label}: read at", "min")
        self.fields[f"{number}_words"] = forms.CharField(label=f"{step.label}: note", required=False, max_length=200)
        for name in list(self.fields):
            if name.startswith(f"{number}_"):
                css = "form-select" if name.endswith("outcome") else "form-control"
                self.fields[name].widget.attrs.update({"class": css, "aria-label": self.fields[name].label})

    def rows_shown(self) -> list[tuple[Step, list[forms.BoundField]]]:
        """Each step with its fields, in the order of the page."""
        names = [*(box.name for box in self.boxes), *(["outcome"] if self.starts else []), "held", "minutes", "words"]
        return [(step, [self[f"{n}_{name}"] for name in names]) for n, step in enumerate(self.steps, 1)]

    def rows(self) -> list[FilledRow]:
        """The rows as they were filled in."""
        data: dict[str, Any] = self.cleaned_data
        filled_rows = []
        for n in range(1, len(self.steps) + 1):
            figures = {box.name: data[f"{n}_{box.name}"] for box in self.boxes if data[f"{n}_{box.name}"] is not None}
            filled_rows.append(
                FilledRow(
                    figures, data[f"{n}_held"], data[f"{n}_minutes"], data[f"{n}_words"], data.get(f"{n}_outcome", "")
                )
            )
        return filled_rows

    def instruments(self) -> dict[str, str]:
        """What each column was read with."""
        return {box.name: self.cleaned_data[f"by_{box.name}"] for box in self.boxes}


FIRST_ROWS, MORE_ROWS, MOST_ROWS = 8, 8, 400


class LooksForm(CoreForm):
    """A row a look, as many as were taken: when, the columns that the protocol reads, and words."""

    def __init__(self, *args: Any, protocol: str, system: System, kit: Kit, count: int, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.boxes, self.count = look_boxes_of(protocol, system), min(count, MOST_ROWS)
        self.far, self.kit = protocol == "noise_walk", kit
        for number in range(1, self.count + 1):
            self._row(number)

    def _row(self, number: int) -> None:
        self.fields[f"look_{number}_when"] = forms.CharField(label=f"Row {number}: when", required=False, max_length=40)
        for box in self.boxes:
            self.fields[f"look_{number}_{box.name}"] = number_field(f"Row {number}: {box.label}")
        if self.far:
            self.fields[f"look_{number}_far"] = number_field(f"Row {number}: distance", "m")
        self.fields[f"look_{number}_words"] = forms.CharField(
            label=f"Row {number}: words", required=False, max_length=200
        )
        for name in (name for name in self.fields if name.startswith(f"look_{number}_")):
            self.fields[name].widget.attrs.update({"class": "form-control", "aria-label": self.fields[name].label})

    def rows_shown(self) -> list[list[forms.BoundField]]:
        """The fields of each row, in the order of the page."""
        names = ["when", *(box.name for box in self.boxes), *(["far"] if self.far else []), "words"]
        return [[self[f"look_{n}_{name}"] for name in names] for n in range(1, self.count + 1)]

    def looks(self) -> list[Look]:
        """The rows as they were filled in."""
        data: dict[str, Any] = self.cleaned_data
        return [
            Look(
                when=data[f"look_{n}_when"],
                figures={
                    box.name: data[f"look_{n}_{box.name}"]
                    for box in self.boxes
                    if data[f"look_{n}_{box.name}"] is not None
                },
                words=data[f"look_{n}_words"],
                distance_m=data.get(f"look_{n}_far"),
            )
            for n in range(1, self.count + 1)
        ]

    def instruments(self) -> dict[str, str]:
        """What each column was read with: the usual instrument of the kit."""
        return {
            box.name: self.kit.usual_for(Reading(quantity=box.quantity, value=0, place=box.place).measured).slug
            for box in self.boxes
        }


def _usual(able: list[Any], box: Box) -> str:
    """The instrument a column most likely was read with: one that holds, for what is over in a moment."""
    holding = [i for i in able if i.max_hold] if box.stat in (Stat.LOWEST, Stat.HIGHEST) else []
    return next((i.slug for i in (*holding, *able)), "")


def _form(request: HttpRequest, row: SessionRow) -> ClipboardForm:
    session, system = bridge.session_of(row), bridge.brief_of(row.source.job).system
    steps = session.steps[replay(session, system.legs).step :]
    return ClipboardForm(request.POST or None, protocol=row.protocol, steps=steps, system=system, kit=session.kit_on())


def _count(request: HttpRequest) -> int:
    """How many rows of looks are shown: so many more where they were asked for."""
    said = request.POST.get("looks", "") or request.GET.get("looks", "")
    shown = int(said) if said.isdigit() else FIRST_ROWS
    return max(FIRST_ROWS, shown) + (MORE_ROWS if "more" in request.POST else 0)


def looks(request: HttpRequest, job_id: int, session_id: int) -> HttpResponse:
    """A page of looks to type in; posted, all of it is kept, or nothing."""
    row = find_session(job_id, session_id)
    system, kit = bridge.brief_of(row.source.job).system, bridge.session_of(row).kit_on()
    more = "more" in request.POST
    form = LooksForm(request.POST or None, protocol=row.protocol, system=system, kit=kit, count=_count(request))
    if request.method == "POST" and not more and form.is_valid():
        count = form.build(lambda: pages.type_looks(row, form.looks(), form.instruments(), request.user))
        if count is not None:
            messages.info(request, f"The page is typed in: {count} entries. Look them through; each can be corrected.")
            return redirect("session", job_id, session_id)
    context = {"row": row, "form": form, "open": row.closed_at is None, "source": row.source}
    status = 422 if form.errors and not more else 200
    return stage_page(request, row.source.job, "bench", "bench/looks.html", context, status)


def clipboard(request: HttpRequest, job_id: int, session_id: int) -> HttpResponse:
    """The page to type in; posted, all of it is kept, or nothing."""
    row = find_session(job_id, session_id)
    form = _form(request, row)
    if request.method == "POST" and form.is_valid():
        count = form.build(lambda: pages.type_in(row, form.rows(), form.instruments(), request.user))
        if count is not None:
            messages.info(request, f"The page is typed in: {count} entries. Look them through; each can be corrected.")
            return redirect("session", job_id, session_id)
    context = {"row": row, "form": form, "open": row.closed_at is None, "source": row.source}
    return stage_page(request, row.source.job, "bench", "bench/clipboard.html", context, 422 if form.errors else 200)
