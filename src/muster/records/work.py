"""Long work beside the requests: one worker, one piece of work at a time."""

from __future__ import annotations

from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from typing import Any

from django.conf import settings
from django.db import close_old_connections, connections

_workers = ThreadPoolExecutor(max_workers=1, thread_name_prefix="muster-work")


def start(work: Callable[..., Any], *args: Any) -> None:
    """Do a piece of work in the background; in tests that ask for it, at once."""
    if getattr(settings, "WORK_AT_ONCE", False):
        work(*args)
        return
    _workers.submit(_do, work, *args)


def _do(work: Callable[..., Any], *args: Any) -> None:
    close_old_connections()
    try:
        work(*args)
    finally:
        connections.close_all()
