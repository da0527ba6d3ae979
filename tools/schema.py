"""Write docs/jobfile.schema.json from the code: ``python -m tools.schema``."""

from __future__ import annotations

import json
from pathlib import Path

from muster.formats.jobfile import schema

TARGET = Path(__file__).parent.parent / "docs/jobfile.schema.json"


def text() -> str:
    """The schema as its file holds it."""
    return json.dumps(schema(), indent=1, ensure_ascii=False) + "\n"


if __name__ == "__main__":
    TARGET.write_text(text(), encoding="utf-8")
