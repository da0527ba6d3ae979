"""Everything that a play needs, made ready once."""

from __future__ import annotations

from dataclasses import dataclass

from ..brief import Brief
from ..character import Character
from ..loads import Load
from .capability import Capability
from .layout import HomeTables, Setting


@dataclass(frozen=True)
class Play:
    """Tables, rows of the source, and scales of the loads; ``missing`` what nobody said."""

    loads: tuple[Load, ...]
    brief: Brief
    character: Character
    capability: Capability
    home: HomeTables
    setting: Setting
    missing: tuple[str, ...]
    seed: int
