"""Instruments recorded into a running session: begun, stopped, made whole; and its plan run by itself."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from django import forms
from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect
from django.views.decorators.http import require_POST

from muster.core.errors import MusterError
from muster.core.kit import Kit
from muster.core.loads import Load, short_name
from muster.core.plan.run import Doing, Pace, StopAt
from muster.core.quantities import plain
from muster.core.safety.planned import planned
from muster.formats.codec import load
from muster.instruments.link import Link
from muster.instruments.outlets import OUTLETS
from muster.records import bridge
from muster.records.actions import recordings
from muster.records.actions.kit import instrument_of, kit_rows
from muster.records.models import InstrumentRow, RecordingRow, SessionRow, StripRow
from muster.web.ui.error_text import error_sentence
from muster.web.ui.forms import CoreForm, number_field
from muster.web.ui.frame import stage_page

from .find import find_session


@dataclass(frozen=True)
class Auto:
    """A plan being run by itself, in words."""

    label: str
    running: bool
    refused: str = ""


@dataclass(frozen=True)
class Recording:
    """A recording as the bench page shows it."""

    row: RecordingRow
    instruments: tuple[str, ...]
    silent: tuple[tuple[str, str], ...]
    cut_off: bool
    auto: Auto | None
    may_run: bool
    disk_full: bool = False

    @property
    def rate(self) -> str:
        """How often it reads."""
        return f"every {plain(self.row.every_s, 's')}"


def recording_of(session: SessionRow, kit: Kit, *, steps_left: bool) -> Recording | None:
    """The recording that goes on in a session, None if there is none."""
    row = recordings.current(session)
    if row is None:
        return None
    names = {i.slug: i.name for i in kit.instruments}
    silent = tuple((names.get(slug, slug), why) for slug, why in row.gone.items())
    auto = _auto(row)
    may_run = row.strip is not None and steps_left and not (auto is not None and auto.running)
    cut_off = recordings.cut_off(row)
    return Recording(
        row=row,
        instruments=tuple(names.get(slug, slug) for slug in row.links),
        silent=silent,
        cut_off=cut_off,
        auto=auto,
        may_run=may_run,
        disk_full=cut_off and recordings.disk_full(),
    )


def _auto(row: RecordingRow) -> Auto | None:
    asked = row.auto
    if not asked:
        return None
    if asked["state"] == "refused":
        return Auto("", running=False, refused=asked["why"])
    if asked["state"] == "asked":
        return Auto("about to begin", running=True)
    doing = Doing(asked["doing"])
    if doing.over:
        why = f": {asked['why']}" if asked["why"] else ""
        return Auto(f"The run is {doing.label}{why}.", running=False)
    return Auto(f"step {asked['step']} of {asked['of']}, {doing.label}", running=True)


class RecordForm(CoreForm):
    """What to record, how often, and what hangs on the outlets of a strip."""

    every_s = number_field("A reading every", "s", required=True)
    unattended_h = number_field(
        "Outlets may stay on without Muster’s server for",
        "h",
        help_text="empty: they go off when it is silent for 10 s",
    )

    def __init__(
        self,
        *args: Any,
        instruments: list[InstrumentRow],
        strips: list[StripRow],
        loads: tuple[Load, ...],
        job: int,
        **kwargs: Any,
    ) -> None:
        super().__init__(*args, **kwargs)
        self.linked = [row for row in instruments if row.link is not None]
        self.strips, self.loads = strips, loads
        self.fields["instruments"] = forms.MultipleChoiceField(
            label="Instruments",
            required=False,
            choices=[(row.slug, self._words(row)) for row in self.linked],
            widget=forms.CheckboxSelectMultiple,
            initial=[row.slug for row in self.linked],
        )
        hung = strips[0].outlets.get(str(job), {}) if strips else {}
        if strips:
            none = ("", "no outlet strip: loads are switched by hand")
            self.fields["strip"] = forms.ChoiceField(
                label="Outlet strip",
                required=False,
                choices=[none, *((str(row.pk), row.name) for row in strips)],
                initial=str(strips[0].pk) if hung else "",
            )
            outlets = [("", "–"), *((str(i), f"outlet {i + 1}") for i in range(OUTLETS))]
            for each_load in loads:
                field = forms.ChoiceField(label=short_name(each_load), required=False, choices=outlets)
                field.initial = str(hung[each_load.key]) if each_load.key in hung else ""
                self.fields[f"outlet_{each_load.key}"] = field
            for name in ("strip", *(f"outlet_{load.key}" for load in loads)):
                self.fields[name].widget.attrs["class"] = "form-select"

    @staticmethod
    def _words(row: InstrumentRow) -> str:
        return f"{instrument_of(row).name}, {load(Link, row.link).label}"

    def outlet_fields(self) -> list[forms.BoundField]:
        """The field of each load's outlet."""
        return [self[f"outlet_{load.key}"] for load in self.loads] if self.strips else []

    def chosen(self) -> list[InstrumentRow]:
        """The instruments ticked, in the order of the kit."""
        return [row for row in self.linked if row.slug in self.cleaned_data["instruments"]]

    def strip(self) -> StripRow | None:
        """The outlet strip chosen."""
        return next((row for row in self.strips if str(row.pk) == self.cleaned_data.get("strip")), None)

    def outlets(self) -> dict[str, int]:
        """Which load hangs on which outlet, counted from 0."""
        named = {load.key: self.cleaned_data.get(f"outlet_{load.key}", "") for load in self.loads}
        return {key: int(outlet) for key, outlet in named.items() if outlet}


