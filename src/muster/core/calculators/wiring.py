"""Calculators of leads, legs and batteries' wires."""

from __future__ import annotations

import math

from ..quantities import plain
from ..supply import neutral_a
from ..trade import leads
from ..trade.leads import Laid
from ..working import Working
from .frame import Calculation, Figures, InputSpec, Result, ResultFigure

LAID = tuple((laid.value, laid.label) for laid in Laid)
CODE = "Tables are guidance: local code, the maker's figure and a licensed electrician decide."


def _lead(g: Figures) -> Result:
    laid, size = Laid(g["size"].split(":")[0]), g["size"].split(":")[1]
    area = leads.area_mm2(size, laid)
    ohm = leads.lead_ohm(g["length_m"], area, g["metal"], g["conductor_c"])
    drop = ohm * g["amps"]
    pct, most = drop / g["v_nominal"] * 100, leads.ampacity_a(size, laid)
    enough = leads.size_for(g["amps"], laid)
    lines = (
        Working("area", f"{size} {laid.unit}", plain(area, "mm2"), "ASTM B258" if laid.is_awg else ""),
        Working(
            "R = ρ · 2L / A · (1 + α·(T − 20))",
            f"{leads.RHO_20[g['metal']]:g} × 2 × {g['length_m']:g} m ÷ {area:.4g} mm² × (1 + {leads.PER_K} × {g['conductor_c'] - 20:g})",
            f"{ohm:.4g} Ω",
            "IEC 60028",
        ),
        Working("drop = R · I", f"{ohm:.4g} × {g['amps']:g}", f"{drop:.2f} V", "Ohm's law, there and back"),
        Working(
            "drop ÷ nominal",
            f"{drop:.2f} ÷ {g['v_nominal']:g}",
            f"{pct:.2f} %",
            "IEC 60364-5-52 G: 3 % for lights, 5 % for other use",
        ),
        Working("the lead may carry", laid.label, plain(most, "a"), "copper; guidance"),
    )
    carries = g["amps"] <= most
    beware = [CODE, "A cord left on its reel carries a third to a half of this; unroll it."]
    if g["metal"] != "copper":
        beware.append("The ampacity tables are of copper; aluminium carries about three quarters of it.")
    if not carries:
        beware.insert(
            0,
            f"Too thin: {g['amps']:g} A is over {most:g} A."
            + (f" {enough} would carry it." if enough else " No size of this table carries it."),
        )
    word = "carries it" if carries else "is too thin for it"
    sentence = (
        f"{plain(g['length_m'], 'm')} of this lead drops {drop:.2f} V ({pct:.1f} %) at {g['amps']:g} A, and {word}."
    )
    return Result(
        lines,
        (
            ResultFigure("drop_v", "drop", drop, "v"),
            ResultFigure("drop_pct", "share of nominal", pct, "pct"),
            ResultFigure("loss_w", "heat in the lead", drop * g["amps"], "w"),
        ),
        sentence,
        tuple(beware),
    )


LEAD = Calculation(
    slug="lead-drop",
    title="Lead drop",
    about="What a cord or lead loses, and whether it may carry the current.",
    topic="Wiring",
    inputs=(
        InputSpec(name="size", label="Lead", first="cord_mm2:2.5", among=leads.lead_choices),
        InputSpec(name="length_m", label="Length, one way", first="15", unit="m"),
        InputSpec(name="amps", label="Current", first="13", unit="A"),
        InputSpec(name="v_nominal", label="Nominal", first="230", unit="V", exact=True),
        InputSpec(
            name="metal", label="Metal", first="copper", among=(("copper", "copper"), ("aluminium", "aluminium"))
        ),
        InputSpec(name="conductor_c", label="Conductor at", first="20", unit="°C", exact=True),
    ),
    work=_lead,
)


