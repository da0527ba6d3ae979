"""What the bench page was drawn from, in one string: when it changes, the page's own parts are drawn again."""

from __future__ import annotations

import json

from django.utils import timezone

from muster.records.actions import recordings
from muster.records.background import GOING
from muster.records.models import RecordingRow, SessionRow, WorkRow
from muster.records.recording.start_traces import RIPE_S


def mark_of(session: SessionRow, going: RecordingRow | None) -> str:
    """The last entry and whether its start trace is ripe, the captures, the recording and its run, and whether anything is being worked out."""
    last = session.entry_rows.order_by("-pk").values_list("pk", "at").first()
    ripe = going is not None and last is not None and (timezone.now() - last[1]).total_seconds() > RIPE_S
    auto = (going.auto or {}) if going is not None else {}
    parts = (
        last[0] if last else 0,
        ripe,
        session.capture_rows.count(),
        (going.pk, going.state, recordings.cut_off(going), sorted(going.gone)) if going is not None else "",
        [auto.get(key) for key in ("state", "doing", "step")],
        WorkRow.objects.filter(state__in=GOING).exists(),
    )
    return json.dumps(parts)
