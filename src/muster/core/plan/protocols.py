"""The steps of each protocol, with the loads of this house."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from ..brief import Home
from ..errors import MusterError, NotEnoughReadings
from ..limits import limits_of
from ..loads import Load, short_name, start_order
from ..quantities import plain
from ..sessions import PROTOCOLS, Step
from ..sources import Source
from ..supply import Leg
from .rungs import HOLD_RATING_S, HOLD_RUNG_S, RUNGS_PCT, ladder_steps, no_load, rung_steps

PLAIN_HEAT = ("heater", "filament")
"""Kinds whose watts follow the volts and that start softly: for steps and set-points."""
SHORT_HOLD_S = 60.0
OVER_PCT = (100, 105, 110, 115, 120, 130, 140, 150)
"""Rungs past the claim; an overload test goes on until protection acts, the house runs out of loads, or the limit set."""


def start_steps(loads: Sequence[Load], hz: float) -> tuple[Step, ...]:
    """Each motor alone, then the same on top of the loads that run throughout, then hot again.

    Raises
    ------
    NotEnoughReadings
        If nothing in the roll has a start of a cycle or more.
    """
    motors = [load for load in start_order(loads) if load.has_start(hz)]
    if not motors:
        raise NotEnoughReadings(
            "nothing in the roll has a start to test", where="roll", want="add a motor, pump or compressor"
        )
    ask = "Read volts before, lowest and settled, and the highest amps; say whether it started."
    steps = []
    for motor in motors:
        name = short_name(motor)
        steps.append(Step(f"{name}, alone", (motor.key,), None, motor.run_w, ask=ask))
    base = tuple(load.key for load in loads if load.duty.throughout and load not in motors)
    for motor in motors:
        name = short_name(motor)
        steps.append(Step(f"{name}, on base load", (*base, motor.key), None, None, ask=ask))
        steps.append(Step(f"{name}, hot again", (*base, motor.key), None, None, ask=f"{ask} Log it as a “hot start”."))
    return tuple(steps)


def noise_steps(ear_m: float) -> tuple[Step, ...]:
    """Background first, then at the unit and three distances, unloaded and loaded."""
    distances = sorted({1.0, 4.0, 7.0, round(min(max(ear_m, 10.0), 40.0))})
    steps = [Step("background, source off", ask="Log it such as “background 38db”.")]
    for state in ("no load", "loaded"):
        steps += [
            Step(f"{plain(metres, 'm')}, {state}", ask=f"Log it such as “64db@{metres:g}m”.") for metres in distances
        ]
    return tuple(steps)


def idle_steps() -> tuple[Step, ...]:
    """Nothing connected: the output on, in eco mode, and off."""
    ask = "Read the DC side, or the wall side, for a quarter of an hour: such as “dc 25.6v 0.8a”."
    return (
        Step("output on, nothing connected", (), 0.0, 0.0, 900.0, ask),
        Step("output on, eco mode", (), 0.0, 0.0, 900.0, ask + " Say which sockets stay live."),
        Step("output off", (), 0.0, 0.0, 300.0, ask),
    )


def endurance_steps() -> tuple[Step, ...]:
    """From full to empty, with a check-in each hour."""
    return (
        Step("full, before anything is on", ask="Read the charge or the tank: such as “100%” or “fuel 25l”."),
        Step("running", ask="Check in each hour: such as “81% 0.62kwh 231v 410w”; or bring in a recorded log."),
        Step("empty, or stopped", ask="Say what ended it (!trip, or a note), and read once more."),
    )


def _heaters(home: Home) -> list[Load]:
    found = [load for load in home.loads if load.kind in PLAIN_HEAT]
    if not found:
        raise NotEnoughReadings(
            "no plain heater in the roll",
            where="roll",
            want="a kettle, a heater or an oven: its watts follow the volts",
        )
    return found


def baseline_steps(home: Home, source: Source) -> tuple[Step, ...]:
    """Every load of the roll on the mains, alone."""
    if not home.loads:
        raise NotEnoughReadings("no loads in the roll", where="roll", want="add a load first")
    ask = "On the mains: read watts and power factor when settled, its start where the meter can, its own noise."
    return tuple(Step(short_name(load), (load.key,), None, load.run_w, 120.0, ask) for load in home.loads)


def load_step_steps(home: Home, source: Source) -> tuple[Step, ...]:
    """Resistive steps on and off, and all off at once."""
    heaters, claim_w = _heaters(home), _claim_w(home, source)
    ask = "Read lowest and settled volts and hertz as it goes on; then the highest as it goes off."
    targets = [(f"{r} % on, then off", claim_w * r / 100, SHORT_HOLD_S) for r in RUNGS_PCT]
    return (
        no_load(),
        *rung_steps(heaters, targets, claim_w, home.brief.system.legs, ask),
        Step("all off at once", (), 0.0, 0.0, SHORT_HOLD_S, "Read the highest volts and hertz."),
    )


def overload_steps(home: Home, source: Source) -> tuple[Step, ...]:
    """Past the claim in fine steps, as far as the loads of the house go."""
    claim_w, most_w = _claim_w(home, source), sum(load.run_w for load in _tested(home))
    if most_w <= claim_w:
        raise NotEnoughReadings(
            f"the whole roll is {plain(most_w, 'w')}",
            where="roll",
            want=f"loads of more than the claim of {plain(claim_w, 'w')}",
        )
    ask = "Start the hold clock; say what let go and after how long, or that it held. Then let it cool."
    targets = [(f"{p} %", claim_w * p / 100, HOLD_RUNG_S) for p in OVER_PCT if claim_w * p / 100 <= most_w * 1.03]
    return rung_steps(_tested(home), targets, claim_w, home.brief.system.legs, ask)


def leg_steps(home: Home, source: Source) -> tuple[Step, ...]:
    """Everything on one leg, both motors on one leg, balance, imbalance."""
    if home.brief.system.legs == 1:
        raise NotEnoughReadings("this home has one leg", where="system", want="a split-phase supply")
    ask = "Read volts, amps and watts of each leg, and the neutral."
    steps = [no_load()]
    for leg in (Leg.ONE, Leg.TWO):
        keys = tuple(load.key for load in _tested(home) if load.leg is leg)
        watts = sum(load.run_w for load in _tested(home) if load.leg is leg)
        if keys:
            steps.append(Step(f"all of {leg.words}, nothing on the other", keys, None, watts, HOLD_RUNG_S, ask))
    whole = tuple(load.key for load in _tested(home))
    balanced = rung_steps(
        _tested(home),
        [("balance, half the claim", _claim_w(home, source) / 2, HOLD_RATING_S)],
        _claim_w(home, source),
        2,
        ask,
    )
    return (
        *steps,
        *balanced,
        Step("all of it, as it is wired", whole, None, sum(load.run_w for load in _tested(home)), HOLD_RUNG_S, ask),
    )


def parallel_steps(home: Home, source: Source) -> tuple[Step, ...]:
    """The amps of each unit at each total."""
    ask = "Read the amps of each unit as a note (unit A 4.1 A, unit B 4.9 A), and the total."
    claim_w = _claim_w(home, source)
    return (
        no_load(),
        *rung_steps(
            _tested(home),
            [(f"{r} %", claim_w * r / 100, HOLD_RUNG_S) for r in RUNGS_PCT],
            claim_w,
            home.brief.system.legs,
            ask,
        ),
    )


def set_point_steps(home: Home, source: Source) -> tuple[Step, ...]:
    """No load, half, full, on plain heat: a motor would pull the frequency about."""
    claim_w = _claim_w(home, source)
    targets = [(words, claim_w * share, SHORT_HOLD_S) for words, share in (("half load", 0.5), ("full load", 1.0))]
    return (
        no_load(),
        *rung_steps(
            _heaters(home), targets, claim_w, home.brief.system.legs, "Read hertz and volts when they stand still."
        ),
    )


def waveform_steps(home: Home, source: Source) -> tuple[Step, ...]:
    """Scope at no load, rated, dirty load, and while shutting down."""
    dirty = tuple(load.key for load in _tested(home) if load.kind not in PLAIN_HEAT)
    claim_w = _claim_w(home, source)
    rated = rung_steps(
        _tested(home),
        [("rated load", claim_w, SHORT_HOLD_S)],
        claim_w,
        home.brief.system.legs,
        "Capture ten cycles or more.",
    )
    dirty_w = sum(load.run_w for load in _tested(home) if load.key in dirty)
    return (
        Step("no load", (), 0.0, 0.0, SHORT_HOLD_S, "Capture ten cycles or more, unclipped."), *rated,
        *([Step("electronic and motor loads", dirty, None, dirty_w, SHORT_HOLD_S, "Capture ten cycles or more.")] if dirty else []),
        Step("shut down, and fuel run out", (), ask="Capture the end: is it clean or ragged? Nothing sensitive connected."),
    )  # fmt: skip


def transfer_steps(home: Home, source: Source) -> tuple[Step, ...]:
    """Mains off, the source takes over; and back."""
    on = tuple(load.key for load in _tested(home) if load.duty.throughout)
    ask = "Say the gap in milliseconds if an instrument saw it, and what noticed."
    return (
        Step("on the mains, as the house lives", on, ask="Read volts; note what is on."),
        Step("mains off at its main switch", on, ask=ask), Step("on the source for five minutes", on, hold_s=300.0, ask="Read volts, watts and hertz."),
        Step("mains back", on, ask=ask),
    )  # fmt: skip


def recharge_steps(home: Home, source: Source) -> tuple[Step, ...]:
    """From empty to full, with check-ins."""
    return (
        Step("empty, before charging", ask="Read the charge shown, the temperature, and the wall meter's count."),
        Step("charging", ask="Check in each hour: such as “41% 0.62kwh 310w”; or bring in a recorded log."),
        Step("full, or it stopped", ask="Read the wall meter's count and the time; leave it an hour and read again: standing by costs too."),
    )  # fmt: skip


def solar_steps(home: Home, source: Source) -> tuple[Step, ...]:
    """Strings against the input's window, then live input against load."""
    return (
        Step("strings as connected", ask="Note panels in series and strings; read open volts if those licensed to have measured them."),
        Step("in full sun, small load", ask="Read panel volts and watts, charge, and the load."),
        Step("in full sun, large load", ask="Read the same. Do the panels' watts follow the load?"),
        Step("an hour on", hold_s=3600.0, ask="Did panel volts fall by a third and stay there while the battery was not full? Note it with its time."),
    )  # fmt: skip


