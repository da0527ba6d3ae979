"""Safety checks that are computed: meters, lead and inlet, DC fuse and lead, cold battery; with remedies that are possible."""

from __future__ import annotations

from ..brief import Home
from ..kit import Kit
from ..quantities import plain
from ..sessions import PROTOCOLS
from ..sources import Source
from ..sources.claims import MOST_LEADS
from ..sources.limits import CONVERSION_PCT
from ..trade.leads import (
    AMPACITY,
    FUSE_X,
    FUSES_A,
    Laid,
    ampacity_a,
    area_mm2,
    dc_amps,
    fuse_for,
    lead_named,
    lead_ohm,
    lead_text,
    size_for,
)
from ..working import Working
from .planned import Planned, SafetyCheck

DROP_MOST_PCT = 5.0
"""A lead to the home should lose no more of nominal (IEC 60364-5-52, annex G, other uses)."""
FREEZING_C = 0.0
"""Lithium iron phosphate is not charged below it (docs/method/energy.md#batteries)."""


def meter_check(most: Planned, kit: Kit) -> SafetyCheck:
    """No instrument in circuit is put through more than it is safe with."""
    usual = kit.usual_for("w")
    too_small = [
        i
        for i in kit.instruments
        if i.safe_a is not None and (i.measure("w") or i.measure("a")) and i.safe_a < most.leg_a
    ]
    lines = (
        Working("most amps of a leg in the plan", most.step, plain(most.leg_a, "a"), "running figures of the loads"),
        *(Working(f"{i.name}: safe with", f"{i.safe_a:g} A", "not in the whole circuit") for i in too_small),
    )
    open_ = usual not in too_small
    names = ", ".join(i.name for i in too_small)
    able = [i.name for i in kit.instruments if i.measure("w") and i not in too_small]
    remedies = [f"{able[0]} first in the kit for watts"] if able else []
    if usual.safe_a is not None:
        remedies.append(f"a plan of at most {usual.safe_a:g} A a leg")
    reason = f"{plain(most.leg_a, 'a')} on a leg at {most.step}"
    reason += f"; keep it off the {names}" if too_small else "; within what the kit is safe with"
    return SafetyCheck(
        slug="meter",
        title="Meters",
        what="No instrument carries more than it is safe with.",
        why="A plug-in meter past its rating melts into its socket.",
        passed=open_,
        reason=reason,
        passes_by=", or ".join(remedies) or "an instrument that is not in the circuit",
        computed=True,
        workings=lines,
    )


def lead_check(protocol: str, most: Planned, home: Home, source: Source) -> SafetyCheck | None:
    """The lead to the home carries the plan, and does not lose too much; the inlet too, and the breaker unless it is tested."""
    wires, system = source.wires, home.brief.system
    if not wires.lead or not most.source_loaded:
        return None
    laid, size = lead_named(wires.lead)
    amps = ampacity_a(size, laid)
    lines = [Working("lead", lead_text(wires.lead), plain(amps, "a"), "guidance; local code decides")]
    wrong, remedies = [], []
    if most.leg_a > amps:
        wrong.append(f"{plain(most.leg_a, 'a')} planned, the lead carries {plain(amps, 'a')}")
    drop_pct = 0.0
    if wires.lead_m is not None:
        drop_v = lead_ohm(wires.lead_m, area_mm2(size, laid)) * most.leg_a
        drop_pct = drop_v / system.v_nominal * 100
        taken = f"{plain(wires.lead_m, 'm')} at {most.leg_a:.1f} A"
        lines.append(Working("drop = ρ·2L/A · I", taken, f"{drop_v:.2f} V, {drop_pct:.1f} %", "IEC 60028"))
        if drop_pct > DROP_MOST_PCT:
            wrong.append(f"it loses {drop_pct:.1f} % of nominal, over {DROP_MOST_PCT:g} %")
    if wrong:
        remedies.append(_thicker(laid, most.leg_a, wires.lead_m, system.v_nominal))
        if most.leg_a <= amps and wires.lead_m is not None:
            remedies.append(f"one of at most {plain(wires.lead_m * DROP_MOST_PCT / drop_pct, 'm')}")
    bounds = {"lead": amps}
    if wires.inlet_a is not None and most.leg_a > wires.inlet_a:
        wrong.append(f"the inlet is for {wires.inlet_a:g} A")
        bounds["inlet"] = wires.inlet_a
    if source.claims.breaker_a is not None and most.leg_a > source.claims.breaker_a and protocol != "overload":
        wrong.append(f"the breaker is for {source.claims.breaker_a:g} A")
        bounds["breaker"] = source.claims.breaker_a
    if wrong:
        remedies.append(f"a plan of at most {plain(min(bounds.values()), 'a')} a leg")
    said = "; ".join(wrong) or f"{plain(most.leg_a, 'a')} planned, {plain(amps, 'a')} carried"
    return SafetyCheck(
        slug="lead",
        title="Lead and inlet",
        what="The lead, its inlet and its breaker carry the plan.",
        why="A lead too thin is the first thing to burn, and its drop is taken for the source's.",
        passed=not wrong,
        reason=said,
        passes_by=", or ".join(remedy for remedy in remedies if remedy),
        computed=True,
        workings=tuple(lines),
    )


