"""The servers of the stand-ins: SunSpec and a register map over Modbus TCP, SCPI, lines of text, and an outlet strip."""

from __future__ import annotations

import asyncio
import contextlib
import math
import threading
from collections.abc import Awaitable, Callable, Sequence
from dataclasses import dataclass
from typing import Any

from pymodbus.constants import ExcCodes
from pymodbus.server import ModbusSerialServer, ModbusTcpServer
from pymodbus.simulator import DataType, SimData, SimDevice

from muster.core.sessions import Place
from muster.core.timeline.traces import Channel
from muster.instruments import sunspec
from muster.instruments.outlets import WATCHDOG_PER_S
from muster.instruments.registers import Register, RegisterMap, encode
from muster.twin import Sample
from muster.twin.meters import truth

from .rig import Rig

HOST = "127.0.0.1"
SERIAL_BAUD = 9600
METRES = 7.0
TALKS_EVERY_S = 0.25
SCOPE_HZ = 5_000.0
PASSES_S = 0.05
"""The bench goes on so often by itself, also when nobody looks."""
REGISTER_CALLS = (3, 6, 16)
"""Modbus functions on holding registers: the strip's watchdog."""
POWERS = {"hz": -2, "a": -2, "w": 0}
"""Powers of ten in which the stand-in tells its figures: a word holds 32 767 W."""
MODELS = (102, 124, 202)
NAME = ("Hask Bench", "Twin")
PANEL = RegisterMap(
    "panel meter",
    (
        Register(100, "f32", Channel("v", Place.LEG1)),
        Register(102, "f32", Channel("v", Place.LEG2)),
        Register(104, "f32", Channel("a", Place.LEG1)),
        Register(106, "f32", Channel("a", Place.LEG2)),
        Register(108, "i32", Channel("w", Place.LEG1), 0.1),
        Register(110, "i32", Channel("w", Place.LEG2), 0.1),
        Register(112, "u16", Channel("hz"), 0.01),
        Register(113, "i16", Channel("temp_c"), 0.1),
    ),
    inputs=True,
)
"""A panel meter's registers, as a booklet would list them."""


def _truth(rig: Rig, channel: Channel) -> float:
    return truth(rig.sample(), channel, rig.bench, METRES)


# Modbus


def sunspec_words(rig: Rig) -> dict[int, int]:
    """Every register of the stand-in's SunSpec map as it is now."""
    sample = rig.sample()
    words = dict(enumerate(sunspec.MARK, sunspec.BASES[0]))
    at = sunspec.BASES[0] + 2
    for model in (sunspec.COMMON, *MODELS):
        length = sunspec.LENGTHS[model]
        body = [model, length, *([0xFFFF] * length)]
        if model == sunspec.COMMON:
            body[2:66] = [0] * 64
            for offset, text in zip((2, 18), NAME, strict=True):
                raw = text.encode().ljust(32, b"\0")
                body[offset : offset + 16] = [int.from_bytes(raw[i : i + 2], "big") for i in range(0, 32, 2)]
        else:
            _fill(body, model, sample, rig)
        words |= dict(enumerate(body, at))
        at += len(body)
    return words | {at: sunspec.END, at + 1: 0}


def _fill(body: list[int], model: int, sample: Sample, rig: Rig) -> None:
    for point in sunspec.MODELS[model]:
        value = truth(sample, point.channel, rig.bench, METRES) / point.factor
        power = 0
        if point.scale_at is not None:
            power = POWERS.get(point.channel.quantity, -1)
            body[point.scale_at] = encode(power, "i16")[0]
        body[point.offset] = encode(value / 10**power if math.isfinite(value) else math.nan, point.kind)[0]


def panel_words(rig: Rig) -> dict[int, int]:
    """Every register of the panel meter as it is now."""
    words: dict[int, int] = {}
    sample = rig.sample()
    for register in PANEL.registers:
        value = truth(sample, register.channel, rig.bench, METRES) / register.scale
        words |= dict(enumerate(encode(value, register.kind), register.address))
    return words


