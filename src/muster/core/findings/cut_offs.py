"""Cut-offs: at what DC volts the output goes and comes back, with and without load."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

from ..quantities import Grade, Value, number, plain
from ..sessions import Entry, Event, Place, Reading
from ..sessions.replay import ENDS, LIVE_AGAIN
from ..working import Working
from .clues import Clue, clues_in
from .context import SessionContext
from .finding import Finding, Topic

LOADED_W = 20.0
DEAD_SHARE, STOOD_SHARE = 0.3, 0.9
"""DC volts after a cut-off, as a share of those at it: below, the battery's own protection opened; above, its volts still stood."""


class Cutter(StrEnum):
    """Which part cut: told by whether the battery's volts still stood afterwards."""

    INVERTER = "inverter"
    BATTERY = "battery"
    UNTOLD = ""


@dataclass(frozen=True)
class CutOff:
    """A cut-off or a recovery: ``kind`` is ``low``, ``high``, ``back`` (after low) or ``back from high``; ``by`` which part cut."""

    kind: str
    dc_v: Value
    loaded: bool
    seq: int
    by: Cutter = Cutter.UNTOLD


@dataclass(frozen=True)
class CutOffsSeen:
    """All that was read, with what follows of it: hysteresis [V] and the sag under load [V], None where not read."""

    points: tuple[CutOff, ...]
    hysteresis_v: float | None
    sag_v: float | None
    findings: tuple[Finding, ...]

    def of(self, kind: str, *, loaded: bool | None = None) -> CutOff | None:
        """The last of a kind."""
        return next((p for p in reversed(self.points) if p.kind == kind and loaded in (None, p.loaded)), None)


def _points(context: SessionContext) -> list[CutOff]:
    cut_offs: list[CutOff] = []
    last_dc: float | None = None
    entries = context.session.effective
    for index, entry in enumerate(entries):
        dc = next(
            (i for i in entry.items if isinstance(i, Reading) and i.quantity == "v" and i.place is Place.DC), None
        )
        names = {item.name for item in entry.items if isinstance(item, Event)}
        if dc is not None and dc.believable:
            if names & (ENDS | LIVE_AGAIN):
                value = Value(dc.value, "v", context.record.u(dc), None, Grade.A)
                on = bool(context.on_at(entry.t_s))
                kind = _kind(names, dc.value, last_dc, cut_offs)
                by = _cut_by(entry, entries[index + 1 :], dc.value) if kind == "low" else Cutter.UNTOLD
                cut_offs.append(CutOff(kind=kind, dc_v=value, loaded=on, seq=entry.seq, by=by))
            last_dc = dc.value
    return cut_offs


def _cut_by(cut: Entry, later: Sequence[Entry], cut_v: float) -> Cutter:
    """Which part cut: by what was said of the DC side, else by the first volts read there before anything lived again."""
    said = clues_in(cut.raw)
    if Clue.DC_DEAD in said:
        return Cutter.BATTERY
    if Clue.DC_ALIVE in said:
        return Cutter.INVERTER
    for entry in later:
        if {item.name for item in entry.items if isinstance(item, Event)} & LIVE_AGAIN:
            break  # volts read as it is put back tell nothing: a battery's protection may have been put back too
        after = [i.value for i in entry.items if isinstance(i, Reading) and i.quantity == "v" and i.place is Place.DC]
        if after:
            share = after[0] / cut_v if cut_v else 1.0
            return Cutter.BATTERY if share < DEAD_SHARE else Cutter.INVERTER if share > STOOD_SHARE else Cutter.UNTOLD
    return Cutter.UNTOLD


def _kind(names: set[str], dc_v: float, last_v: float | None, so_far: list[CutOff]) -> str:
    """Going by where the volts were: a trip on the way down is the low one; coming back belongs to the trip before it."""
    if names & ENDS:
        return "high" if last_v is not None and dc_v > last_v else "low"
    tripped = next((p for p in reversed(so_far) if p.kind in ("low", "high")), None)
    return "back from high" if tripped is not None and tripped.kind == "high" else "back"


