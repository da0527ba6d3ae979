"""One contract for every driver, against the stand-in that speaks its protocol, through a wire with faults."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator

import pytest

from muster.core.errors import MusterError
from muster.core.sessions import Place
from muster.core.timeline.traces import Channel
from muster.instruments.driver import Driver, Garbled, NoAnswer
from muster.instruments.lines import TEMPERATURE, LineDriver
from muster.instruments.link import Link, driver_of, find, parse_registers, registers_text, strip_of
from muster.instruments.modbus import ModbusDriver, SunSpecDriver
from muster.instruments.outlets import OutletStrip
from muster.instruments.registers import encode
from muster.instruments.scpi import ScpiDriver
from muster.instruments.standins import Rig, StandIns, demo_rig, serve
from muster.instruments.standins.servers import PANEL, POWERS, SCOPE_HZ
from muster.twin.meters import truth

from .faulty import FaultyWire

HOST, PATIENCE_S = "127.0.0.1", 2.0
"""Long enough for a stalled machine, short enough for twenty faults."""
DRIVERS: dict[str, Callable[[int], Driver]] = {
    "sunspec": lambda port: SunSpecDriver(HOST, port, patience_s=PATIENCE_S),
    "panel": lambda port: ModbusDriver(PANEL, HOST, port, patience_s=PATIENCE_S),
    "scpi": lambda port: ScpiDriver(HOST, port, patience_s=PATIENCE_S),
    "sound": lambda port: LineDriver(HOST, port, patience_s=2 * PATIENCE_S),
    "thermometer": lambda port: LineDriver(HOST, port, TEMPERATURE, patience_s=2 * PATIENCE_S),
}
FAULTS = ("silent", "garbage", "half", "unplugged")


class Clock:
    """A clock that stands still until it is moved: what is read can be compared with the truth."""

    def __init__(self) -> None:
        self.now = 0.0

    def __call__(self) -> float:
        return self.now


@pytest.fixture(scope="module")
def clock() -> Clock:
    return Clock()


@pytest.fixture(scope="module")
def rig(clock: Clock) -> Rig:
    found = demo_rig(clock)
    for key in ("1", "5", "6"):
        found.switch(key, on=True)
    for _ in range(25):
        clock.now += 0.2
        found.sample()
    return found


@pytest.fixture(scope="module")
def standins(rig: Rig) -> Iterator[StandIns]:
    running = serve(rig)
    yield running
    running.stop()


@pytest.fixture(params=list(DRIVERS))
def kind(request: pytest.FixtureRequest) -> str:
    name: str = request.param
    return name


@pytest.fixture
def wire(standins: StandIns, kind: str) -> Iterator[FaultyWire]:
    found = FaultyWire(standins.ports[kind])
    yield found
    found.close()


@pytest.fixture
def driver(wire: FaultyWire, kind: str) -> Iterator[Driver]:
    made = DRIVERS[kind](wire.port)
    yield made
    made.close()


def test_what_it_reads_is_what_stands_on_the_bench(driver: Driver, rig: Rig) -> None:
    driver.open()
    assert isinstance(driver, Driver)
    assert driver.name
    seen = driver.read()
    assert tuple(one.channel for one in seen) == driver.channels
    sample = rig.sample()
    for one in seen:
        true = truth(sample, one.channel, rig.bench)
        if math.isfinite(true):
            assert one.value == pytest.approx(true, rel=0.01, abs=0.6), one.channel.heading


def test_it_may_be_read_again_and_closed_twice(driver: Driver) -> None:
    driver.open()
    for _ in range(2):
        assert tuple(one.channel for one in driver.read()) == driver.channels
    driver.close()
    driver.close()
    assert driver.read()


@pytest.mark.parametrize("fault", FAULTS)
def test_a_fault_is_told_and_nothing_wrong_is_read_and_it_recovers(
    driver: Driver, wire: FaultyWire, fault: str
) -> None:
    driver.open()
    before = {one.channel: one.value for one in driver.read()}
    wire.fault = fault
    driver.close()
    with pytest.raises((NoAnswer, Garbled)) as caught:
        driver.read()
    assert caught.value.where
    assert caught.value.want
    wire.fault = ""
    after = {one.channel: one.value for one in driver.read()}
    assert after.keys() == before.keys()
    for channel, value in after.items():
        assert value == pytest.approx(before[channel], rel=0.02, abs=0.6, nan_ok=True), channel.heading


def test_an_instrument_that_is_not_there_is_told_at_once(kind: str) -> None:
    with pytest.raises(NoAnswer, match="nothing there"):
        DRIVERS[kind](1).open()


def test_an_instrument_of_another_kind_is_not_taken_for_this_one(standins: StandIns, kind: str) -> None:
    wrong = {"sunspec": "panel", "panel": "strip", "scpi": "sound", "sound": "thermometer", "thermometer": "sound"}[
        kind
    ]
    driver = DRIVERS[kind](standins.ports[wrong])

    def open_and_read() -> None:
        driver.open()
        driver.read()

    with pytest.raises((NoAnswer, Garbled)):
        open_and_read()
    driver.close()


def test_what_is_switched_at_the_strip_shows_on_every_instrument(standins: StandIns, rig: Rig, clock: Clock) -> None:
    from pymodbus.client import ModbusTcpClient

    strip = ModbusTcpClient(HOST, port=standins.ports["strip"], timeout=1)
    strip.connect()
    outlet = rig.keys.index("2")
    for on in (True, False):
        strip.write_coil(outlet, on, device_id=1)
        clock.now += 0.5
        assert strip.read_coils(outlet, count=1, device_id=1).bits[0] is on
        for kind in ("sunspec", "panel", "scpi"):
            driver = DRIVERS[kind](standins.ports[kind])
            driver.open()
            watts = {one.channel: one.value for one in driver.read()}[Channel("w", Place.LEG2)]
            assert (watts > 900) is on, kind
            driver.close()
    strip.close()


def test_a_surge_of_many_kilowatts_still_fits_its_word() -> None:
    """Tenths of a watt would end at 3.2 kW, in the midst of a start."""
    assert encode(11_500 / 10 ** POWERS["w"], "i16") == [11_500]


def test_a_scope_gives_its_last_seconds_of_volts_and_amps(standins: StandIns, rig: Rig) -> None:
    driver = ScpiDriver(HOST, standins.ports["scpi"], patience_s=2)
    driver.open()
    record = driver.capture()
    volts, amps = record.volts, record.amps
    assert record.step_s == pytest.approx(1 / SCOPE_HZ)
    assert volts.size * record.step_s > 3
    assert volts.size == amps.size
    assert record.ago_s > 0
    last = slice(-round(0.5 / record.step_s), None)
    sample = rig.sample()
    assert (volts[last] ** 2).mean() ** 0.5 == pytest.approx(sample.leg_v[0], rel=0.01)
    assert (amps[last] ** 2).mean() ** 0.5 == pytest.approx(sample.leg_a[0], rel=0.02)
    driver.close()


def test_an_outlet_strip_that_nobody_speaks_to_switches_everything_off(
    standins: StandIns, rig: Rig, clock: Clock
) -> None:
    strip = OutletStrip(HOST, standins.ports["strip"])
    outlet = rig.keys.index("2")
    strip.switch(outlet, on=True)
    strip.watch(2.0)
    assert strip.watchdog_s() == 2.0
    clock.now += 1.5
    strip.watch(2.0)
    clock.now += 1.5
    assert strip.states()[outlet]
    clock.now += 1.0
    assert not any(strip.states())
    for key in ("1", "5", "6"):
        rig.switch(key, on=True)
    strip.close()


def test_what_is_on_a_machine_is_found_by_what_it_speaks(standins: StandIns) -> None:
    ports = {name: standins.ports[name] for name in ("sunspec", "strip", "scpi", "sound", "thermometer")}
    found = {one.link.port: one for one in find(HOST, (*ports.values(), 1))}
    assert {name: found[port].link.speaks for name, port in ports.items()} == {name: name for name in ports}
    assert found[ports["sunspec"]].name == "Hask Bench Twin"
    assert found[ports["scpi"]].reads == 7
    assert 1 not in found


def test_a_panel_meter_is_not_taken_for_an_outlet_strip(standins: StandIns) -> None:
    assert list(find(HOST, (standins.ports["panel"],))) == []


def test_a_link_gives_the_driver_that_speaks_its_language(standins: StandIns) -> None:
    text = registers_text(PANEL.registers)
    link = Link("modbus", HOST, standins.ports["panel"], registers=parse_registers(text), inputs=True)
    driver = driver_of(link)
    assert {one.channel for one in driver.read()} == {register.channel for register in PANEL.registers}
    driver.close()
    strip = strip_of(Link("strip", HOST, standins.ports["strip"]))
    assert strip.states()
    strip.close()


@pytest.mark.parametrize(
    ("text", "where"), [("100,f32", "line 1"), ("# heading\n\n7,f32,l9_v,1", "line 3"), ("x,u16,f_hz,1", "line 1")]
)
def test_a_register_map_with_a_slip_says_the_line(text: str, where: str) -> None:
    with pytest.raises(MusterError) as caught:
        parse_registers(text)
    assert caught.value.where == "registers"
    assert caught.value.what.startswith(where)


@pytest.mark.parametrize(
    "wrong",
    [
        {"speaks": "morse"},
        {"speaks": "scpi", "port": 0},
        {"speaks": "modbus"},
        {"speaks": "scpi", "host": " "},
        {"speaks": "scpi", "serial": "/dev/ttyUSB0"},
    ],
)
def test_a_link_that_leads_nowhere_is_refused(wrong: dict[str, object]) -> None:
    with pytest.raises(MusterError):
        Link(**wrong)  # type: ignore[arg-type]
