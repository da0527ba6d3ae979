"""What the pages of this stage share: the sessions of a source with what they found, dated."""

from __future__ import annotations

from dataclasses import dataclass

from django.http import Http404, HttpRequest
from django.urls import reverse
from django.utils import timezone
from django.utils.text import slugify

from muster.core.brief import Home
from muster.core.character import Character, Dated, Given
from muster.core.shelf.measured import Elsewhere, elsewhere_of
from muster.core.sources import Source
from muster.records import bridge
from muster.records.actions.sessions import live_sessions
from muster.records.judging import dated, dated_elsewhere, kept_character
from muster.records.models import Job, SessionRow, SourceRow
from muster.web.ui.frame import chosen_source


@dataclass(frozen=True)
class Study:
    """A source with its sessions, first to last, and the character they come to with what was measured elsewhere of it."""

    row: SourceRow
    home: Home
    source: Source
    rows: tuple[SessionRow, ...]
    sessions: tuple[Dated, ...]
    there: tuple[Dated, ...]
    elsewhere: Elsewhere | None
    character: Character

    def url_of(self, session: int | None, key: str) -> str:
        """Where a finding stands on the findings page; empty for none."""
        if session is None or not key:
            return ""
        return f"{reverse('findings', args=[self.row.job_id])}?source={self.row.pk}#f-{self.rows[session].pk}-{slugify(key)}"


def study_of(row: SourceRow) -> Study:
    """Everything found of a source."""
    home, source = bridge.home_of(row.job), bridge.source_of(row)
    rows = tuple(live_sessions(row).order_by("started_at", "pk"))
    sessions = tuple(dated(row, home, source) for row in rows)
    brief, taken, there = home.brief, bridge.taken_of(row), tuple(dated_elsewhere(row))
    return Study(
        row=row,
        home=home,
        source=source,
        rows=rows,
        sessions=sessions,
        there=there,
        elsewhere=elsewhere_of(taken, timezone.now()) if taken is not None else None,
        character=kept_character(row, Given(source, brief.system, brief.site, (*there, *sessions))),
    )


def asked_source(request: HttpRequest, job: Job) -> SourceRow:
    """The source of a page that needs one."""
    source = chosen_source(request, job)
    if source is None:
        raise Http404("no source yet")
    return source