class RunForm(CoreForm):
    """How a plan is run by itself: when it stops, and how fast it goes."""

    v_pct = number_field("Stop when volts are off by", "%", required=True)
    hz_pct = number_field("or hertz by", "%", required=True)
    leg_a = number_field("or a leg carries more than", "A", help_text="empty: no limit but the source’s own protection")
    temp_c = number_field("or the source is hotter than", "°C")
    between_s = number_field("Between two switchings", "s", required=True)
    settle_s = number_field("Let each step settle for", "s", required=True)
    hold_s = number_field("Hold no step longer than", "s", required=True)

    def stop_at(self) -> StopAt:
        """When it stops."""
        return StopAt(*(self.cleaned_data[name] for name in ("v_pct", "hz_pct", "leg_a", "temp_c")))

    def pace(self) -> Pace:
        """How fast it goes."""
        return Pace(*(self.cleaned_data[name] for name in ("between_s", "settle_s", "hold_s")))


def run_form(going: RecordingRow, data: Any = None) -> RunForm:
    """The form with what is usual, and the amps that the instruments recorded stand."""
    pace, stop = Pace(), StopAt()
    kit = bridge.session_data(going.session).kit_on()
    safe = [i.safe_a for i in kit.instruments if i.slug in going.links and i.safe_a and i.measure("a")]
    initial = {
        "v_pct": stop.v_pct,
        "hz_pct": stop.hz_pct,
        "leg_a": min(safe, default=None),
        "between_s": pace.between_s,
        "settle_s": pace.settle_s,
        "hold_s": pace.hold_s,
    }
    return RunForm(data, initial=initial)


def record_form(session: SessionRow, who: Any, data: Any = None) -> RecordForm:
    """The form with what is linked in the kit, and what hung where the last time."""
    strips = list(StripRow.objects.filter(removed_at=None))
    loads = bridge.loads_of(session.source.job)
    return RecordForm(
        data,
        initial={"every_s": recordings.EVERY_S},
        instruments=kit_rows(who),
        strips=strips,
        loads=loads,
        job=session.source.job_id,
    )


def record(request: HttpRequest, job_id: int, session_id: int) -> HttpResponse:
    """Choose instruments, and begin."""
    row = find_session(job_id, session_id)
    form = record_form(row, request.user, request.POST or None)
    if request.method == "POST" and form.is_valid():
        begun = form.build(
            lambda: recordings.begin(
                row,
                form.chosen(),
                request.user,
                every_s=form.cleaned_data["every_s"],
                strip=form.strip(),
                outlets=form.outlets(),
                unattended_h=form.cleaned_data["unattended_h"] or 0.0,
            )
        )
        if begun is not None:
            recordings.launch(begun)
            return redirect("session", job_id, session_id)
    context = {
        "session": row,
        "form": form,
        "source": row.source,
        "going": recordings.current(row),
        "over": _over(row, form.linked),
    }
    return stage_page(request, row.source.job, "bench", "bench/record.html", context, 422 if form.errors else 200)


def _over(session: SessionRow, linked: list[InstrumentRow]) -> list[tuple[str, str, str]]:
    """Instruments that the plan puts through more than they stand: name, amps planned, amps stood."""
    home, source = bridge.home_of(session.source.job), bridge.source_of(session.source)
    most = planned(session.protocol, home, source, bridge.session_data(session).steps)
    meant = [instrument_of(row) for row in linked]
    return [
        (i.name, plain(most.leg_a, "a"), plain(i.safe_a, "a"))
        for i in meant
        if i.safe_a is not None and (i.measure("a") or i.measure("w")) and i.safe_a < most.leg_a
    ]


def run(request: HttpRequest, job_id: int, session_id: int) -> HttpResponse:
    """Say when a run stops and how fast it goes, and begin it."""
    row = find_session(job_id, session_id)
    going = recordings.current(row)
    if going is None:
        messages.error(request, "A plan runs by itself only while instruments are recorded.")
        return redirect("session-record", job_id, session_id)
    form = run_form(going, request.POST or None)
    if request.method == "POST" and form.is_valid():
        asked = form.build(lambda: (recordings.run_sheet(going, form.stop_at(), form.pace()), "begun"))
        if asked is not None:
            return redirect("session", job_id, session_id)
    session = bridge.session_of(row)
    context = {"session": row, "form": form, "source": row.source, "steps": session.steps}
    return stage_page(request, row.source.job, "bench", "bench/run.html", context, 422 if form.errors else 200)


@require_POST
def halt(request: HttpRequest, job_id: int, session_id: int) -> HttpResponse:
    """The stop key."""
    row = find_session(job_id, session_id)
    going = recordings.current(row)
    if going is not None:
        recordings.halt(going)
    return HttpResponse(status=204) if request.htmx else redirect("session", job_id, session_id)


@require_POST
def again(request: HttpRequest, job_id: int, session_id: int) -> HttpResponse:
    """Leave a recording that failed: record once more as before, or only say that its reason was seen."""
    row = find_session(job_id, session_id)
    failed = recordings.failed(row)
    try:
        if failed is not None and "again" in request.POST:
            recordings.launch(recordings.once_more(failed))
        elif failed is not None:
            recordings.seen(failed)
    except MusterError as error:
        messages.error(request, error_sentence(error))
    return redirect("session", job_id, session_id)


@require_POST
def stop(request: HttpRequest, job_id: int, session_id: int) -> HttpResponse:
    """End a recording; one that was cut off is made whole."""
    row = find_session(job_id, session_id)
    going = recordings.current(row)
    try:
        if going is not None and recordings.cut_off(going):
            recordings.make_whole(going)
            messages.info(request, "What was kept is whole.")
        elif going is not None:
            recordings.ask_stop(going)
    except MusterError as error:
        messages.error(request, error_sentence(error))
    return redirect("session", job_id, session_id)