def cut_off_steps(home: Home, source: Source) -> tuple[Step, ...]:
    """The DC supply walked down and up, on a bench supply or a battery emptied slowly."""
    ask = "Walk slowly; read DC volts as the output goes, and as it comes back."
    return (
        Step("down, no load", ask=ask), Step("up again, until it recovers", ask=ask), Step("down, at half load", ask=ask + " Sag in the leads counts: read at the terminals."),
        Step("up to the high cut-off", ask=ask + " Stop at the booklet's maximum."),
    )  # fmt: skip


def heating_steps(home: Home, source: Source) -> tuple[Step, ...]:
    """Weighed water on the mains and on the source, the same vessel."""
    ask = "Weigh the water, read its degrees, heat for two minutes and a half, stir, read again; read the watts drawn."
    return tuple(Step(f"{where}, run {n}", ask=ask) for where in ("on the mains", "on the source") for n in (1, 2))


def dedicated_steps(home: Home, source: Source) -> tuple[Step, ...]:
    """A furnace or boiler alone: inducer, igniter, burner, blower in turn, three calls of heat."""
    furnaces = [load for load in home.loads if load.kind == "furnace"]
    if not furnaces:
        raise NotEnoughReadings("no furnace or boiler in the roll", where="roll", want="add the one to be run by cord")
    ask = "Log each part as it comes: inducer, igniter, burner, blower; watts at each, and when it stopped."
    return tuple(
        Step(f"{short_name(load)}, call {n} of heat", (load.key,), None, load.run_w, ask=ask)
        for load in furnaces
        for n in (1, 2, 3)
    )


