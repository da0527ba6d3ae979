"""Instruments reached over the wire from the kit's pages: found, tested, watched; and a recording set up from the bench."""

from __future__ import annotations

from collections.abc import Iterator

import pytest
from django.contrib.auth.models import AbstractUser
from django.test import Client
from django.urls import reverse

from muster.instruments.link import Link
from muster.instruments.standins import StandIns, demo_rig, serve
from muster.instruments.standins.servers import HOST, PANEL
from muster.records import bridge
from muster.records.actions import demo as demo_actions
from muster.records.actions import kit
from muster.records.models import InstrumentRow, SessionRow, StripRow


@pytest.fixture(scope="module")
def standins() -> Iterator[StandIns]:
    running = serve(demo_rig())
    yield running
    running.stop()


def row_of(who: AbstractUser, slug: str) -> InstrumentRow:
    kit.kit_rows(who)
    return InstrumentRow.objects.get(slug=slug)


def page(client: Client, name: str, *args: int, **query: str) -> str:
    return client.get(reverse(name, args=args), query).content.decode()


def looked(client: Client, ports: str) -> str:
    return client.post(reverse("kit-look"), {"host": HOST, "ports": ports}).content.decode()


def test_an_instrument_is_found_taken_and_its_figures_watched(
    client: Client, who: AbstractUser, standins: StandIns
) -> None:
    port = standins.ports["scpi"]
    found = looked(client, str(port))
    assert "Hask Bench" in found
    row = row_of(who, "recorder")
    taken = client.post(reverse("kit-take"), {"speaks": "scpi", "host": HOST, "port": port, "instrument": row.pk})
    assert taken.url == f"{reverse('kit-reach', args=[row.pk])}?speaks=scpi&host={HOST}&port={port}"
    assert f'value="{port}"' in client.get(taken.url).content.decode()
    client.post(
        reverse("kit-reach", args=[row.pk]), {"speaks": "scpi", "host": HOST, "port": port, "unit": 1, "baud": 9600}
    )
    figures = page(client, "kit-figures", row.pk)
    assert "120.0\u202fV" in figures
    assert "±" in figures
    assert f"{HOST}:{port}" in page(client, "kit")


def test_a_register_map_is_given_as_text_and_its_slips_stand_beside_it(
    client: Client, who: AbstractUser, standins: StandIns
) -> None:
    row = row_of(who, "meter")
    url = reverse("kit-reach", args=[row.pk])
    given = {"speaks": "modbus", "host": HOST, "port": standins.ports["panel"], "unit": 1, "baud": 9600, "inputs": "on"}
    answer = client.post(url, {**given, "registers": "100,f32,l1_v\n102,f32"})
    assert answer.status_code == 422
    assert "line 2" in answer.content.decode()
    lines = "\n".join(f"{r.address},{r.kind},{r.channel.heading},{r.scale}" for r in PANEL.registers)
    assert client.post(url, {**given, "registers": lines}).status_code == 302
    shown = page(client, "kit-figures", row.pk)
    assert "volts, leg 2" in shown
    assert "not what this instrument is said to read" in shown, "a panel meter is no thermometer"


def test_an_instrument_that_does_not_answer_says_where_to_look(client: Client, who: AbstractUser) -> None:
    row = row_of(who, "meter")
    kit.set_link(row, Link("scpi", HOST, 1))
    assert "No answer" in page(client, "kit-figures", row.pk)
    client.post(reverse("kit-forget", args=[row.pk]))
    assert "by eye" in page(client, "kit-reach", row.pk)
    assert "no address" in page(client, "kit-figures", row.pk)


@pytest.mark.parametrize(("ports", "status"), [("8080, x", 422), ("70000", 422), ("1", 200)])
def test_ports_are_numbers(client: Client, who: AbstractUser, ports: str, status: int) -> None:
    assert client.post(reverse("kit-look"), {"host": HOST, "ports": ports}).status_code == status


