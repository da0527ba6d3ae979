"""How each kind of session is run and jotted."""

from __future__ import annotations

from collections.abc import Iterable

from muster.core.loads import short_name
from muster.core.plan import Wanted, endurance_steps, idle_steps, ladder_steps, noise_steps, start_steps
from muster.core.sessions import Conditions, Session, Step

from .pen import Pen

SEEN_TO = "!cautions seen to"


def ladder(
    pen: Pen, claim_w: float, conditions: Conditions, past: Iterable[str] = (), trip: str = "", more: str = ""
) -> Session:
    """A ladder to the claim, held 12 min; then past it with these loads until it trips, if it does."""
    steps = ladder_steps(pen.loads, Wanted(claim_w, pen.system.legs))
    pen.jot(SEEN_TO, 0)
    pen.read(60, more)
    pen.jot("!step")
    for step in steps[1:]:
        pen.go_to(set(step.loads))
        pen.read(25, more)
        if step.hold_s >= 600:
            pen.jot("!hold", 5)
            pen.read(300, more)
            pen.jot("43c cord plug at the source", 60)
            pen.read(380, more)
        else:
            pen.read(110, more)
        pen.jot("!step", 10)
    if past:
        pen.go_to(pen.on | set(past))
        pen.read(15)
    if trip:
        pen.jot(f"!trip {trip}", 41)
    return pen.session("ladder", steps, conditions)


def starts(
    pen: Pen,
    keys: tuple[str, ...],
    base: set[str],
    conditions: Conditions,
    stalls: tuple[str, ...] = (),
    meter: str = "multimeter",
) -> Session:
    """Each motor alone, then three times on base load with a hot restart; some stall."""
    by_key = {load.key: load for load in pen.loads}
    steps = start_steps([by_key[key] for key in (*keys, *stalls)], pen.system.hz)
    pen.jot(SEEN_TO, 0)
    pen.read(60)
    for key in keys:
        pen.start(by_key[key], "", 90, meter)
        pen.jot(f"-{key}", 40)
    for key in keys:
        pen.go_to((base | set(keys)) - {key})
        pen.read(30)
        for how in ("", "", "hot"):
            pen.start(by_key[key], how, 60, meter)
            pen.jot(f"-{key}", 30)
    for key in stalls:
        pen.go_to(base - {key})
        pen.read(30)
        pen.start(by_key[key], "stall", 60, meter)
        pen.jot(f"{by_key[key].name} groaned, and was switched off by hand after 3 s", 10)
        pen.go_to(set())
        pen.start(by_key[key], "stall", 240, meter)
    return pen.session("starts", steps, conditions)


def noise_walk(pen: Pen, neighbour_m: float, loaded_with: set[str], background: str, conditions: Conditions) -> Session:
    """Background, then four distances unloaded and loaded."""
    steps = noise_steps(neighbour_m)
    pen.jot(SEEN_TO, 0)
    pen.jot(f"background {background}", 60)
    for loaded in (False, True):
        if loaded:
            pen.go_to(loaded_with, 60)
        for metres in (1, 4, 7, round(min(max(neighbour_m, 10), 40))):
            pen.jot(f"{pen.model.dba(metres, loaded=loaded):.1f}db@{metres}m", 45)
    return pen.session("noise_walk", steps, conditions)


def idle(pen: Pen, lines: Iterable[str], conditions: Conditions) -> Session:
    """Nothing connected, read as these lines say, five minutes apart."""
    pen.jot(SEEN_TO, 0)
    for line in lines:
        pen.jot(line, 300)
    return pen.session("idle", idle_steps(), conditions)


def baseline(pen: Pen, volts: float, conditions: Conditions) -> Session:
    """Each load alone on the mains for two minutes, motors with the clamp at their start."""
    steps = tuple(Step(short_name(load), (load.key,), None, load.run_w, 120.0) for load in pen.loads)
    pen.jot(SEEN_TO, 0)
    for load in pen.loads:
        watts, factor = load.run_w * pen.model.rng.uniform(0.985, 1.015), load.pf * pen.model.rng.uniform(0.99, 1.0)
        if load.has_start(pen.system.hz):
            amps = load.start_total_va / pen.system.v_nominal * pen.model.rng.uniform(0.92, 1.0)
            pen.jot(f"{load.name} start @clamp {amps:.1f}a max !held", 30)
            pen.jot(f"{volts + pen.model.rng.uniform(-0.6, 0.6):.1f}v {watts:.0f}w {factor:.2f}pf", 90)
        else:
            pen.jot(f"+{load.key} {volts + pen.model.rng.uniform(-0.6, 0.6):.1f}v {watts:.0f}w {factor:.2f}pf", 60)
        pen.jot(f"-{load.key}", 20)
        pen.jot("!step", 5)
    return pen.session("baseline", steps, conditions)


def endurance(pen: Pen, on: set[str], check_ins: Iterable[tuple[float, str]], conditions: Conditions) -> Session:
    """Loads left on, with check-ins so many seconds apart."""
    pen.jot(SEEN_TO, 0)
    pen.go_to(on, 60)
    for after_s, line in check_ins:
        pen.jot(line, after_s)
    return pen.session("endurance", endurance_steps(), conditions)
