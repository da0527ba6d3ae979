"""What a server sees to now and then, in a thread of its own: that recordings which died go on."""

from __future__ import annotations

import contextlib
import threading

from django.db import connection

from .actions.recordings import heal

LOOK_S = 0.5
"""A recorder that died is seen within so long, and is at work again a second or two later."""


class Keeper:
    """Heals recordings until it ends."""

    def __init__(self) -> None:
        self._ending = threading.Event()
        self._thread = threading.Thread(target=self._watch, name="muster-keeper", daemon=True)

    def __enter__(self) -> Keeper:
        self._thread.start()
        return self

    def __exit__(self, *_: object) -> None:
        self._ending.set()
        self._thread.join(10)

    def _watch(self) -> None:
        while not self._ending.wait(LOOK_S):
            with contextlib.suppress(Exception):  # a database that is busy or full is looked at again
                heal()
        connection.close()
