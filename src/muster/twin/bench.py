"""The bench itself: one source, its leads, the loads of a home; stepped, with the energy of everything accounted for."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field, replace

import numpy as np

from muster.core.errors import UnknownChoice
from muster.core.loads import Load
from muster.core.supply import Leg, System

from .appliances import Appliance, appliance_of
from .engine import Engine
from .inverter import Inverter
from .pair import TwinPair
from .sets import EnginePair

FINE_S, COARSE_S, CALM_STEP_S = 0.001, 0.05, 0.1
"""A step while anything moves, while nothing does but an engine turns, and while nothing does at all."""
OPEN_OHM = 1e6
CALM_S = 0.4
"""So long after the last switching steps stay fine."""
ROUNDS = 6
"""Times that volts and draws of constant-power loads are brought to agree."""
MEASURED_AT_M = 1.0


@dataclass(frozen=True)
class Leads:
    """Resistance between source and loads: each leg there, and the neutral back [Ω]."""

    leg_ohm: float = 0.0
    neutral_ohm: float = 0.0


@dataclass(frozen=True)
class Faults:
    """What can be wrong, hidden from the assessor.

    ``weak_battery``: share of capacity gone and resistance doubled by as much;
    ``no_load_hz`` a governor set wrong; ``thin_lead_ohm`` more in each leg;
    ``floating_neutral`` no neutral back from the loads; ``lying_plate`` gives
    so much less than claimed; ``stuck_tracker``.
    """

    weak_battery: float = 0.0
    no_load_hz: float = 0.0
    thin_lead_ohm: float = 0.0
    floating_neutral: bool = False
    lying_plate: float = 0.0
    stuck_tracker: bool = False


@dataclass(frozen=True)
class TwinEvent:
    """Something that happened by itself: when, and what."""

    t_s: float
    what: str


@dataclass(frozen=True)
class Sample:
    """The state of the bench at a moment: what perfect meters would show."""

    t_s: float
    leg_v: tuple[float, ...]
    leg_a: tuple[float, ...]
    leg_w: tuple[float, ...]
    neutral_a: float
    f_hz: float
    dc_v: float
    dc_a: float
    soc_pct: float
    dba_1m: float
    temp_c: float
    fuel_l: float
    live: bool

    @property
    def total_w(self) -> float:
        """Watts of the whole source."""
        return sum(self.leg_w)


@dataclass
class Ledger:
    """Energy that went each way [J]: out of the source's windings, lost in leads, into loads."""

    source_j: float = 0.0
    leads_j: float = 0.0
    loads_j: float = 0.0


Source = Engine | Inverter | TwinPair | EnginePair


