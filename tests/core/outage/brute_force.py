"""Outages played by brute force, in plain Python: what the compiled play is held against. It shares none of its code.

``first_trip`` walks the sorted instants of a home whose source never fails;
``by_the_second`` steps a second at a time with the source acting back.
"""

from __future__ import annotations

import hashlib
import math
from collections.abc import Iterator
from dataclasses import dataclass, field

from muster.core.brief import Brief, BringUp
from muster.core.character.impedance import StartModel
from muster.core.loads import Load
from muster.core.stacking.order import start_order
from muster.core.supply import Leg

MASK = (1 << 64) - 1
GOLDEN = 0x9E3779B97F4A7C15
JITTER, GAP_S, PICKUP, HYSTERESIS = 0.2, 15.0, 3.0, 0.1


def bits(z: int) -> int:
    """SplitMix64's mixing, in whole numbers."""
    z = ((z ^ (z >> 30)) * 0xBF58476D1CE4E5B9) & MASK
    z = ((z ^ (z >> 27)) * 0x94D049BB133111EB) & MASK
    return z ^ (z >> 31)


class Dice:
    """The random numbers of one load in one draw."""

    def __init__(self, key: str, seed: int, draw: int) -> None:
        own = int.from_bytes(hashlib.blake2b(f"{seed}:{key}".encode(), digest_size=8).digest(), "little")
        self.base = bits((own + GOLDEN * (draw + 1)) & MASK)
        self.rolled = 0

    def roll(self) -> float:
        """The next, 0 to 1."""
        self.rolled += 1
        return (bits((self.base + GOLDEN * self.rolled) & MASK) >> 11) / 2**53


@dataclass
class Wish:
    """When a load wants to run: its cycles, cut to its hours."""

    load: Load
    brief: Brief
    dice: Dice
    first_s: float
    cycle_s: float = 0.0
    longer: float = 1.0
    window: int = 0
    windows: list[tuple[float, float]] = field(default_factory=list)

    def __post_init__(self) -> None:
        end_s = self.brief.outage_h * 3600
        open_hours = [
            i
            for i in range(math.ceil(self.brief.outage_h))
            if (self.brief.outage_from_hour + i) % 24 in self.load.hours
        ]
        for i in open_hours:
            begin, close = i * 3600.0, min((i + 1) * 3600.0, end_s)
            if self.windows and self.windows[-1][1] == begin:
                self.windows[-1] = (self.windows[-1][0], close)
            else:
                self.windows.append((begin, close))
        phase = self.dice.roll()
        at_once = self.load.calls_at_once and bool(self.windows) and self.windows[0][0] == 0
        if self.load.duty.cycles and at_once:
            self.cycle_s, self.longer = self.first_s, PICKUP
        elif self.load.duty.cycles:
            self.cycle_s = -phase * 60 * (self.load.duty.on_min + self.load.duty.off_min)

    def times(self) -> tuple[float, float]:
        """On and off of the next cycle."""
        on = self.load.duty.on_min * 60 * (1 + JITTER * (2 * self.dice.roll() - 1))
        off = self.load.duty.off_min * 60 * (1 + JITTER * (2 * self.dice.roll() - 1))
        return on, off

    def window_after(self, at: float) -> tuple[float, float] | None:
        """The first of its hours that closes after a moment."""
        return next((window for window in self.windows if window[1] > at), None)

    def after(self, now: float) -> tuple[float, float] | None:
        """Its next run after a moment at which it is off: from, until."""
        if self.load.duty.once:
            return self._program(now)
        if not self.load.duty.cycles:
            first = self.first_s if self.load.calls_at_once else 0.0
            window = self.window_after(max(now, first))
            return None if window is None else (max(now, window[0], first), window[1])
        while self.cycle_s < self.brief.outage_h * 3600:
            begin = self.cycle_s
            on, off = self.times()
            on, self.longer = on * self.longer, 1.0
            self.cycle_s = begin + on + off
            window = self.window_after(max(begin, now))
            if window is not None:
                low, high = max(begin, now, window[0]), min(begin + on, window[1])
                if high > low:
                    return low, high
        return None

    def _program(self, now: float) -> tuple[float, float] | None:
        while self.window < len(self.windows):
            opens, closes = self.windows[self.window]
            self.window += 1
            first = max(opens, now)
            if first < closes:
                on = self.load.duty.on_min * 60 * (1 + JITTER * (2 * self.dice.roll() - 1))
                begin = first + max(0.0, closes - first - on) * self.dice.roll()
                return begin, begin + on
        return None

    def again(self, now: float, since: float, left_s: float) -> tuple[float, float] | None:
        """Its run when power is back, if it went without since then."""
        if self.load.duty.once:
            return (now, now + left_s) if left_s > 0 else self._program(now)
        window = self.window_after(now)
        if window is None or window[0] > now:
            self.cycle_s = max(self.cycle_s, now)
            return self.after(now)
        if not self.load.duty.cycles:
            return now, window[1]
        on, off = self.times()
        if self.load.calls_at_once:
            on *= self._cold(on, off, now - since)
        self.cycle_s = now + on + off
        return now, min(now + on, window[1])

    @staticmethod
    def _cold(on: float, off: float, out_s: float) -> float:
        tau, d = off / HYSTERESIS, on / (on + off)
        low = 1 / d - 1 - HYSTERESIS / 2
        if low <= 0:
            return 10.0
        return min(10.0, max(1.0, tau * math.log((1 / d - math.exp(-out_s / tau)) / low) / on))


