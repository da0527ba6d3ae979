"""What instruments speak, in one table: words, port, driver, how it is looked for, what it can do, and its stand-in.

Command line, forms, the search for instruments and the contract tests derive from it.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from .driver import Driver
    from .link import Link

TALKS_X = 2.0
"""An instrument that talks by itself is given so many times longer: its next line may be a while."""
NEVER = 0
"""Not looked for: nothing tells it from another by asking."""


@dataclass(frozen=True)
class InstrumentProtocol:
    """A way in which instruments speak.

    ``driver`` makes the driver of a link, given so long [s] for an answer;
    None for what reads nothing. ``probe`` is its place in the order in which
    an unknown address is asked (who talks by itself first, for asking could
    disturb it). ``serial``: it is spoken over serial lines too;
    ``needs_registers``: a register map is given as data; ``keeps_waves``: its
    instrument is a scope that can be asked for its last seconds;
    ``has_outlets``: it switches loads. ``on_command_line`` is what ``muster
    record`` says of it, empty where it is not offered there. ``suits`` is the
    instrument of the usual kit that speaks so as a rule, ``standin`` the
    simulated one that ships with Muster.
    """

    slug: str
    label: str
    port: int
    driver: Callable[[Link, float], Driver] | None
    standin: str
    probe: int = NEVER
    serial: bool = True
    needs_registers: bool = False
    keeps_waves: bool = False
    has_outlets: bool = False
    on_command_line: str = ""
    suits: str = ""


# The library of a protocol is loaded when it is spoken: the table is read by every command.


def _sunspec(link: Link, patience_s: float) -> Driver:
    from .modbus import SunSpecDriver

    return SunSpecDriver(link.host, link.port, link.unit, patience_s, link.serial, link.baud)


def _modbus(link: Link, patience_s: float) -> Driver:
    from .modbus import ModbusDriver
    from .registers import RegisterMap

    map_ = RegisterMap("register map", link.registers, link.inputs)
    return ModbusDriver(map_, link.host, link.port, link.unit, patience_s, link.serial, link.baud)


def _scpi(link: Link, patience_s: float) -> Driver:
    from .scpi import ScpiDriver

    return ScpiDriver(link.host, link.port, patience_s=patience_s)


def _sound(link: Link, patience_s: float) -> Driver:
    from .lines import SOUND, LineDriver

    return LineDriver(link.host, link.port, SOUND, TALKS_X * patience_s, link.serial, link.baud)


def _temperature(link: Link, patience_s: float) -> Driver:
    from .lines import TEMPERATURE, LineDriver

    return LineDriver(link.host, link.port, TEMPERATURE, TALKS_X * patience_s, link.serial, link.baud)


PROTOCOLS = {
    protocol.slug: protocol
    for protocol in (
        InstrumentProtocol(
            slug="sunspec",
            label="SunSpec over Modbus",
            port=502,
            driver=_sunspec,
            standin="sunspec",
            probe=4,
            on_command_line="an inverter, meter or battery that speaks SunSpec over Modbus TCP",
            suits="display",
        ),
        InstrumentProtocol(
            slug="modbus",
            label="Modbus, by a register map",
            port=502,
            driver=_modbus,
            standin="panel",
            needs_registers=True,
        ),
        InstrumentProtocol(
            slug="scpi",
            label="SCPI",
            port=5025,
            driver=_scpi,
            standin="scpi",
            probe=3,
            serial=False,
            keeps_waves=True,
            on_command_line="a power analyser over SCPI",
            suits="recorder",
        ),
        InstrumentProtocol(
            slug="sound",
            label="lines of text, sound level",
            port=5000,
            driver=_sound,
            standin="sound",
            probe=1,
            on_command_line="a sound level meter that talks in lines",
            suits="sound",
        ),
        InstrumentProtocol(
            slug="thermometer",
            label="lines of text, temperature",
            port=5001,
            driver=_temperature,
            standin="thermometer",
            probe=2,
            on_command_line="a thermometer that talks in lines",
            suits="thermometer",
        ),
        InstrumentProtocol(
            slug="strip", label="outlet strip, Modbus coils", port=502, driver=None, standin="strip", has_outlets=True
        ),
    )
}
"""By slug, in the order in which they are offered."""
PROBED = tuple(sorted((p for p in PROTOCOLS.values() if p.probe), key=lambda protocol: protocol.probe))
"""Those that an unknown address is asked for, in order."""
OUTLET_STRIP = next(protocol.slug for protocol in PROTOCOLS.values() if protocol.has_outlets)
"""The protocol of outlet strips."""
FIRST_STANDIN_PORT = 8470
STANDINS = ("sunspec", "panel", "strip", "scpi", "sound", "thermometer")
"""The stand-ins that ship with Muster, in the order of their ports."""
LOOK_AT = (
    *dict.fromkeys(protocol.port for protocol in PROTOCOLS.values()),
    *range(FIRST_STANDIN_PORT, FIRST_STANDIN_PORT + len(STANDINS)),
)
"""Ports looked at when nobody says which: the protocols' usual ones, and the stand-ins'."""
