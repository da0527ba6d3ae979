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
        Working(
            "t = H · (C ÷ (I · H))^k",
            f"{g['rated_h']:g} × ({g['rated_ah']:g} ÷ ({g['amps']:g} × {g['rated_h']:g}))^{g['exponent']:g}",
            plain(full_h, "h"),
            "Peukert",
        ),
        Working("of that, to the depth used", f"{full_h:.3g} × {g['use_pct']:g} %", duration(used_h * 3600)),
        Working(
            "capacity at this current",
            f"{full_h:.3g} × {g['amps']:g}",
            f"{full_h * g['amps']:.3g} Ah of {g['rated_ah']:g}",
        ),
    )
    return Result(
        lines,
        (ResultFigure("used_h", "it lasts", used_h, "h"), ResultFigure("full_h", "to empty", full_h, "h")),
        f"It lasts {duration(used_h * 3600)} at {plain(g['amps'], 'a')}, used to {g['use_pct']:g} %.",
        (
            "Lead-acid alone; lithium hardly cares how fast.",
            f"Deeper than {USE_TO_PCT:g} % costs a lead-acid bank its life.",
            "Cold takes about 1 % a kelvin below 25 °C; age takes more.",
        ),
    )


PEUKERT = Calculation(
    slug="peukert",
    title="Peukert",
    about="How long a lead-acid bank lasts at a current.",
    topic="Batteries and panels",
    inputs=(
        InputSpec(name="rated_ah", label="Rated", first="200", unit="Ah", exact=True),
        InputSpec(name="rated_h", label="over", first="20", unit="h", exact=True),
        InputSpec(name="amps", label="Current", first="25", unit="A"),
        InputSpec(name="exponent", label="Peukert exponent", first="1.2"),
        InputSpec(name="use_pct", label="Used to", first="50", unit="%", exact=True),
    ),
    work=_peukert,
)


def _two(g: Figures) -> Result:
    two_runs_found = two_runs(g["slow_wh"], g["slow_h"], g["fast_wh"], g["fast_h"], g["conversion_pct"])
    x = 100 / g["conversion_pct"]
    lines = (
        Working(
            "E = x·e + P₀·t for each run, x = 1 ÷ conversion",
            f"x = 1 ÷ {g['conversion_pct']:g} %",
            f"{x:.4f}",
            "two equations, two unknowns",
        ),
        Working(
            "P₀ = x · (e_fast − e_slow) ÷ (t_slow − t_fast)",
            f"{x:.4f} × ({g['fast_wh']:g} − {g['slow_wh']:g}) ÷ ({g['slow_h']:g} − {g['fast_h']:g})",
            f"{two_runs_found.idle_w:.1f} W",
        ),
        Working(
            "E = x · e_slow + P₀ · t_slow",
            f"{x:.4f} × {g['slow_wh']:g} + {two_runs_found.idle_w:.1f} × {g['slow_h']:g}",
            f"{two_runs_found.battery_wh:.1f} Wh",
        ),
    )
    return Result(
        lines,
        (
            ResultFigure("battery_wh", "the battery gives", two_runs_found.battery_wh, "wh"),
            ResultFigure("idle_w", "idle draw", two_runs_found.idle_w, "w"),
        ),
        f"The battery gives {plain(two_runs_found.battery_wh, 'wh')}; standing by costs {two_runs_found.idle_w:.1f} W.",
        (
            "Lithium alone: a lead-acid bank gives less the faster it is emptied.",
            "Both runs from full to the same cut-off, at like temperature.",
        ),
    )


TWO_RUNS = Calculation(
    slug="two-runs",
    title="Two runs apart",
    about="Usable energy and idle draw from a slow and a fast run to empty.",
    topic="Batteries and panels",
    inputs=(
        InputSpec(name="slow_wh", label="Slow run delivered", first="1180 ± 12", unit="Wh"),
        InputSpec(name="slow_h", label="in", first="25.0", unit="h"),
        InputSpec(name="fast_wh", label="Fast run delivered", first="1600 ± 16", unit="Wh"),
        InputSpec(name="fast_h", label="in", first="2.20", unit="h"),
        InputSpec(name="conversion_pct", label="Conversion, without idle", first="90", unit="%", exact=True),
    ),
    work=_two,
)


def _pair(g: Figures) -> Result:
    pair_capacity_found = pair_capacity(g["totals_a"], g["one_a"], g["other_a"], (g["one_limit_a"], g["other_limit_a"]))
    names, limits = ("A", "B"), (g["one_limit_a"], g["other_limit_a"])
    lines = tuple(
        Working(
            f"unit {name}: amps = a + b · total, least squares",
            f"{line.a:.3f} + {line.b:.4f} · total",
            f"meets {limit:g} A at {(limit - line.a) / line.b:.1f} A"
            if line.b > 0
            else "takes no more as the total rises",
            "least squares",
        )
        for name, line, limit in zip(names, pair_capacity_found.lines, limits, strict=True)
    )
    lines += (
        Working(
            "the lowest of these",
            f"unit {names[pair_capacity_found.first]} first",
            plain(pair_capacity_found.measured_a, "a"),
        ),
        Working(
            "beside it: twice the smaller", f"2 × {min(limits):g}", plain(pair_capacity_found.twice_smaller_a, "a")
        ),
        Working("and the sum of the limits", f"{limits[0]:g} + {limits[1]:g}", plain(pair_capacity_found.sum_a, "a")),
    )
    beyond = (
        f" That is past the {max(g['totals_a']):g} A that was read: an extrapolation."
        if pair_capacity_found.beyond
        else ""
    )
    other = pair_capacity_found.lines[1 - pair_capacity_found.first]
    close = (
        other.b > 0
        and (limits[1 - pair_capacity_found.first] - other.a) / other.b < pair_capacity_found.measured_a * 1.02
    )
    tied = " With meters of 1 % it cannot be told which unit is first." if close else ""
    return Result(
        lines,
        (ResultFigure("pair_a", "the pair", pair_capacity_found.measured_a, "a"),),
        f"The pair carries {plain(pair_capacity_found.measured_a, 'a')}; unit {names[pair_capacity_found.first]} is full first.{beyond}{tied}",
        (
            "Only units made to run together, on the maker's parallel kit.",
            "Share lines move with speed, heat and lead length: measure them as they will stand.",
        ),
    )


