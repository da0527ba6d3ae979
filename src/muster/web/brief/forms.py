"""The brief as a form."""

from __future__ import annotations

import calendar
import zoneinfo
from typing import Any

from django import forms

from muster.core.brief import Brief, BringUp, Sky, Wiring
from muster.core.errors import MusterError
from muster.core.measures import CHOICE_WORDS, CHOICES, Measures
from muster.core.sources import Site
from muster.core.sources.panels import Location
from muster.core.supply import SYSTEMS, System
from muster.core.trade.schools import ANSWERS, QUESTIONS, Schools
from muster.web.ui.forms import CoreForm, number_field

HOURS = [(hour, f"{hour:02d}:00") for hour in range(24)]
OTHER = "other"
MONTHS = [("", "not said"), *((i, calendar.month_name[i]) for i in range(1, 13))]


def _units_field(label: str, of: str) -> forms.ChoiceField:
    words = [(unit, CHOICE_WORDS[unit]) for unit in CHOICES[of]]
    return forms.ChoiceField(label=label, required=False, choices=[("", "as typed, else by the supply"), *words])


def _school_field(name: str) -> forms.ChoiceField:
    """A question on which practitioners differ, each answer with what follows from it."""
    question, answers = QUESTIONS[name]
    return forms.ChoiceField(
        label=question.capitalize(),
        required=False,
        choices=[(item.value, f"{said.label}: {said.follows}") for item, said in ANSWERS[answers].items()],
    )


