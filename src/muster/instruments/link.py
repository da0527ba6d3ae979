"""How an instrument is reached, as data: what it speaks, where; and the driver that speaks it."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from muster.core.errors import MusterError, UnknownChoice, require_between
from muster.core.timeline.traces import channel_named

from .driver import PATIENCE_S, Driver, Garbled, NoAnswer, NothingThere
from .outlets import OutletStrip
from .protocols import LOOK_AT, OUTLET_STRIP, PROBED, PROTOCOLS, InstrumentProtocol
from .registers import Register

GLANCE_S = 0.4
"""How long each way of speaking is given when instruments are looked for."""


@dataclass(frozen=True)
class Link:
    """What an instrument speaks, and its address: host and port, or a serial line. ``registers`` for a map given as data."""

    speaks: str
    host: str = "127.0.0.1"
    port: int = 502
    unit: int = 1
    serial: str = ""
    baud: int = 9600
    registers: tuple[Register, ...] = ()
    inputs: bool = False

    def __post_init__(self) -> None:
        if self.speaks not in PROTOCOLS:
            raise UnknownChoice(f"got “{self.speaks}”", where="speaks", want=", ".join(PROTOCOLS))
        if not (self.host.strip() or self.serial.strip()):
            raise MusterError("no address", where="host", want="a host such as 192.168.1.40, or a serial line")
        require_between(self.port, 1, 65535, "port")
        require_between(self.unit, 0, 247, "unit")
        require_between(self.baud, 300, 1_000_000, "baud")
        if self.protocol.needs_registers and not self.registers:
            raise MusterError("no registers", where="registers", want="a line each, such as 100,f32,l1_v,1")
        if self.serial and not self.protocol.serial:
            raise MusterError(f"is not for {self.protocol.label} here", where="serial", want="a host and port")

    @property
    def protocol(self) -> InstrumentProtocol:
        """What it speaks."""
        return PROTOCOLS[self.speaks]

    @property
    def where(self) -> str:
        """The address in short."""
        return self.serial or f"{self.host}:{self.port}"

    @property
    def label(self) -> str:
        """What it speaks and where, in words."""
        return f"{self.protocol.label} at {self.where}"


def driver_of(link: Link, patience_s: float = PATIENCE_S) -> Driver:
    """The driver for an instrument, not yet opened.

    Raises
    ------
    UnknownChoice
        For an outlet strip, which reads nothing: ``strip_of``.
    """
    make = link.protocol.driver
    if make is None:
        raise UnknownChoice("an outlet strip reads nothing", where="speaks", want="an instrument that measures")
    return make(link, patience_s)


def strip_of(link: Link) -> OutletStrip:
    """The outlet strip at a link, not yet opened."""
    return OutletStrip(link.host, link.port, link.unit, serial=link.serial, baud=link.baud)


@dataclass(frozen=True)
class FoundInstrument:
    """Something that answered: what it calls itself, how it is reached, and how many figures it gave."""

    link: Link
    name: str
    reads: int


def find(host: str, ports: Sequence[int] = LOOK_AT) -> Iterator[FoundInstrument]:
    """Look what answers on a host: who talks by itself, then who knows SCPI, then SunSpec, then coils; nothing is written to it."""
    for port in ports:
        result = _at(host, port)
        if result is not None:
            yield result


def _at(host: str, port: int) -> FoundInstrument | None:
    for protocol in PROBED:
        link = Link(speaks=protocol.slug, host=host, port=port)
        driver = driver_of(link, GLANCE_S)
        try:
            driver.open()
            return FoundInstrument(link, driver.name, len(driver.read()))
        except NothingThere:
            return None
        except (NoAnswer, Garbled):
            continue
        finally:
            driver.close()
    return _by_coils(Link(speaks=OUTLET_STRIP, host=host, port=port))


def _by_coils(link: Link) -> FoundInstrument | None:
    """An outlet strip: coils, and a watchdog beside them."""
    strip = strip_of(link)
    try:
        strip.watchdog_s()
        return FoundInstrument(link, "outlet strip", len(strip.states()))
    except (NoAnswer, Garbled):
        return None
    finally:
        strip.close()


def parse_registers(text: str) -> tuple[Register, ...]:
    """A register map written as lines ``address,kind,channel,scale``: ``108,i32,l1_w,0.1``.

    Raises
    ------
    MusterError
        If a line is not such, with its number.
    """
    registers = []
    for number, line in enumerate(text.splitlines(), 1):
        if not line.strip() or line.lstrip().startswith("#"):
            continue
        parts = [part.strip() for part in line.replace(";", ",").split(",")]
        try:
            scale = float(parts[3]) if len(parts) > 3 and parts[3] else 1.0
            registers.append(Register(int(parts[0]), parts[1], channel_named(parts[2]), scale))
        except (ValueError, IndexError):
            raise MusterError(
                f"line {number}: got “{line.strip()[:40]}”",
                where="registers",
                want="address,kind,channel,scale such as 108,i32,l1_w,0.1",
            ) from None
        except MusterError as error:
            raise MusterError(f"line {number}: {error.what}", where="registers", want=error.want) from None
    return tuple(registers)


def registers_text(registers: Sequence[Register]) -> str:
    """A register map as ``parse_registers`` reads it."""
    return "\n".join(f"{r.address},{r.kind},{r.channel.heading},{r.scale:g}" for r in registers)
