"""The source's own display against a meter, and the likely reason where they part."""

from __future__ import annotations

from dataclasses import dataclass

from ..loads import Wave
from ..quantities import Grade, Value, number, plain, signed
from ..sessions import Place, Reading, Stat
from ..working import Working
from .context import SessionContext
from .finding import Finding, Topic

DISPLAY = "display"
APART_S = 180.0
"""Display and meter read within so long of each other, under one load, are of one moment."""
CONVERSION_PCT = (3.0, 30.0)
"""A display that says so much more than the AC meter most likely counts what the battery gives."""
COMPARED = ("w", "v", "hz", "a", "va", "wh")


@dataclass(frozen=True)
class DisplaySeen:
    """A display's figure and a meter's of the same thing; ``gap_pct`` of the meter's."""

    quantity: str
    shown: float
    metered: float
    gap_pct: float
    reason: str
    finding: Finding


def displays(context: SessionContext) -> tuple[DisplaySeen, ...]:
    """Each quantity that display and meter both read under one load; the highest of each quantity."""
    best: dict[str, DisplaySeen] = {}
    for segment in context.record.segments:
        steady = [(seq, t, r) for seq, t, r in segment.readings if r.stat is Stat.STEADY and r.quantity in COMPARED]
        for seq, t_s, shown in steady:
            if shown.instrument != DISPLAY:
                continue
            near = [
                (abs(t - t_s), other_seq, other)
                for other_seq, t, other in steady
                if other.instrument != DISPLAY and abs(t - t_s) <= APART_S and _same(shown, other)
            ]
            if not near:
                continue
            _, other_seq, meter = min(near, key=lambda item: item[0])
            if meter.value <= 0:
                continue
            seen = _describe(context, shown, meter, (other_seq, seq))
            if shown.quantity not in best or seen.metered > best[shown.quantity].metered:
                best[shown.quantity] = seen
    return tuple(best[q] for q in COMPARED if q in best)


def _same(reading: Reading, other: Reading) -> bool:
    """Of one quantity at one place; on one leg the leg is the whole."""
    whole = {Place.LEG1, Place.TOTAL, Place.NONE}
    return reading.quantity == other.quantity and (
        reading.place is other.place or {reading.place, other.place} <= whole
    )


def _describe(context: SessionContext, shown: Reading, meter: Reading, seqs: tuple[int, int]) -> DisplaySeen:
    gap = shown.value - meter.value
    u_meter = context.record.u(meter)
    gap_pct = gap / meter.value * 100
    reason = _reason(context, shown.quantity, gap_pct, abs(gap) <= u_meter + shown.resolution / 2)
    by = context.record.kit.instrument_for(meter.measured, meter.instrument).name
    unit = {"hz": "hz", "v": "v", "a": "a", "va": "va", "wh": "wh"}.get(shown.quantity, "w")
    said = f"The display says {plain(shown.value, unit)} where the {by.removeprefix('the ')} reads {plain(meter.value, unit)}: {reason}."
    working = Working(
        "gap = display − meter, percent of the meter",
        f"({number(shown.value, unit)} − {number(meter.value, unit)}) ÷ {number(meter.value, unit)}",
        f"{signed(gap_pct, 'pct')}; the meter is good to {plain(u_meter / meter.value * 100, 'pct')}",
    )
    u_pct = u_meter / meter.value * 100
    finding = Finding(
        key=f"display-{shown.quantity}-{seqs[1]}",
        topic=Topic.DISPLAY,
        title="Display against meter",
        sentence=said,
        value=Value(gap_pct, "pct", u_pct, None, Grade.A),
        workings=(working,),
        seqs=seqs,
    )
    return DisplaySeen(
        quantity=shown.quantity, shown=shown.value, metered=meter.value, gap_pct=gap_pct, reason=reason, finding=finding
    )


def _reason(context: SessionContext, quantity: str, gap_pct: float, agree: bool) -> str:
    if agree:
        return "they agree, as well as the meter can tell"
    battery = context.source is not None and context.source.kind.has_battery
    low, high = CONVERSION_PCT
    if quantity in ("w", "wh") and battery and context.session.protocol == "recharge" and -high < gap_pct < -low:
        return f"{plain(100 + gap_pct, 'pct')} of it, most likely because the meter reads what the wall gives and the display what comes out of the charger"
    if quantity in ("w", "wh") and battery and CONVERSION_PCT[0] < gap_pct < CONVERSION_PCT[1]:
        return f"{plain(gap_pct, 'pct')} more, most likely because the display counts what the battery gives and the meter what the load gets"
    if context.record.kit.wave is Wave.STEPPED and quantity in ("v", "a", "w"):
        return f"{signed(gap_pct, 'pct')}; on a stepped wave a display or meter that responds to the average is out, so trust the true-RMS one"
    return f"the display is out by {signed(gap_pct, 'pct')}; go by the meter"
