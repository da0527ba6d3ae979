"""The seal of a session: SHA-256 over a canonical form whose names are its own.

The names and words below are the seal's, not those of classes: renaming a
class, a field or a word on screen changes no seal. They are never edited; a
change of what is sealed is a new form beside the old ones.

**Form 2** (written today, ``2:`` before its hex) is JSON with sorted keys and
no spaces, over the session with all its entries, the logs and captures with
their digests, when it was closed, and the amendments and photos that belong
to it. **Form 1** (bare hex) had neither of the last three, nor its
own name. In both, what stands at its default is left out.
"""

from __future__ import annotations

import hashlib
from collections.abc import Iterable
from dataclasses import replace
from typing import Any

from muster.core.errors import MusterError
from muster.core.kit import Instrument, Measure
from muster.core.sessions import (
    Conditions,
    Entry,
    Event,
    Item,
    Length,
    LookedAt,
    Note,
    Reading,
    Session,
    Start,
    Step,
    Switch,
)

from .codec import canonical
from .jobfile import AmendmentRecord, CaptureRecord, PhotoRecord, SessionRecord, TraceRecord

NEWEST = 2
HEX = 64
"""Length of a SHA-256 in hex."""


def seal_of(record: SessionRecord, form: int = NEWEST) -> str:
    """The seal of a session, its own ``sha256`` left out of it.

    Parameters
    ----------
    record : SessionRecord
        The session as its job file holds it.
    form : int
        Which form of the seal, 1 or 2.
    """
    body = _session_record(record, form)
    if form == 1:
        return hashlib.sha256(canonical(body).encode()).hexdigest()
    amendments = [_amendment(amendment) for amendment in record.amendments]
    photos = [_photo(photo) for photo in record.photos]
    whole = {
        **body,
        "form": "muster session 2",
        "closed_at": record.closed_at,
        "amendments": amendments,
        "photos": photos,
    }
    return f"{form}:{hashlib.sha256(canonical(whole).encode()).hexdigest()}"


def before_amendment(record: SessionRecord, number: int) -> SessionRecord:
    """A session as it stood before its amendment of that number."""
    kept = tuple(entry for entry in record.session.entries if entry.amendment < number)
    return replace(
        record, session=replace(record.session, entries=kept), amendments=record.amendments[: number - 1], sha256=""
    )


def holds(record: SessionRecord) -> bool:
    """Whether a sealed session is what was sealed, and each amendment stands on what was sealed before it."""
    if not record.sha256 or seal_of(record, form_of(record.sha256)) != record.sha256:
        return False
    return all(
        seal_of(before_amendment(record, number), form_of(amendment.sealed)) == amendment.sealed
        for number, amendment in enumerate(record.amendments, 1)
    )


def form_of(seal: str) -> int:
    """The form that a seal names; a bare hex is of form 1.

    Raises
    ------
    MusterError
        If no such form is known here.
    """
    form, _, digest = seal.rpartition(":")
    if len(digest) == HEX and form in ("", *(str(known) for known in range(2, NEWEST + 1))):
        return int(form or 1)
    raise MusterError(
        f"got “{seal[:24]}”", where="sha256", want="a seal that this Muster knows: bare hex, or 2: and hex"
    )


def _without(*parts: tuple[str, Any, Any]) -> dict[str, Any]:
    """Name, value and default of each part; what stands at its default is left out."""
    return {name: value for name, value, default in parts if value != default}


_ALWAYS = object()
"""No value is this: what has it as its default is always told."""


def _session_record(record: SessionRecord, form: int) -> dict[str, Any]:
    return _without(
        ("session", _session(record.session, form), _ALWAYS),
        ("started_at", record.started_at, _ALWAYS),
        ("traces", [_trace(trace) for trace in record.traces], []),
        ("captures", [_capture(capture) for capture in record.captures], []),
    )


def _trace(trace_record: TraceRecord) -> dict[str, Any]:
    return _without(
        ("name", trace_record.name, _ALWAYS),
        ("instrument", trace_record.instrument, _ALWAYS),
        ("file", "", _ALWAYS),
        ("rows", trace_record.rows, _ALWAYS),
        ("sha256", trace_record.sha256, ""),
        ("notes", list(trace_record.notes), []),
    )


def _capture(capture_record: CaptureRecord) -> dict[str, Any]:
    return _without(
        ("name", capture_record.name, _ALWAYS),
        ("instrument", capture_record.instrument, _ALWAYS),
        ("file", "", _ALWAYS),
        ("t_s", float(capture_record.t_s), _ALWAYS),
        ("step_s", float(capture_record.step_s), _ALWAYS),
        ("samples", capture_record.samples, _ALWAYS),
        ("sha256", capture_record.sha256, ""),
        ("why", capture_record.why, ""),
    )


def _session(session: Session, form: int) -> dict[str, Any]:
    return _without(
        ("protocol", session.protocol, _ALWAYS),
        ("steps", [_step(step, form) for step in session.steps], []),
        ("entries", [_entry(entry) for entry in session.entries], []),
        ("conditions", _conditions(session.conditions), {}),
        ("kit", [_instrument(item) for item in session.kit], []),
        ("checkin_s", float(session.checkin_s), 0.0),
    )


