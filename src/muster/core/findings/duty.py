"""How a load came and went by the record: its duty, from the times at which somebody wrote down that it went on and off."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from ..loads import Load, short_name
from ..quantities import Grade, Value, duration, plain
from ..sessions import Switch
from ..working import Working
from .context import SessionContext
from .finding import Finding, Topic

LEFT_ALONE = ("endurance", "dedicated", "baseline", "outage")
"""Protocols in which loads come and go by themselves; in the others whoever tests switches them."""
LEAST_CYCLES = 2
"""Fewer whole cycles say nothing of a rhythm."""


@dataclass(frozen=True)
class DutyTyped:
    """A load's rhythm by the record: whole cycles, mean time on and off [s], and its finding."""

    load: Load
    cycles: int
    on_s: float
    off_s: float
    finding: Finding

    @property
    def share(self) -> float:
        """The share of the time it was on."""
        return self.on_s / (self.on_s + self.off_s)


def duties(context: SessionContext) -> tuple[DutyTyped, ...]:
    """The duty of each load that was seen to come and go.

    Parameters
    ----------
    context
        The session replayed; pauses are left out of its times.

    Returns
    -------
    tuple of DutyTyped
        Of loads with ``LEAST_CYCLES`` whole cycles or more, from one switching on to the next.

    References
    ----------
    physics §11: duty is read off switchings.
    """
    if context.session.protocol not in LEFT_ALONE:
        return ()
    seen = []
    for key, load in context.loads.items():
        times = list(_switched(context, key))
        ons = [i for i, (_, on) in enumerate(times) if on]
        cycles = len(ons) - 1
        if cycles < LEAST_CYCLES or not load.duty.cycles:
            continue
        on_s = sum(times[i + 1][0] - times[i][0] for i in ons[:-1]) / cycles
        whole_s = (times[ons[-1]][0] - times[ons[0]][0]) / cycles
        if 0 < on_s < whole_s:
            seen.append(_described(load, cycles, on_s, whole_s - on_s, tuple(_seqs(context, key))))
    return tuple(seen)


def _switched(context: SessionContext, key: str) -> Iterator[tuple[float, bool]]:
    """When a load went on and off, by turns. [s run]"""
    last: bool | None = None
    for entry in context.session.effective:
        for item in entry.items:
            if isinstance(item, Switch) and item.load == key and item.on is not last and (item.on or last):
                last = item.on
                yield context.record.ran_s(entry.t_s), item.on


def _seqs(context: SessionContext, key: str) -> Iterator[int]:
    for entry in context.session.effective:
        if any(isinstance(item, Switch) and item.load == key for item in entry.items):
            yield entry.seq


def _described(load: Load, cycles: int, on_s: float, off_s: float, seqs: tuple[int, ...]) -> DutyTyped:
    share_pct = on_s / (on_s + off_s) * 100
    name = short_name(load)
    finding = Finding(
        key=f"duty-{load.key}",
        topic=Topic.DUTY,
        title=f"How the {name} came and went",
        sentence=f"{name[0].upper()}{name[1:]}: on for {duration(on_s)}, off for {duration(off_s)}, over {cycles} cycles: "
        f"{plain(share_pct, 'pct')} of the time.",
        value=Value(share_pct, "pct", None, None, Grade.A),
        workings=(
            Working(
                "duty = time on ÷ time from one switching on to the next",
                f"{duration(on_s)} ÷ {duration(on_s + off_s)}",
                plain(share_pct, "pct"),
                f"mean of {cycles} cycles, as it was written down",
            ),
        ),
        seqs=seqs,
        needs="" if cycles > LEAST_CYCLES else "more cycles",
    )
    return DutyTyped(load, cycles, on_s, off_s, finding)
