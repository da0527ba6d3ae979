"""A wire with faults: a TCP proxy that swallows, garbles, halves, breaks or delays what the instrument says."""

from __future__ import annotations

import contextlib
import socket
import threading


class FaultyWire:
    """Stands between a driver and its instrument; ``fault`` may be changed while it runs."""

    def __init__(self, port: int) -> None:
        self.fault = ""
        self.to = port
        self.listener = socket.create_server(("127.0.0.1", 0))
        self.port = self.listener.getsockname()[1]
        self.open = [self.listener]
        threading.Thread(target=self._accept, daemon=True).start()

    def _accept(self) -> None:
        while True:
            try:
                near, _ = self.listener.accept()
            except OSError:
                return
            self.open.append(near)
            try:
                far = socket.create_connection(("127.0.0.1", self.to))
            except OSError:
                near.close()
                continue
            self.open.append(far)
            threading.Thread(target=self._carry, args=(near, far, False), daemon=True).start()
            threading.Thread(target=self._carry, args=(far, near, True), daemon=True).start()

    def _carry(self, here: socket.socket, there: socket.socket, answers: bool) -> None:
        with contextlib.suppress(OSError):
            while raw := here.recv(65536):
                if answers and self.fault:
                    raw = self._spoil(raw, there)
                if raw:
                    there.sendall(raw)
        for one in (here, there):
            with contextlib.suppress(OSError):
                one.shutdown(socket.SHUT_RDWR)

    def _spoil(self, raw: bytes, there: socket.socket) -> bytes:
        if self.fault == "garbage":
            return bytes((byte * 7 + 131) % 256 for byte in raw)
        if self.fault == "half":
            return raw[: len(raw) // 2]
        if self.fault == "unplugged":
            with contextlib.suppress(OSError):
                there.sendall(raw[:2])
                there.shutdown(socket.SHUT_RDWR)
        return b""

    def close(self) -> None:
        """Let everything go."""
        for one in self.open:
            with contextlib.suppress(OSError):
                one.close()
