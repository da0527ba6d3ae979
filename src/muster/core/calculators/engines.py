"""Calculators of engines and motors."""

from __future__ import annotations

from ..quantities import duration, plain, signed
from ..sources import FUEL_LOSS_PCT, Site, SourceKind, derate
from ..trade import motors
from ..working import Working
from .frame import Calculation, Figures, InputSpec, Result, ResultFigure


def _rpm(g: Figures) -> Result:
    poles = round(g["poles"])
    hz = motors.hz_of(g["rpm"], poles)
    wanted = motors.rpm_of(g["hz"], poles)
    lines = (
        Working("f = rpm · poles ÷ 120", f"{g['rpm']:g} × {poles} ÷ 120", plain(hz, "hz"), "synchronous machine"),
        Working("rpm for the wanted hertz = 120 · f ÷ poles", f"120 × {g['hz']:g} ÷ {poles}", plain(wanted, "rpm")),
    )
    return Result(
        lines, (ResultFigure("hz", "frequency", hz, "hz"), ResultFigure("rpm", "speed for nominal", wanted, "rpm")),
        f"{g['rpm']:g} rpm with {poles} poles is {hz:.1f} Hz; {g['hz']:g} Hz wants {wanted:.0f} rpm.",
        ("An inverter set's engine may turn at any speed: its hertz are made, not turned.",),
    )  # fmt: skip


RPM = Calculation(
    "rpm-hertz", "Speed and hertz", "Frequency from an engine's speed, and the speed for a frequency.", "Engines and motors",
    (InputSpec("rpm", "Speed", "3720", "rpm"), InputSpec("poles", "Poles", "2", exact=True), InputSpec("hz", "Nominal", "60", "Hz", exact=True)),
    _rpm,
)  # fmt: skip


def _clock(g: Figures) -> Result:
    hz = motors.clock_hz(g["hz"], g["clock_s"], g["true_s"])
    lines = (
        Working("f = f_n · clock seconds ÷ true seconds", f"{g['hz']:g} × {g['clock_s']:g} ÷ {g['true_s']:g}", plain(hz, "hz"), "a synchronous clock counts cycles"),
    )  # fmt: skip
    return Result(
        lines, (ResultFigure("hz", "frequency", hz, "hz"),), f"The mean frequency over that time was {hz:.2f} Hz.",
        ("Only a clock with a synchronous motor, or one that counts the mains, tells this.", "Half a second of reading in a minute is half a hertz: let it run for ten."),
    )  # fmt: skip


CLOCK = Calculation(
    "clock-method", "Hertz by a clock", "Mean frequency from a synchronous clock against a true one.", "Engines and motors",
    (InputSpec("hz", "Nominal", "60", "Hz", exact=True), InputSpec("clock_s", "The clock went", "62 ± 0.5", "s"), InputSpec("true_s", "in true time", "60 ± 0.1", "s")),
    _clock,
)  # fmt: skip
SCHOOLS = (
    ("0.5", "right at half load"),
    ("0.75", "right at three quarters"),
    ("used", "right at the load most used"),
    ("spread", "least worst: as far over as under"),
)


