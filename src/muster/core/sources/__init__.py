"""A source as it is claimed to be, the limits behind it, and pairs of two."""

from .claims import (
    DERATE_ALTITUDE_PCT_PER_300_M,
    DERATE_HEAT_FROM_C,
    DERATE_HEAT_K_PER_PCT,
    FUEL_LOSS_PCT,
    Claims,
    Derating,
    FuelUse,
    PairSchool,
    Share,
    Site,
    Source,
    SourceKind,
    Unit,
    Wires,
    derate,
    fuel_use,
)

__all__ = [
    "DERATE_ALTITUDE_PCT_PER_300_M",
    "DERATE_HEAT_FROM_C",
    "DERATE_HEAT_K_PER_PCT",
    "FUEL_LOSS_PCT",
    "Claims",
    "Derating",
    "FuelUse",
    "PairSchool",
    "Share",
    "Site",
    "Source",
    "SourceKind",
    "Unit",
    "Wires",
    "derate",
    "fuel_use",
]
