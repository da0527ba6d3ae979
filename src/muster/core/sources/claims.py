"""Sources: what the nameplate claims, and what of it is left at this site."""

from __future__ import annotations

import math
from dataclasses import dataclass, field
from enum import StrEnum

from ..advice.noise_layout import NoiseLayout
from ..errors import OutOfRange, require_above, require_between
from ..loads import Wave
from ..quantities import Grade, plain
from ..trade.leads import lead_named
from ..working import Working
from .panels import Panels

DERATE_ALTITUDE_PCT_PER_300_M = 3.5
"""Engine power lost per 300 m above sea level (common maker's guidance; naturally aspirated)."""
DERATE_HEAT_K_PER_PCT = 5.5
"""Kelvin above 25 °C that cost an engine 1 % (common maker's guidance)."""
DERATE_HEAT_FROM_C = 25.0
FUEL_LOSS_PCT = {"petrol": 0.0, "diesel": 0.0, "propane": 10.0, "natural gas": 20.0}
"""Engine power lost on another fuel than petrol, percent (common maker's guidance)."""


class SourceKind(StrEnum):
    """The kinds of backup source."""

    OPEN_FRAME = "open_frame"
    INVERTER_SET = "inverter_set"
    INVERTER = "inverter"
    HYBRID = "hybrid"
    STATION = "station"

    @property
    def label(self) -> str:
        """The kind as it is written on screen."""
        return {
            "open_frame": "engine generator, open frame",
            "inverter_set": "engine generator, inverter type",
            "inverter": "stand-alone inverter on a battery bank",
            "hybrid": "hybrid inverter with battery and panels",
            "station": "portable battery station",
        }[self.value]

    @property
    def has_engine(self) -> bool:
        """Whether an engine drives it."""
        return self in (SourceKind.OPEN_FRAME, SourceKind.INVERTER_SET)

    @property
    def settles_s(self) -> float:
        """After how long its heat has surely settled: three times the upper time constant of its kind (physics §10). [s]"""
        upper_tau_s = 1800.0 if self.has_engine else 5400.0 if self is SourceKind.STATION else 2400.0
        return 3 * upper_tau_s

    @property
    def has_battery(self) -> bool:
        """Whether a battery feeds it."""
        return not self.has_engine


class Chemistry(StrEnum):
    """What a battery is made of."""

    LFP = "lfp"
    NMC = "nmc"
    LEAD = "lead"

    @property
    def label(self) -> str:
        """The chemistry as it is written on screen."""
        return {"lfp": "lithium iron phosphate", "nmc": "lithium-ion (NMC)", "lead": "lead-acid"}[self.value]


@dataclass(frozen=True)
class PvPort:
    """An input for panels: its window [V], and the most it takes [A], [W]; None where nobody said."""

    low_v: float | None = None
    high_v: float | None = None
    most_a: float | None = None
    most_w: float | None = None

    def __post_init__(self) -> None:
        for name in ("low_v", "high_v", "most_a", "most_w"):
            value = getattr(self, name)
            if value is not None:
                require_above(value, 0, name)
        if self.low_v is not None and self.high_v is not None:
            require_between(self.high_v, self.low_v, 2000, "high_v")


def _require_watts(cont_w: float, surge_w: float | None) -> None:
    require_above(cont_w, 0, "cont_w")
    if surge_w is not None:
        require_between(surge_w, cont_w, 10 * cont_w, "surge_w")


@dataclass(frozen=True)
class FuelRating:
    """What an engine is rated for on one fuel."""

    fuel: str
    cont_w: float
    surge_w: float | None = None

    def __post_init__(self) -> None:
        _require_watts(self.cont_w, self.surge_w)


@dataclass(frozen=True)
class FaultCode:
    """A code of a source's display, and what its booklet says it means."""

    code: str
    meaning: str


@dataclass(frozen=True)
class Owning:
    """What it is to own a source: price in the assessor's own money, weight, size as said, warranty, hours between services, codes."""

    price: float | None = None
    weight_kg: float | None = None
    size: str = ""
    warranty_years: float | None = None
    service_h: float | None = None
    codes: tuple[FaultCode, ...] = ()

    def __post_init__(self) -> None:
        for name in ("price", "weight_kg", "warranty_years", "service_h"):
            value = getattr(self, name)
            if value is not None:
                require_above(value, 0, name)

    def meaning_of(self, code: str) -> str:
        """What the booklet says of a code; empty if it is not on the list."""
        plain_code = code.strip().lower()
        return next((known.meaning for known in self.codes if known.code.lower() == plain_code), "")


