"""Real outages of a source: each played by what was known before it, beside what happened."""

from __future__ import annotations

from dataclasses import dataclass, replace
from zoneinfo import ZoneInfo

from muster.core.advice.foresight import Foreseen, foresight
from muster.core.brief import Brief
from muster.core.character import Given
from muster.core.findings.lived import OutageLived
from muster.core.loads import TIERS, Tier

from . import background, bridge
from .actions.sessions import live_sessions
from .judging import dated, kept_character, session_findings
from .models import SessionRow, SourceRow
from .playing import most_played, ruled_home


@dataclass(frozen=True)
class OutageTold:
    """A real outage: its session, the sentence of what happened, and each figure beside its prediction; empty while it is being played."""

    session: SessionRow
    sentence: str
    rows: tuple[Foreseen, ...]


def real_outages(source: SourceRow, waits: background.Waiting) -> list[OutageTold]:
    """The real outages that were written down of a source, the latest first.

    Parameters
    ----------
    source
        The row.
    waits
        Filled with what is being played or read.
    """
    told = []
    for row in live_sessions(source).filter(protocol="outage").order_by("-started_at", "-pk"):
        with background.filling(waits):
            seen = session_findings(row).lived
            if seen is not None:
                told.append(OutageTold(row, seen.findings[0].sentence, _foreseen(source, row, seen, waits)))
    return told


def _foreseen(source: SourceRow, row: SessionRow, seen: OutageLived, waits: background.Waiting) -> tuple[Foreseen, ...]:
    """Its figures beside what is played on the sessions before it, on its own day, with the rules that are accepted."""
    home, value = bridge.home_of(source.job), bridge.source_of(source)
    before = live_sessions(source).filter(started_at__lt=row.started_at).exclude(pk=row.pk).order_by("started_at", "pk")
    given = Given(value, home.brief.system, home.brief.site, [dated(of, home, value) for of in before])
    ruled = ruled_home(home, _scope(seen, row), bridge.rules_of(source), _its_day(home.brief, row, seen))
    played = most_played(ruled, kept_character(source, given, row.pk), waits) if ruled.loads else None
    return foresight(seen, played) if played is not None else ()


def _scope(seen: OutageLived, row: SessionRow) -> Tier:
    """The least of the tiers that were seen on; what must run where nobody wrote down what was."""
    tiers = [load.tier for load in bridge.loads_of(row.source.job) if load.key in seen.on and load.tier in TIERS]
    return max(tiers, key=lambda tier: tier.rank, default=Tier.MUST)


def _its_day(brief: Brief, row: SessionRow, seen: OutageLived) -> Brief:
    """The brief with the length, the hour and the month of the outage."""
    at = row.started_at.astimezone(ZoneInfo(brief.zone))
    length_h = max(1 / 60, min(seen.length_s / 3600, 24.0 * 14))
    return replace(brief, outage_h=length_h, outage_from_hour=at.hour, month=at.month)
