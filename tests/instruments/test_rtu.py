"""Modbus RTU and lines of text over a serial line: two pseudo-terminals, tied together by a wire that can be cut."""

from __future__ import annotations

import contextlib
import os
import pty
import select
import threading
import tty
from collections.abc import Iterator

import pytest
import serial

from muster.core.sessions import Place
from muster.core.timeline.traces import Channel
from muster.instruments.driver import Garbled, NoAnswer
from muster.instruments.link import Link, driver_of
from muster.instruments.standins import demo_rig, serve


class SerialWire:
    """Two serial lines tied end to end; ``fault`` garbles or swallows what the instrument says."""

    def __init__(self) -> None:
        self.fault = ""
        (self.near, near), (self.far, far) = pty.openpty(), pty.openpty()
        self.fds = (self.near, near, self.far, far)
        for fd in self.fds:
            tty.setraw(fd)
        self.driver_line, self.instrument_line = os.ttyname(near), os.ttyname(far)
        self.over = threading.Event()
        self.thread = threading.Thread(target=self._carry, daemon=True)
        self.thread.start()

    def _carry(self) -> None:
        while not self.over.is_set():
            ready, _, _ = select.select([self.near, self.far], [], [], 0.05)
            for fd in ready:
                with contextlib.suppress(OSError):
                    raw = os.read(fd, 4096)
                    if fd == self.far and self.fault == "silent":
                        continue
                    if fd == self.far and self.fault == "garbage":
                        raw = bytes((byte * 7 + 131) % 256 for byte in raw)
                    os.write(self.far if fd == self.near else self.near, raw)

    def close(self) -> None:
        self.over.set()
        self.thread.join()
        for fd in self.fds:
            os.close(fd)


@pytest.fixture
def wire() -> Iterator[SerialWire]:
    found = SerialWire()
    yield found
    found.close()


def test_an_instrument_on_a_serial_line_is_read_and_its_faults_are_told(wire: SerialWire) -> None:
    rig = demo_rig()
    rig.switch("1", on=True)
    running = serve(rig, serial=wire.instrument_line)
    driver = driver_of(Link("sunspec", serial=wire.driver_line), 2.0)
    driver.open()
    assert driver.name == "Hask Bench Twin"
    volts = {one.channel: one.value for one in driver.read()}[Channel("v", Place.LEG1)]
    assert volts == pytest.approx(rig.sample().leg_v[0], rel=0.01)
    for fault in ("silent", "garbage"):
        wire.fault = fault
        with pytest.raises((NoAnswer, Garbled)):
            driver.read()
        wire.fault = ""
        assert {one.channel for one in driver.read()} == set(driver.channels)
    driver.close()
    running.stop()


def test_an_instrument_that_talks_in_lines_is_heard_over_a_serial_line(wire: SerialWire) -> None:
    meter = serial.Serial(wire.instrument_line, 9600)
    driver = driver_of(Link("sound", serial=wire.driver_line), 1.0)
    driver.open()
    meter.write(b"LAS = 52.3 dB\r\nLAS = 5")
    assert [one.value for one in driver.read()] == [52.3]
    meter.write(b"4.0 dB\r\n")
    assert [one.value for one in driver.read()] == [54.0], "half a line waits for its other half"
    wire.fault = "silent"
    meter.write(b"LAS = 60.0 dB\r\n")
    with pytest.raises(NoAnswer):
        driver.read()
    wire.fault = "garbage"
    meter.write(b"LAS = 60.0 dB\r\n" * 3)
    with pytest.raises((NoAnswer, Garbled)):
        driver.read()
    driver.close()
    meter.close()


@pytest.mark.parametrize("speaks", ["sunspec", "thermometer"])
def test_a_serial_line_that_is_not_there_is_told_at_once(speaks: str) -> None:
    with pytest.raises(NoAnswer, match="nothing there"):
        driver_of(Link(speaks, serial="/dev/no-such-line")).open()
