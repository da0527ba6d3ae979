"""What the shelf shows of a measured source."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import UTC, datetime

from muster.core.character import Character, Given, character_of
from muster.core.character.given import Dated
from muster.core.sessions import PROTOCOLS
from muster.core.shelf.measured import Elsewhere, MeasuredSource, TakenSource, elsewhere_of, findings_elsewhere
from muster.records.actions.measured import measured_of
from muster.records.models import MeasuredRow


@dataclass(frozen=True)
class MeasuredShown:
    """A measured source with what is said of it: where, when, how many sessions of what."""

    row: MeasuredRow
    measured: MeasuredSource
    elsewhere: Elsewhere
    tests: str


def told_of(row: MeasuredRow) -> MeasuredShown:
    """What the shelf says of a measured source today."""
    measured = measured_of(row)
    names = dict.fromkeys(PROTOCOLS[kept.session.protocol].name.lower() for kept in measured.sessions)
    return MeasuredShown(row, measured, elsewhere_of(TakenSource(measured), datetime.now(UTC)), ", ".join(names))


def character_of_shelf(measured: MeasuredSource) -> Character:
    """The character of a measured source under the conditions that it was measured for."""
    brief = measured.brief
    sessions = [
        Dated(seen, PROTOCOLS[seen.context.session.protocol].name, at)
        for seen, at in findings_elsewhere(measured, brief.neighbour_m)
    ]
    given = Given(measured.source, brief.system, brief.site, sessions)
    return character_of(given.source, given.system, given.site, given.sessions)
