"""The panels' side: what came in, whether the tracker stuck, and whether the output stays on while charging."""

from __future__ import annotations

from dataclasses import dataclass

from ..quantities import Bound, Grade, Value, duration, number, plain
from ..sessions import EventName, Place
from ..timeline.traces.solar import FALL_PCT, FULL_PCT, STUCK_S, PanelsSeen, Stuck
from ..working import Method, Working, rows_of
from .context import SessionContext
from .finding import Finding, Topic


@dataclass(frozen=True)
class SolarSeen:
    """``stuck`` stretches of the tracker, ``through`` whether the output stays on while charging (None: not said).

    ``most`` is the most that the panels were read to give, with ``taken`` its finding; None where nobody read it.
    """

    stuck: tuple[Stuck, ...]
    through: bool | None
    findings: tuple[Finding, ...]
    most: Value | None = None
    taken: Finding | None = None


def solar(context: SessionContext) -> SolarSeen | None:
    """What logs and typed readings say of the panels, and of the output while charging; None where nothing does."""
    findings: list[Finding] = []
    stuck: list[Stuck] = []
    most: list[tuple[Value, Finding]] = []
    for log in context.logs:
        if log.panels is None:
            continue
        if log.panels.wh is not None and log.panels.most_w is not None:
            u_wh = context.record.kit.u("dc_w", log.instrument, log.panels.wh)
            taken = _describe_taken(log.name, log.span, log.panels, Value(log.panels.wh, "wh", u_wh, None, Grade.A))
            findings.append(taken)
            u_w = context.record.kit.u("dc_w", log.instrument, log.panels.most_w)
            most.append((Value(log.panels.most_w, "w", u_w, Bound.AT_LEAST, Grade.B), taken))
        for each_item in log.panels.stuck:
            stuck.append(each_item)
            findings.append(_describe_stuck(each_item, log.name))
    typed = _typed_stuck(context)
    stuck += [item for item, _ in typed]
    findings += [_describe_stuck(item, "", seqs) for item, seqs in typed]
    through = None
    for entry, event in context.events("through", "cut"):
        through = event.name == EventName.THROUGH
        findings.append(_describe_through(through, entry.seq))
    if not findings:
        return None
    highest, taken_there = max(most, key=lambda item: item[0].value, default=(None, None))
    return SolarSeen(stuck=tuple(stuck), through=through, findings=tuple(findings), most=highest, taken=taken_there)


def _typed_stuck(context: SessionContext) -> list[tuple[Stuck, tuple[int, ...]]]:
    """Panel volts typed: a fall that is read low twice, two minutes apart or more."""
    read = [(seq, t_s, r.value) for seq, t_s, _, r in context.readings("v") if r.place is Place.PANELS]
    shown = [(t_s, r.value) for _, t_s, _, r in context.readings("soc_pct")]
    result = []
    i = 1
    while i < len(read):
        usual = max(v for _, _, v in read[:i])
        last = i
        while last < len(read) and read[last][2] < usual * (1 - FALL_PCT / 100):
            last += 1
        low = read[i:last]
        if len(low) >= 2 and low[-1][1] - low[0][1] >= STUCK_S and low[0][2] > 0.1 * usual:
            charge = [pct for t_s, pct in shown if t_s <= low[-1][1]]
            if not charge or charge[-1] < FULL_PCT:
                stuck = Stuck(
                    t0_s=low[0][1],
                    t1_s=low[-1][1],
                    usual_v=usual,
                    stuck_v=low[0][2],
                    lost_w=None,
                    back=last < len(read),
                )
                result.append((stuck, tuple(seq for seq, _, _ in low)))
        i = max(last, i + 1)
    return result


def _describe_taken(name: str, span: tuple[float, float], seen: PanelsSeen, taken: Value) -> Finding:
    working = Working(
        "sum of panel watts × time",
        f"{duration(span[1] - span[0])} of the log, in {len(seen.parts)} parts",
        plain(taken.value, "wh"),
        rows=rows_of(Method.SUM_OF_PRODUCTS, ("h", "W on average"), seen.parts),
    )
    return Finding(
        key=f"panels-{name}",
        topic=Topic.SOLAR,
        title="From the panels",
        sentence=f"The panels gave {plain(taken.value, 'wh')}, at most {plain(seen.most_w or 0.0, 'w')}.",
        value=taken,
        workings=(working,),
        seqs=(),
        needs="",
        span=span,
        log=name,
    )


def _describe_stuck(stall: Stuck, log: str, seqs: tuple[int, ...] = ()) -> Finding:
    fell_pct = (1 - stall.stuck_v / stall.usual_v) * 100
    lost = f", {plain(stall.lost_w, 'w')} lost" if stall.lost_w and stall.lost_w > 0 else ""
    after = (
        "They came back at once, as they do when it is plugged in again."
        if stall.back
        else "They had not come back when the record ended."
    )
    said = (
        f"Panel volts fell from {plain(stall.usual_v, 'v')} to {plain(stall.stuck_v, 'v')} and stayed there for {duration(stall.t1_s - stall.t0_s)} "
        f"with the battery not full{lost}: the tracker stuck. {after}"
    )
    working = Working(
        f"fall > {FALL_PCT:g} % for > {STUCK_S / 60:g} min, charge below {FULL_PCT:g} %",
        f"({number(stall.usual_v, 'v')} − {number(stall.stuck_v, 'v')}) ÷ {number(stall.usual_v, 'v')}",
        plain(fell_pct, "pct"),
        "physics: light moves amps, hardly volts",
    )
    return Finding(
        key=f"stuck-{stall.t0_s:.0f}",
        topic=Topic.SOLAR,
        title="Tracker stuck",
        sentence=said,
        value=Value(fell_pct, "pct", None, None, Grade.B),
        workings=(working,),
        seqs=seqs,
        needs="the same once more, with the panels unplugged and plugged in again (Solar input)",
        span=(stall.t0_s - 300, stall.t1_s + 300) if log else None,
        log=log,
    )


def _describe_through(through: bool, seq: int) -> Finding:
    said = (
        "Its output stays on while it charges."
        if through
        else "Its output goes off while it charges: what hangs on it goes dark."
    )
    working = Working("seen while charging", "said by the assessor", "stays on" if through else "goes off")
    return Finding(
        key=f"through-{seq}",
        topic=Topic.SOLAR,
        title="Output while charging",
        sentence=said,
        value=Value(1.0 if through else 0.0, "n", None, None, Grade.A),
        workings=(working,),
        seqs=(seq,),
    )
