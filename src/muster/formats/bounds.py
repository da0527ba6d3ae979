"""What a file from outside may come to, so that none takes more than half a gigabyte or minutes to be refused.

Ours. A four-day log at 10 readings a second on twelve channels (3.5 million
samples, 200 MB in memory) is the largest that is meant to be read.
"""

from __future__ import annotations

import json
from typing import Any

from ..core.errors import MusterError

MOST_JSON = 24_000_000
"""Bytes of a job file's text: some sixty thousand entries."""
MOST_FILE = 400_000_000
"""Bytes of a job's zip."""
MOST_UNPACKED = 1_000_000_000
"""Bytes of everything in it."""
MOST_MEMBERS = 10_000
MOST_RATIO, RATIO_FROM = 300, 5_000_000
"""A member of more than so many bytes that packs better than this is no log: text of figures packs some ten times."""
MOST_SAMPLES = 250_000_000
"""Bytes of samples in memory: times as float64, figures as float32."""
MOST_LINE = 100_000
"""Characters of one line of a log of ours: twelve channels want two hundred."""
MOST_CAPTURE = 60_000_000
"""Bytes of a waveform file: ten minutes of two channels at 25 kHz."""
MOST_CHANNELS = 400


LARGEST = 2**63 - 1
"""The largest whole number that a database holds; no count or key in a job comes near it."""


def _bounded(digits: str) -> int:
    number = int(digits) if len(digits) < 25 else LARGEST + 1
    if abs(number) > LARGEST:
        raise ValueError(f"{digits[:20]}… is larger than any number here")
    return number


def plain_json(text: str | bytes, want: str) -> Any:
    """Plain values from the text of a JSON file.

    Raises
    ------
    MusterError
        If it is too long, not JSON (line and column), nested without end,
        holds a number without end, or text that is no text.
    """
    if len(text) > MOST_JSON:
        raise MusterError(f"larger than {MOST_JSON // 1_000_000} MB", where="file", want=want)
    try:
        data = json.loads(text, parse_int=_bounded)
        json.dumps(data, ensure_ascii=False).encode()
    except UnicodeDecodeError:
        raise MusterError("not text", where="file", want=want) from None
    except UnicodeEncodeError:
        raise MusterError("holds half a character (a lone surrogate)", where="file", want=want) from None
    except json.JSONDecodeError as error:
        raise MusterError(f"not JSON: {error.msg.lower()}", where=f"line {error.lineno} column {error.colno}") from None
    except (RecursionError, ValueError) as error:
        why = "nested without end" if isinstance(error, RecursionError) else "a number without end"
        raise MusterError(f"not JSON of a job: {why}", where="file", want=want) from None
    return data
