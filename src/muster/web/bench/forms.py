"""Starting a session, and the forms beside the log line."""

from __future__ import annotations

from dataclasses import replace
from datetime import datetime
from typing import Any
from zoneinfo import ZoneInfo

from django import forms

from muster.core.errors import MusterError
from muster.core.kit import Kit
from muster.core.loads import Load
from muster.core.sessions import PROTOCOLS, Conditions, Event, Item, Place, Reading, Start, Stat
from muster.core.sessions.clipboard import look_boxes_of
from muster.core.sessions.condition_words import BELIEVED
from muster.core.sources import FUEL_LOSS_PCT
from muster.core.supply import System
from muster.web.ui.forms import CoreForm, number_field

NOT_SAID = [("", "not said")]


class StartForm(CoreForm):
    """The conditions of a session."""

    protocol = forms.ChoiceField(label="Test", choices=[(slug, PROTOCOLS[slug].name) for slug in PROTOCOLS])
    temp_c = number_field("Air temperature", "°C")
    altitude_m = number_field("Altitude", "m", help_text="the site’s, unless it was tested elsewhere")
    fuel = forms.ChoiceField(label="Fuel", required=False, choices=[*NOT_SAID, *((f, f) for f in FUEL_LOSS_PCT)])
    began = forms.DateTimeField(
        label="It began at",
        required=False,
        help_text="of a test run already; else the first time you jot says it",
        widget=forms.DateTimeInput({"type": "datetime-local"}, format="%Y-%m-%dT%H:%M"),
    )
    written_up = forms.BooleanField(
        label="It was run already: write it up",
        required=False,
        help_text="no check is asked; what you don't tick is kept as not confirmed",
    )
    warm = forms.BooleanField(label="The source is warm", required=False)
    eco = forms.BooleanField(label="Eco idle is on", required=False)

    def clean_altitude_m(self) -> float | None:
        """An altitude that somebody can have stood at."""
        said_m: float | None = self.cleaned_data["altitude_m"]
        if said_m is not None and not BELIEVED["altitude_m"][0] <= said_m <= BELIEVED["altitude_m"][1]:
            raise forms.ValidationError("An altitude is between −400 and 6,000 m.")
        return said_m

    def began_at(self, zone: str) -> datetime | None:
        """When the session began by the site's clock, None for now."""
        said: datetime | None = self.cleaned_data["began"]
        return said.replace(tzinfo=ZoneInfo(zone)) if said is not None else None

    def conditions(self, altitude_m: float) -> Conditions:
        """The state of things now; the altitude is the site's where nobody said another."""
        data: dict[str, Any] = self.cleaned_data
        said_m = data["altitude_m"]
        return Conditions(
            data["temp_c"], altitude_m if said_m is None else said_m, data["fuel"], data["warm"], data["eco"]
        )


