"""Findings drawn when they are first asked for, and kept: a page that wants what was held does not pay for the noise."""

from __future__ import annotations

from typing import Any, Generic, TypeVar, overload

from ..measures import showing_in, shown_in
from ..sessions import PROTOCOLS
from .context import SessionContext
from .makers import MAKERS

T = TypeVar("T")
BY_NAME = {maker.name: maker for maker in MAKERS}


class Drawing:
    """A session and what was drawn of it so far; told in the units in which it was first asked for."""

    def __init__(self, context: SessionContext) -> None:
        self.context = context
        self._shown = shown_in()
        self._drawn: dict[str, Any] = {}

    def __getitem__(self, name: str) -> Any:
        """What the maker of a name makes of the session."""
        return getattr(self, name)

    def draw(self, name: str, otherwise: Any) -> Any:
        """What a maker makes of the session, once; ``otherwise`` where it holds for no such session."""
        if name not in self._drawn:
            maker = BY_NAME[name]
            of_source = PROTOCOLS[self.context.session.protocol].of_the_source
            if maker.of_the_source if of_source else maker.of_other_sessions:
                with showing_in(self._shown):
                    self._drawn[name] = maker.make(self.context, self)
            else:
                self._drawn[name] = otherwise
        return self._drawn[name]


class Drawn(Generic[T]):
    """A field of a ``Drawing`` that is made by the maker of its name; ``otherwise`` where it holds for no such session."""

    def __init__(self, otherwise: T) -> None:
        self.otherwise = otherwise

    def __set_name__(self, owner: type, name: str) -> None:
        """Each field is made by the maker of its own name."""
        self.name = name

    @overload
    def __get__(self, drawing: None, owner: type) -> Drawn[T]: ...
    @overload
    def __get__(self, drawing: Drawing, owner: type) -> T: ...
    def __get__(self, drawing: Drawing | None, owner: type) -> T | Drawn[T]:
        """What was drawn, drawn now if it was not."""
        if drawing is None:
            return self
        made: T = drawing.draw(self.name, self.otherwise)
        return made
