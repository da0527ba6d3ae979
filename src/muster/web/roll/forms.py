"""A load as a form, for editing in place."""

from __future__ import annotations

from typing import Any

from django import forms

from muster.core.loads import KINDS, TIERS, Caller, Duty, Load, Tier
from muster.core.quantities import Grade
from muster.core.supply import Leg, System
from muster.web.ui.forms import CoreForm, number_field

GRADES = [(grade.value, f"{grade.value}: {grade.words}") for grade in Grade]


class LoadForm(CoreForm):
    """Everything about a load but its hours, which are painted."""

    name = forms.CharField(label="Name", max_length=120)
    kind = forms.ChoiceField(label="Kind", choices=[(kind.slug, kind.words) for kind in KINDS.values()])
    run_w = number_field("Running", "W", required=True)
    pf = number_field("Power factor", required=True)
    run_grade = forms.ChoiceField(label="Rests on", choices=GRADES)
    start_va = number_field("Start", "VA", help_text="Empty: planned from the kind.")
    start_grade = forms.ChoiceField(label="Start rests on", choices=GRADES)
    leg = forms.ChoiceField(label="Leg", choices=[(leg.value, leg.words) for leg in Leg])
    tier = forms.ChoiceField(label="Tier", choices=[(tier.value, tier.value) for tier in TIERS])
    on_min = number_field("On for", "min", required=True)
    off_min = number_field("Off for", "min", required=True, help_text="0: it runs throughout.")
    caller = forms.ChoiceField(label="Comes on", choices=[(c.value, c.words) for c in Caller])

    def __init__(self, *args: Any, system: System, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        if system.legs == 1:
            self.fields["leg"].choices = [(Leg.ONE.value, Leg.ONE.words)]

    def load(self, was: Load) -> Load | None:
        """The load, or None with the errors set beside their fields."""
        data: dict[str, Any] = self.cleaned_data
        return self.build(
            lambda: Load(
                key=was.key,
                name=data["name"].strip(),
                kind=data["kind"],
                run_w=data["run_w"],
                pf=data["pf"],
                leg=Leg(data["leg"]),
                tier=Tier(data["tier"]),
                duty=Duty(data["on_min"], data["off_min"], Caller(data["caller"])),
                hours=was.hours,
                start_va=data["start_va"],
                run_grade=Grade(data["run_grade"]),
                start_grade=Grade(data["start_grade"]) if data["start_va"] is not None else Grade.D,
            )
        )


def initial_of(load: Load) -> dict[str, Any]:
    """What the form shows for a load."""
    names = ("name", "kind", "run_w", "pf", "run_grade", "start_va", "start_grade", "leg", "tier")
    return {
        **{name: getattr(load, name) for name in names},
        "on_min": load.duty.on_min,
        "off_min": load.duty.off_min,
        "caller": load.duty.caller.value,
    }