@dataclass(frozen=True)
class Claims:
    """What the nameplate and booklet say; None where they are silent.

    ``per_leg_w`` is the most one leg may carry; ``stored_fuel_l`` the fuel at
    hand beside the tank; ``noise_dba_7m`` the claimed level at 7 m.
    ``battery_only_w`` is what a hybrid gives without sun; ``battery_a`` where
    the battery's own protection trips, ``battery_low_v`` its lowest volts,
    ``charge_w`` what the charger draws from the mains, ``charge_h`` the hours it
    is said to take. ``battery_surge_a`` is carried by the battery's own protection
    for ``battery_surge_s``. ``on_fuels`` are ratings by fuel; ``cont_w`` is that of ``fuel``.
    """

    cont_w: float
    surge_w: float | None = None
    surge_s: float | None = None
    per_leg_w: float | None = None
    breaker_a: float | None = None
    wave: Wave = Wave.SINE
    thd_pct: float | None = None
    noise_dba_7m: float | None = None
    fuel: str = "petrol"
    tank_l: float | None = None
    stored_fuel_l: float | None = None
    half_load_lph: float | None = None
    full_load_lph: float | None = None
    battery_wh: float | None = None
    usable_pct: float | None = None
    idle_w: float | None = None
    transfer_ms: float | None = None
    battery_only_w: float | None = None
    battery_a: float | None = None
    battery_low_v: float | None = None
    conversion_pct: float | None = None
    charge_w: float | None = None
    chemistry: Chemistry | None = None
    battery_v: float | None = None
    battery_ah: float | None = None
    battery_surge_a: float | None = None
    battery_surge_s: float | None = None
    charge_h: float | None = None
    pv_ports: tuple[PvPort, ...] = ()
    on_fuels: tuple[FuelRating, ...] = ()

    def __post_init__(self) -> None:
        _require_watts(self.cont_w, self.surge_w)
        for name in (
            "surge_s",
            "per_leg_w",
            "breaker_a",
            "tank_l",
            "half_load_lph",
            "full_load_lph",
            "battery_wh",
            "battery_only_w",
            "battery_a",
            "battery_low_v",
            "conversion_pct",
            "charge_w",
            "battery_v",
            "battery_ah",
            "battery_surge_a",
            "battery_surge_s",
            "charge_h",
        ):
            value = getattr(self, name)
            if value is not None:
                require_above(value, 0, name)
        for name, high in (("thd_pct", 100), ("usable_pct", 100), ("conversion_pct", 100), ("noise_dba_7m", 130)):
            value = getattr(self, name)
            if value is not None:
                require_between(value, 0, high, name)

    @property
    def most_w(self) -> float:
        """The most that is claimed on any fuel, for however short. [W]"""
        return max(self.cont_w, self.surge_w or 0.0, *(max(r.cont_w, r.surge_w or 0.0) for r in self.on_fuels), 0.0)

    @property
    def derated_fuel(self) -> str:
        """The fuel whose loss is still to be taken off: none where the nameplate rates the engine on it."""
        return "" if any(rating.fuel == self.fuel for rating in self.on_fuels) else self.fuel


MOST_LEADS = 8
"""Pairs of a DC lead that anybody lays in parallel."""


@dataclass(frozen=True)
class Wires:
    """What stands between source, battery and home; None or empty where nobody said.

    A lead is a table and a size (``cord_mm2:2.5``) as ``trade.leads`` knows
    them; lengths are one way. ``dc_leads`` so many
    pairs of the DC lead lie in parallel, of one length.
    """

    inlet_a: float | None = None
    lead: str = ""
    lead_m: float | None = None
    dc_lead: str = ""
    dc_leads: int = 1
    dc_lead_m: float | None = None
    dc_fuse_a: float | None = None

    def __post_init__(self) -> None:
        for name in ("inlet_a", "lead_m", "dc_lead_m", "dc_fuse_a"):
            value = getattr(self, name)
            if value is not None:
                require_above(value, 0, name)
        require_between(self.dc_leads, 1, MOST_LEADS, "dc_leads")
        for name in ("lead", "dc_lead"):
            if getattr(self, name):
                lead_named(getattr(self, name), name)


class PairSchool(StrEnum):
    """How the capacity of two unlike units is taken."""

    TWICE_SMALLER = "twice_smaller"
    SUM = "sum"
    MEASURED = "measured"

    @property
    def label(self) -> str:
        """The school as it is written on screen."""
        return {
            "twice_smaller": "twice the smaller",
            "sum": "sum of the ratings",
            "measured": "where a measured share line meets a limit",
        }[self.value]

    @property
    def follows(self) -> str:
        """What follows from it."""
        return {
            "twice_smaller": "safe whatever the sharing, and gives away what the larger could do more",
            "sum": "true only if each takes its share: the weaker may be over first",
            "measured": "right for these two as they stood; read the shares again after any change",
        }[self.value]


@dataclass(frozen=True)
class Share:
    """How a pair shared one total: amps of the whole, of the first unit and of the second."""

    total_a: float
    one_a: float
    other_a: float

    def __post_init__(self) -> None:
        require_above(self.total_a, 0, "shares")
        for value in (self.one_a, self.other_a):
            require_between(value, 0, 10_000, "shares")


