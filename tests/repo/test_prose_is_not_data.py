"""Nothing is decided by what a sentence, a label or a title says: rewording one changes no answer."""

from __future__ import annotations

import ast
from pathlib import Path

import pytest

from .sources import nodes_of

ROOT = Path(__file__).parents[2] / "src" / "muster"
PROSE = {"sentence", "label", "title", "words", "needs", "why", "formula", "put_in", "headline", "detail", "origin"}
"""Attributes that hold text for people."""
READERS = {"startswith", "endswith", "split", "partition", "find", "index", "count"}
PARSERS = {
    "core/findings/clues.py",
    "core/logline.py",
    "core/rollline.py",
    "formats/upgrades.py",
    "formats/logs",
    "core/loads/parts.py",
    "core/plan/changes.py",
}
"""Where a person's own words are read, or labels are the keys that a plan is changed by."""


def _prose(node: ast.AST) -> bool:
    """Whether an expression is such an attribute, lowered or not."""
    if isinstance(node, ast.Call) and isinstance(node.func, ast.Attribute) and node.func.attr in ("lower", "strip"):
        return _prose(node.func.value)
    return isinstance(node, ast.Attribute) and node.attr in PROSE


def searched(path: Path) -> list[str]:
    """Where a text for people is compared with, searched for, or taken apart by a literal."""
    found = []
    for node in nodes_of(path):
        if isinstance(node, ast.Compare):
            sides = [node.left, *node.comparators]
            literal = any(
                isinstance(side, ast.Constant) and isinstance(side.value, str) and side.value for side in sides
            )
            if literal and any(_prose(side) for side in sides):
                found.append(f"{path.relative_to(ROOT)}:{node.lineno}")
        if (
            isinstance(node, ast.Call)
            and isinstance(node.func, ast.Attribute)
            and node.func.attr in READERS
            and _prose(node.func.value)
        ):
            found.append(f"{path.relative_to(ROOT)}:{node.lineno}")
    return found


def test_no_text_for_people_is_searched() -> None:
    files = [
        path
        for room in ("core", "records", "web", "formats")
        for path in (ROOT / room).rglob("*.py")
        if not any(str(path.relative_to(ROOT)).startswith(parser) for parser in PARSERS)
    ]
    assert [place for path in files for place in searched(path)] == []


@pytest.mark.parametrize(
    "text",
    [
        'x = "neutral" in finding.needs',
        'x = row.label.split(", ")',
        'x = one.title.lower() == "off"',
        'x = f.sentence.startswith("It")',
    ],
)
def test_the_search_finds_what_it_is_for(tmp_path: Path, text: str, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("tests.repo.test_prose_is_not_data.ROOT", tmp_path)
    (tmp_path / "a.py").write_text(text)
    assert searched(tmp_path / "a.py")
