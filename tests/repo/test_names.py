"""Names: one name, one meaning, in the whole package."""

from __future__ import annotations

import ast
from collections import defaultdict
from pathlib import Path

import muster

SOURCE = Path(muster.__file__).parent


def test_no_two_public_classes_have_one_name() -> None:
    homes: dict[str, list[str]] = defaultdict(list)
    for path in SOURCE.rglob("*.py"):
        if path.parent.name == "migrations":
            continue
        for node in ast.parse(path.read_text(encoding="utf-8")).body:
            if isinstance(node, ast.ClassDef) and not node.name.startswith("_"):
                homes[node.name].append(str(path.relative_to(SOURCE)))
    assert {name: places for name, places in homes.items() if len(places) > 1} == {}
