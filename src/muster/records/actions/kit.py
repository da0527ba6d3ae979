"""The kit at hand: instruments added, described, put in order, taken out and put back."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from datetime import date
from typing import Any

from django.contrib.auth.models import AbstractUser
from django.db import transaction
from django.utils import timezone

from muster.core.errors import MusterError
from muster.core.kit import USUAL_KIT, Instrument, Kit
from muster.core.kit.cross_check import CrossChecked, cross_check
from muster.formats.codec import dump, load
from muster.instruments.driver import Garbled, NoAnswer
from muster.instruments.link import Link, strip_of
from muster.records.models import InstrumentRow, SessionRow, StripRow


def instrument_of(row: InstrumentRow) -> Instrument:
    """The row's instrument."""
    return load(Instrument, row.data)


@transaction.atomic
def kit_rows(who: AbstractUser) -> list[InstrumentRow]:
    """The kit at hand in its order; the usual kit at first."""
    if not InstrumentRow.objects.exists():
        InstrumentRow.objects.bulk_create(
            InstrumentRow(slug=i.slug, data=dump(i), place=place, created_by=who)
            for place, i in enumerate(USUAL_KIT, 1)
        )
    return list(InstrumentRow.objects.filter(removed_at=None))


def kit_at_hand(who: AbstractUser) -> tuple[Instrument, ...]:
    """The instruments at hand, in the order in which readings fall to them."""
    return tuple(instrument_of(row) for row in kit_rows(who))


@transaction.atomic
def add_instrument(instrument: Instrument, who: AbstractUser) -> InstrumentRow:
    """Add an instrument at the end of the kit.

    Raises
    ------
    MusterError
        If another goes by that word, or it reads nothing.
    """
    kit_rows(who)
    _checked(instrument)
    if InstrumentRow.objects.filter(slug=instrument.slug).exists():
        raise MusterError(
            f"“{instrument.slug}” is in the kit already", where="slug", want="another word to say after @"
        )
    last = InstrumentRow.objects.order_by("-place").values_list("place", flat=True).first() or 0
    row = InstrumentRow.objects.create(slug=instrument.slug, data=dump(instrument), place=last + 1, created_by=who)
    _into_open_sessions(who)
    return row


@transaction.atomic
def edit_instrument(row: InstrumentRow, instrument: Instrument, who: AbstractUser) -> InstrumentRow:
    """Describe an instrument again; its word stays. Open sessions take it over, sealed ones keep what they were sealed with.

    Raises
    ------
    MusterError
        If it reads nothing.
    """
    was = instrument_of(row)
    row.data = dump(_checked(replace(instrument, slug=row.slug, checked=was.checked, apart=was.apart)))
    row.save()
    _into_open_sessions(who)
    return row


@transaction.atomic
def check_on_the_mains(
    read: Mapping[str, Mapping[str, float]], who: AbstractUser, on: date
) -> tuple[CrossChecked, ...]:
    """Hold the instruments against one another on the mains, and keep where one stands apart.

    Raises
    ------
    MusterError
        As ``cross_check``.
    """
    rows = {row.slug: row for row in kit_rows(who)}
    plain = [replace(instrument_of(row), apart=()) for row in rows.values()]
    checked = cross_check({slug: figures for slug, figures in read.items() if slug in rows}, Kit(tuple(plain)))
    for slug in {seen.slug for seen in checked}:
        apart = tuple(seen.apart for seen in checked if seen.slug == slug and seen.is_apart)
        row = rows[slug]
        row.data = dump(replace(instrument_of(row), checked=on.isoformat(), apart=apart))
        row.save(update_fields=["data"])
    _into_open_sessions(who)
    return checked


@transaction.atomic
def remove_instrument(row: InstrumentRow, who: AbstractUser) -> InstrumentRow:
    """Take an instrument out of the kit; it can be put back.

    Raises
    ------
    MusterError
        If it is the last.
    """
    if InstrumentRow.objects.filter(removed_at=None).count() < 2:
        raise MusterError("this is the last instrument", where="kit", want="at least one to read with")
    row.removed_at = timezone.now()
    row.save(update_fields=["removed_at"])
    _into_open_sessions(who)
    return row


@transaction.atomic
def put_back_instrument(row: InstrumentRow, who: AbstractUser) -> InstrumentRow:
    """Put an instrument back."""
    row.removed_at = None
    row.save(update_fields=["removed_at"])
    _into_open_sessions(who)
    return row


@transaction.atomic
def move_up(row: InstrumentRow, who: AbstractUser) -> None:
    """Let readings fall to an instrument before the one above it."""
    rows = kit_rows(who)
    at = next((i for i, other in enumerate(rows) if other.pk == row.pk), 0)
    if at:
        above = rows[at - 1]
        above.place, row.place = row.place, above.place
        above.save(update_fields=["place"])
        row.save(update_fields=["place"])
        _into_open_sessions(who)


def _checked(instrument: Instrument) -> Instrument:
    if not instrument.reads:
        raise MusterError("it reads nothing", where="reads", want="at least one quantity with its range")
    return instrument


def _into_open_sessions(who: AbstractUser) -> None:
    """Sessions that are not sealed are read with the kit as it is now."""
    kit = [dump(instrument) for instrument in kit_at_hand(who)]
    for session in SessionRow.objects.filter(closed_at=None):
        session.data = {**session.data, "kit": kit}
        session.save(update_fields=["data"])


def set_link(row: InstrumentRow, link: Link | None) -> InstrumentRow:
    """Say how an instrument is reached, None where it is read by eye."""
    row.link = dump(link) if link is not None else None
    row.save(update_fields=["link"])
    return row


def add_strip(link: Link, who: AbstractUser) -> StripRow:
    """Add an outlet strip; one at the same address is put back instead."""
    row = next((row for row in StripRow.objects.all() if load(Link, row.link).where == link.where), None)
    if row is None:
        return StripRow.objects.create(name=f"outlet strip at {link.where}"[:60], link=dump(link), created_by=who)
    row.removed_at = None
    row.save(update_fields=["removed_at"])
    return row


def put_away_strip(row: StripRow) -> StripRow:
    """Take an outlet strip out of the kit, or put it back."""
    row.removed_at = timezone.now() if row.removed_at is None else None
    row.save(update_fields=["removed_at"])
    return row


def look_at_strip(row: StripRow) -> dict[str, Any]:
    """What an outlet strip says of itself: its outlets and its watchdog, or why it does not answer."""
    strip = strip_of(load(Link, row.link))
    try:
        return {"states": strip.states(), "watchdog_s": strip.watchdog_s()}
    except (NoAnswer, Garbled) as error:
        return {"error": str(error)}
    finally:
        strip.close()
