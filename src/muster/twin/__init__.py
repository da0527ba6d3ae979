"""The bench twin: source, wiring, loads and meters as a stepped, seeded physical model.

Voltages and currents are phasors of the fundamental, stepped at a
millisecond while anything moves and coarsely when nothing does. SI inside.
"""

from .appliances import Appliance, appliance_of
from .battery import Battery, BatteryClaims
from .bench import Bench, Event, Faults, Leads, Sample
from .engine import Engine, EngineClaims
from .inverter import Inverter, InverterClaims
from .pair import Pair
from .sets import EnginePair

__all__ = [
    "Appliance", "Battery", "BatteryClaims", "Bench", "Engine", "EngineClaims", "EnginePair", "Event", "Faults", "Inverter", "InverterClaims",
    "Leads", "Pair", "Sample", "appliance_of",
]  # fmt: skip
