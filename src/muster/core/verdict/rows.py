"""The rows of a verdict, each with its key, its label, its words, what settles it and its judge, in one table."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass, replace

from . import endurance, legs, quality, signal, starting, steady, stored
from .by_chance import by_chance
from .inputs import VerdictInputs
from .requirement import Requirement, Status
from .transients import with_hertz_swung, with_volts_swung


@dataclass(frozen=True)
class RequirementRow:
    """A requirement that every verdict has a row for.

    ``falls_short`` says so within a sentence that begins “Falls short:”.
    ``settled_by`` are the protocols that can settle it, the one to run first;
    ``legs_by`` those that can settle it for a leg. ``always``: that protocol
    makes it firmer even where it is proven. ``judge`` gives the row, or a row
    a place; it may leave label and protocol to the table.
    """

    key: str
    label: str
    falls_short: str
    settled_by: tuple[str, ...]
    judge: Callable[[VerdictInputs], Requirement | Iterable[Requirement]]
    legs_by: tuple[str, ...] = ()
    always: bool = False

    def judged(self, case: VerdictInputs) -> list[Requirement]:
        """Its rows for a case, complete."""
        judged = self.judge(case)
        lines = (judged,) if isinstance(judged, Requirement) else judged
        return [self.complete(by_chance(row, case)) for row in lines]

    def complete(self, row: Requirement) -> Requirement:
        """A row of its judge with its label, and the protocol to settle it by where it is open."""
        open_ = (self.always and row.must) or row.status is Status.NOT_PROVEN
        first = self.settled_by[0] if self.settled_by and open_ else ""
        said = f" Rule: {'; '.join(row.rules)}." if row.status is Status.WITH_RULES and row.rules else ""
        return replace(
            row, label=row.label or self.label, settle_by=row.settle_by or first, sentence=row.sentence + said
        )


ROWS = (
    RequirementRow(
        key="steady",
        label="Steady capacity",
        falls_short="the load is more than it can hold",
        settled_by=("ladder", "overload", "parallel"),
        judge=steady.steady,
        legs_by=("legs",),
    ),
    RequirementRow(
        key="starting",
        label="Starting",
        falls_short="it will not start a load",
        settled_by=("starts",),
        judge=starting.starting,
    ),
    RequirementRow(
        key="voltage",
        label="Voltage, steady",
        falls_short="its voltage leaves what the loads tolerate",
        settled_by=("ladder",),
        judge=lambda case: with_volts_swung(quality.voltage(case), case),
        always=True,
    ),
    RequirementRow(
        key="dips",
        label="Voltage, dips",
        falls_short="its dips upset the other loads",
        settled_by=("starts",),
        judge=quality.dips,
    ),
    RequirementRow(
        key="frequency",
        label="Frequency",
        falls_short="its frequency leaves what motors tolerate",
        settled_by=("ladder", "set_point"),
        judge=lambda case: with_hertz_swung(quality.frequency(case), case),
        always=True,
    ),
    RequirementRow(
        key="waveform",
        label="Waveform",
        falls_short="its waveform does not suit",
        settled_by=("waveform",),
        judge=signal.waveform,
    ),
    RequirementRow(
        key="energy",
        label="Energy",
        falls_short="it runs out before the outage ends",
        settled_by=("endurance",),
        judge=stored.energy,
    ),
    RequirementRow(
        key="endurance",
        label="Endurance and heat",
        falls_short="it is not known to last",
        settled_by=("endurance", "ladder"),
        judge=endurance.endurance,
    ),
    RequirementRow(
        key="legs",
        label="Legs and neutral",
        falls_short="the neutral carries too much",
        settled_by=("legs",),
        judge=legs.legs,
    ),
    RequirementRow(
        key="transfer",
        label="Transfer",
        falls_short="its break is longer than a load rides through",
        settled_by=("transfer",),
        judge=signal.transfer,
    ),
    RequirementRow(
        key="noise-day",
        label="Noise, day",
        falls_short="it is too loud by day",
        settled_by=("noise_walk",),
        judge=quality.noise_by_day,
    ),
    RequirementRow(
        key="noise-night",
        label="Noise, night",
        falls_short="it is too loud by night",
        settled_by=("noise_walk",),
        judge=quality.noise_by_night,
    ),
    RequirementRow(
        key="connection",
        label="Safe connection",
        falls_short="its connection is not safe",
        settled_by=(),
        judge=quality.connection,
    ),
)
"""In the order in which a verdict lists them."""
PROTOCOLS_THAT_SETTLE = tuple(dict.fromkeys(slug for row in ROWS for slug in (*row.settled_by, *row.legs_by)))


def row_of(key: str) -> RequirementRow:
    """The row that a line belongs to, by its key: its own, or with the leg behind it.

    Raises
    ------
    KeyError
        If no row of the table has such lines.
    """
    own = next((row for row in ROWS if key == row.key or key.startswith(f"{row.key}-")), None)
    if own is None:
        raise KeyError(key)
    return own


def settles(protocol: str, line: Requirement) -> bool:
    """Whether running a protocol can settle a line."""
    row = row_of(line.key)
    on_a_leg = line.key in (f"{row.key}-1", f"{row.key}-2")
    return protocol in row.settled_by or (on_a_leg and protocol in row.legs_by) or line.settle_by == protocol
