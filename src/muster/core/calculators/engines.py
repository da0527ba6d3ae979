"""Calculators of engines and motors."""

from __future__ import annotations

from ..quantities import duration, number, plain, signed
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
        lines,
        (ResultFigure("hz", "frequency", hz, "hz"), ResultFigure("rpm", "speed for nominal", wanted, "rpm")),
        f"{g['rpm']:g} rpm with {poles} poles is {hz:.1f} Hz; {g['hz']:g} Hz wants {wanted:.0f} rpm.",
        ("An inverter set's engine may turn at any speed: its hertz are made, not turned.",),
    )


RPM = Calculation(
    slug="rpm-hertz",
    title="Speed and hertz",
    about="Frequency from an engine's speed, and the speed for a frequency.",
    topic="Engines and motors",
    inputs=(
        InputSpec(name="rpm", label="Speed", first="3720", unit="rpm"),
        InputSpec(name="poles", label="Poles", first="2", exact=True),
        InputSpec(name="hz", label="Nominal", first="60", unit="Hz", exact=True),
    ),
    work=_rpm,
    as_line=lambda g: f"{g['rpm']:g} rpm",
)


def _clock(g: Figures) -> Result:
    hz = motors.clock_hz(g["hz"], g["clock_s"], g["true_s"])
    lines = (
        Working(
            "f = f_n · clock seconds ÷ true seconds",
            f"{g['hz']:g} × {g['clock_s']:g} ÷ {g['true_s']:g}",
            plain(hz, "hz"),
            "a synchronous clock counts cycles",
        ),
    )
    return Result(
        lines,
        (ResultFigure("hz", "frequency", hz, "hz"),),
        f"The mean frequency over that time was {hz:.2f} Hz.",
        (
            "Only a clock with a synchronous motor, or one that counts the mains, tells this.",
            "Half a second of reading in a minute is half a hertz: let it run for ten.",
        ),
    )


CLOCK = Calculation(
    slug="clock-method",
    title="Hertz by a clock",
    about="Mean frequency from a synchronous clock against a true one.",
    topic="Engines and motors",
    inputs=(
        InputSpec(name="hz", label="Nominal", first="60", unit="Hz", exact=True),
        InputSpec(name="clock_s", label="The clock went", first="62 ± 0.5", unit="s"),
        InputSpec(name="true_s", label="in true time", first="60 ± 0.1", unit="s"),
    ),
    work=_clock,
    as_line=lambda g: f"clock {g['clock_s']:g} s in {g['true_s']:g} s",
)
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
    set_point_found = motors.set_point(g["hz"], g["no_load_hz"], g["at_load_hz"], g["load_w"], right_at, g["full_w"])
    slope = (g["at_load_hz"] - g["no_load_hz"]) / g["load_w"]
    turn = set_point_found.no_load_hz - g["no_load_hz"]
    lines = (
        Working(
            "slope = (f at load − f at no load) ÷ load",
            f"({g['at_load_hz']:g} − {g['no_load_hz']:g}) ÷ {g['load_w']:g}",
            f"{slope * 1000:.3f} Hz for each kW",
            "straight droop",
        ),
        Working(
            "no-load set-point = f_n − slope · P_right",
            f"{g['hz']:g} − {slope * 1000:.3f} × {right_at / 1000:g}",
            plain(set_point_found.no_load_hz, "hz"),
        ),
        Working(
            "then at full load",
            f"{set_point_found.no_load_hz:.2f} + {slope * 1000:.3f} × {g['full_w'] / 1000:g}",
            plain(set_point_found.full_load_hz, "hz"),
        ),
        Working(
            "within nominal ± 5 %",
            f"{g['hz'] * 0.95:g} to {g['hz'] * 1.05:g} Hz",
            "yes" if set_point_found.fits else "no",
        ),
    )
    sentence = (
        f"Set {set_point_found.no_load_hz:.1f} Hz at no load ({signed(turn, 'hz')} from now); it is {g['hz']:g} Hz at {plain(right_at, 'w')} and {set_point_found.full_load_hz:.1f} Hz at full load."
        if set_point_found.fits
        else f"No set-point of this school stays within 5 %: it would be {set_point_found.no_load_hz:.1f} Hz at no load and {set_point_found.full_load_hz:.1f} Hz at full load. The droop is too steep: have the governor looked at."
    )
    return Result(
        lines,
        (
            ResultFigure("no_load_hz", "set at no load", set_point_found.no_load_hz, "hz"),
            ResultFigure("full_load_hz", "then at full load", set_point_found.full_load_hz, "hz"),
        ),
        sentence,
        (
            "Turn the governor's screw only as its maker's booklet says, nothing sensitive connected.",
            "Schools differ on where the line should be right; the consequence of each is the pair of figures above.",
        ),
    )