class EntryForm(CoreForm):
    """A form beside the log line; each kind makes items. Each reading names an instrument of the kit."""

    def __init__(self, *args: Any, kit: Kit, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.kit = kit

    def _by(self, name: str, label: str, quantity: str, first: str = "") -> None:
        """A choice of the instruments that read a quantity, the usual one first."""
        able = [i for i in self.kit.instruments if i.measure(quantity)]
        choices = [(i.slug, i.name) for i in able] or [("", "an instrument not in the kit")]
        initial = first if any(first == i.slug for i in able) else choices[0][0]
        field = forms.ChoiceField(label=label, choices=choices, initial=initial, required=False)
        field.widget.attrs["class"] = "form-select"
        self.fields[name] = field

    def _reading(
        self, field: str, quantity: str, place: Place, stat: Stat = Stat.STEADY, instrument: str = ""
    ) -> list[Reading]:
        value = self.cleaned_data.get(field)
        if value is None:
            return []
        low = 0.0 if quantity != "temp_c" else -273.15
        if value < low:
            raise MusterError(f"got {value:g}", where=field, want=f"{low:g} or more")
        reading = Reading(quantity=quantity, value=value, place=place, stat=stat, instrument=instrument)
        return [reading if instrument else replace(reading, instrument=self.kit.usual_for(reading.measured).slug)]


class ReadForm(EntryForm):
    """A field for each figure that the protocol reads, and nothing besides."""

    def __init__(self, *args: Any, protocol: str, system: System, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.boxes = look_boxes_of(protocol, system)
        for box in self.boxes:
            self.fields[box.name] = number_field(box.label[:1].upper() + box.label[1:])
            self.fields[box.name].widget.attrs.update({"class": "form-control", "inputmode": "decimal"})
        if any(box.quantity in ("v", "w") for box in self.boxes):
            self._by("by", "Volts and watts by", "w")

    def items(self) -> tuple[Item, ...]:
        """The readings filled in."""
        by = self.cleaned_data.get("by", "")
        readings: list[Item] = []
        for box in self.boxes:
            electric = box.quantity in ("v", "w") and not box.place.is_dc
            readings += self._reading(box.name, box.quantity, box.place, box.stat, by if electric else "")
        return tuple(readings)


class StartRunForm(EntryForm):
    """One start: which load, before, lowest, settled, highest amps, and how it ended."""

    load = forms.ChoiceField(label="Started")
    hot = forms.BooleanField(label="hot, soon after a run", required=False)
    eased = forms.BooleanField(label="eased by a soft starter", required=False)
    place = forms.ChoiceField(label="Read on")
    before = number_field("Before", "V")
    lowest = number_field("Lowest", "V")
    settled = number_field("Settled", "V")
    highest = number_field("Highest", "A")
    outcome = forms.ChoiceField(
        label="It", choices=[("held", "started and held"), ("stall", "stalled"), ("trip", "took the source down")]
    )

    def __init__(self, *args: Any, system: System, loads: tuple[Load, ...], **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        held = next((i.slug for i in self.kit.instruments if i.max_hold and i.measure("v")), "")
        clamp = next((i.slug for i in self.kit.instruments if i.max_hold and i.measure("a")), "")
        self._by("volts_by", "Volts by", "v", held)
        self._by("amps_by", "Amps by", "a", clamp)
        self.order_fields(
            [
                "load",
                "hot",
                "eased",
                "place",
                "before",
                "lowest",
                "settled",
                "volts_by",
                "highest",
                "amps_by",
                "outcome",
            ]
        )
        motors = [load for load in loads if load.has_start(system.hz)]
        self.fields["load"].choices = [(load.key, load.name) for load in motors]
        places = [Place(leg.value) for leg in system.leg_names]
        if system.legs == 2:
            places.append(Place.TOTAL)
        self.fields["place"].choices = [(p.value, p.label if system.legs == 2 else "the source") for p in places]

    def items(self) -> tuple[Item, ...]:
        """The start with its readings and its outcome."""
        data, place = self.cleaned_data, Place(self.cleaned_data["place"])
        volts, amps = data["volts_by"], data["amps_by"]
        readings = [
            *self._reading("before", "v", place, Stat.BEFORE, volts),
            *self._reading("lowest", "v", place, Stat.LOWEST, volts),
            *self._reading("settled", "v", place, Stat.SETTLED, volts),
            *self._reading("highest", "a", place, Stat.HIGHEST, amps),
        ]
        return (Start(data["load"], data["hot"], data["eased"]), *readings, Event(data["outcome"]))


class SoundForm(EntryForm):
    """A sound level and where it was read."""

    dba = number_field("Level", "dBA", required=True)
    distance_m = number_field("At", "m")
    background = forms.BooleanField(label="background, source off", required=False)

    def items(self) -> tuple[Item, ...]:
        """The level, as background or at its distance."""
        data = self.cleaned_data
        if not data["background"] and not data["distance_m"]:
            raise MusterError("no distance", where="distance_m", want="metres from the source, or tick background")
        stat = Stat.BACKGROUND if data["background"] else Stat.STEADY
        by = self.kit.usual_for("dba").slug
        return (
            Reading(
                quantity="dba",
                value=data["dba"],
                place=Place.NONE,
                stat=stat,
                instrument=by,
                distance_m=data["distance_m"],
            ),
        )


def entry_form(
    protocol: str, data: Any, system: System, loads: tuple[Load, ...], kit: Kit
) -> ReadForm | StartRunForm | SoundForm:
    """The form that suits a protocol."""
    if protocol == "starts":
        return StartRunForm(data, system=system, loads=loads, kit=kit)
    if protocol == "noise_walk":
        return SoundForm(data, kit=kit)
    return ReadForm(data, protocol=protocol, system=system, kit=kit)
