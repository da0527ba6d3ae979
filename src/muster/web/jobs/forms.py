"""A new job in a few answers; the rest of the brief follows."""

from __future__ import annotations

from typing import Any

from django import forms

from muster.core.brief import Brief
from muster.core.supply import SYSTEMS
from muster.web.ui.forms import CoreForm, number_field


class NewJobForm(CoreForm):
    """Name, question, system, outage; and, if they are at hand, the loads and the source."""

    name = forms.CharField(
        label="Whose home, or which units", max_length=120, help_text="The name of the house, as people there say it."
    )
    question = forms.CharField(
        label="What is needed",
        max_length=200,
        required=False,
        help_text="Such as: can the open-frame set carry it for 18 h?",
    )
    system = forms.ChoiceField(label="Supply", choices=[(slug, system.label) for slug, system in SYSTEMS.items()])
    outage_h = number_field("Outage to carry", "h", required=True)
    loads = forms.CharField(
        label="What must run",
        required=False,
        max_length=4000,
        widget=forms.Textarea({"rows": 4, "placeholder": "freezer 130w must\nkettle 2.2 kW should\nlights 60w 17-23"}),
        help_text="A load a line; or later, one by one.",
    )
    source = forms.CharField(
        label="The source, in one line",
        required=False,
        max_length=1000,
        widget=forms.TextInput({"placeholder": "battery station 2 kWh 1800 W surge 3600 W 5 s LFP"}),
        help_text="What its nameplate says, in any order; or later.",
    )
    of_units = forms.BooleanField(
        label="Units only: no home is judged",
        required=False,
        help_text="What do they do? Their findings and character are the result; test loads take the place of a household's.",
    )

    def brief(self) -> Brief | None:
        """The brief, or None with the errors set beside their fields."""
        data: dict[str, Any] = self.cleaned_data
        return self.build(
            lambda: Brief(
                question=data["question"],
                system=SYSTEMS[data["system"]],
                outage_h=data["outage_h"],
                of_units=data["of_units"],
            )
        )