DROOP = Calculation(
    slug="droop-set-point",
    title="Governor set-point",
    about="Where to set the no-load frequency so that the load of interest sees nominal.",
    topic="Engines and motors",
    inputs=(
        InputSpec(name="hz", label="Nominal", first="50", unit="Hz", exact=True),
        InputSpec(name="no_load_hz", label="Read at no load", first="53.4", unit="Hz"),
        InputSpec(name="at_load_hz", label="Read at load", first="50.3", unit="Hz"),
        InputSpec(name="load_w", label="that load", first="5000", unit="W"),
        InputSpec(name="full_w", label="Full load", first="6400", unit="W", exact=True),
        InputSpec(name="school", label="Where it should be right", first="0.5", among=SCHOOLS),
        InputSpec(name="used_w", label="Load most used", first="2500", unit="W", exact=True),
    ),
    work=_droop,
)
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
        lines,
        (ResultFigure("start_va", "start", va, "va"), ResultFigure("lra_a", "locked-rotor amps", amps, "a")),
        f"It starts with {'at least' if at_least else 'up to'} {plain(va, 'va')}, {amps:.0f} A at {g['v_nominal']:g} V.",
        (
            "From the nameplate: grade C. A measured inrush is better.",
            "Horsepower is what the shaft gives; do not take it from the running watts.",
        ),
    )


CODE_LETTER = Calculation(
    slug="code-letter",
    title="Start from a code letter",
    about="Starting kVA of a motor from the code letter and horsepower on its nameplate.",
    topic="Engines and motors",
    inputs=(
        InputSpec(name="letter", label="Code letter", first="G", among=LETTERS),
        InputSpec(name="hp", label="Horsepower", first="1", exact=True),
        InputSpec(name="v_nominal", label="Motor volts", first="240", unit="V", exact=True),
    ),
    work=_code,
    gives_load="start_va",
)
FUELS = tuple((fuel, fuel) for fuel in FUEL_LOSS_PCT)


def _derate(g: Figures) -> Result:
    derating = derate(SourceKind.OPEN_FRAME, g["fuel"], Site(g["altitude_m"], g["temp_c"]))
    left = g["claim_w"] * derating.share
    last = Working("claim × what is left", f"{g['claim_w']:g} × {derating.share:.3f}", plain(left, "w"))
    return Result(
        (*derating.workings, last),
        (
            ResultFigure("w", "left of the claim", left, "w"),
            ResultFigure("share_pct", "share", derating.share * 100, "pct"),
        ),
        f"Of {plain(g['claim_w'], 'w')}, {plain(left, 'w')} is left at {plain(g['altitude_m'], 'm')} and {plain(g['temp_c'], 'c')} on {g['fuel']}.",
        ("Common makers' guidance; a measured figure replaces it. A carburettor jetted for the height changes it.",),
    )


DERATE = Calculation(
    slug="derating",
    title="Derating of an engine",
    about="What altitude, heat and fuel leave of an engine set's claim.",
    topic="Engines and motors",
    inputs=(
        InputSpec(name="claim_w", label="Claim", first="5000", unit="W", exact=True),
        InputSpec(name="altitude_m", label="Altitude", first="1500", unit="m", exact=True),
        InputSpec(name="temp_c", label="Air", first="36", unit="°C"),
        InputSpec(name="fuel", label="Fuel", first="petrol", among=FUELS),
    ),
    work=_derate,
)


def _fuel(g: Figures) -> Result:
    lph = g["idle_lph"] + (g["full_lph"] - g["idle_lph"]) * g["load_w"] / g["full_w"]
    tank_h = g["tank_l"] / lph
    need = lph * g["outage_h"] * (1 + g["reserve_pct"] / 100)
    idle, use, tank = number(g["idle_lph"], "lph"), number(lph, "lph"), plain(g["tank_l"], "l")
    lines = (
        Working(
            "use = a + b · P",
            f"{idle} + ({number(g['full_lph'], 'lph')} − {idle}) × {g['load_w']:g} ÷ {g['full_w']:g}",
            plain(lph, "lph"),
            "straight line from no load to full",
        ),
        Working("hours a tank", f"{tank} ÷ {use}", duration(tank_h * 3600)),
        Working(
            "fuel for the outage, with the reserve",
            f"{use} × {g['outage_h']:g} × (1 + {g['reserve_pct']:g} %)",
            plain(need, "l"),
        ),
        Working("fillings", f"{plain(need, 'l')} ÷ {tank}", plain(need / g["tank_l"], "n")),
    )
    return Result(
        lines,
        (
            ResultFigure("lph", "use", lph, "lph"),
            ResultFigure("tank_h", "a tank lasts", tank_h, "h"),
            ResultFigure("fuel_l", "to have at hand", need, "l"),
        ),
        f"A tank lasts {duration(tank_h * 3600)} at {plain(g['load_w'], 'w')}; {g['outage_h']:g} h with the reserve want {plain(need, 'l')}.",
        (
            "Refuel only with the engine stopped and cooled.",
            "How much may be stored at a home, and where, is for the local code.",
            "Petrol goes stale in months: turn the store over.",
        ),
    )


FUEL = Calculation(
    slug="fuel-hours",
    title="Fuel hours",
    about="How long a tank lasts at a load, and what an outage wants.",
    topic="Engines and motors",
    inputs=(
        InputSpec(name="idle_lph", label="Use at no load", first="0.6", unit="L/h"),
        InputSpec(name="full_lph", label="Use at full load", first="3.2", unit="L/h"),
        InputSpec(name="full_w", label="Full load", first="5000", unit="W", exact=True),
        InputSpec(name="load_w", label="Mean load", first="1500", unit="W"),
        InputSpec(name="tank_l", label="Tank", first="25", unit="L", exact=True),
        InputSpec(name="outage_h", label="Outage", first="18", unit="h", exact=True),
        InputSpec(name="reserve_pct", label="Reserve", first="20", unit="%", exact=True),
    ),
    work=_fuel,
)
ENGINES = (RPM, CLOCK, DROOP, CODE_LETTER, DERATE, FUEL)
