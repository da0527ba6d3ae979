"""A source's claims as a form: the fields that its kind has."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import Any, TypeVar

from django import forms

from muster.core.errors import MusterError
from muster.core.loads import Wave
from muster.core.shelf import ShelfSource
from muster.core.sources import (
    FUEL_LOSS_PCT,
    Chemistry,
    Claims,
    Owning,
    PairSchool,
    Share,
    Source,
    SourceKind,
    Unit,
    Wires,
)
from muster.core.sources.nameplate import codes_of, port_words, ports_of, ratings_of
from muster.core.sources.panels import panels_of, panels_words
from muster.core.trade.leads import lead_choices
from muster.web.ui.forms import CoreForm, number_field

ENGINE_ONLY = ("fuel", "ratings", "tank_l", "stored_fuel_l", "half_load_lph", "full_load_lph", "service_h")
BATTERY_ONLY = (
    "battery_wh",
    "usable_pct",
    "idle_w",
    "transfer_ms",
    "battery_only_w",
    "battery_a",
    "battery_low_v",
    "conversion_pct",
    "charge_w",
    "charge_h",
    "chemistry",
    "battery_v",
    "battery_ah",
    "battery_surge_a",
    "battery_surge_s",
    "ports",
    "panels",
    "dc_fuse_a",
    "dc_lead",
    "dc_lead_m",
    "dc_leads",
)
CHOSEN = ("wave", "fuel", "school")
"""Fields that always hold something: a choice says nothing of whether its section was filled in."""
HYBRID_ONLY = ("battery_only_w",)
NOT_IN_A_STATION = ("dc_fuse_a", "dc_lead", "dc_lead_m", "dc_leads")


def _leads() -> list[tuple[str, str]]:
    return [("", "not said"), *lead_choices()]


CHEMISTRIES = [("", "not said"), *((chemistry.value, chemistry.label) for chemistry in Chemistry)]
SECTIONS: tuple[tuple[str, tuple[str, ...]], ...] = (
    (
        "Nameplate",
        (
            "name",
            "cont_w",
            "surge_w",
            "surge_s",
            "per_leg_w",
            "breaker_a",
            "wave",
            "thd_pct",
            "noise_dba_7m",
            "planned",
        ),
    ),
    (
        "Battery side",
        (
            *(
                "battery_wh",
                "chemistry",
                "battery_v",
                "battery_ah",
                "usable_pct",
                "battery_only_w",
                "idle_w",
                "conversion_pct",
            ),
            *(
                "battery_a",
                "battery_surge_a",
                "battery_surge_s",
                "battery_low_v",
                "charge_w",
                "charge_h",
                "ports",
                "panels",
            ),
            *("dc_fuse_a", "dc_lead", "dc_lead_m", "dc_leads"),
        ),
    ),
    ("Fuel", ("fuel", "ratings", "tank_l", "stored_fuel_l", "half_load_lph", "full_load_lph")),
    ("Connection", ("inlet_a", "lead", "lead_m", "transfer_ms")),
    ("What it costs to own", ("price", "weight_kg", "size", "warranty_years", "service_h", "codes")),
    (
        "Two in parallel",
        ("unit_a", "unit_a_w", "unit_a_surge_w", "unit_b", "unit_b_w", "unit_b_surge_w", "school", "shares"),
    ),
)
"""The form in its sections; what does not fit the kind is left out."""
WAVES = [(wave.value, wave.value) for wave in Wave]


class SourceForm(CoreForm):
    """Name, and what the nameplate and booklet say."""

    name = forms.CharField(label="Name", max_length=120, help_text="As you call it, such as: the open-frame set.")
    cont_w = number_field("Continuous", "W", required=True)
    surge_w = number_field("Surge", "W")
    surge_s = number_field("Surge holds for", "s")
    per_leg_w = number_field("Each leg, continuous", "W", help_text="Empty: half each.")
    breaker_a = number_field("Breaker", "A")
    wave = forms.ChoiceField(label="Waveform", choices=WAVES)
    thd_pct = number_field("THD claimed", "%")
    noise_dba_7m = number_field("Noise claimed at 7 m (23 ft)", "dBA")
    fuel = forms.ChoiceField(label="Fuel", choices=[(fuel, fuel) for fuel in FUEL_LOSS_PCT])
    tank_l = number_field("Tank", "L")
    stored_fuel_l = number_field("Fuel at hand beside it", "L")
    half_load_lph = number_field("Use at half load", "L/h")
    full_load_lph = number_field("Use at full load", "L/h")
    battery_wh = number_field("Battery", "Wh")
    usable_pct = number_field("Usable share", "%")
    idle_w = number_field("Idle draw", "W")
    transfer_ms = number_field("Transfer gap", "ms")
    battery_only_w = number_field("Continuous without sun", "W", help_text="from the battery alone")
    battery_a = number_field("Battery protection trips at", "A", help_text="the battery's own, by its booklet")
    battery_low_v = number_field("Lowest battery volts", "V", help_text="amps are highest there")
    conversion_pct = number_field("Conversion at the rating", "%")
    charge_w = number_field("Charges from the mains at", "W")
    charge_h = number_field("Full in, as claimed", "h")
    chemistry = forms.ChoiceField(label="Chemistry", choices=CHEMISTRIES, required=False)
    battery_v = number_field("Battery volts", "V")
    battery_ah = number_field("Battery", "Ah")
    battery_surge_a = number_field("It carries for a moment", "A", help_text="the battery's own protection")
    battery_surge_s = number_field("for", "s")
    ports = forms.CharField(
        label="Inputs for panels, one a line",
        required=False,
        widget=forms.Textarea(attrs={"rows": 2}),
        help_text="Such as: 12-60 V 20 A 400 W.",
    )
    panels = forms.CharField(
        label="Panels on it, one a line for each way they face",
        required=False,
        widget=forms.Textarea(attrs={"rows": 2}),
        help_text="Such as: 800 W south 30°, or 2 x 400 W 200° 15° 10 % shade.",
    )
    ratings = forms.CharField(
        label="Rated on each fuel, one a line",
        required=False,
        widget=forms.Textarea(attrs={"rows": 2}),
        help_text="Such as: propane 6750 W. None of it is derated for its fuel.",
    )
    price = number_field("Price", "", help_text="In your own money.")
    weight_kg = number_field("Weight", "kg")
    size = forms.CharField(label="Size", required=False, max_length=60, help_text="Such as: 60 x 45 x 50 cm.")
    warranty_years = number_field("Warranty", "years")
    service_h = number_field("Oil or service every", "h")
    codes = forms.CharField(
        label="Codes of its booklet, one a line",
        required=False,
        widget=forms.Textarea(attrs={"rows": 3}),
        help_text="Such as: F7 leg over its rating.",
    )
    inlet_a = number_field("Inlet or socket", "A")
    lead = forms.ChoiceField(label="Lead to the home", choices=_leads, required=False)
    lead_m = number_field("its length", "m")
    dc_fuse_a = number_field("DC fuse", "A")
    dc_lead = forms.ChoiceField(label="DC lead", choices=_leads, required=False)
    dc_lead_m = number_field("its length, one way", "m")
    dc_leads = forms.IntegerField(
        label="Pairs of it in parallel", required=False, min_value=1, max_value=8, help_text="Empty: one pair."
    )

    planned = forms.BooleanField(label="Planning figures off the shelf, no nameplate read yet", required=False)
    unit_a = forms.CharField(label="In parallel: first unit", required=False, max_length=60)
    unit_a_w = number_field("its continuous", "W")
    unit_a_surge_w = number_field("its surge", "W")
    unit_b = forms.CharField(label="second unit", required=False, max_length=60)
    unit_b_w = number_field("its continuous", "W")
    unit_b_surge_w = number_field("its surge", "W")
    school = forms.ChoiceField(
        label="Capacity of the pair", required=False, choices=[(s.value, s.label) for s in PairSchool]
    )
    shares = forms.CharField(
        label="How they shared, one total a line",
        required=False,
        widget=forms.Textarea(attrs={"rows": 3}),
        help_text="Amps: the whole, the first, the second, such as “17 7.2 9.8”.",
    )

    def __init__(self, *args: Any, kind: SourceKind, legs: int, was: Source | None = None, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.kind, self.was = kind, was
        for name in BATTERY_ONLY if kind.has_engine else ENGINE_ONLY:
            del self.fields[name]
        if legs == 1:
            del self.fields["per_leg_w"]
        dropped = (HYBRID_ONLY if kind is not SourceKind.HYBRID else ()) + (
            NOT_IN_A_STATION if kind is SourceKind.STATION else ()
        )
        for name in dropped:
            self.fields.pop(name, None)

    def sections(self) -> list[tuple[str, list[forms.BoundField], bool]]:
        """The fields by section, and whether each is unfolded: the first is, and any with something in it."""
        shown = []
        for title, names in SECTIONS:
            fields = [self[name] for name in names if name in self.fields]
            filled = any(
                field.errors or field.value() not in (None, "", False) for field in fields if field.name not in CHOSEN
            )
            if fields:
                shown.append((title, fields, filled or not shown))
        return shown

    def source(self) -> Source | None:
        """The source, or None with the errors set beside their fields."""
        return self.build(self._source)

    def _source(self) -> Source:
        data: dict[str, Any] = dict(self.cleaned_data)
        units, shares = self._units(data), _shares(data["shares"])
        claims = {name: data[name] for name in Claims.__dataclass_fields__ if name in data}
        claims["wave"] = Wave(data["wave"])
        if "chemistry" in data:
            claims["chemistry"] = Chemistry(data["chemistry"]) if data["chemistry"] else None
        if "ports" in data:
            claims["pv_ports"] = _listed(data["ports"], "ports", ports_of)
        if "ratings" in data:
            claims["on_fuels"] = _listed(data["ratings"], "ratings", ratings_of)
        wires = {name: data[name] for name in Wires.__dataclass_fields__ if name in data}
        if "dc_leads" in wires:
            wires["dc_leads"] = wires["dc_leads"] or 1
        school = PairSchool(data["school"] or PairSchool.TWICE_SMALLER)
        kept = self.was.claims if self.was else Claims(cont_w=data["cont_w"])
        return Source(
            name=data["name"],
            kind=self.kind,
            claims=replace(kept, **claims),
            note=self.was.note if self.was else "",
            wires=Wires(**wires),
            planned=data["planned"],
            units=units,
            school=school,
            shares=shares,
            layout=self.was.layout if self.was else None,
            owning=Owning(
                price=data["price"],
                weight_kg=data["weight_kg"],
                size=data["size"].strip(),
                warranty_years=data["warranty_years"],
                service_h=data.get("service_h"),
                codes=_listed(data["codes"], "codes", codes_of),
            ),
            panels=_listed(data.get("panels", ""), "panels", panels_of),
        )

    def _units(self, data: dict[str, Any]) -> tuple[Unit, ...]:
        """Two units where both are described, none where neither is."""
        said = [data[f"unit_{u}_w"] is not None for u in "ab"]
        if not any(said):
            return ()
        if not all(said):
            missing = "unit_a_w" if not said[0] else "unit_b_w"
            raise MusterError("a pair has two units", where=missing, want="the watts of both, or of neither")
        return tuple(
            Unit(data[f"unit_{u}"].strip() or f"unit {u.upper()}", data[f"unit_{u}_w"], data[f"unit_{u}_surge_w"])
            for u in "ab"
        )


T = TypeVar("T")


def _listed(text: str, where: str, read: Callable[[str], T]) -> tuple[T, ...]:
    """What each line of a box says."""
    try:
        return tuple(read(line.strip()) for line in text.splitlines() if line.strip())
    except MusterError as error:
        raise MusterError(error.what, where=where, want=error.want) from None


def _shares(text: str) -> tuple[Share, ...]:
    """Shares from lines of three numbers."""
    shares = []
    for line in (line for line in text.splitlines() if line.strip()):
        try:
            total_a, one_a, other_a = (float(part.replace(",", ".")) for part in line.split())
        except ValueError:
            raise MusterError(f"“{line.strip()}”", where="shares", want="three numbers, such as 17 7.2 9.8") from None
        shares.append(Share(total_a, one_a, other_a))
    return tuple(shares)


def initial_of(source: Source) -> dict[str, Any]:
    """What the form shows for a source."""
    claims = source.claims
    wires = {f: getattr(source.wires, f) for f in Wires.__dataclass_fields__}
    units = {}
    for letter, unit in zip("ab", source.units, strict=False):
        units |= {f"unit_{letter}": unit.name, f"unit_{letter}_w": unit.cont_w, f"unit_{letter}_surge_w": unit.surge_w}
    return {
        "name": source.name,
        **{f: getattr(claims, f) for f in Claims.__dataclass_fields__},
        **wires,
        **units,
        "planned": source.planned,
        "chemistry": claims.chemistry.value if claims.chemistry else "",
        "ports": "\n".join(port_words(port) for port in claims.pv_ports),
        "panels": "\n".join(panels_words(panels) for panels in source.panels),
        "ratings": "\n".join(f"{rating.fuel} {rating.cont_w:.12g} W" for rating in claims.on_fuels),
        **{f: getattr(source.owning, f) for f in Owning.__dataclass_fields__},
        "codes": "\n".join(f"{code.code} {code.meaning}" for code in source.owning.codes),
        "school": source.school.value,
        "shares": "\n".join(f"{s.total_a:g} {s.one_a:g} {s.other_a:g}" for s in source.shares),
    }


def initial_from_shelf(entry: ShelfSource) -> dict[str, Any]:
    """What the form shows for a new source off the shelf."""
    return initial_of(Source(name=entry.name, kind=entry.kind, claims=entry.claims, planned=True))