class BriefForm(CoreForm):
    """Everything that is needed of a source by one home."""

    name = forms.CharField(label="Whose home", max_length=120)
    question = forms.CharField(label="What is needed", max_length=500, required=False)
    of_units = forms.BooleanField(label="Units only: no home is judged", required=False)
    notes = forms.CharField(
        label="Notes",
        max_length=20_000,
        required=False,
        widget=forms.Textarea(attrs={"rows": 3}),
        help_text="Words that decide nothing.",
    )
    system = forms.ChoiceField(
        label="Supply", choices=[*((slug, s.label) for slug, s in SYSTEMS.items()), (OTHER, "another")]
    )
    v_nominal = number_field("Volts, leg to neutral", "V", help_text="For another supply only.")
    hz = number_field("Frequency", "Hz")
    legs = forms.TypedChoiceField(
        label="Legs", choices=[(1, "one"), (2, "two, split-phase")], coerce=int, required=False, empty_value=1
    )
    outage_h = number_field("Outage to carry", "h", required=True)
    outage_from_hour = forms.TypedChoiceField(label="It begins at", choices=HOURS, coerce=int)
    reserve_pct = number_field("Reserve beyond it", "%", required=True)
    bring_up = forms.ChoiceField(
        label="Loads come back",
        choices=[(b.value, b.label) for b in BringUp],
        help_text="One by one is a household rule: somebody does it by the start order.",
    )
    reset_min = number_field(
        "Somebody resets it within", "min", required=True, help_text="By day, when it has tripped or stopped."
    )
    reset_night_min = number_field("In the quiet hours within", "min", required=True)
    wiring = forms.ChoiceField(label="The source is connected by", choices=[(w.value, w.label) for w in Wiring])
    neighbour_m = number_field(
        "Nearest neighbour", "m", required=True, help_text="From the source to the nearest window."
    )
    noise_day_dba = number_field("Limit there by day", "dBA", help_text="Empty when it does not matter.")
    noise_night_dba = number_field("Limit in the quiet hours", "dBA")
    quiet_from_hour = forms.TypedChoiceField(label="Quiet from", choices=HOURS, coerce=int)
    quiet_to_hour = forms.TypedChoiceField(label="Quiet until", choices=HOURS, coerce=int)
    altitude_m = number_field("Height above sea level", "m", required=True)
    temp_c = number_field(
        "Air temperature",
        "°C",
        required=True,
        help_text="Heat lowers what an engine gives; loads that follow the weather go by it.",
    )
    swing_k = number_field("Warmer by day, colder by night by", "K", required=True, help_text="0: the same all day.")
    room_c = number_field(
        "Rooms in which cold stores stand",
        "°C",
        required=True,
        help_text="A freezer works against its room, not the weather.",
    )
    latitude_deg = number_field("Latitude", "° north", help_text="Where panels are on the roof: south is below 0.")
    longitude_deg = number_field("Longitude", "° east", help_text="West is below 0.")
    month = forms.TypedChoiceField(label="Month", choices=MONTHS, coerce=int, required=False, empty_value=None)
    sky = forms.ChoiceField(label="Sky", choices=[(sky.value, sky.label) for sky in Sky])
    length = _units_field("Lengths", "length")
    temperature = _units_field("Temperatures", "temperature")
    volume = _units_field("Volumes", "volume")
    wire = _units_field("Wires", "wire")
    mass = _units_field("Weights", "mass")
    zone = forms.CharField(label="Time zone of the site", max_length=60)
    how_hard = _school_field("how_hard")
    governor = _school_field("governor")
    motor_order = _school_field("motor_order")
    surge_from = _school_field("surge_from")
    stepped = _school_field("stepped")
    soft_starters = _school_field("soft_starters")
    capacity_test = _school_field("capacity_test")
    usable_of = _school_field("usable_of")
    noise_by = _school_field("noise_by")

    groups = (
        ("The question", ("name", "question", "of_units", "notes")),
        ("The supply", ("system", "v_nominal", "hz", "legs")),
        ("The outage", ("outage_h", "outage_from_hour", "reserve_pct", "bring_up", "reset_min", "reset_night_min")),
        ("The connection and the site", ("wiring", "altitude_m", "temp_c", "swing_k", "room_c", "zone")),
        ("The sun", ("latitude_deg", "longitude_deg", "month", "sky")),
        ("The neighbours", ("neighbour_m", "noise_day_dba", "noise_night_dba", "quiet_from_hour", "quiet_to_hour")),
        ("Units of measure", tuple(CHOICES)),
        ("Where practice differs", tuple(QUESTIONS)),
    )

    def grouped(self) -> list[tuple[str, list[forms.BoundField]]]:
        """The fields by group, in the order they are asked."""
        return [(title, [self[name] for name in names]) for title, names in self.groups]

    def clean_zone(self) -> str:
        """A zone this machine knows."""
        zone: str = self.cleaned_data["zone"].strip()
        if zone not in zoneinfo.available_timezones():
            raise forms.ValidationError("not a zone known here; such as UTC or Europe/London")
        return zone

    def clean(self) -> dict[str, Any]:
        """Another supply needs its volts and hertz."""
        data: dict[str, Any] = super().clean() or {}
        if data.get("system") == OTHER:
            for name in ("v_nominal", "hz"):
                if data.get(name) is None and name not in self.errors:
                    self.add_error(name, "needed for another supply")
        return data

    def _system(self) -> System:
        data = self.cleaned_data
        if data["system"] == OTHER:
            return System(data["v_nominal"], data["hz"], data["legs"] or 1)
        return SYSTEMS[data["system"]]

    def brief(self) -> Brief | None:
        """The brief, or None with the errors set beside their fields."""
        data: dict[str, Any] = self.cleaned_data
        same = (
            "question",
            "notes",
            "of_units",
            "outage_h",
            "outage_from_hour",
            "reserve_pct",
            "quiet_from_hour",
            "quiet_to_hour",
            "noise_day_dba",
            "noise_night_dba",
            "neighbour_m",
            "zone",
            "reset_min",
            "reset_night_min",
            "month",
            "swing_k",
            "room_c",
        )
        return self.build(
            lambda: Brief(
                **{name: data[name] for name in same},
                system=self._system(),
                site=Site(data["altitude_m"], data["temp_c"]),
                wiring=Wiring(data["wiring"]),
                bring_up=BringUp(data["bring_up"]),
                place=self._place(),
                sky=Sky(data["sky"]),
                measures=Measures(**{name: data[name] for name in CHOICES}),
                schools=self._schools(),
            )
        )

    def _schools(self) -> Schools:
        """How the job takes each question; as Muster does where the page did not ask."""
        said = {name: of(self.cleaned_data[name]) for name, (_, of) in QUESTIONS.items() if self.cleaned_data.get(name)}
        return Schools(**said)  # type: ignore[arg-type]

    def _place(self) -> Location | None:
        """Where it is on earth; None where nobody said."""
        north, east = self.cleaned_data["latitude_deg"], self.cleaned_data["longitude_deg"]
        if north is None and east is None:
            return None
        if north is None or east is None:
            missing = "latitude_deg" if north is None else "longitude_deg"
            raise MusterError("one without the other", where=missing, want="both, or neither")
        return Location(north, east)


def initial_of(name: str, brief: Brief) -> dict[str, Any]:
    """What the form shows for a brief."""
    slug = next((slug for slug, system in SYSTEMS.items() if system == brief.system), OTHER)
    return {
        **{field: getattr(brief, field) for field in Brief.__dataclass_fields__},
        "name": name,
        "system": slug,
        "v_nominal": brief.system.v_nominal,
        "hz": brief.system.hz,
        "legs": brief.system.legs,
        "altitude_m": brief.site.altitude_m,
        "temp_c": brief.site.temp_c,
        "wiring": brief.wiring.value,
        "latitude_deg": brief.place.latitude_deg if brief.place else None,
        "longitude_deg": brief.place.longitude_deg if brief.place else None,
        "sky": brief.sky.value,
        "bring_up": brief.bring_up.value,
        **{name: getattr(brief.measures, name) for name in CHOICES},
        **{name: getattr(brief.schools, name).value for name in QUESTIONS},
    }
