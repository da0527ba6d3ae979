"""A shelf entry of one's own as a form."""

from __future__ import annotations

from typing import Any

from django import forms

from muster.core.loads import ALL_DAY, KINDS, Caller, Duty, parse_parts, part_words
from muster.core.loads.line_parser import parse_hours
from muster.core.shelf import ShelfLoad, slug_of
from muster.formats.shelfcsv import hour_ranges
from muster.web.ui.forms import CoreForm, number_field


class ShelfForm(CoreForm):
    """An appliance with planning figures."""

    name = forms.CharField(label="Name", max_length=120, help_text="As you would type it among the loads.")
    kind = forms.ChoiceField(label="Kind", choices=[(kind.slug, kind.label) for kind in KINDS.values()])
    run_w = number_field("Running", "W", required=True)
    pf = number_field("Power factor", help_text="Empty: as its kind.")
    on_min = number_field("On for", "min", required=True)
    off_min = number_field("Off for", "min", required=True, help_text="0: it runs throughout.")
    caller = forms.ChoiceField(label="Comes on", choices=[(c.value, c.label) for c in Caller])
    once = forms.BooleanField(label="A program: once in each stretch of its hours", required=False)
    hours = forms.CharField(label="Hours", required=False, help_text="Such as 6-9,17-22; empty: all day.")
    also = forms.CharField(label="Other words for it", required=False, help_text="Apart by commas.")
    parts = forms.CharField(
        label="Parts of its run, one a line", required=False, widget=forms.Textarea(attrs={"rows": 4})
    )

    def entry(self, slug: str = "") -> ShelfLoad | None:
        """The entry, or None with the errors set beside their fields; ``slug`` where it has one."""
        data: dict[str, Any] = self.cleaned_data
        return self.build(
            lambda: ShelfLoad(
                slug=slug or slug_of(data["name"]),
                name=data["name"].strip(),
                kind=data["kind"],
                run_w=data["run_w"],
                duty=Duty(data["on_min"], data["off_min"], Caller(data["caller"]), data["once"]),
                hours=parse_hours(data["hours"]) if data["hours"] else ALL_DAY,
                pf=data["pf"],
                also=tuple(word.strip().lower() for word in data["also"].split(",") if word.strip()),
                parts=parse_parts(data["parts"]),
            )
        )


def initial_of(entry: ShelfLoad | None) -> dict[str, Any]:
    """What the form shows: an entry, or an empty one."""
    if entry is None:
        return {"on_min": 60.0, "off_min": 0.0}
    return {
        "name": entry.name,
        "kind": entry.kind,
        "run_w": entry.run_w,
        "pf": entry.pf,
        "on_min": entry.duty.on_min,
        "off_min": entry.duty.off_min,
        "caller": entry.duty.caller.value,
        "once": entry.duty.once,
        "hours": hour_ranges(entry.hours),
        "also": ", ".join(entry.also),
        "parts": "\n".join(part_words(part) for part in entry.parts),
    }