def wishes(loads: list[Load], brief: Brief, seed: int, draw: int) -> list[Wish]:
    """What each load wants in one draw."""
    order = {load.key: place for place, load in enumerate(start_order(loads))}
    first = {load.key: GAP_S * order[load.key] if brief.bring_up is BringUp.ONE_BY_ONE else 0.0 for load in loads}
    return [Wish(load, brief, Dice(load.key, seed, draw), first[load.key]) for load in loads]


def runs(wish: Wish) -> Iterator[tuple[float, float]]:
    """All runs of a load that never goes without power."""
    now, end_s = 0.0, wish.brief.outage_h * 3600
    while (run := wish.after(now)) is not None and run[0] < end_s:
        yield run
        now = run[1]


@dataclass(frozen=True)
class Start:
    """A start: when, of which load, and its lowest volts as a share of nominal."""

    at_s: float
    load: str
    x: float


def share(load: Load, leg: Leg, brief: Brief) -> float:
    """Of a load's power what is on a leg."""
    return 1.0 if brief.system.legs == 1 else load.share_on(leg)


def starts_of(
    loads: list[Load], brief: Brief, model: StartModel, volts: tuple[float, float], seed: int, draw: int
) -> list[Start]:
    """Every start on what runs and starts beneath it, by the start model itself; ``volts`` no-load and a watt, of each leg alike.

    For loads of one part, none of which is slow or stalls: then nothing acts back.
    """
    v_n = brief.system.v_nominal
    on = [
        (begin, end, load)
        for load, wish in zip(loads, wishes(loads, brief, seed, draw), strict=True)
        for begin, end in runs(wish)
    ]
    starting: list[tuple[float, float, Load, float]] = []
    result = []
    for begin, _, load in sorted(on, key=lambda run: run[0]):
        if not load.has_start(brief.system.hz):
            continue
        across = load.leg is Leg.BOTH and brief.system.legs == 2
        legs = (Leg.ONE, Leg.TWO) if across else (Leg.ONE if brief.system.legs == 1 else load.leg,)
        base_va = v = 0.0
        for leg in legs:
            beneath = [other for low, high, other in on if low <= begin < high and other is not load]
            watts = sum(other.run_w * share(other, leg, brief) for other in [*beneath, load])
            v += volts[0] + volts[1] * watts
            base_va += sum(other.run_va * share(other, leg, brief) for other in beneath)
            base_va += sum(
                extra * share(other, leg, brief)
                for low, high, other, extra in starting
                if low <= begin < high and other is not load
            )
        nominal = v_n * len(legs)
        own = (
            model
            if not across
            else StartModel(
                **{
                    **model.__dict__,
                    "z_ohm": 2 * model.z_ohm,
                    "r_ohm": 2 * (model.r_ohm or 0),
                    "x_ohm": 2 * (model.x_ohm or 0),
                }
            )
        )
        x = own.lowest_v(v, base_va / nominal, load.start_total_va / nominal, nominal, load.start_pf) / nominal
        starting.append((begin, begin + load.start_s, load, load.start_total_va * x * x - load.run_va))
        result.append(Start(begin, load.name, x))
    return result


