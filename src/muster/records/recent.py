"""Values that were worked out lately, kept in memory: so many, the oldest dropped first, for every thread of a server."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Hashable
from threading import Lock
from typing import Generic, TypeVar

T = TypeVar("T")
MOST_KEPT = 64


class Recent(Generic[T]):
    """At most so many values by their key; what is not there was dropped or never put."""

    def __init__(self, most: int = MOST_KEPT) -> None:
        self._most = most
        self._kept: OrderedDict[Hashable, T] = OrderedDict()
        self._lock = Lock()

    def get(self, key: Hashable) -> T | None:
        """What was put last under a key."""
        with self._lock:
            return self._kept.get(key)

    def put(self, key: Hashable, value: T) -> T:
        """Keep a value as the newest, and give it back."""
        with self._lock:
            self._kept[key] = value
            self._kept.move_to_end(key)
            while len(self._kept) > self._most:
                self._kept.popitem(last=False)
        return value
