"""The bench twin: source, wiring, loads and meters as a stepped, seeded physical model.

Voltages and currents are phasors of the fundamental, stepped at a
millisecond while anything moves and coarsely when nothing does. SI inside.
"""

from .appliances import Appliance, appliance_of
from .battery import Battery, BatteryClaims
from .bench import Bench, Faults, Leads, Sample, TwinEvent
from .engine import Engine, EngineClaims
from .inverter import Inverter, InverterClaims
from .pair import TwinPair
from .sets import EnginePair

__all__ = [
    "Appliance",
    "Battery",
    "BatteryClaims",
    "Bench",
    "Engine",
    "EngineClaims",
    "EnginePair",
    "Faults",
    "Inverter",
    "InverterClaims",
    "Leads",
    "Sample",
    "TwinEvent",
    "TwinPair",
    "appliance_of",
]