def _thicker(laid: Laid, amps: float, length_m: float | None, v_nominal: float) -> str:
    """The smallest size of a table that carries so many amps without losing too much; empty where none does."""
    for size, most_a in AMPACITY[laid].items():
        drop_v = lead_ohm(length_m, area_mm2(size, laid)) * amps if length_m else 0.0
        if most_a >= amps and drop_v <= DROP_MOST_PCT / 100 * v_nominal:
            return f"a lead of {size} {laid.unit} or more"
    return ""


def dc_check(most: Planned, source: Source) -> SafetyCheck | None:
    """The DC fuse lets the plan run and guards the lead; without a fuse the lead alone is judged."""
    claims, wires = source.claims, source.wires
    if not source.kind.has_battery or claims.battery_low_v is None or not wires.dc_lead or not most.source_loaded:
        return None
    laid, size = lead_named(wires.dc_lead)
    conversion = claims.conversion_pct or CONVERSION_PCT
    amps = dc_amps(most.total_w, conversion, claims.battery_low_v)
    lead_a = ampacity_a(size, laid) * wires.dc_leads
    fuse = fuse_for(amps, lead_a)
    taken = f"{most.total_w:.0f} ÷ ({conversion:g} % × {claims.battery_low_v:g})"
    lines = (
        Working("I = P ÷ (η · V), at the lowest volts", taken, plain(amps, "a")),
        Working("fuse at least 1.25 × I", f"1.25 × {amps:.0f}", plain(fuse.least_a, "a"), "NEC 210.20, 690.9"),
        Working("fuse at most what the lead carries", lead_text(wires.dc_lead, wires.dc_leads), plain(lead_a, "a")),
    )
    wrong = []
    if amps > lead_a:
        wrong.append(f"{plain(amps, 'a')} through a lead of {plain(lead_a, 'a')}")
    if wires.dc_fuse_a is not None and wires.dc_fuse_a < fuse.least_a:
        wrong.append(f"the {wires.dc_fuse_a:g} A fuse may open: with a quarter on top it is {plain(fuse.least_a, 'a')}")
    if wires.dc_fuse_a is not None and wires.dc_fuse_a > fuse.most_a:
        wrong.append(f"the {wires.dc_fuse_a:g} A fuse does not guard a lead of {plain(fuse.most_a, 'a')}")
    if wires.dc_fuse_a is None and not wrong:
        return None  # asked by name: see dc_unsaid
    said = (
        "; ".join(wrong)
        or f"{wires.dc_fuse_a:g} A lies between {plain(fuse.least_a, 'a')} and {plain(fuse.most_a, 'a')}"
    )
    return SafetyCheck(
        slug="dc_fuse",
        title="DC fuse and lead",
        what="The fuse lets the plan run and guards the lead.",
        why="A lead without a fitting fuse is a fire waiting for a short.",
        passed=not wrong,
        reason=said,
        passes_by=_dc_remedies(source, amps, lead_a, conversion),
        computed=True,
        workings=lines,
    )


def _dc_remedies(source: Source, amps: float, lead_a: float, conversion_pct: float) -> str:
    """What would let the plan run: a fuse that fits, else lead and fuse together; and the watts that pass as it is."""
    wires, low_v = source.wires, source.claims.battery_low_v or 0.0
    laid, size = lead_named(wires.dc_lead)
    least_a = FUSE_X * amps
    remedies = []
    fits = [fuse for fuse in FUSES_A if least_a <= fuse <= lead_a]
    if fits:
        remedies.append(f"a fuse of {fits[0]:g} A")
    elif (fuse := next((f for f in FUSES_A if f >= least_a), None)) is not None:
        pairs = -(-fuse // ampacity_a(size, laid))
        if pairs <= MOST_LEADS:
            remedies.append(f"{pairs:.0f} pairs of this lead with a fuse of {fuse:g} A")
        thicker = size_for(fuse / wires.dc_leads, laid)
        if thicker is not None and thicker != size:
            many = f"{wires.dc_leads} pairs of " if wires.dc_leads > 1 else ""
            remedies.append(f"{many}{thicker} {laid.unit} with a fuse of {fuse:g} A")
    bound_a = min(lead_a, wires.dc_fuse_a or lead_a) / FUSE_X
    remedies.append(f"a plan of at most {plain(bound_a * low_v * conversion_pct / 100, 'w')}")
    return ", or ".join(remedies)


def cold_check(protocol: str, home: Home, source: Source) -> SafetyCheck | None:
    """A lithium battery is not charged below freezing."""
    if protocol not in PROTOCOLS or not PROTOCOLS[protocol].charges or not source.kind.has_battery:
        return None
    temp_c = home.brief.site.temp_c
    return SafetyCheck(
        slug="cold_battery",
        title="Battery above freezing",
        what="The battery is above freezing before it is charged.",
        why="Lithium plates out at or below freezing: the cell is lost, and may burn later.",
        passed=temp_c > FREEZING_C,
        reason=f"the brief says {plain(temp_c, 'c')}",
        passes_by="a warmer place, and the brief or the session saying so",
        computed=True,
    )
