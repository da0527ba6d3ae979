"""Write the schemas of our files in docs from the code: ``python -m tools.schema``."""

from __future__ import annotations

import json
from collections.abc import Callable, Mapping
from pathlib import Path
from typing import Any

from muster.formats import measured_source
from muster.formats.jobfile import schema

DOCS = Path(__file__).parent.parent / "docs"
TARGETS: Mapping[str, Callable[[], dict[str, Any]]] = {
    "jobfile.schema.json": schema,
    "measured-source.schema.json": measured_source.schema,
}


def text(name: str = "jobfile.schema.json") -> str:
    """A schema as its file holds it."""
    return json.dumps(TARGETS[name](), indent=1, ensure_ascii=False) + "\n"


if __name__ == "__main__":
    for target in TARGETS:
        (DOCS / target).write_text(text(target), encoding="utf-8")
