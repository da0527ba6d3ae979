"""How instruments are reached: addresses given, looked for, tested, their figures watched; and outlet strips."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from django import forms
from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from muster.core.errors import MusterError
from muster.core.kit import Instrument
from muster.core.quantities import THIN, UNIT_WORDS, number, plain
from muster.instruments.driver import Garbled, NoAnswer
from muster.instruments.link import FoundInstrument, Link, driver_of, find, parse_registers, registers_text
from muster.instruments.outlets import OUTLETS
from muster.instruments.protocols import LOOK_AT, PROTOCOLS
from muster.records.actions import kit as actions
from muster.records.actions.recordings import link_of
from muster.records.models import InstrumentRow, StripRow
from muster.web.ui.error_text import error_sentence
from muster.web.ui.forms import CoreForm, number_field
from muster.web.ui.said import say_undoable

MOST_PORTS = 40
SUITS = {protocol.slug: protocol.suits for protocol in PROTOCOLS.values() if protocol.suits}
"""The instrument of the usual kit that speaks so as a rule."""


@dataclass(frozen=True)
class LiveFigure:
    """A figure of an instrument as it reads now: how true it is, and whether it is out of its range."""

    label: str
    figure: str
    sure: str
    outside: bool


class LinkForm(CoreForm):
    """The address of an instrument, and its registers where it speaks by a map."""

    speaks = forms.ChoiceField(
        label="It speaks",
        choices=[(key, protocol.label) for key, protocol in PROTOCOLS.items() if protocol.driver is not None],
    )
    host = forms.CharField(label="Host", required=False, max_length=120, initial="127.0.0.1")
    port = number_field(
        "Port", required=True, help_text=f"Modbus {PROTOCOLS['modbus'].port}, SCPI {PROTOCOLS['scpi'].port} as a rule"
    )
    unit = number_field("Unit", required=True, help_text="Modbus only; 1 as a rule")
    serial = forms.CharField(
        label="Or a serial line",
        required=False,
        max_length=120,
        help_text="Modbus, or lines of text; such as /dev/ttyUSB0",
    )
    baud = number_field("Baud", required=True)
    inputs = forms.BooleanField(label="Its registers are input registers", required=False)
    registers = forms.CharField(
        label="Register map",
        required=False,
        widget=forms.Textarea(attrs={"class": "form-control mono", "rows": 6, "spellcheck": "false"}),
        help_text="a line each: address,kind,channel,scale such as 108,i32,l1_w,0.1; kinds u16 i16 u32 i32 f32",
    )

    def link(self) -> Link | None:
        """The address given, None with what is wrong beside it."""
        return self.build(self._made)

    def _made(self) -> Link:
        data = self.cleaned_data
        registers = parse_registers(data["registers"]) if PROTOCOLS[data["speaks"]].needs_registers else ()
        return Link(
            speaks=data["speaks"],
            host=data["host"].strip(),
            port=int(data["port"]),
            unit=int(data["unit"]),
            serial=data["serial"].strip(),
            baud=int(data["baud"]),
            registers=registers,
            inputs=data["inputs"] and PROTOCOLS[data["speaks"]].needs_registers,
        )


def _initial(link: Link | None) -> dict[str, Any]:
    if link is None:
        return {"host": "127.0.0.1", "port": 502, "unit": 1, "baud": 9600}
    shown = {name: getattr(link, name) for name in ("speaks", "host", "port", "unit", "serial", "baud", "inputs")}
    return {**shown, "registers": registers_text(link.registers)}


def _row(instrument_id: int) -> InstrumentRow:
    return get_object_or_404(InstrumentRow, pk=instrument_id)


def reach(request: HttpRequest, instrument_id: int) -> HttpResponse:
    """Say how an instrument is reached, and see what it reads."""
    row = _row(instrument_id)
    link = link_of(row)
    offered = {
        **_initial(link),
        **{key: value for key, value in request.GET.items() if key in ("speaks", "host", "port")},
    }
    form = LinkForm(request.POST or None, initial=offered)
    if request.method == "POST" and form.is_valid():
        made = form.link()
        if made is not None:
            actions.set_link(row, made)
            return redirect("kit-reach", row.pk)
    context = {"row": row, "instrument": actions.instrument_of(row), "form": form, "link": link}
    return render(request, "kit/reach.html", context, status=422 if form.errors else 200)


def figures(request: HttpRequest, instrument_id: int) -> HttpResponse:
    """What an instrument reads at this moment."""
    row = _row(instrument_id)
    link, instrument = link_of(row), actions.instrument_of(row)
    context: dict[str, Any] = {"row": row, "instrument": instrument}
    if link is not None:
        driver = driver_of(link)
        try:
            driver.open()
            context["name"] = driver.name
            context["shown"] = [_shown(item.channel, item.value, instrument) for item in driver.read()]
        except (NoAnswer, Garbled) as error:
            context["error"] = error_sentence(error)
        finally:
            driver.close()
    return render(request, "kit/figures.html", context)


def _shown(channel: Any, value: float, instrument: Instrument) -> LiveFigure:
    measure = instrument.measure(channel.measured)
    if measure is None:
        return LiveFigure(
            channel.label, plain(value, channel.unit), "not what this instrument is said to read", outside=False
        )
    unit = UNIT_WORDS.get(channel.unit, "")
    sure = f"±{THIN}{number(measure.u(value), channel.unit)}{THIN}{unit}" if value == value else ""
    return LiveFigure(channel.label, plain(value, channel.unit), sure, outside=not measure.low <= value <= measure.high)


@require_POST
def forget(request: HttpRequest, instrument_id: int) -> HttpResponse:
    """Forget how an instrument is reached: it is read by eye again."""
    row = _row(instrument_id)
    actions.set_link(row, None)
    messages.info(request, f"The {actions.instrument_of(row).name} is read by eye again.")
    return redirect("kit")


def look(request: HttpRequest) -> HttpResponse:
    """Look for instruments on a host; asked by POST, so that no other site's link can make Muster knock anywhere."""
    host = request.POST.get("host", "").strip()
    ports, wrong = _ports(request.POST.get("ports", ""))
    result = list(find(host, ports)) if host and not wrong else []
    rows = actions.kit_rows(request.user)
    context = {
        "host": host,
        "ports": request.POST.get("ports", ""),
        "usual": ", ".join(map(str, LOOK_AT)),
        "looked": bool(host) and not wrong,
        "found": [_offer(item) for item in result],
        "rows": [(row, actions.instrument_of(row)) for row in rows],
        "wrong": wrong,
    }
    return render(request, "kit/look.html", context, status=422 if wrong else 200)


