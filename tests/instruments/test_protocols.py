"""The table of what instruments speak: each row whole, and everything that offers instruments derived from it."""

from __future__ import annotations

import pytest

from muster.cli.bench import offered
from muster.instruments.link import Link, driver_of, parse_registers
from muster.instruments.protocols import LOOK_AT, OUTLET_STRIP, PROBED, PROTOCOLS, STANDINS, InstrumentProtocol
from muster.web.kit.links import SUITS
from tests.instruments import test_contract


@pytest.mark.parametrize("protocol", PROTOCOLS.values(), ids=PROTOCOLS)
def test_every_protocol_is_whole(protocol: InstrumentProtocol) -> None:
    assert protocol.label
    assert protocol.standin in STANDINS
    assert protocol.port in LOOK_AT
    assert (protocol.driver is None) == protocol.has_outlets


@pytest.mark.parametrize("protocol", [p for p in PROTOCOLS.values() if p.driver is not None], ids=lambda p: p.slug)
def test_every_protocol_that_reads_makes_its_driver_and_is_held_to_the_contract(protocol: InstrumentProtocol) -> None:
    registers = parse_registers("100,f32,l1_v,1") if protocol.needs_registers else ()
    assert driver_of(Link(protocol.slug, registers=registers)).read is not None
    assert protocol.standin in test_contract.DRIVERS


def test_every_standin_is_some_protocols_and_has_a_port_that_is_looked_at() -> None:
    assert {protocol.standin for protocol in PROTOCOLS.values()} == set(STANDINS)


def test_an_unknown_address_is_asked_in_one_order() -> None:
    assert [protocol.slug for protocol in PROBED] == ["sound", "thermometer", "scpi", "sunspec"]
    assert len({protocol.probe for protocol in PROBED}) == len(PROBED)


def test_what_is_offered_elsewhere_is_of_the_table() -> None:
    assert set(offered()) <= set(PROTOCOLS)
    assert set(SUITS) <= set(PROTOCOLS)
    assert PROTOCOLS[OUTLET_STRIP].has_outlets
