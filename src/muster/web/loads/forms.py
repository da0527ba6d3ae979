"""A load as forms: in its row, in full on its own page, and what is known of it."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from django import forms

from muster.core.errors import MusterError
from muster.core.kit import Kit, sees_whole
from muster.core.loads import (
    KINDS,
    TIERS,
    Basis,
    Caller,
    Load,
    LoadFigure,
    Tier,
    Tolerance,
    Wave,
    Weather,
    parse_parts,
    part_words,
)
from muster.core.loads.evidence import (
    from_code_letter,
    from_inrush_amps,
    from_locked_rotor,
    from_nameplate_amps,
    from_welding,
)
from muster.core.loads.precedence import edited
from muster.core.quantities import Grade
from muster.core.supply import Leg, System
from muster.core.trade.motors import CODE_KVA_PER_HP
from muster.web.ui.forms import CoreForm, number_field

GRADES = [(grade.value, f"{grade.value}: {grade.label}") for grade in Grade]


class LoadForm(CoreForm):
    """What a load says in its row."""

    name = forms.CharField(label="Name", max_length=120)
    kind = forms.ChoiceField(label="Kind", choices=[(kind.slug, kind.label) for kind in KINDS.values()])
    run_w = number_field("Running", "W", required=True)
    pf = number_field("Power factor", required=True)
    run_grade = forms.ChoiceField(label="Rests on", choices=GRADES)
    start_va = number_field("Start", "VA", help_text="Empty: planned from the kind.")
    start_grade = forms.ChoiceField(label="Start rests on", choices=GRADES)
    leg = forms.ChoiceField(label="Leg", choices=[(leg.value, leg.label) for leg in Leg])
    tier = forms.ChoiceField(label="Tier", choices=[(tier.value, tier.value) for tier in (*TIERS, Tier.TEST)])
    on_min = number_field("On for", "min", required=True)
    off_min = number_field("Off for", "min", required=True, help_text="0: it runs throughout.")
    caller = forms.ChoiceField(label="Comes on", choices=[(c.value, c.label) for c in Caller])

    def __init__(self, *args: Any, system: System, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        if system.legs == 1:
            self.fields["leg"].choices = [(Leg.ONE.value, Leg.ONE.label)]

    def load(self, was: Load) -> Load | None:
        """The load, or None with the errors set beside their fields."""
        return self.build(lambda: self.changed(was))

    def changed(self, was: Load) -> Load:
        """The load as the form says it; what was known of it before stays known."""
        data: dict[str, Any] = self.cleaned_data
        value = replace(
            was,
            name=data["name"].strip(),
            kind=data["kind"],
            leg=Leg(data["leg"]),
            tier=Tier(data["tier"]),
            duty=replace(was.duty, on_min=data["on_min"], off_min=data["off_min"], caller=Caller(data["caller"])),
        )
        return edited(
            value, data["run_w"], data["pf"], Grade(data["run_grade"]), data["start_va"], Grade(data["start_grade"])
        )


class WholeLoadForm(LoadForm):
    """Everything about a load but its hours, which are painted."""

    once = forms.BooleanField(
        label="A program: begun once in each stretch of its hours, and run to its end", required=False
    )
    soft_starter = forms.BooleanField(label="A soft starter eases its motor", required=False)
    parts = forms.CharField(
        label="Parts of its run, one a line",
        required=False,
        widget=forms.Textarea(attrs={"rows": 4}),
        help_text="Such as “igniter 330 W from 15 s for 45 s” or “blower 400 W pf 0.75 from 90 s start x4 over 2 s”. Empty: as its kind.",
    )
    seen_c = number_field("Its rhythm was seen at", "°C outside")
    kept_c = number_field(
        "It keeps", "°C", help_text="A room, a freezer: its duty then follows the weather of the brief."
    )
    plate_v = number_field("Volts on its own nameplate", "V", help_text="Empty: those it is fed.")
    v_low_pct = number_field("Tolerates volts below nominal by", "%")
    v_high_pct = number_field("Tolerates volts above nominal by", "%")
    hz_pct = number_field("Tolerates hertz off nominal by", "%")
    gap_ms = number_field("Rides through a break of", "ms")
    wave = forms.ChoiceField(
        label="Content with",
        choices=[("", "as its kind"), *((wave.value, wave.value) for wave in Wave)],
        required=False,
    )

    def changed(self, was: Load) -> Load:
        """The load as the form says it, its parts, weather and tolerances too."""
        data: dict[str, Any] = self.cleaned_data
        value = super().changed(replace(was, soft_starter=data["soft_starter"], parts=parse_parts(data["parts"])))
        return replace(
            value,
            duty=replace(value.duty, once=data["once"]),
            weather=self._weather(),
            plate_v=data["plate_v"],
            tolerance=Tolerance(
                data["v_low_pct"],
                data["v_high_pct"],
                data["hz_pct"],
                Wave(data["wave"]) if data["wave"] else None,
                data["gap_ms"],
            ),
        )

    def _weather(self) -> Weather | None:
        seen_c, kept_c = self.cleaned_data["seen_c"], self.cleaned_data["kept_c"]
        if seen_c is None and kept_c is None:
            return None
        if seen_c is None or kept_c is None:
            missing = "seen_c" if seen_c is None else "kept_c"
            raise MusterError("one without the other", where=missing, want="both temperatures, or neither")
        return Weather(seen_c, kept_c)


def initial_of(load: Load) -> dict[str, Any]:
    """What the forms show for a load."""
    names = (
        "name",
        "kind",
        "run_w",
        "pf",
        "run_grade",
        "start_va",
        "start_grade",
        "leg",
        "tier",
        "soft_starter",
        "plate_v",
    )
    stands = ("v_low_pct", "v_high_pct", "hz_pct", "gap_ms", "wave")
    return {
        **{name: getattr(load, name) for name in names},
        **{name: getattr(load.tolerance, name) for name in stands},
        "on_min": load.duty.on_min,
        "off_min": load.duty.off_min,
        "caller": load.duty.caller.value,
        "once": load.duty.once,
        "parts": "\n".join(part_words(part) for part in load.parts),
        "seen_c": load.weather.seen_c if load.weather else None,
        "kept_c": load.weather.kept_c if load.weather else None,
    }


def known_initial(load: Load, system: System) -> dict[str, Any]:
    """The volts that the load sits at."""
    return {"volts": system.v_nominal * (2 if load.leg is Leg.BOTH else 1)}


class KnownForm(CoreForm):
    """What was read off a nameplate or a meter; each part filled in becomes a figure of the load."""

    measured_w = number_field("Watts measured", "W")
    measured_pf = number_field("Power factor measured")
    volts = number_field("At", "V", help_text="The volts of the nameplate, or beside the amps measured.")
    nameplate_a = number_field("Running amps on the nameplate", "A")
    lra_a = number_field("Locked-rotor amps on the nameplate", "A")
    code = forms.ChoiceField(
        label="Code letter", choices=[("", "–"), *((c, c) for c in CODE_KVA_PER_HP)], required=False
    )
    hp = number_field("Horsepower", "hp")
    start_a = number_field("Highest amps at a start", "A")
    meter = forms.ChoiceField(label="Read by", choices=[], required=False)
    soft = forms.BooleanField(label="with a soft starter in", required=False)
    arc_v = number_field("Welding arc", "V")
    arc_a = number_field("Welding current", "A")
    efficiency_pct = number_field("Welder's efficiency", "%")

    def __init__(self, *args: Any, kit: Kit, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.kit = kit
        able = [(i.slug, i.name) for i in kit.instruments if i.measure("a")]
        self.fields["meter"].choices = [("", "a meter that may have missed it"), *able]

    def figures(self, load: Load) -> tuple[LoadFigure, ...] | None:
        """The figures, or None with the errors set beside their fields."""
        return self.build(lambda: self._figures(load))

    def _figures(self, load: Load) -> tuple[LoadFigure, ...]:
        data: dict[str, Any] = self.cleaned_data
        load_figures = []
        if data["measured_w"] is not None:
            load_figures.append(LoadFigure("run_w", data["measured_w"], Basis.MEASURED))
        if data["measured_pf"] is not None:
            load_figures.append(LoadFigure("pf", data["measured_pf"], Basis.MEASURED))
        if data["nameplate_a"] is not None:
            load_figures.append(from_nameplate_amps(self._volts(), data["nameplate_a"], load.pf))
        if data["lra_a"] is not None:
            load_figures.append(from_locked_rotor(self._volts(), data["lra_a"]))
        if data["code"]:
            if data["hp"] is None:
                raise MusterError("a code letter alone", where="hp", want="the motor's horsepower too")
            load_figures.append(from_code_letter(data["code"], data["hp"]))
        if data["start_a"] is not None:
            load_figures.append(
                from_inrush_amps(self._volts(), data["start_a"], caught=self._caught(load), soft=data["soft"])
            )
        if data["arc_a"] is not None:
            share = (data["efficiency_pct"] or 0) / 100
            load_figures.append(from_welding(data["arc_v"] or 0, data["arc_a"], share))
        if not load_figures:
            raise MusterError("nothing filled in", where="", want="watts, amps or a code letter")
        return tuple(load_figures)

    def _volts(self) -> float:
        volts: float | None = self.cleaned_data["volts"]
        if volts is None:
            raise MusterError("amps alone", where="volts", want="the volts they are at")
        return volts

    def _caught(self, load: Load) -> bool:
        meter = next((i for i in self.kit.instruments if i.slug == self.cleaned_data["meter"]), None)
        return meter is not None and sees_whole(meter, load.start_s)