def _offer(found_instrument: FoundInstrument) -> dict[str, Any]:
    return {
        "found": found_instrument,
        "label": found_instrument.link.protocol.label,
        "strip": found_instrument.link.protocol.has_outlets,
        "suits": SUITS.get(found_instrument.link.speaks, ""),
    }


def _ports(text: str) -> tuple[tuple[int, ...], str]:
    """The ports typed, or the usual ones; and what is wrong with them."""
    if not text.strip():
        return LOOK_AT, ""
    parts = text.replace(",", " ").split()
    if all(part.isdigit() and 0 < int(part) < 65536 for part in parts) and len(parts) <= MOST_PORTS:
        return tuple(int(part) for part in parts), ""
    return (), f"Ports are numbers from 1 to 65535, {MOST_PORTS} at most."


@require_POST
def take(request: HttpRequest) -> HttpResponse:
    """Take what was found into the kit: as the address of an instrument, or as an outlet strip."""
    try:
        link = Link(
            speaks=request.POST.get("speaks", ""),
            host=request.POST.get("host", ""),
            port=int(request.POST.get("port", "0") or 0),
        )
        if link.protocol.has_outlets:
            actions.add_strip(link, request.user)
            messages.info(request, "The outlet strip is in the kit; say what hangs on it when you record.")
            return redirect("kit")
    except (MusterError, ValueError) as error:
        messages.error(request, error_sentence(error) if isinstance(error, MusterError) else "That is no port.")
        return redirect("kit-look")
    row = _row(int(request.POST.get("instrument", "0") or 0))
    return redirect(f"{reverse('kit-reach', args=[row.pk])}?speaks={link.speaks}&host={link.host}&port={link.port}")


def strip(request: HttpRequest, strip_id: int) -> HttpResponse:
    """The outlets of a strip: whether they are on, and how to try one."""
    row = get_object_or_404(StripRow, pk=strip_id)
    context: dict[str, Any] = {"row": row, "link": link_of(row)}
    context |= actions.look_at_strip(row)
    context["outlets"] = list(enumerate(context.get("states", ())[:OUTLETS], 1))
    return render(request, "kit/strip.html", context)


@require_POST
def strip_away(request: HttpRequest, strip_id: int) -> HttpResponse:
    """Take an outlet strip out of the kit, or put it back."""
    row = get_object_or_404(StripRow, pk=strip_id)
    actions.put_away_strip(row)
    if row.removed_at is not None:
        say_undoable(request, f"The {row.name} is out of the kit.", reverse("kit-strip-archive", args=[row.pk]))
    return redirect("kit")
