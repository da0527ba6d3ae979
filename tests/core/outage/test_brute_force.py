"""The compiled play against a loop by the second and brute force over the sorted instants, which share none of its code."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np
import pytest

from muster.core.brief import BringUp
from muster.core.loads import Duty, Load
from muster.core.outage.layout import Happening, OutcomeColumn
from muster.core.supply import Leg

from .brute_force import Unit, by_the_second, starts_of
from .building import BRIEF, SEED, SINGLE, SPLIT, a_play, heaters, meets, outcome


@pytest.mark.parametrize("seed", range(6))
def test_energy_and_charge_are_those_of_a_loop_by_the_second(seed: int) -> None:
    rng = np.random.default_rng(seed)
    loads = heaters(rng, 6)
    brief = replace(BRIEF, outage_from_hour=int(rng.integers(24)), bring_up=list(BringUp)[seed % 2])
    unit = Unit(battery_wh=float(rng.uniform(3000, 9000)), idle_w=20.0, p1=0.08, charge_most_w=1500.0)
    sun_w = [max(0.0, 900 * math.sin((i - 36) / 72 * math.pi)) for i in range(144)] if seed % 3 else []
    told = by_the_second(loads, brief, unit, sun_w, SEED, seed)
    kept, _ = outcome(a_play(loads, brief, unit, sun_w=sun_w or None), seed)
    assert kept.by_hour[0, 0].sum() / 3600 == pytest.approx(sum(told.by_hour_wh), rel=0.01, abs=2)
    assert kept.charge_wh[0] == pytest.approx(np.array(told.charge_wh), abs=0.01 * unit.battery_wh)
    ran_out = kept.outcomes[0, OutcomeColumn.RAN_OUT_S]
    assert ran_out == pytest.approx(told.empty_s, abs=60) or ran_out == told.empty_s


@pytest.mark.parametrize("seed", range(6))
def test_fuel_and_filling_are_those_of_a_loop_by_the_second(seed: int) -> None:
    rng = np.random.default_rng(100 + seed)
    loads = heaters(rng, 5)
    unit = Unit(tank_l=float(rng.uniform(4, 9)), store_l=float(rng.uniform(0, 12)), a_lph=0.5, b_lph_per_w=4e-4)
    told = by_the_second(loads, BRIEF, unit, [], SEED, seed)
    kept, _ = outcome(a_play(loads, BRIEF, unit), seed)
    assert kept.fuel_l[0] == pytest.approx(np.array(told.fuel_l), abs=0.01 * (unit.tank_l + unit.store_l) + 0.01)
    filled = kept.refuel_s[0][np.isfinite(kept.refuel_s[0])]
    assert filled == pytest.approx(np.array(told.filled_s), abs=60)
    ran_out = kept.outcomes[0, OutcomeColumn.RAN_OUT_S]
    assert ran_out == pytest.approx(told.empty_s, abs=60) or ran_out == told.empty_s


@pytest.mark.parametrize("seed", range(8))
def test_trips_by_overload_and_what_follows_are_those_of_a_loop_by_the_second(seed: int) -> None:
    rng = np.random.default_rng(200 + seed)
    loads = heaters(rng, 6)
    unit = Unit(
        held_w=0.55 * sum(load.run_w for load in loads),
        k_s=float(rng.uniform(5, 60)),
        n=1.5,
        cools_s=900.0,
        reset_s=600.0,
    )
    told = by_the_second(loads, replace(BRIEF, outage_h=8), unit, [], SEED, seed)
    _, events = outcome(a_play(loads, replace(BRIEF, outage_h=8), unit), seed)
    trips = [event.at_s for event in events if event.kind is Happening.TRIP]
    assert len(trips) == len(told.trips_s)
    # Each trip is known to the loop within its second, and carries that on to the next.
    assert all(
        abs(ours - theirs) <= 1 + index for index, (ours, theirs) in enumerate(zip(trips, told.trips_s, strict=True))
    )


@pytest.mark.parametrize("seed", range(8))
def test_starts_and_their_volts_are_those_of_brute_force_over_the_instants(seed: int) -> None:
    rng = np.random.default_rng(300 + seed)
    system = SPLIT if seed % 2 else SINGLE
    legs = list(Leg) if system is SPLIT else [Leg.ONE]
    loads = [
        Load(
            key=str(i),
            name=f"load {i}",
            kind=str(rng.choice(["motor", "heater", "fan"])),
            run_w=float(rng.integers(60, 600)),
            pf=0.8,
            leg=legs[int(rng.integers(len(legs)))],
            duty=Duty(int(rng.integers(5, 20)), int(rng.integers(10, 40))),
        )
        for i in range(8)
    ]
    brief = replace(BRIEF, system=system, outage_h=12)
    model = meets(0.05, 0.02, 0.045)
    play = a_play(loads, brief, Unit())
    volts = (system.v_nominal, -0.0005)
    _, events = outcome(
        play, seed, R1_OHM=0.02, R2_OHM=0.02, X1_OHM=0.045, X2_OHM=0.045, V1_PER_W=volts[1], V2_PER_W=volts[1]
    )
    wanted = [
        start for start in starts_of(loads, brief, model, volts, SEED, seed) if start.at_s < brief.outage_h * 3600
    ]
    seen = [(event.at_s, event.load, event.value) for event in events if event.kind is Happening.STARTED]
    assert [name for _, name, _ in seen] == [start.load for start in wanted]
    assert [at for at, _, _ in seen] == pytest.approx([start.at_s for start in wanted], abs=1e-6)
    assert [x for _, _, x in seen] == pytest.approx([start.x for start in wanted], abs=1e-9)
    assert len(seen) > 50
