"""What every sheet of a source is planned from, gathered once; and how long a protocol takes by this house's own sheet."""

from __future__ import annotations

from dataclasses import dataclass

from django.http import HttpRequest

from muster.core.brief import Home
from muster.core.errors import MusterError
from muster.core.kit import Kit
from muster.core.plan.protocols import steps_of
from muster.core.plan.sheets import build_sheet
from muster.core.sessions import PROTOCOLS, Step
from muster.core.sources import Source
from muster.records import bridge
from muster.records.actions.kit import kit_at_hand
from muster.records.models import SourceRow


@dataclass(frozen=True)
class Desk:
    """A source with its home and the kit at hand."""

    row: SourceRow
    home: Home
    source: Source
    kit: Kit

    def steps(self, protocol: str) -> tuple[Step, ...]:
        """The steps of a protocol as they were changed by hand."""
        return steps_of(protocol, self.home, self.source, self.kit, bridge.changes_of(self.row, protocol))

    def minutes(self, protocol: str) -> float:
        """How long a protocol takes by its own sheet; the usual where it cannot be planned here."""
        try:
            return build_sheet(protocol, self.home, self.source, self.steps(protocol), self.kit).minutes
        except MusterError:
            return float(PROTOCOLS[protocol].minutes)


def desk_of(request: HttpRequest, source: SourceRow) -> Desk:
    """The desk of a source for whoever asks."""
    value = bridge.source_of(source)
    return Desk(source, bridge.home_of(source.job), value, Kit(kit_at_hand(request.user), value.claims.wave))
