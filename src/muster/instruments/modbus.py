"""Modbus instruments, over TCP or a serial line: by a register map, or found by SunSpec."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from pymodbus.client import ModbusSerialClient, ModbusTcpClient
from pymodbus.exceptions import ModbusException

from muster.core.timeline.traces import Channel

from . import sunspec
from .driver import PATIENCE_S, Garbled, NoAnswer, NothingThere, Seen
from .registers import MOST_AT_ONCE, RegisterMap, decode


def modbus_client(host: str, port: int, patience_s: float, serial: str, baud: int) -> Any:
    """A client of the protocol library, not yet connected: over TCP, or over a serial line where one is named."""
    if serial:
        return ModbusSerialClient(serial, baudrate=baud, timeout=patience_s, retries=0)
    return ModbusTcpClient(host, port=port, timeout=patience_s, retries=0)


class _Wire:
    """A Modbus connection that reads registers, and connects again when it must."""

    def __init__(self, host: str, port: int, unit: int, patience_s: float, serial: str = "", baud: int = 9600) -> None:
        self.where = serial or f"{host}:{port}"
        self.unit = unit
        self._client = modbus_client(host, port, patience_s, serial, baud)

    def connect(self) -> None:
        if not self._client.connected and not self._client.connect():
            raise NothingThere("nothing there", where=self.where, want="the instrument on, its address and port")

    def read(self, address: int, count: int, *, inputs: bool = False) -> Sequence[int]:
        """Read words; more than a request may hold in several.

        Raises
        ------
        NoAnswer
            If it cannot be reached or does not answer in time.
        Garbled
            If it refuses, or answers with fewer words than asked.
        """
        words: list[int] = []
        while len(words) < count:
            wanted = min(MOST_AT_ONCE, count - len(words))
            words += self._once(address + len(words), wanted, inputs=inputs)
        return words

    def _once(self, address: int, count: int, *, inputs: bool) -> Sequence[int]:
        self.connect()
        ask = self._client.read_input_registers if inputs else self._client.read_holding_registers
        try:
            answer = ask(address, count=count, device_id=self.unit)
        except ModbusException as error:
            self.close()
            raise NoAnswer(f"no answer: {error}".split("\n")[0], where=self.where, want="look at its cable") from None
        except OSError as error:
            self.close()
            raise NoAnswer(f"the line broke: {error}", where=self.where, want="look at its cable") from None
        if answer.isError():
            raise Garbled(f"it refused register {address}", where=self.where, want="another map or unit")
        words: Sequence[int] = answer.registers
        if len(words) != count:
            self.close()
            raise Garbled(f"{len(words)} words for {count}", where=self.where, want="as many as asked")
        return words

    def close(self) -> None:
        self._client.close()


class ModbusDriver:
    """An instrument whose registers are given as a map."""

    def __init__(
        self,
        map_: RegisterMap,
        host: str = "127.0.0.1",
        port: int = 502,
        unit: int = 1,
        patience_s: float = PATIENCE_S,
        serial: str = "",
        baud: int = 9600,
    ) -> None:
        self._map = map_
        self._wire = _Wire(host, port, unit, patience_s, serial, baud)

    @property
    def name(self) -> str:
        """The name of its map."""
        return self._map.name

    @property
    def channels(self) -> tuple[Channel, ...]:
        """What it reads."""
        return tuple(register.channel for register in self._map.registers)

    def open(self) -> None:
        """Connect.

        Raises
        ------
        NoAnswer
            If nothing is there.
        """
        self._wire.connect()

    def read(self) -> tuple[Seen, ...]:
        """Read every register once.

        Raises
        ------
        NoAnswer, Garbled
            As the wire.
        """
        words: dict[int, int] = {}
        for address, count in self._map.spans:
            got = self._wire.read(address, count, inputs=self._map.inputs)
            words |= {address + i: word for i, word in enumerate(got)}
        return tuple(
            Seen(r.channel, decode([words[r.address + i] for i in range(r.width)], r.kind) * r.scale)
            for r in self._map.registers
        )

    def close(self) -> None:
        """Let the wire go."""
        self._wire.close()


class SunSpecDriver:
    """An instrument that tells its own models: found when it is opened, every known one read."""

    def __init__(
        self,
        host: str = "127.0.0.1",
        port: int = 502,
        unit: int = 1,
        patience_s: float = PATIENCE_S,
        serial: str = "",
        baud: int = 9600,
    ) -> None:
        self._wire = _Wire(host, port, unit, patience_s, serial, baud)
        self._models: tuple[sunspec.FoundModel, ...] = ()
        self._name = ""

    @property
    def name(self) -> str:
        """Maker and model, as it says itself."""
        return self._name

    @property
    def channels(self) -> tuple[Channel, ...]:
        """What its models hold; of a channel in two models the first counts."""
        return tuple(
            dict.fromkeys(point.channel for model_found in self._models for point in sunspec.MODELS[model_found.model])
        )

    def open(self) -> None:
        """Connect and walk its models.

        Raises
        ------
        NoAnswer
            If nothing is there.
        Garbled
            If it speaks no SunSpec, or none of its models is known.
        """
        self._wire.connect()
        found_models = sunspec.walk(self._wire.read)
        common = next((item for item in found_models if item.model == sunspec.COMMON), None)
        self._name = sunspec.name_of(self._wire.read(common.address, common.length + 2)) if common else ""
        self._models = tuple(item for item in found_models if item.model in sunspec.MODELS)
        if not self._models:
            raise Garbled(
                "none of its models is known here", where=self._wire.where, want=", ".join(map(str, sunspec.MODELS))
            )

    def read(self) -> tuple[Seen, ...]:
        """Read every known model once.

        Raises
        ------
        NoAnswer, Garbled
            As the wire.
        """
        if not self._models:
            self.open()
        seen: dict[Channel, float] = {}
        for each_model in self._models:
            for channel, value in sunspec.figures(
                each_model.model, self._wire.read(each_model.address, each_model.length + 2)
            ):
                seen.setdefault(channel, value)
        return tuple(Seen(channel, value) for channel, value in seen.items())

    def close(self) -> None:
        """Let the wire go."""
        self._wire.close()
