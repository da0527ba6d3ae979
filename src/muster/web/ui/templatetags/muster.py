"""Filters for the pages: a value as the trade writes it."""

from __future__ import annotations

from collections.abc import Collection, Hashable
from datetime import datetime
from hashlib import blake2s
from typing import Any
from zoneinfo import ZoneInfo

from django import forms, template
from django.http import HttpRequest
from django.template.loader import render_to_string
from django.utils.html import format_html
from django.utils.safestring import SafeString, mark_safe

from muster.core import quantities
from muster.core.loads import Load, short_name
from muster.core.measures import shown_in
from muster.core.quantities import THIN, Grade, duration, number, plain
from muster.core.sessions import PROTOCOLS
from muster.core.sources import SourceKind
from muster.records.recent import Recent

register = template.Library()


CSRF_HERE = "\N{REPLACEMENT CHARACTER}csrf\N{REPLACEMENT CHARACTER}"
"""Stands in a kept part for the token of whoever is shown it."""
MOST_PARTS = 4096
_PARTS: Recent[str] = Recent(MOST_PARTS)


@register.simple_tag(takes_context=True)
def kept_part(context: template.Context, name: str, key: Hashable, **values: Any) -> SafeString:
    """A part of a page drawn once of all that it hangs on (``key``), and shown again while that stands.

    It sees ``values`` and nothing else of the page; forms in it bear the token of whoever is shown it. Its
    outermost element bears ``part`` as ``data-part``: a page that says it has that part is sent only its place.
    """
    of = (name, key, shown_in(), str(values.get("brief") and values["brief"].zone))
    part_id = blake2s(repr(of).encode(), digest_size=8).hexdigest()
    if part_id in _parts_of(context.get("request")):
        return format_html('<li data-stands="{}"></li>', part_id)
    part = _PARTS.get(of)
    if part is None:
        part = _PARTS.put(of, render_to_string(name, {**values, "part": part_id, "csrf_token": CSRF_HERE}))
    return mark_safe(part.replace(CSRF_HERE, str(context.get("csrf_token", ""))))


def _parts_of(request: HttpRequest | None) -> Collection[str]:
    """The parts that the page asking says it has."""
    return request.headers.get("Muster-Has", "").split(",") if request is not None else ()


@register.filter
def unit(value: float | None, suffix: str) -> str:
    """A number with its unit."""
    return "–" if value is None else plain(value, suffix)


@register.filter
def figure(value: float | None, suffix: str) -> SafeString | str:
    """A readout: the number, its unit smaller and lighter."""
    if value is None:
        return "–"
    return format_html(
        '<span class="fig">{}</span> <span class="fig-unit">{}</span>',
        number(value, suffix),
        quantities.unit_word(suffix),
    )


@register.filter
def unit_word(suffix: str) -> str:
    """A unit as it is written."""
    return quantities.unit_word(suffix)


@register.filter
def shown(value: float, suffix: str) -> float:
    """A value in SI in the units that are shown."""
    return quantities.shown(value, suffix)


@register.filter
def share(value: float) -> str:
    """A share of one in percent, to a tenth."""
    return f"{value * 100:.1f}{THIN}%"


@register.filter
def to_s(minutes: float) -> float:
    """Minutes as seconds, for ``spell``; whole minutes."""
    return round(minutes) * 60.0


@register.filter
def spell(seconds: float | None) -> str:
    """A length of time in words."""
    return "–" if seconds is None else duration(seconds)


HOUR_BOXES = tuple(
    tuple(
        f'<label title="{hour}:00"><input type="checkbox" name="hour" value="{hour}"{on} aria-label="{hour} to {hour + 1}">'
        "<span></span></label>"
        for on in ("", " checked")
    )
    for hour in range(24)
)
"""A box to paint for each hour, empty and checked: two hundred loads hold thousands."""


@register.filter
def hour_boxes(hours: tuple[int, ...]) -> SafeString:
    """The hours of a day to paint, those in which a load may run checked."""
    return mark_safe("".join(HOUR_BOXES[hour][hour in hours] for hour in range(24)))


@register.filter
def grade(value: Grade | str | None) -> SafeString | str:
    """An evidence grade as its letter in a box."""
    if value is None:
        return ""
    known = Grade(value)
    return format_html('<abbr class="grade" title="grade {}: {}">{}</abbr>', known.value, known.label, known.value)


@register.filter
def short(load: Load) -> str:
    """A load's name up to its first comma."""
    return short_name(load)


@register.filter
def local(at: datetime | None, zone: str) -> datetime | None:
    """A time as the site's clocks show it; bare, so that the date filter does not turn it back to UTC."""
    return at.astimezone(ZoneInfo(zone)).replace(tzinfo=None) if at is not None else None


@register.filter
def iso_local(at: str, zone: str) -> datetime | None:
    """A time as a job file has it, as the site's clocks show it."""
    return local(datetime.fromisoformat(at), zone)


@register.filter
def protocol_name(slug: str) -> str:
    """A protocol's name."""
    return PROTOCOLS[slug].name if slug in PROTOCOLS else f"the {slug}"


@register.filter
def is_engine(kind: str) -> bool:
    """Whether a kind of source has an engine with a governor of its own."""
    return SourceKind(kind) is SourceKind.OPEN_FRAME


@register.filter
def words(text: str) -> list[str]:
    """The words of a list written with blanks."""
    return text.split()


@register.filter
def field(form: forms.Form, name: str) -> forms.BoundField:
    """A field of a form by its name."""
    return form[name]


@register.filter
def unlocalised(value: float) -> str:
    """A number for an address."""
    return f"{value:.3f}"


@register.filter
def add_s(value: float, seconds: int) -> str:
    """Seconds added, for an address."""
    return f"{value + seconds:.3f}"


@register.filter
def add_n(value: float, more: float) -> str:
    """A coordinate moved."""
    return f"{value + more:.1f}"


@register.filter
def clockspan(seconds: float) -> str:
    """Seconds as hours, minutes and seconds, with a sign where before."""
    size = abs(seconds)
    whole = f"{int(size // 3600)}:{int(size % 3600 // 60):02d}:{size % 60:04.1f}"
    return f"−{whole}" if seconds < 0 else whole
