"""What a person says of a trip in words of their own, read into clues: once, here, and nowhere else."""

from __future__ import annotations

import re
from enum import StrEnum


class Clue(StrEnum):
    """Something seen or heard at a trip."""

    DC_DEAD = "dc_dead"
    DC_ALIVE = "dc_alive"
    DISPLAY_DARK = "display_dark"
    DISPLAY_ALIVE = "display_alive"
    BREAKER_DOWN = "breaker_down"
    BREAKER_UP = "breaker_up"
    ENGINE_RAN = "engine_ran"
    ENGINE_DIED = "engine_died"
    DRY = "dry"
    EMPTY = "empty"
    HOT = "hot"
    BY_ITSELF = "by_itself"
    BY_HAND = "by_hand"

    @property
    def label(self) -> str:
        """The clue as it is written on screen."""
        return WORDS[self]


WORDS = {
    Clue.DC_DEAD: "the DC side was dead",
    Clue.DC_ALIVE: "the DC side was alive",
    Clue.DISPLAY_DARK: "its display was dark",
    Clue.DISPLAY_ALIVE: "its display stayed alive and said so",
    Clue.BREAKER_DOWN: "a breaker was down",
    Clue.BREAKER_UP: "the breakers stayed up",
    Clue.ENGINE_RAN: "the engine ran on",
    Clue.ENGINE_DIED: "the engine died",
    Clue.DRY: "it was out of fuel",
    Clue.EMPTY: "it was empty",
    Clue.HOT: "heat was spoken of",
    Clue.BY_ITSELF: "it came back by itself",
    Clue.BY_HAND: "it had to be put back by hand",
}
PATTERNS = {
    Clue.DC_DEAD: r"\b(dc|battery|bms)\b[^,;.]*\b(dead|gone|off|open|0\s?v|nothing)\b|\bbms (trip|cut|open)",
    Clue.DC_ALIVE: r"\b(dc|battery)\b[^,;.]*\b(alive|live|still there|stands|there)\b",
    Clue.DISPLAY_DARK: r"\b(screen|display|panel|lamps?|lights?)\b[^,;.]*\b(dark|dead|blank|black|off)\b",
    Clue.DISPLAY_ALIVE: r"\b(screen|display)\b[^,;.]*\b(show|shows|showed|lit|on|alive|says|said)\b|\bcode\b|\boverload\b|\balarm\b|\bfault\b",
    Clue.BREAKER_DOWN: r"\bbreakers?\b[^,;.]*\b(down|tripped|off|opened|open|popped|out|jumped)\b",
    Clue.BREAKER_UP: r"\bbreakers?\b[^,;.]*\b(up|closed|held)\b",
    Clue.ENGINE_RAN: r"\bengines?\b[^,;.]*\b(ran on|running|kept|went on|still)\b",
    Clue.ENGINE_DIED: r"\bengines?\b[^,;.]*\b(died|stopped|stalled|bogged|laboured|quit|slowed)\b|\bstalled\b",
    Clue.DRY: r"\b(out of fuel|ran dry|tank (is |was )?empty|fuel (gone|out))\b",
    Clue.EMPTY: r"\b(empty|flat|low battery|low volts|discharged)\b",
    Clue.HOT: r"\b(hot|overheat\w*|thermal|temperature|fan)\b",
    Clue.BY_ITSELF: r"\b(back|again|reset|recover\w*|restart\w*|live)\b[^,;.]*\b(by itself|on its own|itself)\b",
    Clue.BY_HAND: r"\b(button|by hand|reset|restart\w*|switched back)\b",
}
"""What people say, and what it is a clue to. Ours."""


def clues_in(text: str) -> tuple[Clue, ...]:
    """The clues that somebody's words hold."""
    clues = tuple(clue for clue, pattern in PATTERNS.items() if re.search(pattern, text, re.I))
    return tuple(clue for clue in clues if clue is not Clue.BREAKER_UP or Clue.BREAKER_DOWN not in clues)
