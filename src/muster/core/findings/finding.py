"""A finding as every page and export shows it."""

from __future__ import annotations

from dataclasses import dataclass

from ..quantities import Value
from ..working import Working


@dataclass(frozen=True)
class Finding:
    """Something computed from readings.

    ``topic`` groups findings of one kind; ``sentence`` is what an owner
    understands; ``seqs`` are the entries it came from; ``needs`` names what
    would make it better, empty when it stands. ``span`` is the stretch of the
    strip it stands on [s after the session began], None where it has none;
    ``log`` is the name of the recorded log it was read off, ``capture`` that of the capture.
    """

    key: str
    topic: str
    title: str
    sentence: str
    value: Value
    workings: tuple[Working, ...]
    seqs: tuple[int, ...] = ()
    needs: str = ""
    span: tuple[float, float] | None = None
    log: str = ""
    capture: str = ""
