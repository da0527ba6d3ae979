"""The words of the trade: what was retired stays out of pages, messages and papers, and what is cited is there."""

from __future__ import annotations

import ast
import re
from functools import cache
from pathlib import Path

import pytest

import muster

ROOT = Path(__file__).parents[2]
SOURCE = Path(muster.__file__).parent
RETIRED = {
    r"\blet(s)? go\b|\bletting go\b": "tripped, trips",
    r"\bforetell|\bforetold": "predict",
    r"\brungs?\b": "step",
    r"\bthe roll\b|\broll call\b|\ba roll\b": "the loads",
    r"\b(the|this|its|a) sheets?\b": "the plan",
    r"\bgates?\b": "safety check",
    r"\b(nearest|the) ear\b": "nearest neighbour",
    r"(?<!name)\b(its|the|from the|on the) plates?\b": "nameplate",
    r"\bput away\b|\bputting away\b": "archive, archived",
    r"\bbring (it |one )?in\b|\bbrought in\b|\bbring back\b|\bbrought back\b": "import, restore",
    r"\btaken? off the (roll|list|shelf)\b": "remove",
    r"\bset down\b": "save",
    r"\blaid? over (one )?another\b": "overlay",
    r"\bwith nothing on\b": "no load",
    r"\bin the mean\b": "on average",
    r"\banew\b": "again",
    r"\bas (it|they) stands?\b": "at present",
    r"what it comes to": "in short",
    r"how it is known": "working",
    r"\bsurer with\b": "would be firmer after",
    r"\bsettled by\b": "to settle this, run",
    r"the test next": "next test",
    r"\bno longer so\b|\bseen to it\b": "withdraw, confirm",
    r"what is asked of|what is asked\b": "requirement, needed",
    r"\bthe sums of the trade\b|\ba sum kept\b|\bkept sums?\b": "calculators, calculation",
}
"""A phrase that was retired, and the word that is used instead; in small letters."""
READ_AS_TYPED = (
    "core/findings/clues.py",
    "core/sessions/log_line/events.py",
    "core/sessions/log_line/readings.py",
    "formats/upgrades.py",
)
"""Patterns of what people type, and names that old files have: these words must be known there."""


@cache
def phrases_of(path: Path) -> tuple[tuple[int, str], ...]:
    """What a person reads of a file: the text of a template, the strings and docstrings of a module."""
    text = path.read_text(encoding="utf-8")
    if path.suffix != ".py":
        return tuple(enumerate(re.sub(r"\{[%{].*?[%}]\}|<[^>]*>", " ", text).splitlines(), 1))
    return tuple(
        (node.lineno, " ".join(node.value.split()))
        for node in ast.walk(ast.parse(text))
        if isinstance(node, ast.Constant) and isinstance(node.value, str) and " " in node.value
    )


READ = [
    path
    for path in (
        *SOURCE.rglob("*.py"),
        *SOURCE.rglob("templates/**/*.html"),
        *(ROOT / "docs").rglob("*.md"),
        ROOT / "README.md",
    )
    if "migrations" not in path.parts
    and str(path.relative_to(SOURCE) if SOURCE in path.parents else path) not in READ_AS_TYPED
]


@pytest.mark.parametrize(("retired", "instead"), RETIRED.items())
def test_a_retired_phrase_is_nowhere_read(retired: str, instead: str) -> None:
    pattern = re.compile(retired, re.IGNORECASE)
    found = [
        f"{path.relative_to(ROOT)}:{line}: “{match.group()}”, say {instead}"
        for path in READ
        for line, phrase in phrases_of(path)
        if (match := pattern.search(phrase))
    ]
    assert found == []


def test_the_phrases_are_looked_for_where_they_would_be() -> None:
    assert len(READ) > 300
    assert any("trip" in phrase for path in READ for _, phrase in phrases_of(path) if path.name == "holds.py")


def anchors_of(path: Path) -> set[str]:
    """The anchors of a paper's headings."""
    headings = re.findall(r"^#+ (.*)$", path.read_text(encoding="utf-8"), re.MULTILINE)
    return {re.sub(r"[^\w -]", "", heading.lower()).replace(" ", "-") for heading in headings}


def test_every_paper_and_anchor_that_the_code_cites_is_there() -> None:
    cited = [
        (path, name, anchor)
        for path in (*SOURCE.rglob("*.py"), *(ROOT / "tests").rglob("*.py"))
        if path != Path(__file__)
        for name, anchor in re.findall(r"([\w./-]*\w\.md)(?:#([\w-]+))?", path.read_text(encoding="utf-8"))
    ]
    assert len(cited) > 20
    missing = [
        f"{path.relative_to(ROOT)}: {name}{'#' + anchor if anchor else ''}"
        for path, name, anchor in cited
        if not (ROOT / name).is_file() or (anchor and anchor not in anchors_of(ROOT / name))
    ]
    assert missing == []
