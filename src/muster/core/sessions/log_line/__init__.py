"""The log line: what a person jots beside a running engine, understood (docs/method/entries.md#the-log-line).

``238v 12.4a 2.91kw 59.6hz`` · ``l2 118v 31a`` · ``pump starts, 230v to 196 then 228`` · ``72db@7m`` ·
``3.6kw, off after 12 s`` · ``came back by itself in 25 s`` · ``next day 06:00 41%`` · ``2m ago: 118v`` ·
``note: said as it is``. It never refuses: what it can't read becomes a note, word for word.
"""

from .loads import match_load
from .parting import parted
from .reader import Doubt, Jotting, read_line
from .telling import EVENT_WORDS, UNIT_OF, code_meanings, slow_meters, tell
from .times import When, read_when

__all__ = [
    "EVENT_WORDS",
    "UNIT_OF",
    "Doubt",
    "Jotting",
    "When",
    "code_meanings",
    "match_load",
    "parted",
    "read_line",
    "read_when",
    "slow_meters",
    "tell",
]
