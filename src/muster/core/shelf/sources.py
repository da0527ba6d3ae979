"""Kinds of source with planning claims (grade D): to begin with, until the nameplate has been read."""

from __future__ import annotations

from dataclasses import dataclass

from ..loads import Wave
from ..sources import Claims, SourceKind


@dataclass(frozen=True)
class ShelfSource:
    """A kind of source, what it is usually claimed to do, and what to look for on its nameplate."""

    slug: str
    name: str
    kind: SourceKind
    claims: Claims
    look_for: str


OPEN, QUIET = SourceKind.OPEN_FRAME, SourceKind.INVERTER_SET
INVERTER, HYBRID, STATION = SourceKind.INVERTER, SourceKind.HYBRID, SourceKind.STATION

SOURCE_SHELF = (
    ShelfSource(
        "open-3", "open-frame petrol set, 3 kW", OPEN,
        Claims(cont_w=2800, surge_w=3300, surge_s=10, breaker_a=25, noise_dba_7m=72, tank_l=15, half_load_lph=1.2, full_load_lph=1.9),
        "whether the big figure on its side is the surge",
    ),
    ShelfSource(
        "open-5", "open-frame petrol set, 5 kW", OPEN,
        Claims(cont_w=5000, surge_w=6250, surge_s=10, breaker_a=25, noise_dba_7m=74, tank_l=25, half_load_lph=1.9, full_load_lph=3.2),
        "what each leg may carry, and whether neutral is bonded to its frame",
    ),
    ShelfSource(
        "open-8", "open-frame petrol set, 8 kW", OPEN,
        Claims(cont_w=8000, surge_w=10000, surge_s=10, breaker_a=35, noise_dba_7m=76, tank_l=30, half_load_lph=2.8, full_load_lph=4.7),
        "its voltage regulator: capacitor or electronic",
    ),
    ShelfSource(
        "open-7-propane", "open-frame set on propane, 7 kW of petrol", OPEN,
        Claims(cont_w=7000, surge_w=8750, surge_s=10, breaker_a=35, noise_dba_7m=75, fuel="propane"),
        "whether the nameplate's watts are for petrol or for propane",
    ),
    ShelfSource(
        "standby-10-gas", "fixed set on natural gas, 10 kW", OPEN,
        Claims(cont_w=10000, surge_w=12000, surge_s=5, breaker_a=45, noise_dba_7m=66, fuel="natural gas"),
        "the rating on gas, and the gap of its transfer switch",
    ),
    ShelfSource(
        "diesel-6", "diesel set, 6 kW", OPEN,
        Claims(cont_w=6000, surge_w=6600, surge_s=10, breaker_a=30, noise_dba_7m=72, fuel="diesel", tank_l=20, half_load_lph=1.3, full_load_lph=2.2),
        "rated kVA against kW: the power factor it is rated at",
    ),
    ShelfSource(
        "quiet-2", "inverter set, 2 kW", QUIET,
        Claims(cont_w=1800, surge_w=2200, surge_s=10, breaker_a=20, thd_pct=3, noise_dba_7m=57, tank_l=4, half_load_lph=0.6, full_load_lph=1.0),
        "how long the surge may last, and eco mode's dip",
    ),
    ShelfSource(
        "quiet-4", "inverter set, 3.6 kW", QUIET,
        Claims(cont_w=3600, surge_w=4200, surge_s=8, breaker_a=16, thd_pct=3, noise_dba_7m=58, tank_l=12, half_load_lph=0.9, full_load_lph=1.7),
        "whether each socket has its own limit",
    ),
    ShelfSource(
        "inverter-1-stepped", "12 V inverter on a bank, 1 kW, stepped wave", INVERTER,
        Claims(cont_w=1000, surge_w=2000, surge_s=0.3, wave=Wave.STEPPED, battery_wh=2400, usable_pct=50, idle_w=8, battery_low_v=10.8,
               battery_a=120, conversion_pct=85),
        "the waveform by its own name, and the fuse it wants",
    ),
    ShelfSource(
        "inverter-3-sine", "24 V inverter on a bank, 3 kW, sine wave", INVERTER,
        Claims(cont_w=3000, surge_w=6000, surge_s=5, thd_pct=3, battery_wh=5000, usable_pct=80, idle_w=25, battery_low_v=22, battery_a=180,
               conversion_pct=90),
        "idle draw with and without its search mode",
    ),
    ShelfSource(
        "hybrid-5", "hybrid inverter, 5 kW, 48 V battery and panels", HYBRID,
        Claims(cont_w=5000, surge_w=10000, surge_s=5, thd_pct=3, battery_wh=5120, usable_pct=90, idle_w=55, transfer_ms=15, battery_only_w=4500,
               battery_a=100, battery_low_v=46, conversion_pct=91),
        "the battery's own amps, which may trip below the inverter's rating",
    ),
    ShelfSource(
        "hybrid-12", "hybrid inverter, 12 kW split-phase, two batteries", HYBRID,
        Claims(cont_w=12000, surge_w=18000, surge_s=5, per_leg_w=6000, thd_pct=3, battery_wh=20000, usable_pct=90, idle_w=90, transfer_ms=15,
               battery_only_w=10000, battery_a=250, battery_low_v=46, conversion_pct=93),
        "the limit of one leg, and of its autotransformer",
    ),
    ShelfSource(
        "station-1", "battery station, 1 kWh", STATION,
        Claims(cont_w=1000, surge_w=2000, surge_s=1, thd_pct=3, battery_wh=1000, usable_pct=85, idle_w=12, transfer_ms=20, conversion_pct=88),
        "whether “surge” is a mode that lowers the volts",
    ),
    ShelfSource(
        "station-2", "battery station, 2 kWh", STATION,
        Claims(cont_w=2000, surge_w=4000, surge_s=1, thd_pct=3, battery_wh=2000, usable_pct=85, idle_w=18, transfer_ms=20, conversion_pct=89),
        "its idle draw with the output on: a day of it may be a fifth of the battery",
    ),
    ShelfSource(
        "vehicle-outlet", "socket of a parked electric car, 2.4 kW", STATION,
        Claims(cont_w=2400, surge_w=2400, surge_s=1, thd_pct=4, battery_wh=40000, usable_pct=70, idle_w=250, conversion_pct=90),
        "what the car keeps awake for it, and where it stops to keep range",
    ),
)  # fmt: skip
"""Ordinary claims of each size, rounded; see docs/shelf.md. No maker's figures."""

SOURCE_BY_SLUG = {entry.slug: entry for entry in SOURCE_SHELF}
