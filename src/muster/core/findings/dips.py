"""Dips that were logged without a start: how deep, against the voltage before and against nominal."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from ..kit import bound_of
from ..quantities import Grade, Value, number, plain
from ..sessions import Place, Reading, Stat
from ..sessions.replay import BenchRecord
from ..supply import System
from ..working import Working
from .finding import Finding, Topic

DIP_STARTS_PCT = 90.0
"""A dip starts below this share of the reference (IEC 61000-4-30; EN 50160)."""


@dataclass(frozen=True)
class DipSeen:
    """A lowest voltage read outside a start; how long it lasted is not known, so it is a bound."""

    place: Place
    before_v: float | None
    lowest: Value
    residual_pct: float
    finding: Finding

    @property
    def counts(self) -> bool:
        """Whether it is deep enough to be called a dip."""
        return self.residual_pct < DIP_STARTS_PCT


def _lowest(record: BenchRecord) -> Iterator[tuple[int, Reading, float | None]]:
    """Each lowest voltage that belongs to no start, with the steady voltage last read before it."""
    of_starts = {run.seq for run in record.starts}
    steady: dict[Place, float] = {}
    for segment in record.segments:
        for seq, _, reading in segment.readings:
            if reading.quantity != "v":
                continue
            if reading.stat in (Stat.STEADY, Stat.BEFORE):
                steady[reading.place] = reading.value
            elif reading.stat is Stat.LOWEST and seq not in of_starts:
                yield seq, reading, steady.get(reading.place)


def _analyse(record: BenchRecord, seq: int, reading: Reading, before: float | None, system: System) -> DipSeen:
    nominal = system.v_nominal * (2 if reading.place is Place.TOTAL and system.legs == 2 else 1)
    instrument = record.kit.instrument_for("v", reading.instrument)
    bound = bound_of(instrument, None, lowest=True)
    lowest = Value(reading.value, "v", record.u(reading), bound, Grade.B)
    residual_pct = reading.value / nominal * 100
    workings = [
        Working(
            "residual = lowest ÷ nominal",
            f"{number(reading.value, 'v')} ÷ {number(nominal, 'v')}",
            plain(residual_pct, "pct"),
            "IEC 61000-4-30; a dip starts below 90 %",
        )
    ]
    depth = ""
    if before:
        depth_pct = (before - reading.value) / before * 100
        put_in = f"({number(before, 'v')} − {number(reading.value, 'v')}) ÷ {number(before, 'v')}"
        workings.append(Working("depth = (before − lowest) ÷ before", put_in, f"at least {plain(depth_pct, 'pct')}"))
        depth = f", at least {plain(depth_pct, 'pct')} below the {plain(before, 'v')} before it"
    where = "Volts" if system.legs == 1 else f"Volts on {reading.place.label}"
    small = "" if residual_pct < DIP_STARTS_PCT else "; not deep enough to count as a dip"
    finding = Finding(
        key=f"dip-{seq}",
        topic=Topic.DIPS,
        title="Dip",
        sentence=f"{where} fell to {lowest}{depth}{small}.",
        value=lowest,
        workings=tuple(workings),
        seqs=(seq,),
        needs="how long it lasted, and what started (Starts)",
    )
    return DipSeen(reading.place, before, lowest, residual_pct, finding)


def dips(record: BenchRecord, system: System) -> tuple[DipSeen, ...]:
    """Every lowest voltage that was logged outside a start."""
    return tuple(_analyse(record, seq, reading, before, system) for seq, reading, before in _lowest(record))
