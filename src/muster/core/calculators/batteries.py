"""Calculators of batteries, pairs and panels."""

from __future__ import annotations

from ..quantities import duration, plain
from ..trade.batteries import USE_TO_PCT, peukert_h, two_runs
from ..trade.pair import pair_capacity
from ..trade.pv_strings import SHORT_CIRCUIT_X, SolarInput, SolarPanel, StringLayout, layouts
from ..working import Working
from .frame import Calculation, Figures, InputSpec, Result, ResultFigure

SHOWN_LAYOUTS = 8


def _peukert(g: Figures) -> Result:
    full_h = peukert_h(g["rated_ah"], g["rated_h"], g["amps"], g["exponent"])
    used_h = full_h * g["use_pct"] / 100
    lines = (
        Working("t = H · (C ÷ (I · H))^k", f"{g['rated_h']:g} × ({g['rated_ah']:g} ÷ ({g['amps']:g} × {g['rated_h']:g}))^{g['exponent']:g}", plain(full_h, "h"), "Peukert"),
        Working("of that, to the depth used", f"{full_h:.3g} × {g['use_pct']:g} %", duration(used_h * 3600)),
        Working("capacity at this current", f"{full_h:.3g} × {g['amps']:g}", f"{full_h * g['amps']:.3g} Ah of {g['rated_ah']:g}"),
    )  # fmt: skip
    return Result(
        lines, (ResultFigure("used_h", "it lasts", used_h, "h"), ResultFigure("full_h", "to empty", full_h, "h")),
        f"It lasts {duration(used_h * 3600)} at {plain(g['amps'], 'a')}, used to {g['use_pct']:g} %.",
        ("Lead-acid alone; lithium hardly cares how fast.", f"Deeper than {USE_TO_PCT:g} % costs a lead-acid bank its life.", "Cold takes about 1 % a kelvin below 25 °C; age takes more."),
    )  # fmt: skip


PEUKERT = Calculation(
    "peukert", "Peukert", "How long a lead-acid bank lasts at a current.", "Batteries and panels",
    (
        InputSpec("rated_ah", "Rated", "200", "Ah", exact=True), InputSpec("rated_h", "over", "20", "h", exact=True), InputSpec("amps", "Current", "25", "A"),
        InputSpec("exponent", "Peukert exponent", "1.2"), InputSpec("use_pct", "Used to", "50", "%", exact=True),
    ),
    _peukert,
)  # fmt: skip


def _two(g: Figures) -> Result:
    found = two_runs(g["slow_wh"], g["slow_h"], g["fast_wh"], g["fast_h"], g["conversion_pct"])
    x = 100 / g["conversion_pct"]
    lines = (
        Working("E = x·e + P₀·t for each run, x = 1 ÷ conversion", f"x = 1 ÷ {g['conversion_pct']:g} %", f"{x:.4f}", "two equations, two unknowns"),
        Working("P₀ = x · (e_fast − e_slow) ÷ (t_slow − t_fast)", f"{x:.4f} × ({g['fast_wh']:g} − {g['slow_wh']:g}) ÷ ({g['slow_h']:g} − {g['fast_h']:g})", f"{found.idle_w:.1f} W"),
        Working("E = x · e_slow + P₀ · t_slow", f"{x:.4f} × {g['slow_wh']:g} + {found.idle_w:.1f} × {g['slow_h']:g}", f"{found.battery_wh:.1f} Wh"),
    )  # fmt: skip
    return Result(
        lines, (ResultFigure("battery_wh", "the battery gives", found.battery_wh, "wh"), ResultFigure("idle_w", "idle draw", found.idle_w, "w")),
        f"The battery gives {plain(found.battery_wh, 'wh')}; standing by costs {found.idle_w:.1f} W.",
        ("Lithium alone: a lead-acid bank gives less the faster it is emptied.", "Both runs from full to the same cut-off, at like temperature."),
    )  # fmt: skip


TWO_RUNS = Calculation(
    "two-runs", "Two runs apart", "Usable energy and idle draw from a slow and a fast run to empty.", "Batteries and panels",
    (
        InputSpec("slow_wh", "Slow run delivered", "1180 ± 12", "Wh"), InputSpec("slow_h", "in", "25.0", "h"), InputSpec("fast_wh", "Fast run delivered", "1600 ± 16", "Wh"),
        InputSpec("fast_h", "in", "2.20", "h"), InputSpec("conversion_pct", "Conversion, without idle", "90", "%", exact=True),
    ),
    _two,
)  # fmt: skip


