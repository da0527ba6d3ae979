"""What is said at the top of the next page with a way to undo it."""

from __future__ import annotations

from dataclasses import dataclass

from django.http import HttpRequest

KEY = "undoable"


@dataclass(frozen=True)
class Undoable:
    """What was done, and the address that undoes it by a POST."""

    text: str
    undo: str


def say_undoable(request: HttpRequest, text: str, undo: str) -> None:
    """Say on the next page that something was done, with its undo."""
    request.session[KEY] = [*request.session.get(KEY, []), {"text": text, "undo": undo}]


def taken(request: HttpRequest) -> list[Undoable]:
    """What is to be said now; it is said once."""
    kept = request.session.pop(KEY, []) if KEY in request.session else []
    return [Undoable(item["text"], item["undo"]) for item in kept]