@dataclass
class Unit:
    """A source with true figures: what it holds and for how long above, what its battery or tank has, and who resets it."""

    held_w: float = math.inf
    k_s: float = 1.0
    n: float = 2.4
    cools_s: float = 1800.0
    battery_wh: float = 0.0
    idle_w: float = 0.0
    p1: float = 0.0
    charge_most_w: float = 0.0
    tank_l: float = 0.0
    store_l: float = 0.0
    a_lph: float = 0.0
    b_lph_per_w: float = 0.0
    reset_s: float = 600.0


@dataclass
class Told:
    """What came of it: energy delivered by hour [Wh], charge and fuel at each hour, and when it tripped, ran out, was filled [s]."""

    by_hour_wh: list[float]
    charge_wh: list[float]
    fuel_l: list[float]
    trips_s: list[float] = field(default_factory=list)
    empty_s: float = math.inf
    filled_s: list[float] = field(default_factory=list)


def by_the_second(loads: list[Load], brief: Brief, unit: Unit, sun_w: list[float], seed: int, draw: int) -> Told:
    """Play an outage a second at a time: heaters alone, awake all day, everything back at once or one by one by hand.

    ``sun_w`` is what the panels give in each ten minutes.
    """
    hours = math.ceil(brief.outage_h)
    told = Told([0.0] * hours, [unit.battery_wh], [unit.tank_l + unit.store_l])
    wish = wishes(loads, brief, seed, draw)
    order = {load.key: place for place, load in enumerate(start_order(loads))}
    next_run = [item.after(0.0) for item in wish]
    on = [False] * len(loads)
    without: list[tuple[float, float] | None] = [None] * len(loads)
    called_at = [math.inf] * len(loads)
    wh, tank, store, damage = unit.battery_wh, unit.tank_l, unit.store_l, 0.0
    live, back_s, empty = True, math.inf, False
    for t in range(int(brief.outage_h * 3600)):
        if not live and t >= back_s:
            live, back_s = True, math.inf
            for i, load in enumerate(loads):
                if without[i] is not None:
                    called_at[i] = t + (GAP_S * order[load.key] if brief.bring_up is BringUp.ONE_BY_ONE else 0.0)
        for i, item in enumerate(wish):
            if live and called_at[i] <= t:
                since, left_s = without[i] or (t, 0.0)
                next_run[i], without[i], called_at[i] = item.again(float(t), since, left_s), None, math.inf
            run = next_run[i]
            while run is not None and run[1] <= t and on[i]:
                on[i] = False
                run = next_run[i] = item.after(run[1])
            if run is not None and without[i] is None and run[0] <= t < run[1] and not on[i]:
                if live:
                    on[i] = True
                else:
                    without[i] = (run[0], run[1] - run[0])
        watts = sum(load.run_w for i, load in enumerate(loads) if on[i]) if live else 0.0
        told.by_hour_wh[t // 3600] += watts / 3600
        sun = sun_w[t // 600] if sun_w else 0.0
        why = ""
        if unit.battery_wh:
            drawn = watts * (1 + unit.p1) + unit.idle_w if live else 0.0 if empty else unit.idle_w
            net = drawn - sun
            if net < 0:
                net = -min(-net, unit.charge_most_w) * 0.95
            wh = min(unit.battery_wh, wh - net / 3600)
            if live and wh <= 0:
                wh, why = 0.0, "empty"
                told.empty_s = min(told.empty_s, float(t))
            if empty and not live and wh >= 0.1 * unit.battery_wh:
                back_s, empty = t + 1.0, False
        if unit.tank_l and live:
            tank -= (unit.a_lph + unit.b_lph_per_w * watts) / 3600
            if store > 0 and tank <= 0.1 * unit.tank_l:
                fills = min(unit.tank_l - tank, store)
                tank, store, why = tank + fills, store - fills, "filling"
                told.filled_s.append(float(t))
            elif tank <= 0:
                why = "dry"
                told.empty_s = min(told.empty_s, float(t))
        if watts > unit.held_w:
            damage += (watts / unit.held_w - 1) ** unit.n / unit.k_s
            if damage >= 1:
                damage, why = 1.0, "tripped"
                told.trips_s.append(float(t))
        else:
            damage *= math.exp(-1 / unit.cools_s)
        if why:
            live, empty = False, why == "empty"
            back_s = t + {"tripped": unit.reset_s, "filling": 1200.0}.get(why, math.inf)
            for i in range(len(loads)):
                run = next_run[i]
                if on[i] and run is not None:
                    on[i], without[i], next_run[i] = False, (float(t), run[1] - t), None
        if (t + 1) % 3600 == 0:
            told.charge_wh.append(wh)
            told.fuel_l.append(tank + store)
    return told
