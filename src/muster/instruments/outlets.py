"""An outlet strip over Modbus: a coil an outlet, and a watchdog that lets all go when nobody speaks to it."""

from __future__ import annotations

from typing import Any

from pymodbus.exceptions import ModbusException

from .driver import PATIENCE_S, Garbled, NoAnswer, NothingThere
from .modbus import modbus_client

OUTLETS = 16
"""Coils asked for: one an outlet, as most strips have them."""
WATCHDOG_REGISTER = 0
WATCHDOG_PER_S = 10
"""The watchdog's holding register counts tenths of a second; 0 switches it off."""


class OutletStrip:
    """Switches outlets. ``watch`` arms the strip's own watchdog: unless it is renewed in time, the strip switches everything off."""

    def __init__(
        self, host: str, port: int, unit: int = 1, patience_s: float = PATIENCE_S, serial: str = "", baud: int = 9600
    ) -> None:
        self.where = serial or f"{host}:{port}"
        self._unit = unit
        self._client = modbus_client(host, port, patience_s, serial, baud)

    def _ask(self, what: str, *args: Any, **kwargs: Any) -> Any:
        if not self._client.connected and not self._client.connect():
            raise NothingThere("nothing there", where=self.where, want="the strip on, its address and port")
        try:
            answer = getattr(self._client, what)(*args, device_id=self._unit, **kwargs)
        except (ModbusException, OSError) as error:
            self.close()
            raise NoAnswer(f"no answer: {error}".split("\n")[0], where=self.where, want="look at its cable") from None
        if answer.isError():
            raise Garbled(f"it refused to {what.replace('_', ' ')}", where=self.where, want="an outlet strip")
        return answer

    def states(self) -> tuple[bool, ...]:
        """Which outlets are on.

        Raises
        ------
        NoAnswer, Garbled
            If it cannot be reached, or has no coils.
        """
        return tuple(bool(bit) for bit in self._ask("read_coils", 0, count=OUTLETS).bits[:OUTLETS])

    def switch(self, outlet: int, *, on: bool) -> None:
        """Switch an outlet, counted from 0.

        Raises
        ------
        NoAnswer, Garbled
            As ``states``.
        """
        self._ask("write_coil", outlet, on)

    def all_off(self) -> None:
        """Switch every outlet off at once.

        Raises
        ------
        NoAnswer, Garbled
            As ``states``.
        """
        self._ask("write_coils", 0, [False] * OUTLETS)

    def watch(self, seconds: float) -> None:
        """Arm or renew the watchdog; 0 disarms it.

        Raises
        ------
        NoAnswer, Garbled
            As ``states``.
        """
        self._ask("write_register", WATCHDOG_REGISTER, round(seconds * WATCHDOG_PER_S))

    def watchdog_s(self) -> float:
        """How long its watchdog waits; 0 when it is not armed.

        Raises
        ------
        NoAnswer, Garbled
            As ``states``, and where it has no watchdog.
        """
        words = self._ask("read_holding_registers", WATCHDOG_REGISTER, count=1).registers
        return float(words[0]) / WATCHDOG_PER_S

    def close(self) -> None:
        """Let the wire go."""
        self._client.close()
