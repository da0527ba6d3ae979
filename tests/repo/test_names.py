"""Names: one name, one meaning, in the whole package."""

from __future__ import annotations

import ast
from collections import defaultdict
from pathlib import Path

import muster

from .sources import nodes_of, tree_of

SOURCE = Path(muster.__file__).parent


def test_no_two_public_classes_have_one_name() -> None:
    homes: dict[str, list[str]] = defaultdict(list)
    for path in SOURCE.rglob("*.py"):
        if path.parent.name == "migrations":
            continue
        for node in tree_of(path).body:
            if isinstance(node, ast.ClassDef) and not node.name.startswith("_"):
                homes[node.name].append(str(path.relative_to(SOURCE)))
    assert {name: places for name, places in homes.items() if len(places) > 1} == {}


def test_hardly_a_table_escapes_the_formatter() -> None:
    fenced = [
        f"{path.relative_to(SOURCE)}:{number}"
        for path in SOURCE.rglob("*.py")
        for number, line in enumerate(path.read_text(encoding="utf-8").splitlines(), 1)
        if line.rstrip().endswith("# fmt: skip")
    ]
    assert len(fenced) <= 20, fenced


def dataclasses_of_many_fields() -> set[str]:
    """Public dataclasses of more than five fields of their own."""
    many = set()
    for path in SOURCE.rglob("*.py"):
        for node in nodes_of(path):
            if isinstance(node, ast.ClassDef) and any("dataclass" in ast.unparse(d) for d in node.decorator_list):
                annotated = [item for item in node.body if isinstance(item, ast.AnnAssign)]
                fields = [item for item in annotated if "init=False" not in ast.unparse(item)]
                if len(fields) > 5 and not node.name.startswith("_"):
                    many.add(node.name)
    return many


def test_values_of_many_fields_are_built_by_keyword() -> None:
    many = dataclasses_of_many_fields()
    assert len(many) > 50
    positional = [
        f"{path.relative_to(SOURCE)}:{node.lineno} {node.func.id}"
        for path in SOURCE.rglob("*.py")
        for node in nodes_of(path)
        if isinstance(node, ast.Call) and isinstance(node.func, ast.Name) and node.func.id in many
        if any(not isinstance(argument, ast.Starred) for argument in node.args)
    ]
    assert positional == []


def test_variables_say_what_they_are() -> None:
    """No name that could stand for anything: arguments and variables, not attributes of others."""
    vague = {"found", "one", "the"}
    named = [
        f"{path.relative_to(SOURCE)}:{node.lineno} {name}"
        for path in SOURCE.rglob("*.py")
        if path.parent.name != "migrations"
        for node in nodes_of(path)
        if (name := node.id if isinstance(node, ast.Name) else node.arg if isinstance(node, ast.arg) else "") in vague
    ]
    assert named == []
