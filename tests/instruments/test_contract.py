"""One contract for every driver, against the stand-in that speaks its protocol, through a wire with faults."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator

import pytest

from muster.core.sessions import Place
from muster.core.traces import Channel
from muster.instruments import Driver, Garbled, LineDriver, ModbusDriver, NoAnswer, ScpiDriver, SunSpecDriver
from muster.instruments.lines import TEMPERATURE
from muster.instruments.registers import encode
from muster.instruments.standins import Rig, StandIns, demo_rig, serve
from muster.instruments.standins.servers import PANEL, POWERS
from muster.twin.meters import truth

from .faulty import FaultyWire

HOST, PATIENCE_S = "127.0.0.1", 1.0
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
    for _ in range(5):
        clock.now += 1.0
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
    assert {one.channel for one in driver.read()} == {one.channel for one in driver.read()}
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


def test_a_scope_gives_a_waveform_of_the_volts_it_stands_at(standins: StandIns, rig: Rig) -> None:
    driver = ScpiDriver(HOST, standins.ports["scpi"], patience_s=2)
    driver.open()
    step_s, volts = driver.capture()
    assert step_s == pytest.approx(1e-4)
    assert (volts**2).mean() ** 0.5 == pytest.approx(rig.sample().leg_v[0], rel=0.01)
    driver.close()