def _device(words: Callable[[], dict[int, int]]) -> SimDevice:
    """A device whose registers are looked up when they are asked for."""
    first = words()
    low, high = min(first), max(first)

    async def look(
        function: int,
        start: int,
        address: int,
        count: int,
        now: list[int],
        wanted: Sequence[int] | Sequence[bool] | None,
    ) -> ExcCodes | None:
        if wanted is not None:
            return ExcCodes.ILLEGAL_FUNCTION
        fresh = words()
        for i in range(len(now)):
            now[i] = fresh.get(start + i, 0)
        return None

    return SimDevice(
        1,
        [SimData(low, values=[first.get(a, 0) for a in range(low, high + 1)], datatype=DataType.REGISTERS)],
        action=look,
    )


def _strip(rig: Rig) -> SimDevice:
    """An outlet strip: a coil for each load, in the order of the loads, and its watchdog; written, it switches."""
    keys = rig.keys

    async def look(
        function: int,
        start: int,
        address: int,
        count: int,
        now: list[int],
        wanted: Sequence[int] | Sequence[bool] | None,
    ) -> ExcCodes | None:
        if function in REGISTER_CALLS:
            if wanted is not None:
                rig.watch(float(wanted[0]) / WATCHDOG_PER_S)
            now[0] = round(rig.watchdog_s * WATCHDOG_PER_S)
            return None
        if wanted is not None:
            for i, on in enumerate(wanted):
                if address + i < len(keys):
                    rig.switch(keys[address + i], on=bool(on))
        for i in range(len(now)):
            here = keys[16 * (start + i) : 16 * (start + i + 1)]
            now[i] = sum(rig.is_on(key) << bit for bit, key in enumerate(here))
        return None

    coils = [SimData(0, values=[False] * 16, datatype=DataType.BITS)]
    spare = [SimData(0, values=[0], datatype=DataType.REGISTERS)]
    return SimDevice(1, (coils, [SimData(0, values=[False] * 16, datatype=DataType.BITS)], spare, spare), action=look)


# lines


def scpi_answer(rig: Rig, command: str) -> str | None:
    """What the power analyser and scope answers; None to what it does not know, as SCPI instruments do."""
    words = command.strip().upper()
    if words == "*IDN?":
        return ",".join((*NAME, "0001", "1.0"))
    if words == "DIG?":
        rig.hold(SCOPE_HZ)
        return "1"
    if words == "WAV:XINC?":
        return f"{1 / SCOPE_HZ:.6e}"
    if words in ("WAV:DATA? 1", "WAV:DATA? 2"):
        return ",".join(f"{figure:.2f}" for figure in rig.held(int(words[-1]))) or "9.91E+37"
    if words == "MEAS:FREQ?":
        return f"{_truth(rig, Channel('hz')):.4E}"
    asked, _, number = words.partition("? ")
    quantity = {"MEAS:VOLT": "v", "MEAS:CURR": "a", "MEAS:POW": "w"}.get(asked)
    if quantity is None or number not in ("1", "2"):
        return None
    value = _truth(rig, Channel(quantity, Place(number)))
    return f"{value:.4E}" if math.isfinite(value) else "9.91E+37"


