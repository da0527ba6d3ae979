"""Two units in parallel and a hybrid of two legs, on benches whose truth is known: part of ``benchmarks.proof``."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from muster.core.character import predictions
from muster.core.loads import Load
from muster.core.sources import Claims, Source, SourceKind
from muster.core.sources.claims import Unit
from muster.core.supply import Leg
from muster.twin.battery import Battery, BatteryClaims
from muster.twin.bench import Bench
from muster.twin.inverter import Inverter, InverterClaims
from muster.twin.pair import TwinPair

from .hand import SPLIT, SYSTEM, Hand, Recovered, add_to, character_from, leg_truth, load_of, said_of, start


def pair(seed: int) -> list[Recovered]:
    """Two inverter sets on the same sockets: the amps of each at four totals, and on how much the first meets its rating."""
    rng = np.random.default_rng(seed)
    rated_w = [float(rng.uniform(1200, 2400)) for _ in range(2)]
    units = [
        Inverter(
            InverterClaims(
                w, SYSTEM.v_nominal + rng.uniform(-0.6, 0.6), 50, limit_x=2.5, ohm=rng.uniform(0.5, 1.1) * 1500 / w
            )
        )
        for w in rated_w
    ]
    totals = sum(rated_w)
    loads = tuple(load_of(str(i), "heater", share * totals) for i, share in enumerate((0.2, 0.2, 0.2, 0.15), 1))
    bench = Bench(TwinPair(*units), SYSTEM, loads, seed=seed)
    source = Source(
        "the pair",
        SourceKind.INVERTER_SET,
        Claims(round(totals)),
        units=(Unit("unit A", round(rated_w[0])), Unit("unit B", round(rated_w[1]))),
    )
    hand = Hand(bench, rng, "ladder", began_s=bench.t_s)
    for on in ("1", "12", "123", "1234"):
        hand.switch(on, 12)
        a, b = bench.source.shares  # type: ignore[union-attr]
        said = f"unit a {hand.shown('meter', 'a', a)} unit b {hand.shown('meter', 'a', b)}"
        hand.jot(f"@meter {said} total {hand.shown('meter', 'a', a + b)}")
    recovereds: list[Recovered] = []
    character = character_from(source, loads, (hand,))
    add_to(recovereds, "what a pair carries", _pair_carries_w(units, rated_w), said_of(character, "pair_w"))
    return recovereds


def _pair_carries_w(units: list[Inverter], rated_w: list[float]) -> float:
    """The whole load at which the first unit meets its rated amps, from the two behind their resistances. [W]"""
    ohms = [abs(unit.z_ohm) for unit in units]
    both_ohm = 1 / sum(1 / ohm for ohm in ohms)
    emf = both_ohm * sum(unit.emf / ohm for unit, ohm in zip(units, ohms, strict=True))
    amps = [w / SYSTEM.v_nominal for w in rated_w]
    whole_a = min((a * ohm - unit.emf + emf) / both_ohm for a, ohm, unit in zip(amps, ohms, units, strict=True))
    return whole_a * SYSTEM.v_nominal


def hybrid(seed: int) -> list[Recovered]:
    """A hybrid of two legs with the sun on its panels: each leg laden, both sides of it read, starts on one leg."""
    rng = np.random.default_rng(seed)
    cont = rng.uniform(4000, 9000)
    claims = InverterClaims(
        cont,
        120,
        60,
        legs=2,
        limit_x=2.2,
        ohm=rng.uniform(0.05, 0.25),
        p0_w=rng.uniform(30, 80),
        p1=rng.uniform(0.02, 0.06),
        p2_per_w=rng.uniform(0.01, 0.03) / cont,
        recovers_s=rng.uniform(8, 40),
    )
    wh = cont * 2
    unit = Inverter(claims, Battery(BatteryClaims(wh, 47.0, 54.5, 60.0 / wh), 1.0))
    loads = _hybrid_loads(cont)
    bench = Bench(unit, SPLIT, loads, seed=seed)
    source = Source(
        "the hybrid", SourceKind.HYBRID, Claims(round(cont), battery_wh=round(wh), per_leg_w=round(cont / 2))
    )
    truth = [leg_truth(bench, place, keys) for place, keys in ((0, "12"), (1, "34"))]
    hand = Hand(bench, rng, "ladder", began_s=bench.t_s)
    for on in ("", "1", "3", "13", "123", "134", "1234"):
        unit.battery.soc = 1.0  # type: ignore[union-attr]
        hand.switch(on, 12)
        hand.steady(slug="recorder")
        now = bench.sample()
        hand.jot(f"@recorder dc {hand.shown('recorder', 'dc_v', now.dc_v)} {hand.shown('recorder', 'dc_a', now.dc_a)}")
    starts = hand.begin("starts")
    for base, key in (("", "a"), ("", "b"), ("3", "a"), ("3", "b")):
        starts.switch(base, 5)
        starts.steady(slug="recorder")
        start(starts, key, place=1)
        starts.switch("", 5)
    lowest_c, _ = start(hand.begin("starts"), "c", place=1)
    over = hand.begin("overload")
    over.switch("1234ef", 0.2)
    while unit.live and bench.t_s - over.began_s < 600:
        bench.advance(0.05)
    over.jot("!trip overload on its screen")
    over.switch("", 0.1)
    while not unit.live and bench.t_s - over.began_s < 900:
        bench.advance(0.5)
    over.jot("came back by itself")
    character = character_from(source, loads, (hand, starts, over))
    recovereds: list[Recovered] = []
    for leg, (level, slope) in enumerate(truth, 1):
        add_to(recovereds, "no-load volts of a leg, hybrid", level, said_of(character, f"no_load_v{leg}"))
        add_to(recovereds, "volts of a leg with its load, hybrid", slope, said_of(character, f"v{leg}_per_kw"))
    add_to(recovereds, "idle draw, hybrid", claims.p0_w, said_of(character, "idle_w"))
    add_to(recovereds, "comes back by itself", claims.recovers_s, said_of(character, "recovers_s"))
    (predicted,) = predictions(character, [loads[-1]], SPLIT)
    add_to(recovereds, "volts of a start never tried, hybrid", lowest_c, predicted.lowest)
    return recovereds


def _hybrid_loads(cont_w: float) -> tuple[Load, ...]:
    """Two heaters a leg, two more that overload it, and three motors on leg 2, the last never tried."""
    legs = (Leg.ONE, Leg.ONE, Leg.TWO, Leg.TWO)
    return (
        *(replace(load_of(str(i), "heater", cont_w / 5), leg=leg) for i, leg in enumerate(legs, 1)),
        *(replace(load_of(key, "heater", cont_w / 3), leg=leg) for key, leg in (("e", Leg.ONE), ("f", Leg.TWO))),
        *(
            replace(load_of(key, "motor", share * cont_w), leg=Leg.TWO)
            for key, share in (("a", 0.06), ("b", 0.1), ("c", 0.08))
        ),
    )
