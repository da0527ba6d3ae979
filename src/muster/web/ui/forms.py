"""Forms that hand their fields to the core, and show its errors beside the field at fault."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, TypeVar

from django import forms

from muster.core.errors import MusterError
from muster.core.measures import TYPED_DECIMALS, UnitScale, scale_of
from muster.core.quantities import unit_word

T = TypeVar("T")


class CoreForm(forms.Form):
    """A form whose values become one core value; its template is the same everywhere."""

    use_required_attribute = False

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        for name, field in self.fields.items():
            if isinstance(field, MeasuredFloat):
                field.take_units()
            field.widget.attrs.setdefault("class", _css(field))
            if isinstance(field, forms.FloatField | forms.IntegerField):
                field.widget.attrs.setdefault("inputmode", "decimal")
                field.error_messages.setdefault("invalid", "a number is wanted here")
                field.error_messages["invalid"] = "a number is wanted here"
            if field.help_text:
                field.widget.attrs.setdefault("aria-describedby", f"id_{name}_help")

    def full_clean(self) -> None:
        """Check the form, and mark the fields at fault."""
        super().full_clean()
        for name in self._errors or ():
            self._mark(name)

    def _mark(self, name: str) -> None:
        if name in self.fields:
            attrs = self.fields[name].widget.attrs
            attrs["aria-invalid"] = "true"
            attrs["class"] = f"{attrs.get('class', '')} is-invalid"

    def build(self, make: Callable[[], T]) -> T | None:
        """Make the core value; what it refuses stands beside the field, and None comes back."""
        try:
            return make()
        except MusterError as error:
            where = error.where.split(".")[-1]
            text = f"{error.what}; {error.want}" if error.want else error.what
            self.add_error(where if where in self.fields else None, text)
            self._mark(where)
            return None


def _css(field: forms.Field) -> str:
    if isinstance(field.widget, forms.Select):
        return "form-select"
    if isinstance(field.widget, forms.CheckboxInput):
        return "form-check-input"
    return "form-control"


IN_SI = {"m": "m", "°C": "c", "K": "k", "L": "l", "L/h": "lph", "kg": "kg"}
"""Units of fields that may be shown in others, and their suffix."""


def number_field(label: str, unit: str = "", *, required: bool = False, help_text: str = "") -> forms.FloatField:
    """A number with its unit shown in the label; a decimal comma is understood.

    What has a unit of SI is shown and typed as the job has it, and cleaned to SI.
    """
    first, _, rest = unit.partition(" ")
    if first in IN_SI:
        return MeasuredFloat(IN_SI[first], f" {rest}".rstrip(), label=label, required=required, help_text=help_text)
    return CommaFloat(label=f"{label} [{unit}]" if unit else label, required=required, help_text=help_text)


class CommaFloat(forms.FloatField):
    """A number that may be typed with a decimal comma."""

    widget = forms.TextInput

    def to_python(self, value: Any) -> float | None:
        """Read the number."""
        if isinstance(value, str):
            value = value.strip().replace("\u202f", "").replace(" ", "").replace(",", ".")
        number: float | None = super().to_python(value)
        return number

    def prepare_value(self, value: Any) -> Any:
        """Show it without a needless tail."""
        return f"{value:.10g}" if isinstance(value, float) else value


class MeasuredFloat(CommaFloat):
    """A number in SI, shown and typed in the units of the job; ``more`` follows the unit in the label."""

    def __init__(self, si_unit: str, more: str = "", **kwargs: Any) -> None:
        super().__init__(**kwargs)
        self.si_unit, self.bare, self.more = si_unit, str(self.label), more
        self.scale: UnitScale | None = None

    def take_units(self) -> None:
        """Take the units that are shown at present: a form is made for one request."""
        self.scale = scale_of(self.si_unit)
        self.label = f"{self.bare} [{unit_word(self.si_unit)}{self.more}]"

    def to_python(self, value: Any) -> float | None:
        """Read the number, in SI."""
        typed = super().to_python(value)
        return typed if typed is None or self.scale is None else self.scale.si(typed)

    def prepare_value(self, value: Any) -> Any:
        """Show it in its units; what was typed stays as it was typed."""
        if isinstance(value, int | float) and self.scale is not None:
            return f"{self.scale.shown(value):.{TYPED_DECIMALS}f}".rstrip("0").rstrip(".")
        return super().prepare_value(value)