def _tested(home: Home) -> list[Load]:
    """The loads that a test may take down: what somebody's breath or medicine hangs on is not among them."""
    return [load for load in home.loads if load.kind != "medical"]


def _claim_w(home: Home, source: Source) -> float:
    return limits_of(source, home.brief.system, home.brief.site)[0].w


STEPS: dict[str, Callable[[Home, Source], tuple[Step, ...]]] = {
    "baseline": baseline_steps, "idle": lambda home, source: idle_steps(),
    "ladder": lambda home, source: ladder_steps(_tested(home), _claim_w(home, source), home.brief.system.legs),
    "starts": lambda home, source: start_steps(_tested(home), home.brief.system.hz), "load_steps": load_step_steps,
    "overload": overload_steps, "legs": leg_steps, "parallel": parallel_steps, "set_point": set_point_steps,
    "waveform": waveform_steps, "transfer": transfer_steps, "noise_walk": lambda home, source: noise_steps(home.brief.ear_m),
    "endurance": lambda home, source: endurance_steps(), "recharge": recharge_steps, "solar_input": solar_steps,
    "cut_offs": cut_off_steps, "heating_check": heating_steps, "dedicated": dedicated_steps,
}  # fmt: skip


def steps_of(protocol: str, home: Home, source: Source) -> tuple[Step, ...]:
    """The steps of a protocol for a source in a home.

    Raises
    ------
    MusterError
        If there is no such protocol, or the roll lacks what it needs.
    """
    if protocol not in STEPS:
        raise MusterError(
            f"there is no “{protocol}”", where="protocol", want=", ".join(p.name for p in PROTOCOLS.values())
        )
    return STEPS[protocol](home, source)


def names_of(step: Step, loads: Sequence[Load]) -> str:
    """The loads of a step by their short names."""
    names = {load.key: short_name(load) for load in loads}
    return ", ".join(names[key] for key in step.loads if key in names)