def _dc(g: Figures) -> Result:
    amps = leads.dc_amps(g["ac_w"], g["conversion_pct"], g["lowest_dc_v"])
    laid, size = Laid(g["size"].split(":")[0]), g["size"].split(":")[1]
    most = leads.ampacity_a(size, laid)
    fuse = leads.fuse_for(amps, most)
    ohm = leads.lead_ohm(g["length_m"], leads.area_mm2(size, laid))
    lines = (
        Working(
            "I = P ÷ (η · V), at the lowest volts",
            f"{g['ac_w']:g} ÷ ({g['conversion_pct']:g} % × {g['lowest_dc_v']:g})",
            plain(amps, "a"),
            "energy balance of the inverter",
        ),
        Working(
            "fuse at least 1.25 × I",
            f"1.25 × {amps:.1f}",
            plain(fuse.least_a, "a"),
            "NEC 210.20, 690.9: a load that runs for hours",
        ),
        Working("and at most what the lead may carry", f"{size}, {laid.label}", plain(fuse.most_a, "a"), "guidance"),
        Working("drop = R · I", f"{ohm:.5f} × {amps:.1f}", f"{ohm * amps:.2f} V", "Ohm's law, there and back"),
    )
    fits = f"a fuse of {fuse.fuse_a:g} A fits" if fuse.fuse_a else "no common fuse fits between: the lead is too thin"
    beware = (
        "The fuse stands as close to the battery as can be; it guards the lead, not the inverter.",
        "The fuse must be able to break the battery's short-circuit current: lithium gives thousands of amps.",
        "The battery's own protection may trip first: compare with its booklet.",
        CODE,
    )
    return Result(
        lines,
        (
            ResultFigure("amps", "battery current", amps, "a"),
            ResultFigure("fuse_a", "fuse at least", fuse.least_a, "a"),
            ResultFigure("drop_v", "drop in the leads", ohm * amps, "v"),
        ),
        f"{plain(g['ac_w'], 'w')} draws {amps:.0f} A from {g['lowest_dc_v']:g} V; {fits}.",
        beware,
    )


DC = Calculation(
    slug="dc-amps",
    title="DC amps and fuse",
    about="What a load draws from the battery at its lowest volts, and the fuse and lead for it.",
    topic="Wiring",
    inputs=(
        InputSpec(name="ac_w", label="Load", first="1500", unit="W"),
        InputSpec(name="conversion_pct", label="Conversion", first="90", unit="%"),
        InputSpec(name="lowest_dc_v", label="Lowest battery volts", first="11.0", unit="V"),
        InputSpec(name="size", label="Lead", first="wall_75:4/0", among=leads.lead_choices),
        InputSpec(name="length_m", label="Length, one way", first="1.5", unit="m"),
    ),
    work=_dc,
)


def _neutral(g: Figures) -> Result:
    item, two = g["leg1_a"], g["leg2_a"]
    amps = neutral_a(item, two, g["leg1_pf"], g["leg2_pf"])
    phi = [math.degrees(math.acos(pf)) for pf in (g["leg1_pf"], g["leg2_pf"])]
    lines = (
        Working("φ = arccos PF", f"{g['leg1_pf']:g}, {g['leg2_pf']:g}", f"{phi[0]:.1f}°, {phi[1]:.1f}°"),
        Working(
            "I_N = |I₁∠−φ₁ − I₂∠−φ₂|",
            f"|{item:g}∠−{phi[0]:.1f}° − {two:g}∠−{phi[1]:.1f}°|",
            plain(amps, "a"),
            "Kirchhoff at the neutral point",
        ),
        Working("for like power factors |I₁ − I₂|", f"|{item:g} − {two:g}|", plain(abs(item - two), "a")),
    )
    beware = (
        "Third harmonics of electronic loads add up in the neutral; this counts the fundamental alone.",
        "A lost neutral puts the legs in series: the lighter leg's volts rise. Find out why before anything is reset.",
    )
    return Result(
        lines, (ResultFigure("neutral_a", "neutral", amps, "a"),), f"The neutral carries {plain(amps, 'a')}.", beware
    )


NEUTRAL = Calculation(
    slug="split-phase-neutral",
    title="Split-phase neutral",
    about="What the neutral carries between two unlike legs.",
    topic="Wiring",
    inputs=(
        InputSpec(name="leg1_a", label="Leg 1", first="31", unit="A"),
        InputSpec(name="leg1_pf", label="Leg 1 power factor", first="0.95"),
        InputSpec(name="leg2_a", label="Leg 2", first="18", unit="A"),
        InputSpec(name="leg2_pf", label="Leg 2 power factor", first="0.80"),
    ),
    work=_neutral,
)
WIRING = (LEAD, DC, NEUTRAL)
