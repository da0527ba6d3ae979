"""What if: the same home on another day, or with other rules of the household; and a rule added by hand."""

from __future__ import annotations

import contextlib
from collections.abc import Sequence
from dataclasses import replace
from typing import Any

from django import forms

from muster.core.brief import Brief, Home, Sky
from muster.core.errors import MusterError
from muster.core.loads import Tier, short_name
from muster.core.outage.household import HouseholdRule, RuleKind
from muster.core.supply import Leg
from muster.formats.bounds import plain_json
from muster.formats.codec import canonical, dump, load
from muster.web.brief.forms import HOURS, MONTHS
from muster.web.ui.forms import CoreForm, number_field

ALL_DAY_HOURS = [("", "–"), *((str(hour), f"{hour:02d}:00") for hour in range(25))]


class WhatIfForm(CoreForm):
    """Another hour, length, month and sky; and which of the household's rules are kept."""

    outage_from_hour = forms.TypedChoiceField(label="It begins at", choices=HOURS, coerce=int, required=False)
    outage_h = number_field("It lasts", "h")
    month = forms.TypedChoiceField(label="Month", choices=MONTHS, coerce=int, required=False, empty_value=None)
    sky = forms.ChoiceField(label="Sky", choices=[(sky.value, sky.label) for sky in Sky], required=False)

    def __init__(
        self,
        data: Any,
        *,
        home: Home,
        sun: bool,
        accepted: Sequence[HouseholdRule],
        tried: Sequence[HouseholdRule] = (),
    ) -> None:
        brief = home.brief
        stands = {name: getattr(brief, name) for name in ("outage_from_hour", "outage_h", "month")}
        stands["sky"] = brief.sky.value
        asked = {key: data.get(key) for key in data} if "outage_h" in data else {}
        super().__init__({**stands, **asked})
        self.was, self.accepted = brief, tuple(accepted)
        self.rules = (*accepted, *(rule for rule in tried if rule not in accepted))
        chosen = _rules_in(data.getlist("rule")) if asked else self.accepted
        self.rules = (*self.rules, *(rule for rule in chosen if rule not in self.rules))
        self.choices = [(canonical(dump(rule)), rule, rule in chosen) for rule in self.rules]
        for name in () if sun else ("month", "sky"):
            del self.fields[name]

    def played(self) -> tuple[Brief, tuple[HouseholdRule, ...]]:
        """The brief and the rules to play by; the brief of the job where something does not fit."""
        made = self.build(self._played) if self.is_valid() else None
        return made if made is not None else self.was, tuple(rule for _, rule, kept in self.choices if kept)

    def _played(self) -> Brief:
        data: dict[str, Any] = self.cleaned_data
        chosen = {
            name: data[name] for name in ("outage_from_hour", "outage_h", "month") if data.get(name) not in (None, "")
        }
        if data.get("sky"):
            chosen["sky"] = Sky(data["sky"])
        return replace(self.was, **chosen)


def _rules_in(values: Sequence[str]) -> tuple[HouseholdRule, ...]:
    """The rules that an address names; what is no rule is passed over."""
    rules = []
    for value in values:
        with contextlib.suppress(MusterError):
            rules.append(load(HouseholdRule, plain_json(value, "a rule")))
    return tuple(rules)


class RuleForm(CoreForm):
    """A rule added by hand: its kind, and what that kind needs."""

    kind = forms.ChoiceField(label="Rule", choices=[(kind.value, kind.label) for kind in RuleKind])
    load = forms.ChoiceField(label="Load", required=False)
    other = forms.ChoiceField(label="and this load", required=False)
    from_hour = forms.TypedChoiceField(
        label="From", choices=ALL_DAY_HOURS, coerce=int, required=False, empty_value=None
    )
    to_hour = forms.TypedChoiceField(label="Until", choices=ALL_DAY_HOURS, coerce=int, required=False, empty_value=None)
    share = number_field("Share", "%", help_text="of its usual time, or of the battery")
    w = number_field("Charging", "W")
    tier = forms.ChoiceField(
        label="What may be left off",
        choices=[("", "–"), ("could", "what could run"), ("should", "what should run")],
        required=False,
    )
    leg = forms.ChoiceField(label="Leg", choices=[("", "–"), ("1", "leg 1"), ("2", "leg 2")], required=False)

    def __init__(self, data: Any, home: Home, scope: Tier) -> None:
        super().__init__(data)
        loads = [("", "–"), *((load.key, short_name(load)) for load in home.within(scope))]
        for name in ("load", "other"):
            self.fields[name].choices = loads  # type: ignore[attr-defined]
        if home.brief.system.legs < 2:
            del self.fields["leg"]

    def made(self) -> HouseholdRule | None:
        """The rule; None, with what is wrong beside its field, where it lacks something."""
        return self.build(self._made) if self.is_valid() else None

    def _made(self) -> HouseholdRule:
        data: dict[str, Any] = self.cleaned_data
        share = data.get("share")
        return HouseholdRule(
            kind=RuleKind(data["kind"]),
            load=data.get("load") or "",
            other=data.get("other") or "",
            from_hour=data.get("from_hour"),
            to_hour=data.get("to_hour"),
            share=None if share is None else share / 100,
            w=data.get("w"),
            tier=Tier(data["tier"]) if data.get("tier") else None,
            leg=Leg(data["leg"]) if data.get("leg") else None,
        )
