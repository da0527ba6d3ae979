"""Static files over ASGI: WhiteNoise finds and describes them, this sends them.

WhiteNoise's own middleware answers with a synchronous iterator, which under
ASGI warns once a file; its framework-free base does the work here instead.
"""

from __future__ import annotations

import asyncio
from collections.abc import Awaitable, Callable
from typing import Any

from django.conf import settings
from django.contrib.staticfiles.finders import get_finders
from whitenoise.base import WhiteNoise

Scope = dict[str, Any]
Receive = Callable[[], Awaitable[dict[str, Any]]]
Send = Callable[[dict[str, Any]], Awaitable[None]]
App = Callable[[Scope, Receive, Send], Awaitable[None]]


def _no_app(environ: Any, start: Any) -> Any:
    raise LookupError("static files are served by StaticRoute alone")


class StaticRoute:
    """Serves ``/static/`` from every app's static folder, and hands the rest to ``app``."""

    def __init__(self, app: App) -> None:
        self.app = app
        self.files = WhiteNoise(_no_app, max_age=60, allow_all_origins=False)
        for finder in get_finders():
            for path, storage in finder.list(None):
                self.files.add_file_to_dictionary(settings.STATIC_URL + path, storage.path(path))

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        value_found = self.files.files.get(scope.get("path", "")) if scope["type"] == "http" else None
        if value_found is None or scope["method"] not in ("GET", "HEAD"):
            await self.app(scope, receive, send)
            return
        headers = {
            "HTTP_" + name.decode("latin-1").upper().replace("-", "_"): value.decode("latin-1")
            for name, value in scope["headers"]
        }
        response = value_found.get_response(scope["method"], headers)
        body = await asyncio.to_thread(_read, response.file)
        sent = [(name.lower().encode("latin-1"), value.encode("latin-1")) for name, value in response.headers]
        await send({"type": "http.response.start", "status": int(response.status), "headers": sent})
        await send({"type": "http.response.body", "body": body})


def _read(file: Any) -> bytes:
    if file is None:
        return b""
    with file:
        data: bytes = file.read()
        return data