@dataclass
class Bench:
    """A source with the loads of a home on it. ``rng`` is for what varies by chance; the same seed, the same bench."""

    source: Source
    system: System
    loads: Sequence[Load]
    leads: Leads = Leads()
    faults: Faults = Faults()
    seed: int = 1911
    background_dba: float = 36.0
    t_s: float = 0.0
    events: list[TwinEvent] = field(default_factory=list)
    ledger: Ledger = field(default_factory=Ledger)

    def __post_init__(self) -> None:
        self.rng = np.random.default_rng(self.seed)
        self.source = _with_faults(self.source, self.faults)
        self.appliances: dict[str, Appliance] = {load.key: appliance_of(load, self.system) for load in self.loads}
        if self.faults.thin_lead_ohm:
            self.leads = replace(self.leads, leg_ohm=self.leads.leg_ohm + self.faults.thin_lead_ohm)
        self.volts: tuple[complex, ...] = (complex(self.source.emf),) * self.system.legs
        self.calm_s = 0.0
        self._was_live = self.source.live
        self.amps: tuple[complex, ...] = (0j,) * self.system.legs
        self.on: list[Appliance] = []
        self.leads_w = self.loads_w = self.total_w = 0.0
        self._solve()

    # what the assessor does

    def switch(self, key: str, *, on: bool) -> None:
        """Switch a load.

        Raises
        ------
        UnknownChoice
            If there is no such load.
        """
        if key not in self.appliances:
            raise UnknownChoice(f"got “{key}”", where="load", want=", ".join(self.appliances))
        self.appliances[key].switch(on=on)
        self.on = [appliance for appliance in self.appliances.values() if appliance.on]
        self.calm_s = 0.0
        self._solve()

    def reset(self) -> None:
        """Put back what tripped, as one would by hand; an empty battery or tank stays empty."""
        units = self.source.units if isinstance(self.source, TwinPair | EnginePair) else (self.source,)
        for unit in units:
            unit.tripped = ""
            if isinstance(unit, Inverter):
                unit.memory = 0.0
                if unit.battery is not None and unit.battery.soc > 0:
                    unit.battery.open = False
            else:
                unit.over_s = 0.0
        self.calm_s = 0.0
        self._solve()

    # the physics

    def advance(self, seconds: float, watch: Callable[[Bench], None] | None = None) -> None:
        """Let so many seconds pass; ``watch`` is called after each step."""
        end = self.t_s + seconds
        while self.t_s < end - 1e-9:
            dt = min(self._dt(), end - self.t_s)
            self._step(dt)
            if watch is not None:
                watch(self)

    def _dt(self) -> float:
        moving = any(item.moving for item in self.on) or self.source.moving(self.total_w)
        if moving or self.calm_s < CALM_S:
            return FINE_S
        due = min((item.next_change_s() for item in self.on if item.timed), default=math.inf)
        calm = COARSE_S if isinstance(self.source, Engine | EnginePair) else CALM_STEP_S
        return max(FINE_S, min(calm, due))

    def _step(self, dt: float) -> None:
        live = self.source.live
        if self._was_live and not live:
            self.events.append(TwinEvent(self.t_s, self._why()))
            for each_item in self.on:
                each_item.power_lost()
            self.calm_s = 0.0
        elif live and not self._was_live:
            self.events.append(TwinEvent(self.t_s, "back"))
            self.calm_s = 0.0
        self._was_live = live
        stalled = any(item.stalled for item in self.on)
        for each_item in self.on:
            each_item.step(abs(self._volts_at(each_item)), dt)
        self._solve()
        self._account(dt)
        self.source.settle(self._source_v(), self.total_w, tuple(abs(a) for a in self.amps), dt)
        self.t_s += dt
        self.calm_s = 0.0 if stalled and self.calm_s < CALM_S else self.calm_s + dt

    def _why(self) -> str:
        return self.source.tripped or "stopped"

    def _volts_at(self, appliance: Appliance) -> complex:
        if appliance.leg is Leg.BOTH and self.system.legs == 2:
            return self.volts[0] + self.volts[1]
        return self.volts[0 if appliance.leg is Leg.ONE or self.system.legs == 1 else 1]

    def _solve(self) -> None:
        """Volts at the loads and amps of each leg: source emf behind its impedance, leads, and what the loads draw.

        A current-limited source folds its volts back until its amps are at the limit.
        """
        emf = complex(self.source.emf) if self.source.live else 0j
        for _ in range(ROUNDS):
            before = self.volts
            self._network(emf)
            if max(abs(a - b) for a, b in zip(before, self.volts, strict=True)) < 1e-4:
                break
        self._fold(emf)
        self._powers()

    def _fold(self, emf: complex) -> None:
        """Bring the volts of a current-limited source down until its amps are at the limit."""
        limit = getattr(self.source, "limit_a", math.inf)
        highest = max((abs(a) for a in self.amps), default=0.0)
        if highest > limit > 0:
            for _ in range(ROUNDS):
                emf *= limit / highest
                self._network(emf)
                highest = max(abs(a) for a in self.amps)
                if highest <= limit * 1.001:
                    break

    def _network(self, emf: complex) -> None:
        z = self.source.z_ohm + self.leads.leg_ohm
        drawn = [(item, item.admittance(abs(self._volts_at(item)))) for item in self.on]
        if self.system.legs == 1:
            y = sum((y for _, y in drawn), 0j)
            v = emf / (1 + (z + self.leads.neutral_ohm) * y)
            self.volts, self.amps = (v,), (v * y,)
            return
        y1, y2, y12 = (sum((y for item, y in drawn if item.leg is leg), 0j) for leg in (Leg.ONE, Leg.TWO, Leg.BOTH))
        zn = OPEN_OHM if self.faults.floating_neutral else self.leads.neutral_ohm
        a11, a12 = 1 + (z + zn) * y1 + z * y12, z * y12 - zn * y2
        a21, a22 = z * y12 - zn * y1, 1 + (z + zn) * y2 + z * y12
        det = a11 * a22 - a12 * a21
        v1, v2 = emf * (a22 - a12) / det, emf * (a11 - a21) / det
        across = (v1 + v2) * y12
        self.volts, self.amps = (v1, v2), (v1 * y1 + across, v2 * y2 + across)

    def _powers(self) -> None:
        """Watts lost in the leads, into the loads, and out of the source's sockets."""
        legs = sum(abs(a) ** 2 for a in self.amps) * self.leads.leg_ohm
        self.leads_w = legs + abs(self.neutral_a) ** 2 * self.leads.neutral_ohm
        self.loads_w = 0.0
        for item in self.on:
            volts = abs(self._volts_at(item))
            item.w = volts**2 * item.admittance(volts).real
            self.loads_w += item.w
        self.total_w = sum((v * a.conjugate()).real for v, a in zip(self.volts, self.amps, strict=True)) + self.leads_w

    @property
    def neutral_a(self) -> complex:
        """Amps back in the neutral."""
        return self.amps[0] if self.system.legs == 1 else self.amps[0] - self.amps[1]

    def _source_v(self) -> tuple[float, ...]:
        """Volts at the source's own sockets: those at the loads and what the leads lose."""
        back = self.neutral_a * self.leads.neutral_ohm
        signs = (1, -1)
        return tuple(
            abs(v + a * self.leads.leg_ohm + signs[i] * back)
            for i, (v, a) in enumerate(zip(self.volts, self.amps, strict=True))
        )

    def _account(self, dt: float) -> None:
        self.ledger.source_j += self.total_w * dt
        self.ledger.leads_j += self.leads_w * dt
        self.ledger.loads_j += self.loads_w * dt
        for item in self.on:
            item.wh += item.w * dt / 3600

    # what it shows

    def sample(self) -> Sample:
        """What perfect meters would show now, at the loads' end of the leads."""
        dc_v, dc_a, soc = self._dc()
        watts = tuple((v * a.conjugate()).real for v, a in zip(self.volts, self.amps, strict=True))
        unit = self.source.first if isinstance(self.source, TwinPair | EnginePair) else self.source
        return Sample(
            t_s=self.t_s,
            leg_v=tuple(abs(v) for v in self.volts),
            leg_a=tuple(abs(a) for a in self.amps),
            leg_w=watts,
            neutral_a=abs(self.neutral_a),
            f_hz=self.source.f_hz if self.source.live else 0.0,
            dc_v=dc_v,
            dc_a=dc_a,
            soc_pct=soc,
            dba_1m=self.source.dba_at_1m(self.total_w),
            temp_c=unit.temp_c if isinstance(unit, Inverter) else 20.0 + 60.0 * unit.warm,
            fuel_l=unit.fuel_l,
            live=self.source.live,
        )

    def _dc(self) -> tuple[float, float, float]:
        if not isinstance(self.source, Inverter) or self.source.battery is None:
            return 0.0, 0.0, math.nan
        battery = self.source.battery
        wanted = 0.0 if battery.open else self.source.dc_w(self.total_w)
        return battery.volts(wanted), battery.amps(wanted), battery.shown_pct

    def dba(self, distance_m: float) -> float:
        """Sound at a distance: in the open, the background with it."""
        own = self.source.dba_at_1m(self.total_w)
        heard = own - 20 * math.log10(max(0.25, distance_m) / MEASURED_AT_M) if own > 0 else -math.inf
        parts = [level for level in (heard, self.background_dba) if level > -math.inf]
        return 10 * math.log10(sum(10 ** (level / 10) for level in parts))


def _with_faults(source: Source, faults: Faults) -> Source:
    """The source as it really is."""
    if isinstance(source, EnginePair):
        _with_faults(source.first, faults)
        source.run_up()
        return source
    if isinstance(source, TwinPair):
        return source
    if faults.lying_plate:
        source.claims = replace(source.claims, cont_w=source.claims.cont_w * (1 - faults.lying_plate))
    if isinstance(source, Engine):
        if faults.no_load_hz:
            source.claims = replace(source.claims, no_load_hz=faults.no_load_hz)
            source.f_hz = faults.no_load_hz
        return source
    source.stuck = faults.stuck_tracker
    if faults.weak_battery and source.battery is not None:
        claims = source.battery.claims
        source.battery.claims = replace(
            claims, wh=claims.wh * (1 - faults.weak_battery), ohm=claims.ohm * (1 + 2 * faults.weak_battery)
        )
    return source
