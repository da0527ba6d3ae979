"""A real server in a process of its own, asked as a browser would."""

from __future__ import annotations

import gzip
import http.cookiejar
import os
import re
import signal
import subprocess
import sys
import threading
import urllib.error
import urllib.parse
import urllib.request
import uuid
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path
from types import TracebackType

TRIES = 2000
"""A page is asked for so many times at most before what it should show counts as not coming."""
BETWEEN_S = 0.1
"""And so long apart: a server that is asked without a breath has none left for the work that is waited for."""


def environment(**more: str) -> dict[str, str]:
    """This process's environment without what only tests set."""
    found = {**os.environ, "PYTHONPATH": os.pathsep.join(sys.path), **more}
    for name in ("DJANGO_SETTINGS_MODULE", "MUSTER_OPEN", "MUSTER_DATA", "MUSTER_DATABASE"):
        found.pop(name, None)
    return {**found, **more}


def muster(*args: str, **more: str) -> subprocess.CompletedProcess[str]:
    """A command, run to its end."""
    command = [sys.executable, "-m", "muster", *args]
    return subprocess.run(command, capture_output=True, text=True, env=environment(**more), check=False, timeout=120)


@dataclass(frozen=True)
class Answer:
    """What came back."""

    status: int
    text: str
    url: str


class Browser:
    """Cookies and forms, no script."""

    def __init__(self, address: str) -> None:
        self.address = address
        self.jar = http.cookiejar.CookieJar()
        self._opener = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(self.jar))

    def get(self, path: str, **headers: str) -> Answer:
        """Fetch a page."""
        return self._ask(urllib.request.Request(urllib.parse.urljoin(self.address, path), headers=headers))

    def post(
        self, path: str, fields: Mapping[str, str | Sequence[str]] | None = None, file: tuple[str, bytes] | None = None
    ) -> Answer:
        """Send a form, with the token that the last page gave."""
        token = next((cookie.value or "" for cookie in self.jar if cookie.name == "muster_csrf"), "")
        parts = {"csrfmiddlewaretoken": token, **(fields or {})}
        line = uuid.uuid4().hex
        body = b"".join(
            f'--{line}\r\nContent-Disposition: form-data; name="{name}"\r\n\r\n{value}\r\n'.encode()
            for name, values in parts.items()
            for value in ([values] if isinstance(values, str) else values)
        )
        if file is not None:
            head = f'--{line}\r\nContent-Disposition: form-data; name="file"; filename="{file[0]}"\r\nContent-Type: application/octet-stream\r\n\r\n'
            body += head.encode() + file[1] + b"\r\n"
        body += f"--{line}--\r\n".encode()
        headers = {"Content-Type": f"multipart/form-data; boundary={line}", "Origin": self.address.rstrip("/")}
        url = urllib.parse.urljoin(self.address, path)
        return self._ask(urllib.request.Request(url, data=body, headers=headers, method="POST"))

    def until(self, path: str, there: Callable[[Answer], bool]) -> Answer:
        """Fetch a page again and again until it shows what it should."""
        breath = threading.Event()
        for _ in range(TRIES):
            answer = self.get(path)
            if there(answer):
                return answer
            breath.wait(BETWEEN_S)
        raise AssertionError(f"it never came: {answer.text[-3000:]}")

    def _ask(self, request: urllib.request.Request) -> Answer:
        try:
            with self._opener.open(request, timeout=60) as got:
                return Answer(got.status, _text(got.read()), got.url)
        except urllib.error.HTTPError as error:
            return Answer(error.code, _text(error.read()), error.url or "")


def _text(data: bytes) -> str:
    return (gzip.decompress(data) if data[:2] == b"\x1f\x8b" else data).decode(errors="replace")


class Serving:
    """``muster up`` or another command that serves, from its first line to Ctrl-C."""

    def __init__(self, data: Path, command: str = "up", *more: str) -> None:
        self.process = subprocess.Popen(
            [sys.executable, "-m", "muster", command, "--port", "0", "--data", str(data), *more],
            stdout=subprocess.PIPE,
            stderr=subprocess.PIPE,
            text=True,
            env=environment(),
        )
        assert self.process.stdout is not None
        self.line = self.process.stdout.readline()
        found = re.search(r"http://127\.0\.0\.1:\d+/\S*", self.line)
        assert found is not None, self.process.communicate()
        self.way_in = found.group()
        self.address = urllib.parse.urljoin(self.way_in, "/")

    def browser(self) -> Browser:
        """A browser that came by the address that was printed."""
        browser = Browser(self.address)
        assert browser.get(self.way_in).status == 200
        return browser

    def end(self, how: signal.Signals = signal.SIGINT) -> str:
        """Stop it; what it said of errors."""
        if self.process.poll() is None:
            self.process.send_signal(how)
        return self.process.communicate(timeout=60)[1]

    def __enter__(self) -> Serving:
        return self

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        errors = self.end()
        assert kind is not None or "Traceback" not in errors, errors