def _droop(g: Figures) -> Result:
    right_at = {"0.5": 0.5 * g["full_w"], "0.75": 0.75 * g["full_w"], "used": g["used_w"], "spread": 0.5 * g["full_w"]}[
        g["school"]
    ]
    found = motors.set_point(g["hz"], g["no_load_hz"], g["at_load_hz"], g["load_w"], right_at, g["full_w"])
    slope = (g["at_load_hz"] - g["no_load_hz"]) / g["load_w"]
    turn = found.no_load_hz - g["no_load_hz"]
    lines = (
        Working("slope = (f at load − f at no load) ÷ load", f"({g['at_load_hz']:g} − {g['no_load_hz']:g}) ÷ {g['load_w']:g}", f"{slope * 1000:.3f} Hz for each kW", "straight droop"),
        Working("no-load set-point = f_n − slope · P_right", f"{g['hz']:g} − {slope * 1000:.3f} × {right_at / 1000:g}", plain(found.no_load_hz, "hz")),
        Working("then at full load", f"{found.no_load_hz:.2f} + {slope * 1000:.3f} × {g['full_w'] / 1000:g}", plain(found.full_load_hz, "hz")),
        Working("within nominal ± 5 %", f"{g['hz'] * 0.95:g} to {g['hz'] * 1.05:g} Hz", "yes" if found.fits else "no"),
    )  # fmt: skip
    sentence = (
        f"Set {found.no_load_hz:.1f} Hz at no load ({signed(turn, 'hz')} from now); it is {g['hz']:g} Hz at {plain(right_at, 'w')} and {found.full_load_hz:.1f} Hz at full load."
        if found.fits
        else f"No set-point of this school stays within 5 %: it would be {found.no_load_hz:.1f} Hz at no load and {found.full_load_hz:.1f} Hz at full load. The droop is too steep: have the governor looked at."
    )
    return Result(
        lines, (ResultFigure("no_load_hz", "set at no load", found.no_load_hz, "hz"), ResultFigure("full_load_hz", "then at full load", found.full_load_hz, "hz")), sentence,
        ("Turn the governor's screw only as its maker's booklet says, nothing sensitive connected.", "Schools differ on where the line should be right; the consequence of each is the pair of figures above."),
    )  # fmt: skip


DROOP = Calculation(
    "droop-set-point", "Governor set-point", "Where to set the no-load frequency so that the load of interest sees nominal.", "Engines and motors",
    (
        InputSpec("hz", "Nominal", "50", "Hz", exact=True), InputSpec("no_load_hz", "Read at no load", "53.4", "Hz"),
        InputSpec("at_load_hz", "Read at load", "50.3", "Hz"), InputSpec("load_w", "that load", "5000", "W"),
        InputSpec("full_w", "Full load", "6400", "W", exact=True), InputSpec("school", "Where it should be right", "0.5", choices=SCHOOLS),
        InputSpec("used_w", "Load most used", "2500", "W", exact=True),
    ),
    _droop,
)  # fmt: skip
LETTERS = tuple(
    (letter, f"{letter}: {'≥' if letter == 'V' else 'to'} {kva:g} kVA/hp")
    for letter, kva in motors.CODE_KVA_PER_HP.items()
)


def _code(g: Figures) -> Result:
    kva = motors.CODE_KVA_PER_HP[g["letter"]]
    va = motors.code_letter_va(g["letter"], g["hp"])
    amps = va / g["v_nominal"]
    at_least = g["letter"] == motors.OPEN_ENDED
    lines = (
        Working("start = kVA per hp (upper end) × hp", f"{kva:g} × {g['hp']:g}", plain(va, "va"), "NEC 430.7(B)"),
        Working("locked-rotor amps = start ÷ V", f"{va:.0f} ÷ {g['v_nominal']:g}", plain(amps, "a")),
    )
    return Result(
        lines, (ResultFigure("start_va", "start", va, "va"), ResultFigure("lra_a", "locked-rotor amps", amps, "a")),
        f"It starts with {'at least' if at_least else 'up to'} {plain(va, 'va')}, {amps:.0f} A at {g['v_nominal']:g} V.",
        ("From the nameplate: grade C. A measured inrush is better.", "Horsepower is what the shaft gives; do not take it from the running watts."),
    )  # fmt: skip


CODE_LETTER = Calculation(
    "code-letter", "Start from a code letter", "Starting kVA of a motor from the code letter and horsepower on its plate.", "Engines and motors",
    (InputSpec("letter", "Code letter", "G", choices=LETTERS), InputSpec("hp", "Horsepower", "1", exact=True), InputSpec("v_nominal", "Motor volts", "240", "V", exact=True)),
    _code, "start_va",
)  # fmt: skip
FUELS = tuple((fuel, fuel) for fuel in FUEL_LOSS_PCT)


