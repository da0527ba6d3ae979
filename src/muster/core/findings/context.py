"""One session with everything its findings are drawn from."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from functools import cached_property

from ..loads import Load, short_name
from ..sessions import Entry, Event, Reading, Session, Step
from ..sessions.replay import BenchRecord, Segment
from ..sources import Site, Source
from ..supply import System
from ..timeline.captures.features import CaptureFeatures
from ..timeline.traces.features import TraceFeatures

NEIGHBOUR_M = 20.0
"""The nearest neighbour, where a session is read without a home: as a new brief has it."""


@dataclass(frozen=True)
class SessionContext:
    """A session replayed, the home's loads and system, and what was read off its logs and captures.

    ``source`` is None where nobody said what is being tested; ``neighbour_m``
    is how far the nearest neighbour is from it [m].
    """

    session: Session
    record: BenchRecord
    loads: Mapping[str, Load]
    system: System
    neighbour_m: float = NEIGHBOUR_M
    source: Source | None = None
    site: Site = field(default_factory=Site)
    waiting: frozenset[int] = frozenset()
    """Entries whose power was flagged as misread and nobody confirmed."""
    logs: Sequence[TraceFeatures] = ()
    captures: Sequence[CaptureFeatures] = ()

    def readings(self, *quantities: str) -> Iterator[tuple[int, float, Segment, Reading]]:
        """Each reading of a quantity: its entry, when, the stretch it stands in, and itself; in order."""
        for segment in self.record.segments:
            for seq, t_s, reading in segment.readings:
                if reading.quantity in quantities:
                    yield seq, t_s, segment, reading

    def events(self, *names: str) -> Iterator[tuple[Entry, Event]]:
        """Each event of a name, with the entry it stands in."""
        return ((entry, item) for entry, item in self._events if item.name in names)

    @cached_property
    def _events(self) -> tuple[tuple[Entry, Event], ...]:
        """All events, each with the entry it stands in: few among many readings, looked for more than once."""
        return tuple((entry, item) for entry in self.session.effective for item in entry.items if type(item) is Event)

    def on_at(self, t_s: float) -> tuple[str, ...]:
        """The loads that were on at a time."""
        here = [segment for segment in self.record.segments if segment.t0_s <= t_s]
        return here[-1].on if here else ()

    def names(self, keys: Sequence[str]) -> str:
        """Loads by their short names, ``nothing`` where there is none."""
        return ", ".join(short_name(self.loads[key]) for key in keys if key in self.loads) or "nothing"

    def step_of(self, segment: Segment) -> Step | None:
        """The planned step that a stretch belongs to; None beyond the plan."""
        steps = self.session.steps
        return steps[segment.step] if segment.step < len(steps) else None

    def step_label(self, segment: Segment) -> str:
        """What the plan calls the step a stretch belongs to."""
        steps = self.session.steps
        return steps[segment.step].label if segment.step < len(steps) else ""
