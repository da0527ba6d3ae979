"""One look at the records: while a page is drawn, what was read of the database for it is not read again."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from functools import wraps
from typing import Any, TypeVar

from django.db import models

Row = TypeVar("Row", bound=models.Model)
T = TypeVar("T")

_LOOK: ContextVar[dict[tuple[str, Any], Any] | None] = ContextVar("look", default=None)


@contextmanager
def looking() -> Iterator[None]:
    """One look: nothing is changed within it, so that every part of what is drawn speaks of the same moment."""
    if _LOOK.get() is not None:
        yield
        return
    token = _LOOK.set({})
    try:
        yield
    finally:
        _LOOK.reset(token)


def remember(read: Callable[[Row], T], row: Row, value: T) -> None:
    """Give the look that goes on what ``read`` would read of a row: of many rows it is read together."""
    look = _LOOK.get()
    if look is not None:
        look[(read.__qualname__, row.pk)] = value


def read_once(read: Callable[[Row], T]) -> Callable[[Row], T]:
    """A reading of a row that is made once a look; outside of one it is made every time."""

    @wraps(read)
    def reading(row: Row) -> T:
        look = _LOOK.get()
        if look is None:
            return read(row)
        key = (read.__qualname__, row.pk)
        if key not in look:
            look[key] = read(row)
        return look[key]

    return reading