PAIR = Calculation(
    slug="parallel-pair",
    title="Parallel pair",
    about="What two unlike units carry together, by their measured share.",
    topic="Batteries and panels",
    inputs=(
        InputSpec(name="totals_a", label="Totals", first="9.0 17.0 28.0", unit="A", many=True),
        InputSpec(name="one_a", label="Unit A at each", first="4.1 7.2 11.4", unit="A", many=True),
        InputSpec(name="other_a", label="Unit B at each", first="4.9 9.8 16.6", unit="A", many=True),
        InputSpec(name="one_limit_a", label="Unit A's limit", first="13", unit="A", exact=True),
        InputSpec(name="other_limit_a", label="Unit B's limit", first="19", unit="A", exact=True),
    ),
    work=_pair,
)


def _told(layout: StringLayout) -> Working:
    what = layout.refused or (f"{plain(layout.watts, 'w')}" + (f"; {layout.clipped}" if layout.clipped else ""))
    volts = f"{layout.coldest_voc_v:.1f} V open when coldest, {layout.hottest_vmp_v:.1f} V when hottest, {layout.isc_a:.1f} A short-circuit"
    return Working(
        f"{layout.series} in series × {layout.parallel}", volts, f"refused: {what}" if layout.refused else what
    )


def _strings(g: Figures) -> Result:
    panel = SolarPanel(
        voc_v=g["voc_v"],
        vmp_v=g["vmp_v"],
        isc_a=g["isc_a"],
        imp_a=g["imp_a"],
        voc_pct_per_k=g["voc_pct_per_k"],
        vmp_pct_per_k=g["vmp_pct_per_k"],
    )
    into = SolarInput(g["most_v"], g["least_v"], g["most_a"], g["most_isc_a"])
    string_layouts = layouts(panel, into, round(g["panels"]), g["coldest_c"], g["hottest_c"])
    good = [layout for layout in string_layouts if not layout.refused]
    rule = Working(
        "Voc coldest ≤ input volts; Vmp hottest ≥ tracker's least; 1.25 × Isc ≤ short-circuit amps",
        f"{plain(g['coldest_c'], 'c')}, cell at {plain(g['hottest_c'], 'c')}, {SHORT_CIRCUIT_X:g} ×",
        f"{len(good)} of {len(string_layouts)} layouts fit",
        "NEC 690.7, 690.8; IEC 62548",
    )
    beware = (
        "A string is live whenever light falls on it; its DC does not break an arc. Connecting it is for those licensed to.",
        "An open-circuit voltage above the input's maximum destroys it, on the first cold bright morning.",
    )
    if not good:
        return Result(
            (rule, *map(_told, string_layouts[:SHOWN_LAYOUTS])),
            (),
            "No layout of these panels fits this input.",
            beware,
        )
    best = good[0]
    return Result(
        (rule, *map(_told, string_layouts[:SHOWN_LAYOUTS])),
        (
            ResultFigure("watts", "the best gives", best.watts, "w"),
            ResultFigure("voc_v", "open volts when coldest", best.coldest_voc_v, "v"),
        ),
        f"{best.series} in series, {best.parallel} string{'s' if best.parallel > 1 else ''}: {plain(best.watts, 'w')} of {g['panels'] * g['vmp_v'] * g['imp_a']:.0f} W of panels.",
        beware,
    )


STRINGS = Calculation(
    slug="string-layout",
    title="String layout",
    about="How to connect panels to an input's window, and why not otherwise.",
    topic="Batteries and panels",
    inputs=(
        InputSpec(name="panels", label="Panels", first="12", exact=True),
        InputSpec(name="voc_v", label="Voc", first="49.5", unit="V", exact=True),
        InputSpec(name="vmp_v", label="Vmp", first="41.2", unit="V", exact=True),
        InputSpec(name="isc_a", label="Isc", first="11.2", unit="A", exact=True),
        InputSpec(name="imp_a", label="Imp", first="10.6", unit="A", exact=True),
        InputSpec(name="voc_pct_per_k", label="Voc per kelvin", first="-0.28", unit="%/K", exact=True),
        InputSpec(name="vmp_pct_per_k", label="Vmp per kelvin", first="-0.36", unit="%/K", exact=True),
        InputSpec(name="most_v", label="Input: most volts", first="450", unit="V", exact=True),
        InputSpec(name="least_v", label="tracker's least", first="120", unit="V", exact=True),
        InputSpec(name="most_a", label="most amps used", first="18", unit="A", exact=True),
        InputSpec(name="most_isc_a", label="most short-circuit amps", first="22", unit="A", exact=True),
        InputSpec(name="coldest_c", label="Coldest morning", first="-10", unit="°C", exact=True),
        InputSpec(name="hottest_c", label="Hottest cell", first="65", unit="°C", exact=True),
    ),
    work=_strings,
)
BATTERIES = (PEUKERT, TWO_RUNS, PAIR, STRINGS)
