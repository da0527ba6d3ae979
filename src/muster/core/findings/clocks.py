"""Frequency by a mains clock over a timed minute, beside the meter's."""

from __future__ import annotations

from ..quantities import Grade, Value, number, plain
from ..sessions import Stat
from ..trade.motors import clock_hz
from ..working import Working
from .context import SessionContext
from .finding import Finding, Topic
from .under_load import under_load

MINUTE_S = 60.0
"""A clock's seconds are kept as those of a true minute."""


def clocks(context: SessionContext) -> tuple[Finding, ...]:
    """The hertz that a synchronous clock showed, each with what the meter last read under the same load.

    Parameters
    ----------
    context
        The session replayed.

    Returns
    -------
    tuple of Finding
        One for each clock reading, at grade B: it is a mean over its time, good to half a second.

    References
    ----------
    physics §4: f = f_n × clock seconds ÷ true seconds.
    """
    nominal, legs = context.system.hz, context.system.legs
    findings: list[Finding] = []
    for segment in context.record.segments:
        meter: float | None = None
        for seq, _, reading, w in under_load(segment, lambda stretch: stretch.total_w(legs), "hz", "clock_s"):
            if reading.quantity == "hz" and reading.stat is Stat.STEADY:
                meter = reading.value
            if reading.quantity != "clock_s" or reading.value <= 0:
                continue
            hz = clock_hz(nominal, reading.value, MINUTE_S)
            u_hz = nominal * context.record.kit.u("clock_s", reading.instrument, reading.value) / MINUTE_S
            load = "" if w is None else " at no load" if w <= 0 else f" at {plain(w, 'w')}"
            beside = f", where the meter read {plain(meter, 'hz')}" if meter is not None else ""
            findings.append(
                Finding(
                    key=f"clock-{seq}",
                    topic=Topic.DROOP,
                    title="By a mains clock",
                    sentence=f"By a mains clock it ran at {plain(hz, 'hz')} ± {number(u_hz, 'hz')}{load}{beside}.",
                    value=Value(hz, "hz", u_hz, None, Grade.B),
                    workings=(
                        Working(
                            "f = nominal × clock seconds ÷ true seconds",
                            f"{plain(nominal, 'hz')} × {number(reading.value, 's')} ÷ {MINUTE_S:g}",
                            plain(hz, "hz"),
                            "half a second of reading in a minute",
                        ),
                    ),
                    seqs=(seq,),
                )
            )
    return tuple(findings)
