"""A scope beside a recording: asked for its last seconds after a load was switched on, or the volts fell."""

from __future__ import annotations

import queue
import threading
from collections.abc import Callable
from dataclasses import dataclass, field

import numpy as np

from muster.core.sessions import Place
from muster.core.timeline.captures import Capture
from muster.core.timeline.traces import Channel
from muster.instruments.scpi import ScpiDriver

CAPTURE_AFTER_S = 3.0
"""A scope is asked for its last seconds so long after a load was switched on, or the volts fell."""
CAPTURE_LEAST_S = 2.0
"""Between two captures at least so long: a record reaches back farther than both together."""


@dataclass
class Scope:
    """An instrument that keeps its last seconds, asked in a thread of its own so that nothing waits for it."""

    slug: str
    driver: ScpiDriver
    clock: Callable[[], float]
    waiting: list[tuple[float, str]] = field(default_factory=list)
    last: float = 0.0
    captures: queue.SimpleQueue[Capture] = field(default_factory=queue.SimpleQueue)
    busy: threading.Thread | None = None

    def want(self, now: float, why: str) -> None:
        """Something happened that is worth its last seconds."""
        self.waiting.append((now + CAPTURE_AFTER_S, why))

    def look(self, now: float, zero: float) -> None:
        """Ask it when the time has come; what happened shortly before is in the same record."""
        due = [why for at, why in self.waiting if at <= now]
        resting = now - self.last < CAPTURE_LEAST_S
        if not due or resting or (self.busy is not None and self.busy.is_alive()):
            return
        self.waiting = [(at, why) for at, why in self.waiting if at > now]
        self.last = now
        self.busy = threading.Thread(target=self._ask, args=(", ".join(dict.fromkeys(due)), zero), daemon=True)
        self.busy.start()

    def _ask(self, why: str, zero: float) -> None:
        try:
            record = self.driver.capture()
        except Exception:  # a scope that answers nonsense costs its capture, nothing else
            return
        channels = (Channel("v", Place.LEG1), Channel("a", Place.LEG1))
        waves = np.stack([record.volts, record.amps]).astype(np.float32)
        begun = self.clock() - record.ago_s - zero - record.step_s * (waves.shape[1] - 1)
        self.captures.put(
            Capture(
                name=why,
                instrument=self.slug,
                t_s=begun,
                step_s=record.step_s,
                channels=channels,
                values=waves,
                why=why,
            )
        )

    def close(self) -> None:
        """Close it, once it has answered."""
        if self.busy is not None:
            self.busy.join(5)
        self.driver.close()
