"""A page that is still to come: what it will hold, and what can be done now."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Link:
    """A way on from here."""

    name: str
    url: str = ""
    why: str = ""


@dataclass(frozen=True)
class Coming:
    """A stage that is not there yet."""

    title: str
    will: str
    links: tuple[Link, ...]
