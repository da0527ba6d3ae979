"""What if: the same home on another day, or with a rule of the household, without changing the brief."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from django import forms

from muster.core.brief import Brief, Sky
from muster.core.loads import Tier
from muster.core.outage.rules import Rules
from muster.web.brief.forms import HOURS, MONTHS
from muster.web.ui.forms import CoreForm, number_field

SHED = (("", "never"), ("0.3", "below 30 %"), ("0.5", "below 50 %"), ("0.7", "below 70 %"))


class WhatIfForm(CoreForm):
    """Another hour, length, month and sky; and what the household does."""

    outage_from_hour = forms.TypedChoiceField(label="It begins at", choices=HOURS, coerce=int, required=False)
    outage_h = number_field("It lasts", "h")
    month = forms.TypedChoiceField(label="Month", choices=MONTHS, coerce=int, required=False, empty_value=None)
    sky = forms.ChoiceField(label="Sky", choices=[(sky.value, sky.label) for sky in Sky], required=False)
    shed = forms.ChoiceField(label="Leave off what could run, battery", choices=SHED, required=False)
    refuel = forms.BooleanField(label="Fill the tank before bed", required=False)

    def __init__(self, data: Any, *, brief: Brief, battery: bool, tank: bool, sun: bool, could: bool) -> None:
        stands = {name: getattr(brief, name) for name in ("outage_from_hour", "outage_h", "month")}
        stands["sky"] = brief.sky.value
        asked = {key: data.get(key) for key in data} if "outage_h" in data else {}
        super().__init__({**stands, **asked})
        self.was = brief
        for name, fits in (("month", sun), ("sky", sun), ("shed", battery and could), ("refuel", tank)):
            if not fits:
                del self.fields[name]

    def played(self) -> tuple[Brief, Rules]:
        """The brief and the rules to play by; those of the job where something does not fit."""
        made = self.build(self._played) if self.is_valid() else None
        return made if made is not None else (self.was, Rules())

    def _played(self) -> tuple[Brief, Rules]:
        data: dict[str, Any] = self.cleaned_data
        chosen = {
            name: data[name] for name in ("outage_from_hour", "outage_h", "month") if data.get(name) not in (None, "")
        }
        if data.get("sky"):
            chosen["sky"] = Sky(data["sky"])
        shed = ((Tier.COULD, float(data["shed"])),) if data.get("shed") else ()
        return replace(self.was, **chosen), Rules(shed_below=shed, refuel_before_bed=bool(data.get("refuel")))