@dataclass(frozen=True)
class Unit:
    """One of two units in parallel: its continuous and surge watts."""

    name: str
    cont_w: float
    surge_w: float | None = None

    def __post_init__(self) -> None:
        _require_watts(self.cont_w, self.surge_w)


@dataclass(frozen=True)
class Source:
    """A source as described: its kind, its claims, and how it is wired.

    ``planned``: claims off the shelf, not off a plate. ``units`` are the two of
    a parallel pair, whose capacity is taken by ``school``; ``shares`` is how
    they were seen to share. ``layout`` is where it stands, None while nobody said;
    ``panels`` those on its inputs.
    """

    name: str
    kind: SourceKind
    claims: Claims
    note: str = ""
    wires: Wires = field(default_factory=Wires)
    planned: bool = False
    units: tuple[Unit, ...] = ()
    school: PairSchool = PairSchool.TWICE_SMALLER
    shares: tuple[Share, ...] = ()
    layout: NoiseLayout | None = None
    owning: Owning = field(default_factory=Owning)
    panels: tuple[Panels, ...] = ()

    def __post_init__(self) -> None:
        if len(self.units) not in (0, 2):
            raise OutOfRange(f"got {len(self.units)} units", where="units", want="none, or two in parallel")

    @property
    def claim_grade(self) -> Grade:
        """The grade of its claims."""
        return Grade.D if self.planned else Grade.C

    @property
    def basis(self) -> str:
        """What its claims rest on."""
        return "shelf" if self.planned else "nameplate"


@dataclass(frozen=True)
class Site:
    """Where the source stands: height above sea level [m] and air temperature [°C]."""

    altitude_m: float = 0.0
    temp_c: float = 20.0

    def __post_init__(self) -> None:
        require_between(self.altitude_m, -400, 6000, "altitude_m")
        require_between(self.temp_c, -50, 60, "temp_c")


@dataclass(frozen=True)
class Derating:
    """The share of an engine's claim that is left, and how it came about."""

    share: float
    workings: tuple[Working, ...]


def derate(kind: SourceKind, fuel: str, site: Site) -> Derating:
    """Share of the claim left at this site: altitude, heat and fuel, multiplied.

    3.5 % of what is left per 300 m above sea level, 1 % per 5.5 K above 25 °C, propane −10 %,
    natural gas −20 %. Sources without an engine keep their claim.

    Raises
    ------
    UnknownChoice
        If the fuel is not known.

    References
    ----------
    Common makers' guidance for naturally aspirated engines; a measured figure replaces it.
    """
    if not kind.has_engine:
        note = Working(
            "no engine, so no derating by air or fuel",
            "claim × 1",
            "100 % of the claim",
            "engines alone lose power to thin or hot air",
        )
        return Derating(1.0, (note,))
    height_m = max(0.0, site.altitude_m)
    heat_k = max(0.0, site.temp_c - DERATE_HEAT_FROM_C)
    parts = (
        (
            (1 - DERATE_ALTITUDE_PCT_PER_300_M / 100) ** (height_m / 300),
            f"altitude: every {plain(300.0, 'm')} takes 3.5 % of what is left",
            f"0.965 ^ ({plain(height_m, 'm')} / {plain(300.0, 'm')})",
        ),
        (
            1 - heat_k / DERATE_HEAT_K_PER_PCT / 100,
            f"heat: 1 % lost per {plain(5.5, 'k')} above {plain(DERATE_HEAT_FROM_C, 'c')}",
            f"1 − 0.01 × {plain(heat_k, 'k')} / {plain(5.5, 'k')}",
        ),
        (
            1 - FUEL_LOSS_PCT.get(fuel, 0.0) / 100,
            f"fuel: {fuel or 'rated on it'}",
            f"1 − {FUEL_LOSS_PCT.get(fuel, 0):g} %",
        ),
    )
    workings = tuple(
        Working(formula, put_in, f"{share * 100:.1f} %", "makers' guidance for naturally aspirated engines")
        for share, formula, put_in in parts
    )
    share = math.prod(max(0.0, part[0]) for part in parts)
    product = Working(
        "altitude × heat × fuel",
        " × ".join(f"{part[0]:.3f}" for part in parts),
        f"{share * 100:.1f} % of the claim is left",
    )
    return Derating(share, (*workings, product))


@dataclass(frozen=True)
class FuelUse:
    """Litres an hour against load: ``a_lph + b_lph_per_w · P``."""

    a_lph: float
    b_lph_per_w: float

    def lph(self, w: float) -> float:
        """Litres an hour at a load [W]."""
        return self.a_lph + self.b_lph_per_w * w


def fuel_use(claims: Claims) -> FuelUse | None:
    """Straight line through the claimed use at half and full load, None if not both are said."""
    if claims.half_load_lph is None or claims.full_load_lph is None:
        return None
    slope = (claims.full_load_lph - claims.half_load_lph) / (claims.cont_w / 2)
    return FuelUse(claims.full_load_lph - slope * claims.cont_w, slope)