TITLES = {
    "low": "Low cut-off",
    "high": "High cut-off",
    "back": "Recovery",
    "back from high": "Recovery from high volts",
}
CUT_BY = {
    Cutter.INVERTER: " The battery's volts still stood after it: the inverter cut.",
    Cutter.BATTERY: " The DC side was dead after it: the battery's own protection opened, and the inverter's cut-off was not reached.",
    Cutter.UNTOLD: "",
}
SAYS = {
    "low": "It trips at {} on the way down{}.",
    "high": "It trips at {} on the way up{}: its own protection against high volts, no fault.",
    "back": "It comes back at {}{}.",
    "back from high": "It comes back at {} on the way down again{}.",
}


def cut_offs(context: SessionContext) -> CutOffsSeen | None:
    """Where a DC supply walked down and up made the output go and come back; None where none was read."""
    if context.session.protocol != "cut_offs":
        return None
    points = _points(context)
    if not points:
        return None
    seen = CutOffsSeen(tuple(points), None, None, ())
    low, back = seen.of("low", loaded=False) or seen.of("low"), seen.of("back")
    loaded = seen.of("low", loaded=True)
    hysteresis = back.dc_v.value - low.dc_v.value if low and back else None
    sag = loaded.dc_v.value - low.dc_v.value if low and loaded and not low.loaded else None
    findings = [_describe(point) for point in points]
    if hysteresis is not None and low and back:
        findings.append(_describe_gap(low, back, hysteresis))
    if sag is not None and low and loaded:
        findings.append(_describe_sag(low, loaded, sag))
    return CutOffsSeen(tuple(points), hysteresis, sag, tuple(findings))


def _describe(point: CutOff) -> Finding:
    load = ", under load" if point.loaded else ""
    said = SAYS[point.kind].format(plain(point.dc_v.value, "v"), load) + CUT_BY[point.by]
    working = Working(
        "DC volts as the output went or came back",
        f"{number(point.dc_v.value, 'v')}, as read",
        str(point.dc_v),
        "read at the terminals",
    )
    return Finding(
        key=f"cut-{point.seq}",
        topic=Topic.CUT_OFFS,
        title=TITLES[point.kind],
        sentence=said,
        value=point.dc_v,
        workings=(working,),
        seqs=(point.seq,),
    )


def _describe_gap(low: CutOff, back: CutOff, gap_v: float) -> Finding:
    u_v = (low.dc_v.u or 0) + (back.dc_v.u or 0)
    working = Working(
        "hysteresis = comes back − trips",
        f"{number(back.dc_v.value, 'v')} − {number(low.dc_v.value, 'v')}",
        plain(gap_v, "v"),
    )
    few = (
        " So little that it will come and go under a load that comes and goes." if gap_v < 0.04 * low.dc_v.value else ""
    )
    return Finding(
        key="cut-hysteresis",
        topic=Topic.CUT_OFFS,
        title="Hysteresis",
        sentence=f"Between tripping and coming back lie {plain(gap_v, 'v')}.{few}",
        value=Value(gap_v, "v", u_v, None, Grade.A),
        workings=(working,),
        seqs=(low.seq, back.seq),
    )


def _describe_sag(low: CutOff, loaded: CutOff, sag_v: float) -> Finding:
    """Higher under load: leads lose volts between where it was read and where it senses; lower: it waits, or senses elsewhere."""
    u_v = (low.dc_v.u or 0) + (loaded.dc_v.u or 0)
    if sag_v > u_v:
        said = f"Under load it trips {plain(sag_v, 'v')} sooner: so much is lost between the terminals read and where it senses."
    elif sag_v < -u_v:
        said = f"Under load it holds {plain(-sag_v, 'v')} longer: it allows for sag."
    else:
        said = "Under load it trips at the same volts."
    working = Working(
        "sag = cut-off under load − with none",
        f"{number(loaded.dc_v.value, 'v')} − {number(low.dc_v.value, 'v')}",
        plain(sag_v, "v"),
    )
    return Finding(
        key="cut-sag",
        topic=Topic.CUT_OFFS,
        title="Loaded sag",
        sentence=said,
        value=Value(sag_v, "v", u_v, None, Grade.A),
        workings=(working,),
        seqs=(low.seq, loaded.seq),
    )