def _derate(g: Figures) -> Result:
    found = derate(SourceKind.OPEN_FRAME, g["fuel"], Site(g["altitude_m"], g["temp_c"]))
    left = g["claim_w"] * found.share
    last = Working("claim × what is left", f"{g['claim_w']:g} × {found.share:.3f}", plain(left, "w"))
    return Result(
        (*found.workings, last), (ResultFigure("w", "left of the claim", left, "w"), ResultFigure("share_pct", "share", found.share * 100, "pct")),
        f"Of {plain(g['claim_w'], 'w')}, {plain(left, 'w')} is left at {g['altitude_m']:g} m and {g['temp_c']:g} °C on {g['fuel']}.",
        ("Common makers' guidance; a measured figure replaces it. A carburettor jetted for the height changes it.",),
    )  # fmt: skip


DERATE = Calculation(
    "derating", "Derating of an engine", "What altitude, heat and fuel leave of an engine set's claim.", "Engines and motors",
    (InputSpec("claim_w", "Claim", "5000", "W", exact=True), InputSpec("altitude_m", "Altitude", "1500", "m", exact=True), InputSpec("temp_c", "Air", "36", "°C"), InputSpec("fuel", "Fuel", "petrol", choices=FUELS)),
    _derate,
)  # fmt: skip


def _fuel(g: Figures) -> Result:
    lph = g["idle_lph"] + (g["full_lph"] - g["idle_lph"]) * g["load_w"] / g["full_w"]
    tank_h = g["tank_l"] / lph
    need = lph * g["outage_h"] * (1 + g["reserve_pct"] / 100)
    lines = (
        Working("use = a + b · P", f"{g['idle_lph']:g} + ({g['full_lph']:g} − {g['idle_lph']:g}) × {g['load_w']:g} ÷ {g['full_w']:g}", plain(lph, "lph"), "straight line from no load to full"),
        Working("hours a tank", f"{g['tank_l']:g} ÷ {lph:.3g}", duration(tank_h * 3600)),
        Working("fuel for the outage, with the reserve", f"{lph:.3g} × {g['outage_h']:g} × (1 + {g['reserve_pct']:g} %)", plain(need, "l")),
        Working("fillings", f"{need:.3g} ÷ {g['tank_l']:g}", plain(need / g["tank_l"], "n")),
    )  # fmt: skip
    return Result(
        lines, (ResultFigure("lph", "use", lph, "lph"), ResultFigure("tank_h", "a tank lasts", tank_h, "h"), ResultFigure("fuel_l", "to have at hand", need, "l")),
        f"A tank lasts {duration(tank_h * 3600)} at {plain(g['load_w'], 'w')}; {g['outage_h']:g} h with the reserve want {plain(need, 'l')}.",
        ("Refuel only with the engine stopped and cooled.", "How much may be stored at a home, and where, is for the local code.", "Petrol goes stale in months: turn the store over."),
    )  # fmt: skip


FUEL = Calculation(
    "fuel-hours", "Fuel hours", "How long a tank lasts at a load, and what an outage wants.", "Engines and motors",
    (
        InputSpec("idle_lph", "Use at no load", "0.6", "L/h"), InputSpec("full_lph", "Use at full load", "3.2", "L/h"), InputSpec("full_w", "Full load", "5000", "W", exact=True),
        InputSpec("load_w", "Mean load", "1500", "W"), InputSpec("tank_l", "Tank", "25", "L", exact=True), InputSpec("outage_h", "Outage", "18", "h", exact=True), InputSpec("reserve_pct", "Reserve", "20", "%", exact=True),
    ),
    _fuel,
)  # fmt: skip
ENGINES = (RPM, CLOCK, DROOP, CODE_LETTER, DERATE, FUEL)
