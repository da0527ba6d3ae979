"""Pages filled by hand, typed in: a step a row, or a look a row."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from datetime import timedelta

from django.contrib.auth.models import AbstractUser
from django.db import transaction

from muster.core.errors import MusterError
from muster.core.sessions import Item, Note
from muster.core.sessions.clipboard import FilledRow, Look, boxes_of, look_boxes_of, look_items, typed_in
from muster.core.sessions.log_line import read_when
from muster.core.sessions.replay import replay
from muster.records import bridge
from muster.records.models import SessionRow

from .sessions import append, place_in_time, require_open, understand


@transaction.atomic
def type_in(row: SessionRow, rows: Sequence[FilledRow], instruments: Mapping[str, str], who: AbstractUser) -> int:
    """Type in a clipboard page filled by hand, from the step the session stands at; all of it or nothing. How many entries.

    Raises
    ------
    MusterError
        As ``clipboard.typed_in``.
    Refused
        If the session is closed.
    """
    require_open(row)
    session, system = bridge.session_of(row), bridge.brief_of(row.source.job).system
    record = replay(session, system.legs)
    last = row.entry_rows.order_by("-at").values_list("at", flat=True).first() or row.started_at
    from_s = bridge.seconds_since(row.started_at, last)
    boxes = boxes_of(row.protocol, system)
    typed_rows = typed_in(row.protocol, session.steps[record.step :], rows, boxes, instruments, from_s)
    for typed in typed_rows:
        append(row, typed.items, row.started_at + timedelta(seconds=typed.t_s), "typed in from the page", who)
    return len(typed_rows)


@transaction.atomic
def type_looks(row: SessionRow, looks: Sequence[Look], instruments: Mapping[str, str], who: AbstractUser) -> int:
    """Type in a page of looks, one a row, over as many days as they say; all of it or nothing. How many entries.

    Raises
    ------
    MusterError
        If nothing was filled in, or a row says a time that is none.
    Refused
        If the session is closed.
    """
    require_open(row)
    filled = [(number, look) for number, look in enumerate(looks, 1) if not look.empty]
    if not filled:
        raise MusterError("nothing was filled in", where="rows", want="at least one look")
    boxes = look_boxes_of(row.protocol, bridge.brief_of(row.source.job).system)
    last = row.entry_rows.order_by("-at").values_list("at", flat=True).first() or row.started_at
    for number, look in filled:
        when = read_when(look.when)
        if when is None:
            want = "such as 07:30, next day 06:00, 12 oct 14:05"
            raise MusterError(f"row {number}: “{look.when.strip()}”", where=f"look_{number}_when", want=want)
        items: list[Item] = list(look_items(look, boxes, instruments))
        if look.words.strip():
            items += understand(row, look.words).items
        told = " ".join(f"{look.figures[box.name]:g} {box.label}," for box in boxes if box.name in look.figures)
        raw = " ".join(part for part in (look.when.strip(), told, look.words.strip()) if part).strip(" ,")
        last = place_in_time(row, when, last) if when.said else max(last, row.started_at)
        append(row, items or [Note(raw)], last, raw, who)
    return len(filled)
