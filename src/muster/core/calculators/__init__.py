"""The small calculations of the trade, each with its working and its uncertainty."""

from .batteries import BATTERIES
from .engines import ENGINES
from .frame import Answer, Asked, Result, Sum, Worked, answer
from .heat_and_waves import OTHERS
from .sound import SOUND
from .wiring import WIRING

SUMS = {one.slug: one for one in (*WIRING, *ENGINES, *BATTERIES, *SOUND, *OTHERS)}
TOPICS = tuple(dict.fromkeys(one.topic for one in SUMS.values()))

__all__ = ["SUMS", "TOPICS", "Answer", "Asked", "Result", "Sum", "Worked", "answer"]
