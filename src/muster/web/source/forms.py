"""A source's claims as a form: the fields that its kind has."""

from __future__ import annotations

from typing import Any

from django import forms

from muster.core.loads import Wave
from muster.core.sources import FUEL_LOSS_PCT, Claims, Source, SourceKind
from muster.web.ui.forms import CoreForm, number_field

ENGINE_ONLY = ("fuel", "tank_l", "stored_fuel_l", "half_load_lph", "full_load_lph")
BATTERY_ONLY = ("battery_wh", "usable_pct", "idle_w", "transfer_ms")
WAVES = [(wave.value, wave.value) for wave in Wave]


class SourceForm(CoreForm):
    """Name, and what the plate and booklet say."""

    name = forms.CharField(label="Name", max_length=120, help_text="As you call it, such as: the open-frame set.")
    cont_w = number_field("Continuous", "W", required=True)
    surge_w = number_field("Surge", "W")
    surge_s = number_field("Surge holds for", "s")
    per_leg_w = number_field("Each leg, continuous", "W", help_text="Empty: half each.")
    breaker_a = number_field("Breaker", "A")
    wave = forms.ChoiceField(label="Waveform", choices=WAVES)
    thd_pct = number_field("THD claimed", "%")
    noise_dba_7m = number_field("Noise claimed at 7 m", "dBA")
    fuel = forms.ChoiceField(label="Fuel", choices=[(fuel, fuel) for fuel in FUEL_LOSS_PCT])
    tank_l = number_field("Tank", "L")
    stored_fuel_l = number_field("Fuel at hand beside it", "L")
    half_load_lph = number_field("Use at half load", "L/h")
    full_load_lph = number_field("Use at full load", "L/h")
    battery_wh = number_field("Battery", "Wh")
    usable_pct = number_field("Usable share", "%")
    idle_w = number_field("Idle draw", "W")
    transfer_ms = number_field("Transfer gap", "ms")

    def __init__(self, *args: Any, kind: SourceKind, legs: int, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.kind = kind
        for name in BATTERY_ONLY if kind.has_engine else ENGINE_ONLY:
            del self.fields[name]
        if legs == 1:
            del self.fields["per_leg_w"]

    def source(self) -> Source | None:
        """The source, or None with the errors set beside their fields."""
        data: dict[str, Any] = dict(self.cleaned_data)
        name = data.pop("name")
        data["wave"] = Wave(data["wave"])
        return self.build(lambda: Source(name, self.kind, Claims(**data)))


def initial_of(source: Source) -> dict[str, Any]:
    """What the form shows for a source."""
    claims = source.claims
    return {"name": source.name, **{f: getattr(claims, f) for f in Claims.__dataclass_fields__}}
