"""Forms that hand their fields to the core, and show its errors beside the field at fault."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, TypeVar

from django import forms

from muster.core.errors import MusterError

T = TypeVar("T")


class CoreForm(forms.Form):
    """A form whose values become one core value; its template is the same everywhere."""

    use_required_attribute = False

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        for name, field in self.fields.items():
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


def number_field(label: str, unit: str = "", *, required: bool = False, help_text: str = "") -> forms.FloatField:
    """A number with its unit shown in the label; a decimal comma is understood."""
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
