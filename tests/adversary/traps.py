"""Ways in which a source that falls short, or of which nobody read what decides, can look as if it carried.

Each trap takes a world that carries and was read well, and changes the truth or the record. ``row`` is the line that must
then not pass. Nothing here asks Muster: the truth is in the words of each trap, and in the figures its readings are made of.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np

from muster.core.brief import Wiring
from muster.core.loads import Duty, Load
from muster.core.quantities import Grade
from muster.core.sources import Chemistry, FuelRating, Site
from muster.core.supply import Leg

from . import worlds
from .worlds import HOLD_MIN, World

Rng = np.random.Generator
Change = Callable[[Rng, World], World]


@dataclass(frozen=True)
class Trap:
    """A way to be wrong: the line it is about, the worlds it is laid in, what it does and what is true of it."""

    name: str
    row: str
    worlds: tuple[str, ...]
    change: Change
    truth: str


TRAPS: list[Trap] = []
ENGINES = ("engine", "split")


def trap(row: str, truth: str, of: tuple[str, ...] = ENGINES) -> Callable[[Change], Change]:
    """Enter a trap in the table, by the name of its function."""

    def entered(change: Change) -> Change:
        TRAPS.append(Trap(change.__name__, row, of, change, truth))
        return change

    return entered


def _ladder(world: World, *more: tuple[float, str], hold_min: float = HOLD_MIN, top: float = 1.08) -> World:
    return world.with_sitting("ladder", lines=(*worlds.ladder(world, (0.0, 0.35, 0.7, top), hold_min), *more))


def _after(world: World, name: str, minutes: float = 1.0) -> float:
    return world.sittings[name].lines[-1][0] + 60 * minutes


# Steady capacity


@trap(
    "steady",
    "It holds 5 to 15 % less than the home asks: the heat throws it out, and nobody read the watts of that moment.",
)
def tripped_by_heat_and_nobody_read_it(rng: Rng, world: World) -> World:
    at = (11 + rng.uniform(0, 20)) * 60
    lines = worlds.ladder(world, (0.0, 0.35, 0.7, 1.05), 10)
    return world.with_sitting("ladder", lines=(*lines, (at, "went off, nobody looking"))).without(
        "fuel", "noise", "legs"
    )


@trap("steady", "It trips at the home's own load after some minutes, as a second session shows.")
def tripped_at_as_much_another_day(rng: Rng, world: World) -> World:
    w = world.need_w * rng.uniform(0.85, 0.99)
    lines = ((0.0, f"+1 {worlds.power(world, w)}"), (60 * rng.uniform(3, 9), f"{worlds.power(world, w)} !trip"))
    return world.with_sitting("ladder", lines=(*lines, *((t + 3600, x) for t, x in world.sittings["ladder"].lines)))


@trap("steady", "It trips at the home's own load, give or take the meter's error.")
def tripped_at_the_homes_own_load(rng: Rng, world: World) -> World:
    text = worlds.level(world, world.need_w * rng.uniform(0.996, 1.006))
    lines = ((0.0, text), (120.0, text), (60 * rng.uniform(4, 9), "!trip"))
    return world.with_sitting("ladder", lines=(*lines, *((t + 3600, x) for t, x in world.sittings["ladder"].lines)))


@trap("steady", "Held for some minutes and shut down; it trips by heat within the half hour.")
def held_for_some_minutes(rng: Rng, world: World) -> World:
    return _ladder(world, hold_min=rng.uniform(3, 9)).without("fuel", "noise", "legs")


@trap("steady", "The last load was switched on unread and it went off at once: it holds less than all of the home.")
def tripped_with_more_switched_on_and_unread(rng: Rng, world: World) -> World:
    w = world.need_w * rng.uniform(0.75, 0.9)
    text = worlds.power(world, w)
    lines = ((0.0, f"+1 {text}"), (600.0, text), (7200.0, text), (7210.0, "+2"), (7215.0, "it quit, all dark"))
    return world.with_sitting("ladder", lines=lines).without("fuel", "noise", "legs")


@trap("steady", "The home's watts stood for a minute; the reading an hour later is of a third of them.")
def read_late(rng: Rng, world: World) -> World:
    lines = worlds.ladder(world, (0.0, 0.35, 0.7, 1.08), 0)[:4]
    low = worlds.level(world, world.need_w * rng.uniform(0.2, 0.5))
    return world.with_sitting("ladder", lines=(*lines, (3600.0, low), (7000.0, low))).without("fuel", "noise", "legs")


@trap("steady", "Held at two thirds of what the home asks; it was never under more.")
def never_under_as_much(rng: Rng, world: World) -> World:
    return _ladder(world, top=rng.uniform(0.55, 0.75)).without("fuel", "noise", "legs")


@trap("steady", "It bogs under the home's load: hertz and volts sink, nothing trips.")
def bogged(rng: Rng, world: World) -> World:
    text = worlds.power(world, world.need_w * rng.uniform(0.8, 1.0))
    return _ladder(world, (8000.0, text), (8060.0, "bogged, engine labouring")).without("fuel", "noise", "legs")


@trap("steady", "All of it was held on leg 1; leg 2, which the home loads, was never loaded so.", of=("split",))
def held_on_the_other_leg(rng: Rng, world: World) -> World:
    w = world.need_w * rng.uniform(1.05, 1.2)
    v = world.truth.v(world.need_w, 2)
    text = f"l1 {w:.0f}w {v:.1f}v l2 0w {v + 2:.1f}v {world.truth.hz(w):.2f}hz"
    return world.with_sitting("ladder", lines=((0, text), (900, text), (7200, text))).without("fuel", "noise", "legs")


@trap(
    "steady",
    "Leg 2 was read once at the beginning and its load was off soon after; leg 1 alone was read on.",
    of=("split",),
)
def one_leg_read_on(rng: Rng, world: World) -> World:
    first = worlds.ladder(world, (1.08,), 1)[0][1]
    leg_1 = first.split(" l2")[0]
    times = np.sort(rng.uniform(600, 7000, 5))
    lines = ((0.0, first), *((float(t), leg_1) for t in times))
    return world.with_sitting("ladder", lines=lines).without("fuel", "noise", "legs")


@trap("steady", "Each leg was held alone; of the whole leg 2 was read once and was off soon after.", of=("split",))
def the_whole_from_a_leg_read_long_ago(rng: Rng, world: World) -> World:
    first = worlds.ladder(world, (1.08,), 1)[0][1]
    leg_1 = f"{first.split(' l2')[0]}"
    times = np.sort(rng.uniform(600, 7000, 5))
    lines = ((0.0, first), *((float(t), leg_1) for t in times))
    return world.with_sitting("ladder", lines=lines).without("fuel", "noise")


@trap("steady", "Leg 2 holds a tenth less than the home asks of it: it tripped alone.", of=("split",))
def one_leg_trips(rng: Rng, world: World) -> World:
    w = sum(load.run_w for load in world.loads if load.leg is Leg.TWO) * rng.uniform(0.85, 0.97)
    v = world.truth.v(w)
    lines = ((0.0, f"l2 {w:.0f}w {v:.1f}v l1 0w"), (120.0, f"l2 {w:.0f}w"), (240.0, "!trip l2"))
    return world.with_sitting("legs", lines=(*world.sittings["legs"].lines, *((t + 9000, x) for t, x in lines)))


@trap("steady", "Held at the sea; the home stands at 2,000 to 3,000 m, where a quarter of it is gone.")
def held_at_the_sea(rng: Rng, world: World) -> World:
    # Muster knows the factor only roughly: the home asks for 95 % and more of what was held.
    return replace(world, brief=replace(world.brief, site=Site(float(rng.integers(2000, 3000)), 25.0)))


@trap("steady", "Held on petrol; the home runs it on propane, rated a fifth less and less than the home asks.")
def held_on_the_other_fuel(rng: Rng, world: World) -> World:
    on = world.need_w * rng.uniform(0.75, 0.92)
    claims = world.source.claims
    both = (FuelRating("propane", round(on)), FuelRating("petrol", round(world.need_w * 1.08)))
    return world.claiming(fuel="propane", on_fuels=both, cont_w=round(on), surge_w=claims.surge_w)


@trap("steady", "After all of it was read it was serviced, and is not what it was.")
def serviced_since(rng: Rng, world: World) -> World:
    late = worlds.Sitting("idle", ((0.0, "0w 230v"), (30.0, "serviced: new regulator, carburettor cleaned")))
    return replace(world, sittings={**world.sittings, "zz": late})


@trap("steady", "It gives its watts as VA too: the home's motors ask a third more VA than was ever held.")
def more_va_than_watts(rng: Rng, world: World) -> World:
    return world.with_load(0, kind="motor", pf=float(rng.uniform(0.55, 0.65)), start_va=None)


@trap("steady", "The breaker of its socket is for less than the home asks for hours.")
def behind_a_smaller_breaker(rng: Rng, world: World) -> World:
    amps = world.need_w / world.brief.system.v_nominal / world.brief.system.legs * rng.uniform(0.6, 0.8)
    return _ladder(world.claiming(breaker_a=round(float(amps), 1)), hold_min=12)


@trap("steady", "Nobody read watts: amps into a poor power factor make a third less.")
def amps_alone(rng: Rng, world: World) -> World:
    nominal = world.brief.system.v_nominal
    a = world.need_w / nominal / world.brief.system.legs * 1.4
    text = (
        f"{a:.1f}a {nominal:.0f}v" if world.brief.system.legs == 1 else f"l1 {a:.1f}a {nominal}v l2 {a:.1f}a {nominal}v"
    )
    return world.with_sitting("ladder", lines=((0.0, text), (900.0, text), (7000.0, text))).without(
        "fuel", "noise", "legs"
    )


@trap("steady", "Ten times too much was typed; what was held is below what the home asks.")
def typed_a_digit_too_many(rng: Rng, world: World) -> World:
    w = world.need_w * rng.uniform(0.5, 0.8) * 10
    text = worlds.power(world, w)
    return world.with_sitting("ladder", lines=((0.0, text), (900.0, text), (7000.0, text))).without(
        "fuel", "noise", "legs"
    )


@trap("steady", "A load that must run is in no hour of the plan: with it the home asks more than it holds.")
def a_must_without_hours(rng: Rng, world: World) -> World:
    more = Load("8", "boiler", "heater", round(world.truth.holds_w), pf=1.0, hours=(), run_grade=Grade.A)
    return replace(world, loads=(*world.loads, more))


@trap("steady", "What heats was guessed; it draws 15 to 20 % more, and then the home asks more than was held.")
def a_load_guessed_too_low(rng: Rng, world: World) -> World:
    heats = [index for index, load in enumerate(world.loads) if load.kind == "heater"]
    for index in heats:
        world = world.with_load(index, run_grade=Grade.D)
    return world


@trap("steady", "After the trip nothing was reset; the display went on showing the last figure.")
def read_on_after_the_trip(rng: Rng, world: World) -> World:
    text = worlds.level(world, world.need_w * 1.06)
    lines = ((0.0, f"+1 {text}"), (20.0, "tripped"), (900.0, text), (1800.0, text), (7200.0, text))
    return world.with_sitting("ladder", lines=lines).without("fuel", "noise", "legs")


@trap("steady", "Said to hold by its booklet alone.")
def by_the_booklet(rng: Rng, world: World) -> World:
    return world.without("ladder", "fuel", "noise", "legs", "waveform")


# Endurance


@trap("endurance", "Held for a quarter of an hour; it trips by heat after half an hour or more.")
def heat_not_settled(rng: Rng, world: World) -> World:
    return _ladder(world, hold_min=float(rng.uniform(12, 40))).without("fuel")


@trap("endurance", "It ran for hours under half of what the home asks.")
def ran_long_under_little(rng: Rng, world: World) -> World:
    light = worlds.power(world, world.need_w * rng.uniform(0.3, 0.6))
    long = ((9000.0, "-1"), (9010.0, light), (16000.0, light), (30000.0, light))
    return _ladder(world, *long, hold_min=15).without("fuel")


@trap("endurance", "It ran settled for hours at nine tenths of what the home draws hour by hour; at that it overheats.")
def ran_long_a_little_below(rng: Rng, world: World) -> World:
    always_w = sum(load.run_w * (1.0 if load.duty.throughout else 0.35) for load in world.loads)
    w = always_w * rng.uniform(0.82, 0.95)
    long = tuple((9000.0 + t, worlds.level(world, w)) for t in (0.0, 9000.0, 18000.0))
    return _ladder(world, (8900.0, "-1"), *long, hold_min=13).without("fuel", "legs")


# Starting


@trap("starting", "Started on an empty source; on what the home has beneath it, it stalls.")
def started_on_nothing(rng: Rng, world: World) -> World:
    return world.with_sitting("starts", lines=worlds.starts(world, base="", low_v=None))


@trap("starting", "The lowest volts were below what it needs: it stalls every other time.")
def stalled_once(rng: Rng, world: World) -> World:
    low = 0.7 * world.brief.system.v_nominal
    lines = worlds.starts(world)
    return world.with_sitting(
        "starts",
        lines=(*lines, *((t + 900, x) for t, x in worlds.starts(world, low_v=low, times=1, hot=False, end="!stall"))),
    )


@trap("starting", "Two starts, and neither was hot.")
def two_cold_starts(rng: Rng, world: World) -> World:
    return world.with_sitting("starts", lines=worlds.starts(world, times=2, hot=False))


@trap("starting", "Two starts; every third one stalls.")
def two_starts(rng: Rng, world: World) -> World:
    return world.with_sitting("starts", lines=worlds.starts(world, times=2))


@trap("starting", "Three starts, none of them hot; hot it stalls.")
def never_hot(rng: Rng, world: World) -> World:
    return world.with_sitting("starts", lines=worlds.starts(world, hot=False))


@trap("starting", "Tried with its soft starter; the home has none.")
def started_soft(rng: Rng, world: World) -> World:
    lines = tuple((t, x.replace("pump start", "pump start soft")) for t, x in worlds.starts(world))
    return world.with_sitting("starts", lines=lines)


@trap("starting", "A plug-in meter showed the volts; the dip was deeper than it can see.")
def a_slow_meter(rng: Rng, world: World) -> World:
    return world.with_sitting("starts", lines=worlds.starts(world, meter="meter"))


@trap("starting", "It never came up to speed: the volts settled where it only hums.")
def settled_below_what_it_stands(rng: Rng, world: World) -> World:
    nominal = world.brief.system.v_nominal
    lines = tuple(
        (t, f"{x.split(' settled')[0].rsplit(' ', 1)[0]} {0.8 * nominal:.1f}v settled" if "start" in x else x)
        for t, x in worlds.starts(world, low_v=0.78 * nominal)
    )
    return world.with_sitting("starts", lines=lines)


@trap("starting", "Another motor, twice as heavy, was never tried.")
def the_heavier_one_never_tried(rng: Rng, world: World) -> World:
    pump = world.loads[1]
    more = replace(pump, key="7", name="compressor", run_w=pump.run_w, start_va=2.5 * (pump.start_va or 0))
    return replace(world, loads=(*world.loads, more))


@trap("starting", "Nobody tried it, and the booklet names a surge.")
def never_started(rng: Rng, world: World) -> World:
    return world.without("starts")


@trap("starting", "Started at the sea; at the home a quarter of the engine is gone.")
def started_at_the_sea(rng: Rng, world: World) -> World:
    return replace(world, brief=replace(world.brief, site=Site(float(rng.integers(2200, 3200)), 25.0)))


@trap("starting", "Tried on leg 2; the home has it on leg 1, which dips deeper.", of=("split",))
def started_on_the_other_leg(rng: Rng, world: World) -> World:
    lines = tuple((t, f"l2 {x}" if "start" in x else x) for t, x in worlds.starts(world))
    return world.with_sitting("starts", lines=lines)


# Volts and hertz


@trap("voltage", "The screw of its regulator was turned after it was read.")
def regulator_turned_since(rng: Rng, world: World) -> World:
    return _ladder(world, (HOLD_MIN * 60 + 600, "adjusted the avr screw half a turn")).without("legs", "fuel", "noise")


@trap("frequency", "The governor was turned after it was read.")
def governor_turned_since(rng: Rng, world: World) -> World:
    return _ladder(world, (HOLD_MIN * 60 + 600, "turned the governor screw half a turn")).without(
        "legs", "fuel", "noise"
    )


@trap("voltage", "Read up to half of what the home asks; above it the volts fall off.")
def volts_read_to_the_half(rng: Rng, world: World) -> World:
    return world.with_sitting("ladder", lines=worlds.ladder(world, (0.0, 0.2, 0.4, 0.55), HOLD_MIN)).without("legs")


@trap("frequency", "Read up to half of what the home asks; above it the hertz fall off.")
def hertz_read_to_the_half(rng: Rng, world: World) -> World:
    return world.with_sitting("ladder", lines=worlds.ladder(world, (0.0, 0.2, 0.4, 0.55), HOLD_MIN))


@trap("voltage", "Two readings: the curve between them is nobody's.")
def volts_at_two_loads(rng: Rng, world: World) -> World:
    return world.with_sitting("ladder", lines=worlds.ladder(world, (0.0, 1.08), HOLD_MIN)).without("legs")


@trap("frequency", "Two readings.")
def hertz_at_two_loads(rng: Rng, world: World) -> World:
    return world.with_sitting("ladder", lines=worlds.ladder(world, (0.0, 1.08), HOLD_MIN))


@trap("voltage", "Under the home's load it gives a seventh less than nominal.")
def volts_too_low(rng: Rng, world: World) -> World:
    slope = -0.17 * world.brief.system.v_nominal / world.need_w * world.brief.system.legs
    sagging = replace(world, truth=replace(world.truth, v_per_w=float(slope)))
    return sagging.with_sitting("ladder", lines=worlds.ladder(sagging, (0.0, 0.35, 0.7, 1.08), HOLD_MIN)).without(
        "legs"
    )


@trap("voltage", "Leg 2 was never read against load.", of=("split",))
def one_leg_unread(rng: Rng, world: World) -> World:
    lines = tuple(
        (t, x.split(" l2")[0] + " l2 " + x.split(" l2 ")[1].split(" ")[0]) for t, x in world.sittings["ladder"].lines
    )
    return world.with_sitting("ladder", lines=lines).without("legs")


@trap("frequency", "At no load it runs 7 % fast.")
def runs_fast(rng: Rng, world: World) -> World:
    fast = replace(world, truth=replace(world.truth, no_load_hz=world.brief.system.hz * 1.07))
    return _ladder(fast)


@trap("voltage", "Volts high and hertz high together are more than a motor stands, each alone is not.")
def both_off_together(rng: Rng, world: World) -> World:
    system = world.brief.system
    truth = replace(
        world.truth, no_load_v=system.v_nominal * 1.08, v_per_w=0.0, no_load_hz=system.hz * 1.045, hz_per_w=0.0
    )
    return _ladder(replace(world, truth=truth)).without("legs")


@trap("voltage", "Hertz and volts hunted when the load came: up to a fifth off for seconds.")
def swings_when_the_load_goes(rng: Rng, world: World) -> World:
    v = world.brief.system.v_nominal * rng.uniform(1.25, 1.35)
    where = "l1 " if world.brief.system.legs == 2 else ""
    off = "-1 -2 -3 -4" if world.brief.system.legs == 2 else "-1 -2 -3"
    at = _after(world, "ladder")
    return _ladder(world, (at, f"+1 +2 {worlds.level(world, world.need_w)}"), (at + 60, f"{off} {where}{v:.0f}v max"))


@trap("frequency", "With the load thrown off it races 12 % fast for seconds.")
def races_when_the_load_goes(rng: Rng, world: World) -> World:
    hz = world.brief.system.hz * rng.uniform(1.15, 1.2)
    off = "-1 -2 -3 -4" if world.brief.system.legs == 2 else "-1 -2 -3"
    at = _after(world, "ladder")
    return _ladder(world, (at, f"+1 +2 {worlds.level(world, world.need_w)}"), (at + 60, f"{off} {hz:.1f}hz max"))


# Dips


@trap("dips", "A plug-in meter showed the volts; the dip was deeper.")
def dip_by_a_slow_meter(rng: Rng, world: World) -> World:
    return world.with_sitting("starts", lines=worlds.starts(world, meter="meter"))


@trap("dips", "Another motor, twice as heavy, will start too, and was never tried.")
def a_dip_still_to_come(rng: Rng, world: World) -> World:
    pump = world.loads[1]
    return replace(
        world, loads=(*world.loads, replace(pump, key="7", name="compressor", start_va=None, start_grade=Grade.D))
    )


@trap("dips", "At its start the volts go below what electronics ride through.")
def too_deep_a_dip(rng: Rng, world: World) -> World:
    low = 0.55 * world.brief.system.v_nominal
    return world.with_sitting("starts", lines=worlds.starts(world, low_v=float(low)))


# Waveform


@trap("waveform", "Captured unloaded; under load it is poorer than the pump and the radio stand.")
def wave_unloaded(rng: Rng, world: World) -> World:
    return world.with_sitting("waveform", lines=((0, "0w"), (60, "0w")), waves="unloaded")


@trap("waveform", "Its wave has a twelfth of third harmonic and more.")
def wave_too_poor(rng: Rng, world: World) -> World:
    return world.with_sitting("waveform", waves="poor")


@trap("waveform", "A clean wave by the booklet alone.")
def wave_by_the_booklet(rng: Rng, world: World) -> World:
    return world.claiming(thd_pct=2.0).without("waveform")


# Fuel and energy


@trap("energy", "Its use was seen at a third of the home's load; at the home's load the tank does not last.")
def fuel_seen_at_a_light_load(rng: Rng, world: World) -> World:
    light = world.with_sitting("fuel", lines=worlds.fuel(world, (0.3,)))
    lph = world.truth.idle_lph + world.truth.lph_per_w * world.need_w * 0.3
    return light.claiming(tank_l=round(lph * world.brief.outage_h * 1.3, 1))


@trap("energy", "By what it uses as measured, the tank is a third too small.")
def too_small_a_tank(rng: Rng, world: World) -> World:
    return world.claiming(tank_l=round((world.source.claims.tank_l or 0) * rng.uniform(0.35, 0.5), 1))


@trap("energy", "Its use was measured on petrol; a litre of propane gives a third less.")
def used_on_the_other_fuel(rng: Rng, world: World) -> World:
    tank = (world.source.claims.tank_l or 0) / 1.6 * 1.15
    return world.claiming(fuel="propane", tank_l=round(tank, 1))


@trap("energy", "By the booklet alone.")
def use_by_the_booklet(rng: Rng, world: World) -> World:
    return world.claiming(half_load_lph=0.5, full_load_lph=0.9).without("fuel")


@trap("energy", "Its carburettor was changed after its use was seen; it burns half as much again.")
def serviced_since_its_use_was_seen(rng: Rng, world: World) -> World:
    late = worlds.Sitting("idle", ((0.0, "0w"), (30.0, "serviced: carburettor changed")))
    return replace(world, sittings={**world.sittings, "zz": late})


@trap(
    "energy",
    "Lead: run empty in a day; the home empties it in a fifth of the time and gets two thirds.",
    of=("station",),
)
def lead_run_slowly(rng: Rng, world: World) -> World:
    lead = world.claiming(chemistry=Chemistry.LEAD)
    gives = world.need_w * world.brief.outage_h * 1.1 * 1.1
    return replace(lead, sittings=worlds.station_bench(lead, round(gives), share=0.15))


@trap("energy", "Measured in a warm room; the home's store is at −15 °C.", of=("station",))
def cold_store(rng: Rng, world: World) -> World:
    gives = world.need_w * world.brief.outage_h * 1.1 * 1.1
    cold = replace(world, brief=replace(world.brief, site=Site(0.0, -15.0)))
    return replace(cold, sittings=worlds.station_bench(cold, round(gives)))


@trap("energy", "Stopped at 40 %: nobody saw it empty, and the rest is a guess of its gauge.", of=("station",))
def never_run_empty(rng: Rng, world: World) -> World:
    w = world.need_w
    wh = w * world.brief.outage_h * 0.62
    lines = (
        (0.0, f"100% {w:.0f}w 0wh"),
        (wh / w * 1800, f"70% {w:.0f}w {wh / 2:.0f}wh"),
        (wh / w * 3600, f"40% {w:.0f}w {wh:.0f}wh"),
    )
    return world.with_sitting("run", lines=lines)


@trap("energy", "It gives a third less than the outage asks.", of=("station",))
def too_small_a_battery(rng: Rng, world: World) -> World:
    gives = world.need_w * world.brief.outage_h * rng.uniform(0.6, 0.8)
    return replace(world, sittings=worlds.station_bench(world, round(gives)))


@trap("energy", "By its rating alone.", of=("station",))
def battery_by_its_rating(rng: Rng, world: World) -> World:
    return world.without("run")


@trap("energy", "The counter was misread at the end: a third more than its own watts make.", of=("station",))
def counter_misread(rng: Rng, world: World) -> World:
    gives = world.need_w * world.brief.outage_h * 1.1 * 0.85
    honest = worlds.station_bench(world, round(gives))["run"].lines
    at, _ = honest[-1]
    wrong = (at, f"{gives * 1.4:.0f}wh 0% off by itself, empty")
    return world.with_sitting("run", lines=(*honest[:-1], wrong))


@trap("energy", "The battery was changed for another after it was run.", of=("station",))
def another_battery_since(rng: Rng, world: World) -> World:
    late = worlds.Sitting("idle", ((0.0, "0w"), (30.0, "serviced: other battery put in")))
    return replace(world, sittings={**world.sittings, "zz": late})


@trap(
    "energy",
    "Run empty in an hour or two; its idle draw was never read, and eats the half in the home's four days.",
    of=("station",),
)
def idle_never_read(rng: Rng, world: World) -> World:
    slow = replace(world, brief=replace(world.brief, outage_h=96.0))
    light = slow.with_load(0, run_w=round((slow.need_w - 40) / 40)).with_load(1, run_w=5.0)
    gives = light.need_w * 96 * 1.1 * 1.1
    return replace(light, sittings=worlds.station_bench(light, round(gives), share=1500 / light.need_w)).without("idle")


# Noise


@trap("noise-night", "Heard unloaded; under load it is 8 dB louder.")
def walked_unloaded(rng: Rng, world: World) -> World:
    quiet = replace(world, truth=replace(world.truth, dba_1m=world.truth.dba_1m - 8))
    lines = worlds.noise(quiet, (3, 7, 14, 25), 0.0)
    return world.with_sitting("noise", lines=tuple((t, x.replace("+1 ", "")) for t, x in lines))


@trap("noise-night", "Heard under a third of the home's load; under all of it it is 6 dB louder.")
def walked_under_little(rng: Rng, world: World) -> World:
    quiet = replace(world, truth=replace(world.truth, dba_1m=world.truth.dba_1m - 6))
    return world.with_sitting("noise", lines=worlds.noise(quiet, (3, 7, 14, 25), world.need_w / 3))


@trap(
    "noise-night", "Spots near the unit in a walled yard, where it hardly falls off; the neighbour is ten times as far."
)
def near_spots_in_a_yard(rng: Rng, world: World) -> World:
    yard = replace(world, truth=replace(world.truth, decay_db=float(rng.uniform(7, 12))))
    limit = round(yard.truth.dba(7) - 20 * np.log10(world.brief.neighbour_m / 7)) + 5
    brief = replace(world.brief, noise_night_dba=float(limit), noise_day_dba=90.0)
    return replace(yard, brief=brief).with_sitting("noise", lines=worlds.noise(yard, (2, 4, 7)))


@trap("noise-night", "It is 6 dB too loud at the neighbour.")
def too_loud(rng: Rng, world: World) -> World:
    limit = round(world.truth.dba(world.brief.neighbour_m)) - 6
    return replace(world, brief=replace(world.brief, noise_night_dba=float(limit)))


@trap("noise-night", "A claim at 7 m, by the booklet.")
def noise_by_the_booklet(rng: Rng, world: World) -> World:
    return world.claiming(noise_dba_7m=50.0).without("noise")


# Legs, transfer, connection


@trap("legs", "The neutral was read with both legs alike, where it carries nothing.", of=("split",))
def neutral_read_in_balance(rng: Rng, world: World) -> World:
    w, v = world.need_w / 2, world.truth.v(world.need_w, 2)
    text = f"l1 {w:.0f}w {w / v:.1f}a {v:.1f}v l2 {w:.0f}w {w / v:.1f}a {v:.1f}v neutral 0.4a"
    return world.with_sitting("legs", lines=((0, text), (1800, text)))


@trap("legs", "One leg was loaded alone for a minute.", of=("split",))
def unlike_for_a_minute(rng: Rng, world: World) -> World:
    return world.with_sitting("legs", lines=worlds.unlike_legs(world, 1))


@trap("connection", "One thing of the connection that must be so was not confirmed.")
def a_check_not_confirmed(rng: Rng, world: World) -> World:
    return replace(world, passed=world.passed - {str(rng.choice(["isolation", "interlock", "bonding"]))})


@trap("transfer", "The gap was never measured; the booklet says 10 ms.")
def gap_by_the_booklet(rng: Rng, world: World) -> World:
    return replace(world, brief=replace(world.brief, wiring=Wiring.AUTOMATIC)).claiming(transfer_ms=10.0)


@trap("starting", "Both motors come on at one moment in many an outage: it starts each, and not both.")
def both_at_once(rng: Rng, world: World) -> World:
    pump = world.loads[1]
    twin = replace(pump, key="7", name="well pump", duty=Duty(1, 1))
    both = replace(world, loads=(world.loads[0], replace(pump, duty=Duty(1, 1)), *world.loads[2:], twin))
    twice = tuple((t + 9000, x) for t, x in worlds.starts(both, key="7"))
    tried = both.with_sitting("starts", lines=(*worlds.starts(both), *twice))
    return tried.claiming(surge_w=round(world.truth.holds_w * 1.2))


@trap(
    "starting",
    "Both motors were started together on an empty source alone; on the home's base they stall.",
    of=("engine",),
)
def both_at_once_on_nothing(rng: Rng, world: World) -> World:
    tried = both_at_once(rng, world)
    first = worlds.starts(tried, base="+1 +3 +7")
    second = tuple((t + 9000, x) for t, x in worlds.starts(tried, key="7", base="+1 +3 +2"))
    text = "pump and well pump start together @scope 235v before 214v min 233v settled !held"
    lines = ((18000.0, "-1 -2 -3 -7 0w"), *((18060.0 + 60 * i, text) for i in range(4)))
    return tried.with_sitting("starts", lines=(*first, *second, *lines))
