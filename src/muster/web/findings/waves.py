"""Waveforms of the job's sources: two overlaid, and what each means for every load."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from django.http import HttpRequest, HttpResponse

from muster.core.advice.answers import wave_advice
from muster.core.loads import Load
from muster.core.timeline.captures import Capture
from muster.core.timeline.captures.features import WINDOW_S, WaveAt
from muster.core.timeline.traces import Channel
from muster.core.timeline.traces.trace import Floats
from muster.records import bridge
from muster.records.actions.captures import capture_of, live_captures
from muster.records.actions.sessions import live_sessions
from muster.records.judging import captures_of
from muster.records.models import CaptureRow, Job, SourceRow
from muster.web.figures.overlay import Overlay, OverlayWave, draw_overlay
from muster.web.ui.frame import get_job, live_sources, stage_page


@dataclass(frozen=True)
class Option:
    """A waveform that can be overlaid."""

    key: str
    source: SourceRow
    row: CaptureRow
    at: WaveAt

    @property
    def label(self) -> str:
        """The option as it is chosen."""
        return f"{self.source.name}: {self.row.name}, {self.at.place.label}, THD {self.at.wave.thd_pct:.1f} %"


def waves(request: HttpRequest, job_id: int) -> HttpResponse:
    """Choose one or two; to begin with the worst of each source, or two of the only one."""
    job = get_job(job_id)
    options = _options(job)
    by_key = {option.key: option for option in options}
    picked = [by_key[key] for key in (request.GET.get("one", ""), request.GET.get("other", "")) if key in by_key]
    picked = picked or _worst_of_each(options)
    context = {
        "options": options,
        "picked": picked,
        "overlay": _overlay(picked),
        "advice": _advice(job, picked),
        "sources": live_sources(job),
        "source": None,
    }
    return stage_page(request, job, "findings", "findings/waves.html", context)


def _options(job: Job) -> list[Option]:
    system = bridge.brief_of(job).system
    options = []
    for source in live_sources(job):
        for session in live_sessions(source):
            for row, features in zip(live_captures(session), captures_of(session, system), strict=True):
                options += [Option(f"{row.pk}-{i}", source, row, at) for i, at in enumerate(features.waves)]
    return options


def _worst_of_each(options: list[Option]) -> list[Option]:
    worst: dict[int, Option] = {}
    for each_option in options:
        if (
            each_option.source.pk not in worst
            or each_option.at.wave.thd_pct > worst[each_option.source.pk].at.wave.thd_pct
        ):
            worst[each_option.source.pk] = each_option
    if len(worst) == 1:
        (only,) = worst.values()
        others = [option for option in options if option.row.pk != only.row.pk]
        return [only, others[-1]] if others else [only]
    return list(worst.values())[:2]


def _overlay(picked: list[Option]) -> Overlay | None:
    if not picked:
        return None
    return draw_overlay(
        tuple(
            OverlayWave(item.source.name, _volts(capture_of(item.row), item.at), item.row.step_s, item.at.wave)
            for item in picked
        )
    )


def _volts(capture: Capture, at: WaveAt) -> Floats:
    part = capture.between(at.t_s, at.t_s + WINDOW_S * 1.06) or capture
    samples = part.of(Channel("v", at.place))
    return np.zeros(2) if samples is None else np.nan_to_num(samples)


def _advice(job: Job, picked: list[Option]) -> list[tuple[Load, list[str]]]:
    """What each wave means for each load."""
    return [(load, [wave_advice(load, item.at.wave.shape) for item in picked]) for load in bridge.home_of(job).loads]
