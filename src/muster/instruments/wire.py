"""A line of text to an instrument and a line back, over TCP; what is half a line waits for its other half."""

from __future__ import annotations

import contextlib
import socket
import time

import serial  # type: ignore[import-untyped]

from .driver import Garbled, NoAnswer, NothingThere

LONGEST_LINE, CHUNK = 1_000_000, 65_536
"""A capture of a scope is one long line; what is longer is no line."""


def split_lines(buffer: bytes) -> tuple[list[str], bytes]:
    """Whole lines of a buffer, and what is left of it; pure, so that half a frame can be tested.

    Raises
    ------
    Garbled
        If a line does not end, or is not text.
    """
    *lines, rest = buffer.replace(b"\r\n", b"\n").replace(b"\r", b"\n").split(b"\n")
    if len(rest) > LONGEST_LINE:
        raise Garbled(f"{len(rest)} bytes without an end of line", where="line", want="a line of text")
    try:
        return [line.decode("ascii").strip() for line in lines], rest
    except UnicodeDecodeError:
        raise Garbled("not text", where="line", want="a line of ASCII") from None


class Wire:
    """A TCP connection that speaks in lines; connects when it must, and forgets what was half said when it breaks."""

    def __init__(self, host: str, port: int, patience_s: float) -> None:
        self.host, self.port, self.patience_s = host, port, patience_s
        self._socket: socket.socket | None = None
        self._rest = b""
        self._lines: list[str] = []

    @property
    def where(self) -> str:
        """Where it goes."""
        return f"{self.host}:{self.port}"

    def connect(self) -> None:
        """Connect, unless it is connected.

        Raises
        ------
        NoAnswer
            If nothing is there.
        """
        if self._socket is not None:
            return
        try:
            self._socket = socket.create_connection((self.host, self.port), self.patience_s)
        except OSError as error:
            raise NothingThere(
                f"nothing there: {error}", where=self.where, want="the instrument on, its address and port"
            ) from None

    def ask(self, command: str) -> str:
        """Say a line and hear the line that comes back; what was heard before is not taken for it.

        Raises
        ------
        NoAnswer
            If nothing comes in time, or the line breaks.
        Garbled
            If what comes is not a line of text.
        """
        self._lines = []
        self._send(f"{command}\n".encode("ascii"))
        return self.hear()

    def _send(self, raw: bytes) -> None:
        self.connect()
        assert self._socket is not None
        try:
            self._socket.sendall(raw)
        except OSError as error:
            self.close()
            raise NoAnswer(f"the line broke: {error}", where=self.where, want="look at its cable") from None

    def hear(self) -> str:
        """The next line.

        Raises
        ------
        NoAnswer
            If none comes in time, or the line breaks.
        Garbled
            If what comes is not a line of text.
        """
        self.connect()
        until = time.monotonic() + self.patience_s
        while not self._lines:
            self._rest += self._some(until)
            try:
                lines, self._rest = split_lines(self._rest)
            except Garbled:
                self.close()
                raise
            self._lines += [line for line in lines if line]
        return self._lines.pop(0)

    def _some(self, until: float) -> bytes:
        assert self._socket is not None
        left = until - time.monotonic()
        if left <= 0:
            self.close()
            raise NoAnswer("no answer in time", where=self.where, want="look at its cable")
        self._socket.settimeout(left)
        try:
            raw = self._socket.recv(CHUNK)
        except TimeoutError:
            self.close()
            raise NoAnswer("no answer in time", where=self.where, want="look at its cable") from None
        except OSError as error:
            self.close()
            raise NoAnswer(f"the line broke: {error}", where=self.where, want="look at its cable") from None
        if not raw:
            self.close()
            raise NoAnswer("it hung up", where=self.where, want="look at its cable")
        return raw

    def latest(self) -> str:
        """The last line of all that has come by now, at least one."""
        line = self.hear()
        while self._lines:
            line = self._lines.pop(0)
        return line

    def close(self) -> None:
        """Let it go, and forget what was half said."""
        if self._socket is not None:
            with contextlib.suppress(OSError):
                self._socket.close()
        self._socket, self._rest, self._lines = None, b"", []


class SerialWire(Wire):
    """The same over a serial line."""

    def __init__(self, line: str, baud: int, patience_s: float) -> None:
        super().__init__("", 0, patience_s)
        self.line, self.baud = line, baud
        self._serial: serial.Serial | None = None

    @property
    def where(self) -> str:
        """The line."""
        return self.line

    def connect(self) -> None:
        """Open the line, unless it is open.

        Raises
        ------
        NoAnswer
            If there is no such line.
        """
        if self._serial is None:
            try:
                self._serial = serial.Serial(self.line, self.baud, timeout=0)
            except (OSError, ValueError) as error:
                raise NothingThere(
                    f"nothing there: {error}", where=self.where, want="the cable in, and its name"
                ) from None

    def _send(self, raw: bytes) -> None:
        self.connect()
        assert self._serial is not None
        try:
            self._serial.write(raw)
        except OSError as error:
            self.close()
            raise NoAnswer(f"the line broke: {error}", where=self.where, want="look at its cable") from None

    def _some(self, until: float) -> bytes:
        assert self._serial is not None
        try:
            self._serial.timeout = max(0.0, until - time.monotonic())
            raw: bytes = self._serial.read(1)
            raw += self._serial.read(self._serial.in_waiting)
        except OSError as error:
            self.close()
            raise NoAnswer(f"the line broke: {error}", where=self.where, want="look at its cable") from None
        if not raw:
            self.close()
            raise NoAnswer("no answer in time", where=self.where, want="look at its cable")
        return raw

    def close(self) -> None:
        """Let it go, and forget what was half said."""
        if self._serial is not None:
            with contextlib.suppress(OSError):
                self._serial.close()
        self._serial = None
        super().close()
