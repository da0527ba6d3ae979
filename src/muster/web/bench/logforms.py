"""The form that says which column of a log is what."""

from __future__ import annotations

from typing import Any

from django import forms

from muster.core.kit import QUANTITIES, Kit
from muster.core.sessions import Place
from muster.core.supply import System
from muster.core.timeline.traces import Channel, channel_named
from muster.core.timeline.traces.trace import ELECTRIC
from muster.formats.logs.layout import LogLayout
from muster.formats.logs.mapping import FACTORS, Backwards, Column, Mapping, TimeForm
from muster.web.ui.forms import CoreForm, number_field

SCALE_WORDS = {
    "as it is": "as it is",
    "milli": "thousandths (mV, mA)",
    "kilo": "thousands (kW, kWh)",
    "reversed": "sign reversed",
    "fahrenheit": "°F",
    "share of 1": "a share of 1, not %",
}


def channels_for(system: System) -> list[Channel]:
    """Every channel that a log of this supply can hold."""
    places = [Place.LEG1, Place.LEG2, Place.TOTAL, Place.NEUTRAL] if system.legs == 2 else [Place.LEG1]
    channels = [Channel(q, p) for q in ELECTRIC for p in places if not (p is Place.NEUTRAL and q != "a")]
    channels += [Channel(q, p) for p in (Place.DC, Place.PANELS) for q in ("v", "a", "w")]
    channels += [Channel("a", p) for p in (Place.UNIT_A, Place.UNIT_B)]
    channels += [Channel(q) for q in QUANTITIES if q not in ELECTRIC and not q.startswith("dc_")]
    return channels


def channel_words(channel: Channel, system: System) -> str:
    """A channel as a choice; on one leg the leg is not said."""
    said = channel.place in (Place.PANELS, Place.UNIT_A, Place.UNIT_B) or system.legs == 2
    return channel.label if said else QUANTITIES[channel.measured][0]


class MappingForm(CoreForm):
    """How a log's columns are read."""

    instrument = forms.ChoiceField(
        label="Read by", help_text="its accuracy and speed go with every figure; the mapping is remembered for it"
    )
    time = forms.ChoiceField(label="Time is in")
    clock = forms.ChoiceField(label="and its clock time in", required=False)
    form = forms.ChoiceField(label="Written as", choices=[(form.value, form.label) for form in TimeForm])
    backwards = forms.ChoiceField(label="Where the time goes back", choices=[(b.value, b.label) for b in Backwards])
    ahead_s = number_field("Logger's clock ahead of yours by", "s", help_text="negative if it is behind")
    missing = forms.CharField(
        label="Means “nothing read”",
        required=False,
        help_text="numbers or words, with blanks between; empty cells, NaN, OL, -- always do",
    )

    def __init__(self, *args: Any, layout: LogLayout, kit: Kit, system: System, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.layout = layout
        columns = [(str(i), heading) for i, heading in enumerate(layout.headings)]
        self.fields["instrument"].choices = [(i.slug, i.name) for i in kit.instruments]
        self.fields["time"].choices = columns
        self.fields["clock"].choices = [("", "the same column"), *columns]
        what = [("", "left out"), *((c.heading, channel_words(c, system)) for c in channels_for(system))]
        scales = [(key, SCALE_WORDS[key]) for key in FACTORS]
        for i, heading in enumerate(layout.headings):
            self.fields[f"what_{i}"] = forms.ChoiceField(label=f"“{heading}” is", choices=what, required=False)
            self.fields[f"scale_{i}"] = forms.ChoiceField(label=f"“{heading}” in", choices=scales, required=False)
            for name in (f"what_{i}", f"scale_{i}"):
                self.fields[name].widget.attrs["class"] = "form-select"

    def columns(self) -> list[dict[str, Any]]:
        """Each column of the file: its heading, its first cells, and the two choices for it."""
        return [
            {
                "heading": heading,
                "cells": [row[i] for row in self.layout.sample[:3]],
                "what": self[f"what_{i}"],
                "scale": self[f"scale_{i}"],
            }
            for i, heading in enumerate(self.layout.headings)
        ]

    def mapping(self) -> Mapping | None:
        """The mapping chosen, None with what is wrong beside it."""
        return self.build(self._made)

    def _made(self) -> Mapping:
        data = self.cleaned_data
        columns = [
            Column(i, channel_named(data[f"what_{i}"]), data.get(f"scale_{i}") or "as it is")
            for i in range(len(self.layout.headings))
            if data.get(f"what_{i}")
        ]
        time = (int(data["time"]), *([int(data["clock"])] if data["clock"] else []))
        return Mapping(
            time=time,
            form=TimeForm(data["form"]),
            columns=tuple(columns),
            missing=tuple(data["missing"].split()),
            backwards=Backwards(data["backwards"]),
            ahead_s=data["ahead_s"] or 0.0,
        )


def initial_of(mapping: Mapping | None, instrument: str) -> dict[str, Any]:
    """What the form shows first."""
    if mapping is None:
        return {"instrument": instrument, "form": TimeForm.ISO.value, "time": "0"}
    shown: dict[str, Any] = {
        "instrument": instrument,
        "form": mapping.form.value,
        "time": str(mapping.time[0]),
        "clock": str(mapping.time[1]) if len(mapping.time) > 1 else "",
        "backwards": mapping.backwards.value,
        "missing": " ".join(mapping.missing),
        "ahead_s": mapping.ahead_s or None,
    }
    for column in mapping.columns:
        shown[f"what_{column.index}"] = column.channel.heading
        shown[f"scale_{column.index}"] = column.scale
    return shown
