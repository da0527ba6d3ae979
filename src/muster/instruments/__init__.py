"""Drivers for real instruments over open protocols, behind one small interface: open, read, close.

Bytes are parsed without I/O; register maps and command tables are data.
Stand-ins that speak the same protocols on loopback, fed by the bench twin,
are in ``standins``.
"""

from .driver import Driver, Garbled, NoAnswer, Seen
from .lines import LineDriver, LineTable
from .modbus import ModbusDriver, SunSpecDriver
from .registers import Register, RegisterMap
from .scpi import Query, ScpiDriver

__all__ = [
    "Driver",
    "Garbled",
    "LineDriver",
    "LineTable",
    "ModbusDriver",
    "NoAnswer",
    "Query",
    "Register",
    "RegisterMap",
    "ScpiDriver",
    "Seen",
    "SunSpecDriver",
]