async def _scpi(rig: Rig, reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
    while raw := await reader.readline():
        answer = scpi_answer(rig, raw.decode("ascii", "replace"))
        if answer is not None:
            writer.write(f"{answer}\n".encode())
            await writer.drain()


async def _talk(say: Callable[[], str], reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
    while not writer.is_closing():
        writer.write(f"{say()}\r\n".encode())
        await writer.drain()
        await asyncio.sleep(TALKS_EVERY_S)


Handler = Callable[[asyncio.StreamReader, asyncio.StreamWriter], Awaitable[None]]


def _polite(handler: Handler) -> Handler:
    """A handler that ends quietly when the other side hangs up."""

    async def handle(reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
        with contextlib.suppress(ConnectionError, asyncio.CancelledError):
            await handler(reader, writer)
        writer.close()

    return handle


@dataclass
class StandIns:
    """The stand-ins as they run: their ports by name, and how they are stopped."""

    ports: dict[str, int]
    stop: Callable[[], None]


async def _start(rig: Rig, ports: dict[str, int], serial: str) -> list[Callable[[], Awaitable[None]]]:
    """Start every server; how each is stopped."""
    stops: list[Callable[[], Awaitable[None]]] = []
    devices = {
        "sunspec": _device(lambda: sunspec_words(rig)),
        "panel": _device(lambda: panel_words(rig)),
        "strip": _strip(rig),
    }
    for name, device in devices.items():
        server = ModbusTcpServer(device, address=(HOST, ports.get(name, 0)))
        await server.serve_forever(background=True)
        listening: Any = server.transport
        ports[name] = listening.sockets[0].getsockname()[1]
        stops.append(server.shutdown)
    if serial:
        line = ModbusSerialServer(devices["sunspec"], port=serial, baudrate=SERIAL_BAUD)
        await line.serve_forever(background=True)
        stops.append(line.shutdown)
    handlers: dict[str, Handler] = {
        "scpi": lambda reader, writer: _scpi(rig, reader, writer),
        "sound": lambda reader, writer: _talk(lambda: f"LAS = {rig.dba(METRES):.1f} dB", reader, writer),
        "thermometer": lambda reader, writer: _talk(lambda: f"T={rig.sample().temp_c:.1f} C", reader, writer),
    }
    for name, handler in handlers.items():
        lines = await asyncio.start_server(_polite(handler), HOST, ports.get(name, 0))
        ports[name] = lines.sockets[0].getsockname()[1]
        stops.append(_closing(lines))
    going = asyncio.create_task(_go_on(rig))
    stops.append(_cancelling(going))
    return stops


async def _go_on(rig: Rig) -> None:
    """Let the bench's time pass, also when nobody looks."""
    while True:
        rig.pass_time()
        await asyncio.sleep(PASSES_S)


def _cancelling(task: asyncio.Task[None]) -> Callable[[], Awaitable[None]]:
    async def stop() -> None:
        task.cancel()

    return stop


def _closing(server: asyncio.Server) -> Callable[[], Awaitable[None]]:
    async def stop() -> None:
        server.close()

    return stop


def serve(rig: Rig, ports: dict[str, int] | None = None, serial: str = "") -> StandIns:
    """Start every stand-in in a thread of its own, on the ports given or any free ones.

    With a ``serial`` line the SunSpec instrument speaks Modbus RTU there too.
    """
    loop = asyncio.new_event_loop()
    stand_ins = dict(ports or {})
    ready, failed = threading.Event(), list[BaseException]()

    def run() -> None:
        asyncio.set_event_loop(loop)
        try:
            stops.extend(loop.run_until_complete(_start(rig, stand_ins, serial)))
        except BaseException as error:
            failed.append(error)
            return
        finally:
            ready.set()
        loop.run_forever()
        loop.run_until_complete(_end(stops))
        loop.close()

    stops: list[Callable[[], Awaitable[None]]] = []
    thread = threading.Thread(target=run, name="stand-ins", daemon=True)
    thread.start()
    ready.wait(10)
    if failed:
        raise failed[0]

    def stop() -> None:
        with contextlib.suppress(RuntimeError):  # stopped before: its loop is closed
            loop.call_soon_threadsafe(loop.stop)
        thread.join(10)

    return StandIns(stand_ins, stop)


async def _end(stops: Sequence[Callable[[], Awaitable[None]]]) -> None:
    for stop in stops:
        with contextlib.suppress(Exception):
            await stop()
    left = [task for task in asyncio.all_tasks() if task is not asyncio.current_task()]
    for task in left:
        task.cancel()
    await asyncio.gather(*left, return_exceptions=True)