def _pair(g: Figures) -> Result:
    found = pair_capacity(g["totals_a"], g["one_a"], g["other_a"], (g["one_limit_a"], g["other_limit_a"]))
    names, limits = ("A", "B"), (g["one_limit_a"], g["other_limit_a"])
    lines = tuple(
        Working(f"unit {name}: amps = a + b · total, least squares", f"{line.a:.3f} + {line.b:.4f} · total", f"meets {limit:g} A at {(limit - line.a) / line.b:.1f} A" if line.b > 0 else "takes no more as the total rises", "least squares")
        for name, line, limit in zip(names, found.lines, limits, strict=True)
    )  # fmt: skip
    lines += (
        Working("the lowest of these", f"unit {names[found.first]} first", plain(found.measured_a, "a")),
        Working("beside it: twice the smaller", f"2 × {min(limits):g}", plain(found.twice_smaller_a, "a")),
        Working("and the sum of the limits", f"{limits[0]:g} + {limits[1]:g}", plain(found.sum_a, "a")),
    )
    beyond = f" That is past the {max(g['totals_a']):g} A that was read: an extrapolation." if found.beyond else ""
    other = found.lines[1 - found.first]
    close = other.b > 0 and (limits[1 - found.first] - other.a) / other.b < found.measured_a * 1.02
    tied = " With meters of 1 % it cannot be told which unit is first." if close else ""
    return Result(
        lines, (ResultFigure("pair_a", "the pair", found.measured_a, "a"),),
        f"The pair carries {plain(found.measured_a, 'a')}; unit {names[found.first]} is full first.{beyond}{tied}",
        ("Only units made to run together, on the maker's parallel kit.", "Share lines move with speed, heat and lead length: measure them as they will stand."),
    )  # fmt: skip


PAIR = Calculation(
    "parallel-pair", "Parallel pair", "What two unlike units carry together, by their measured share.", "Batteries and panels",
    (
        InputSpec("totals_a", "Totals", "9.0 17.0 28.0", "A", many=True), InputSpec("one_a", "Unit A at each", "4.1 7.2 11.4", "A", many=True),
        InputSpec("other_a", "Unit B at each", "4.9 9.8 16.6", "A", many=True), InputSpec("one_limit_a", "Unit A's limit", "13", "A", exact=True),
        InputSpec("other_limit_a", "Unit B's limit", "19", "A", exact=True),
    ),
    _pair,
)  # fmt: skip


def _told(layout: StringLayout) -> Working:
    what = layout.refused or (f"{plain(layout.watts, 'w')}" + (f"; {layout.clipped}" if layout.clipped else ""))
    volts = f"{layout.coldest_voc_v:.1f} V open when coldest, {layout.hottest_vmp_v:.1f} V when hottest, {layout.isc_a:.1f} A short-circuit"
    return Working(
        f"{layout.series} in series × {layout.parallel}", volts, f"refused: {what}" if layout.refused else what
    )


def _strings(g: Figures) -> Result:
    panel = SolarPanel(g["voc_v"], g["vmp_v"], g["isc_a"], g["imp_a"], g["voc_pct_per_k"], g["vmp_pct_per_k"])
    into = SolarInput(g["most_v"], g["least_v"], g["most_a"], g["most_isc_a"])
    found = layouts(panel, into, round(g["panels"]), g["coldest_c"], g["hottest_c"])
    good = [layout for layout in found if not layout.refused]
    rule = Working(
        "Voc coldest ≤ input volts; Vmp hottest ≥ tracker's least; 1.25 × Isc ≤ short-circuit amps",
        f"{g['coldest_c']:g} °C, cell at {g['hottest_c']:g} °C, {SHORT_CIRCUIT_X:g} ×", f"{len(good)} of {len(found)} layouts fit", "NEC 690.7, 690.8; IEC 62548",
    )  # fmt: skip
    beware = (
        "A string is live whenever light falls on it; its DC does not break an arc. Connecting it is for those licensed to.",
        "An open-circuit voltage above the input's maximum destroys it, on the first cold bright morning.",
    )
    if not good:
        return Result(
            (rule, *map(_told, found[:SHOWN_LAYOUTS])), (), "No layout of these panels fits this input.", beware
        )
    best = good[0]
    return Result(
        (rule, *map(_told, found[:SHOWN_LAYOUTS])),
        (ResultFigure("watts", "the best gives", best.watts, "w"), ResultFigure("voc_v", "open volts when coldest", best.coldest_voc_v, "v")),
        f"{best.series} in series, {best.parallel} string{'s' if best.parallel > 1 else ''}: {plain(best.watts, 'w')} of {g['panels'] * g['vmp_v'] * g['imp_a']:.0f} W of panels.",
        beware,
    )  # fmt: skip


STRINGS = Calculation(
    "string-layout", "String layout", "How to connect panels to an input's window, and why not otherwise.", "Batteries and panels",
    (
        InputSpec("panels", "Panels", "12", exact=True), InputSpec("voc_v", "Voc", "49.5", "V", exact=True), InputSpec("vmp_v", "Vmp", "41.2", "V", exact=True),
        InputSpec("isc_a", "Isc", "11.2", "A", exact=True), InputSpec("imp_a", "Imp", "10.6", "A", exact=True),
        InputSpec("voc_pct_per_k", "Voc per kelvin", "-0.28", "%/K", exact=True), InputSpec("vmp_pct_per_k", "Vmp per kelvin", "-0.36", "%/K", exact=True),
        InputSpec("most_v", "Input: most volts", "450", "V", exact=True), InputSpec("least_v", "tracker's least", "120", "V", exact=True), InputSpec("most_a", "most amps used", "18", "A", exact=True),
        InputSpec("most_isc_a", "most short-circuit amps", "22", "A", exact=True), InputSpec("coldest_c", "Coldest morning", "-10", "°C", exact=True), InputSpec("hottest_c", "Hottest cell", "65", "°C", exact=True),
    ),
    _strings,
)  # fmt: skip
BATTERIES = (PEUKERT, TWO_RUNS, PAIR, STRINGS)