def test_an_outlet_strip_is_found_looked_at_and_taken_out(
    client: Client, who: AbstractUser, standins: StandIns
) -> None:
    port = standins.ports["strip"]
    assert "the outlet strip" in looked(client, str(port))
    for _ in range(2):
        client.post(reverse("kit-take"), {"speaks": "strip", "host": HOST, "port": port})
    row = StripRow.objects.get()
    assert "not armed" in page(client, "kit-strip", row.pk)
    client.post(reverse("kit-strip-archive", args=[row.pk]))
    assert f'href="{reverse("kit-strip", args=[row.pk])}"' not in page(client, "kit")
    client.post(reverse("kit-take"), {"speaks": "strip", "host": HOST, "port": port})
    assert StripRow.objects.get().removed_at is None
    kit.add_strip(Link("strip", HOST, 1), who)
    assert "No answer" in page(client, "kit-strip", StripRow.objects.last().pk)


def test_what_was_found_must_lead_somewhere(client: Client, who: AbstractUser) -> None:
    for wrong in ({"speaks": "morse", "host": HOST, "port": 1}, {"speaks": "strip", "host": HOST, "port": "x"}):
        assert client.post(reverse("kit-take"), wrong).url == reverse("kit-look")


def test_a_recording_is_set_up_from_the_instruments_that_have_an_address(
    client: Client, ladder: SessionRow, who: AbstractUser, standins: StandIns
) -> None:
    args = (ladder.source.job_id, ladder.pk)
    assert "No instrument of the kit has an address yet" in page(client, "session-record", *args)
    demo_actions.link_standins(standins.ports, who)
    shown = page(client, "session-record", *args)
    assert "power recorder, SCPI at" in shown
    assert "outlet 1" in shown
    given = {
        "every_s": "0.1",
        "instruments": ["meter"],
        "strip": str(StripRow.objects.get().pk),
        "outlet_1": "0",
        "outlet_2": "0",
    }
    answer = client.post(reverse("session-record", args=args), given)
    assert answer.status_code == 422
    assert "two loads on one outlet" in answer.content.decode()
    assert client.get(reverse("session-run", args=args)).url == reverse("session-record", args=args)


def test_an_instrument_put_through_more_than_it_stands_is_warned_of(
    client: Client, ladder: SessionRow, who: AbstractUser
) -> None:
    kit.set_link(row_of(who, "plug"), Link("scpi", HOST, 1))
    row = row_of(who, "plug")
    row.data = {**row.data, "safe_a": 2.0}
    row.save()
    assert "the plug-in meter is safe with 2" in page(client, "session-record", ladder.source.job_id, ladder.pk)


def test_the_kit_is_checked_on_the_mains_and_what_stands_apart_is_wider_from_then_on(
    client: Client, ladder: SessionRow, who: AbstractUser
) -> None:
    url = reverse("kit-check")
    page = client.post(url, {"meter_v": "230", "multimeter_v": "230.4", "plug_v": "238"}).content.decode()
    assert "Plug-in meter stands apart" in page
    plug = kit.instrument_of(InstrumentRow.objects.get(slug="plug"))
    assert (plug.apart[0].quantity, round(plug.apart[0].share, 3)) == ("v", 0.034)
    ladder.refresh_from_db()
    in_session = bridge.session_data(ladder).kit_on().instrument_for("v", "plug")
    assert in_session.apart == plug.apart, "open sessions are read with the kit as it is now"
    assert "apart in volts" in client.get(reverse("kit")).content.decode()
    client.post(url, {"meter_v": "230", "plug_v": "230.5"})
    assert kit.instrument_of(InstrumentRow.objects.get(slug="plug")).apart == ()


def test_one_figure_alone_is_held_against_nothing(client: Client, who: AbstractUser) -> None:
    answer = client.post(reverse("kit-check"), {"meter_v": "230"})
    assert answer.status_code == 422
    assert "the same figure from two instruments" in answer.content.decode()


def test_a_date_of_calibration_is_kept_and_a_description_keeps_what_the_check_found(
    client: Client, who: AbstractUser
) -> None:
    client.post(reverse("kit-check"), {"meter_v": "230", "plug_v": "240"})
    row = InstrumentRow.objects.get(slug="plug")
    url = reverse("kit-edit", args=[row.pk])
    form = client.get(url).context["form"]
    filled = {name: "" if (value := form[name].value()) in (None, False) else value for name in form.fields}
    assert client.post(url, {**filled, "calibrated": "2026-03-02"}).status_code == 302
    row.refresh_from_db()
    plug = kit.instrument_of(row)
    assert (plug.calibrated, bool(plug.apart)) == ("2026-03-02", True)
