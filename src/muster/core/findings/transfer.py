"""The gap when the source takes over, and what noticed."""

from __future__ import annotations

from dataclasses import dataclass

from ..quantities import Grade, Value, number, plain
from ..trade.ride_through import VoltEventKind
from ..working import Working
from .context import SessionContext
from .finding import Finding, Topic


@dataclass(frozen=True)
class GapSeen:
    """A break in supply of ``gap_ms``, read or captured."""

    gap_ms: Value
    finding: Finding


def gaps(context: SessionContext) -> tuple[GapSeen, ...]:
    """Every gap of a transfer session: typed in milliseconds, or a break in a capture."""
    gap_seens = [
        _describe(Value(r.value, "ms", context.record.u(r), None, Grade.A), seq, context.step_label(segment), "read")
        for seq, _, segment, r in context.readings("gap_ms")
    ]
    for capture in context.captures if context.session.protocol == "transfer" else ():
        for event in capture.events:
            if event.kind in (VoltEventKind.INTERRUPTION, VoltEventKind.DIP):
                half_ms = 500 / context.system.hz
                value = Value(event.duration_s * 1000, "ms", half_ms, None, Grade.A)
                gap_seens.append(_describe(value, 0, "", "captured", (event.t0_s - 1, event.t1_s + 1)))
    return tuple(gap_seens)


def _describe(gap: Value, seq: int, step: str, how: str, span: tuple[float, float] | None = None) -> GapSeen:
    when = f", {step}" if step else ""
    working = Working(
        "gap = from the volts leaving to their coming back",
        f"{number(gap.value)}, as {how}",
        str(gap),
        "by half cycles where captured",
    )
    finding = Finding(
        key=f"gap-{seq or f'{span[0]:.2f}' if span else seq}",
        topic=Topic.TRANSFER,
        title="Transfer gap",
        sentence=f"The break lasted {plain(gap.value, 'ms')}{when}.",
        value=gap,
        workings=(working,),
        seqs=(seq,) if seq else (),
        needs="",
        span=span,
    )
    return GapSeen(gap, finding)