def _step(step: Step, form: int) -> dict[str, Any]:
    said = _without(
        ("label", step.label, _ALWAYS),
        ("loads", list(step.loads), []),
        ("target_w", _float(step.target_w), None),
        ("planned_w", _float(step.planned_w), None),
        ("hold_s", float(step.hold_s), 0.0),
        ("ask", step.ask, ""),
    )
    if form == 1:  # the fields that follow were words in the label then
        return said
    return said | _without(
        ("hot", step.hot, False),
        ("background", step.background, False),
        ("distance_m", _float(step.distance_m), None),
        ("on_mains", step.on_mains, False),
    )


def _conditions(under: Conditions) -> dict[str, Any]:
    return _without(
        ("temp_c", _float(under.temp_c), None),
        ("altitude_m", _float(under.altitude_m), None),
        ("fuel", under.fuel, ""),
        ("warm", under.warm, False),
        ("eco", under.eco, False),
    )


def _instrument(instrument: Instrument) -> dict[str, Any]:
    return _without(
        ("slug", instrument.slug, _ALWAYS),
        ("name", instrument.name, _ALWAYS),
        ("reads", [_measure(m) for m in instrument.reads], _ALWAYS),
        ("refresh_s", float(instrument.refresh_s), 1.0),
        ("window_s", float(instrument.window_s), 1.0),
        ("max_hold", instrument.max_hold, False),
        ("true_rms", instrument.true_rms, True),
        ("crest", _float(instrument.crest), None),
        ("bandwidth_hz", _float(instrument.bandwidth_hz), None),
        ("safe_a", _float(instrument.safe_a), None),
        ("note", instrument.note, ""),
    )


def _measure(measure: Measure) -> dict[str, Any]:
    return _without(
        ("quantity", measure.quantity, _ALWAYS),
        ("low", float(measure.low), _ALWAYS),
        ("high", float(measure.high), _ALWAYS),
        ("accuracy_pct", float(measure.accuracy_pct), 0.0),
        ("accuracy_abs", float(measure.accuracy_abs), 0.0),
    )


def _entry(entry: Entry) -> dict[str, Any]:
    return _without(
        ("seq", entry.seq, _ALWAYS),
        ("t_s", float(entry.t_s), _ALWAYS),
        ("items", list(_items(entry.items)), _ALWAYS),
        ("raw", entry.raw, ""),
        ("voids", entry.supersedes, None),
        ("who", entry.who, ""),
        ("amendment", entry.amendment, 0),
    )


def _photo(photo: PhotoRecord) -> dict[str, Any]:
    return _without(("entry", photo.entry, _ALWAYS), ("sha256", photo.sha256, _ALWAYS), ("caption", photo.caption, ""))


def _amendment(amendment: AmendmentRecord) -> dict[str, Any]:
    return _without(
        ("at", amendment.at, _ALWAYS),
        ("reason", amendment.reason, _ALWAYS),
        ("who", amendment.who, ""),
        ("sealed", amendment.sealed, _ALWAYS),
    )


def _items(items: Iterable[Item]) -> Iterable[dict[str, Any]]:
    for item in items:
        match item:
            case Reading():
                yield _without(
                    ("quantity", item.quantity, _ALWAYS),
                    ("value", float(item.value), _ALWAYS),
                    ("place", PLACES[item.place.name], "-"),
                    ("stat", STATS[item.stat.name], "steady"),
                    ("instrument", item.instrument, ""),
                    ("resolution", float(item.resolution), 0.0),
                    ("distance_m", _float(item.distance_m), None),
                    ("spot", item.spot, ""),
                )
            case Switch():
                yield {"load": item.load, "on": item.on}
            case Start():
                yield _without(
                    ("load", item.load, _ALWAYS),
                    ("hot", item.hot, False),
                    ("eased", item.eased, False),
                    ("alone", item.alone, False),
                )
            case Event():
                yield _without(("name", item.name, _ALWAYS), ("detail", item.detail, ""))
            case Note():
                yield {"text": item.text}
            case Length():
                yield _without(
                    ("for_s", float(item.for_s), _ALWAYS),
                    ("of", item.of.value, "held"),
                    ("resolution_s", float(item.resolution_s), 0.0),
                )
            case LookedAt():
                yield _without(
                    ("point", item.point, _ALWAYS), ("answer", item.answer, _ALWAYS), ("note", item.note, "")
                )


PLACES = {
    "LEG1": "1",
    "LEG2": "2",
    "TOTAL": "total",
    "NEUTRAL": "n",
    "DC": "dc",
    "PANELS": "pv",
    "UNIT_A": "ua",
    "UNIT_B": "ub",
    "NONE": "-",
}
STATS = {name: name.lower() for name in ("STEADY", "LOWEST", "HIGHEST", "BEFORE", "SETTLED", "BACKGROUND")}


def _float(value: float | None) -> float | None:
    return None if value is None else float(value)
