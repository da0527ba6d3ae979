"""The checks on the entries of a session: what was checked is not checked again when an entry is added."""

from __future__ import annotations

from threading import Lock

from muster.core.measures import shown_in
from muster.core.sessions import PROTOCOLS, Entry, Session, checks
from muster.core.sources import SourceKind

from . import bridge
from .models import SessionRow
from .recent import Recent


def checks_bench(row: SessionRow) -> checks.RecordContext:
    """What the checks know of a session's surroundings; loads since removed included."""
    job = row.source.job
    source = bridge.source_of(row.source)
    loads = bridge.job_loads(job).ever
    kit = bridge.session_data(row).kit_on(source.claims.wave)
    can_charge = PROTOCOLS[row.protocol].charges or source.kind is SourceKind.HYBRID
    most_w = None if source.planned else source.claims.most_w
    return checks.RecordContext(bridge.brief_of(job).system, loads, kit, can_charge, most_w)


def checks_on(row: SessionRow, session: Session | None = None) -> tuple[checks.Check, ...]:
    """Every check of a session, which is read again unless it is given; what was checked is not checked again."""
    session, bench = session or bridge.session_of(row), checks_bench(row)
    key = (row.pk, shown_in())
    with _CHECKING:
        kept = _CHECKED.get(key)
        if kept is None or not kept.goes_on(session, bench):
            kept = _CHECKED.put(key, checks.CheckedSession(bench, session.voided))
        return kept.check(session)


def checks_before(row: SessionRow, session: Session, entry: Entry) -> tuple[checks.Check, ...]:
    """The checks of an entry that is about to be jotted at the end of a session; what stands before it is not checked again."""
    bench = checks_bench(row)
    key = (row.pk, shown_in())
    with _CHECKING:
        kept = _CHECKED.get(key)
        if kept is None or not kept.goes_on(session, bench):
            kept = _CHECKED.put(key, checks.CheckedSession(bench, session.voided))
        kept.check(session)
        return kept.before(entry)


_CHECKED: Recent[checks.CheckedSession] = Recent()
_CHECKING = Lock()
"""One thread at a time goes on from what was checked."""
