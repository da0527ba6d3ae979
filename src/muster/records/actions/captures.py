"""Captures kept, read back, archived."""

from __future__ import annotations

import numpy as np
from django.contrib.auth.models import AbstractUser
from django.utils import timezone

from muster.core.errors import Refused
from muster.core.timeline.captures import Capture
from muster.core.timeline.traces import channel_named
from muster.formats.digests import digest_of_capture
from muster.records.looking import read_once
from muster.records.models import CaptureRow, SessionRow

from .history import changing
from .traces import SINGLE


def keep_capture(session: SessionRow, capture: Capture, who: AbstractUser) -> CaptureRow:
    """Keep a capture with its session.

    Raises
    ------
    Refused
        If the session is sealed.
    """
    if session.closed_at is not None:
        raise Refused("this session is sealed", where="session", want="a session that is still open")
    samples = np.ascontiguousarray(capture.values, SINGLE).tobytes()
    return CaptureRow.objects.create(
        session=session,
        name=capture.name[:120],
        instrument=capture.instrument,
        why=capture.why[:120],
        channels=[channel.heading for channel in capture.channels],
        t0_s=capture.t_s,
        t1_s=capture.end_s,
        step_s=capture.step_s,
        samples=samples,
        sha256=digest_of_capture(capture.values),
        created_by=who,
    )


@read_once
def live_captures(session: SessionRow) -> list[CaptureRow]:
    """The captures of a session that are not archived; their samples are read when they are asked for."""
    return list(session.capture_rows.filter(removed_at=None).defer("samples"))


def capture_of(row: CaptureRow) -> Capture:
    """The row's capture."""
    channels = tuple(channel_named(heading) for heading in row.channels)
    values = np.frombuffer(row.samples, SINGLE).reshape(len(channels), -1)
    return Capture(
        name=row.name,
        instrument=row.instrument,
        t_s=row.t0_s,
        step_s=row.step_s,
        channels=channels,
        values=values,
        why=row.why,
    )


def put_away_capture(row: CaptureRow, who: AbstractUser) -> CaptureRow:
    """Archive a capture or restore it.

    Raises
    ------
    Refused
        If its session is sealed.
    """
    if row.session.closed_at is not None:
        raise Refused("this session is sealed", where="session", want="its captures stay as they were sealed")
    words = "archived" if row.removed_at is None else "put back"
    with changing(row, f"{row.name} {words}", who):
        row.removed_at = timezone.now() if row.removed_at is None else None
        row.save(update_fields=["removed_at"])
    return row
