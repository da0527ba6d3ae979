"""An instrument described: what it reads, and how."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from django import forms

from muster.core.errors import MusterError
from muster.core.kit import QUANTITIES, Instrument, Measure
from muster.core.kit.cross_check import CHECKED
from muster.core.quantities import UNIT_WORDS
from muster.web.ui.forms import CoreForm, number_field

PARTS = (("low", "from"), ("high", "to"), ("pct", "± % of reading"), ("abs", "± and"))


class CheckForm(CoreForm):
    """What each instrument shows of the mains at one moment; an empty box is one that was not read."""

    def __init__(self, *args: Any, instruments: Sequence[Instrument], **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.instruments = [i for i in instruments if any(i.measure(quantity) for quantity in CHECKED)]
        for instrument in self.instruments:
            for quantity in CHECKED:
                if instrument.measure(quantity):
                    words, suffix = QUANTITIES[quantity]
                    field = number_field(f"{instrument.name}, {words}", UNIT_WORDS[suffix])
                    field.widget.attrs.update({"class": "form-control mono", "inputmode": "decimal"})
                    self.fields[f"{instrument.slug}_{quantity}"] = field

    def rows(self) -> list[tuple[Instrument, list[forms.BoundField | None]]]:
        """Each instrument with its boxes."""
        return [
            (i, [self[name] if (name := f"{i.slug}_{quantity}") in self.fields else None for quantity in CHECKED])
            for i in self.instruments
        ]

    def read(self) -> dict[str, dict[str, float]]:
        """What was read, by instrument and quantity."""
        told = {
            i.slug: {
                q: self.cleaned_data[f"{i.slug}_{q}"]
                for q in CHECKED
                if self.cleaned_data.get(f"{i.slug}_{q}") is not None
            }
            for i in self.instruments
        }
        return {slug: figures for slug, figures in told.items() if figures}


class InstrumentForm(CoreForm):
    """An instrument with a row for each quantity it may read; an empty row is one it does not."""

    name = forms.CharField(label="Name", required=False, max_length=60)
    slug = forms.CharField(
        label="Word after @", required=False, max_length=20, help_text="how the log line names it: @clamp 56.7a"
    )
    refresh_s = number_field("A new figure every", "s", required=True)
    window_s = number_field("each over", "s", required=True, help_text="how long it averages for one figure")
    max_hold = forms.BooleanField(label="It holds the highest and lowest by itself", required=False)
    true_rms = forms.BooleanField(label="True RMS", required=False)
    crest = number_field("Crest factor up to")
    bandwidth_hz = number_field("Bandwidth", "Hz")
    safe_a = number_field("Never more than", "A", help_text="what it may safely be put through")
    calibrated = forms.DateField(
        label="Calibrated on",
        required=False,
        widget=forms.DateInput({"type": "date"}, format="%Y-%m-%d"),
        help_text="by its certificate",
    )
    note = forms.CharField(label="Note", required=False, max_length=200)

    def __init__(self, *args: Any, known: bool = False, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        if known:
            self.fields["slug"].disabled = True
        for quantity, (words, suffix) in QUANTITIES.items():
            for part, subject in PARTS:
                field = number_field(f"{words}, {subject}", UNIT_WORDS.get(suffix, "") if part != "pct" else "")
                field.widget.attrs.update({"class": "form-control mono", "inputmode": "decimal"})
                self.fields[f"{quantity}_{part}"] = field

    def rows(self) -> list[dict[str, Any]]:
        """Each quantity with its four fields."""
        return [
            {
                "label": words,
                "unit": UNIT_WORDS.get(suffix, ""),
                "fields": [self[f"{quantity}_{part}"] for part, _ in PARTS],
            }
            for quantity, (words, suffix) in QUANTITIES.items()
        ]

    def instrument(self) -> Instrument | None:
        """The instrument described, None with what is wrong beside it."""
        return self.build(self._made)

    def _made(self) -> Instrument:
        data = self.cleaned_data
        return Instrument(
            slug=data["slug"].strip().lstrip("@").lower(),
            name=data["name"].strip(),
            reads=self._reads(),
            refresh_s=data["refresh_s"],
            window_s=data["window_s"],
            max_hold=data["max_hold"],
            true_rms=data["true_rms"],
            crest=data["crest"],
            bandwidth_hz=data["bandwidth_hz"],
            safe_a=data["safe_a"],
            note=data["note"].strip(),
            calibrated=data["calibrated"].isoformat() if data["calibrated"] else "",
        )

    def _reads(self) -> tuple[Measure, ...]:
        measures = []
        for quantity in QUANTITIES:
            low, high, pct, absolute = (self.cleaned_data[f"{quantity}_{part}"] for part, _ in PARTS)
            if high is None and (low, pct, absolute) == (None, None, None):
                continue
            if high is None:
                raise MusterError("no highest figure", where=f"{quantity}_high", want="the top of its range")
            try:
                measures.append(Measure(quantity, low or 0.0, high, pct or 0.0, absolute or 0.0))
            except MusterError as error:
                part = {"accuracy_pct": "pct", "accuracy_abs": "abs"}.get(error.where, "high")
                raise MusterError(error.what, where=f"{quantity}_{part}", want=error.want) from None
        return tuple(measures)


def initial_of(instrument: Instrument | None) -> dict[str, Any]:
    """What the form shows first."""
    if instrument is None:
        return {"refresh_s": 1.0, "window_s": 0.2, "true_rms": True}
    names = (
        "name",
        "slug",
        "refresh_s",
        "window_s",
        "max_hold",
        "true_rms",
        "crest",
        "bandwidth_hz",
        "safe_a",
        "note",
        "calibrated",
    )
    shown = {name: getattr(instrument, name) for name in names}
    for m in instrument.reads:
        figures = (m.low, m.high, m.accuracy_pct or None, m.accuracy_abs or None)
        shown |= {f"{m.quantity}_{part}": figure for (part, _), figure in zip(PARTS, figures, strict=True)}
    return shown
