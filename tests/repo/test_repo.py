"""The rules of the house: layers, migrations, words, addresses, documents."""

from __future__ import annotations

import re
import subprocess
import sys
from pathlib import Path

import pytest
from django.core.management import call_command

from .sources import tree_of

ROOT = Path(__file__).parents[2]
SOURCE = ROOT / "src/muster"
OWN = [
    path
    for suffix in ("*.py", "*.html", "*.css", "*.js", "*.svg")
    for path in SOURCE.rglob(suffix)
    if "vendor" not in path.parts
]


def test_imports_point_the_way_the_layers_allow() -> None:
    done = subprocess.run(
        [Path(sys.executable).parent / "lint-imports", "--no-cache"],
        cwd=ROOT,
        capture_output=True,
        text=True,
        check=False,
    )
    assert done.returncode == 0, done.stdout


@pytest.mark.django_db
def test_no_migration_is_pending() -> None:
    call_command("makemigrations", check=True, dry_run=True, verbosity=0)


def test_no_address_outside_this_machine() -> None:
    allowed = re.compile(r"https?://(www\.w3\.org|127\.0\.0\.1|localhost)")
    found = [
        f"{path.relative_to(ROOT)}: {match.group()}"
        for path in OWN
        for match in re.finditer(r"https?://[\w.{]+", path.read_text(encoding="utf-8"))
        if not allowed.match(match.group())
    ]
    assert not found


def test_units_have_one_spelling_in_names() -> None:
    wrong = re.compile(
        r"\b\w+_(volts?|amps?|watts?|hertz|khz|kw|kva|kwh|ma|mv|secs?|seconds|mins|hours|hrs|percent|metres|meters|ohms)\b(?=\s*[:=])"
    )
    found = [
        f"{path.relative_to(ROOT)}: {match.group()}"
        for path in (SOURCE / "core").rglob("*.py")
        for match in wrong.finditer(path.read_text(encoding="utf-8"))
        if not match.group().isupper()
    ]
    assert not found


def test_every_public_thing_of_the_core_says_what_it_is() -> None:
    import ast

    bare = []
    for path in SOURCE.rglob("*.py"):
        if "migrations" in path.parts:
            continue
        tree = tree_of(path)
        if not ast.get_docstring(tree):
            bare.append(str(path.relative_to(ROOT)))
        for node in tree.body:
            named = isinstance(node, ast.FunctionDef | ast.ClassDef)
            if named and not node.name.startswith("_") and not ast.get_docstring(node):
                bare.append(f"{path.relative_to(ROOT)}: {node.name}")
    assert not bare


def test_requirements_are_pinned_and_name_no_registry() -> None:
    for name in ("requirements.txt", "requirements-dev.txt"):
        for line in (ROOT / name).read_text(encoding="utf-8").splitlines():
            assert not re.search(r"https?://|--(extra-)?index", line)
            if line and not line.startswith(("#", "-r")):
                assert "==" in line


def test_every_dependency_has_its_reason() -> None:
    words = (ROOT / "docs/dependencies.md").read_text(encoding="utf-8").lower()
    lines = (ROOT / "requirements.txt").read_text(encoding="utf-8").splitlines()
    names = [line.split("==")[0].lower() for line in lines if "==" in line]
    assert [name for name in names if name not in words] == []


def test_the_glossary_knows_every_unit_suffix() -> None:
    from muster.core.quantities import UNIT_WORDS

    glossary = (ROOT / "docs/glossary.md").read_text(encoding="utf-8")
    assert [suffix for suffix in UNIT_WORDS if f"`{suffix}`" not in glossary] == []


def test_every_screenshot_is_linked_from_the_readme() -> None:
    readme = (ROOT / "README.md").read_text(encoding="utf-8")
    shots = sorted((ROOT / "docs/screenshots").glob("*.png"))
    assert 0 < len(shots) < 20
    assert [shot.name for shot in shots if shot.name not in readme] == []


CORE = ROOT / "src" / "muster" / "core"


def test_the_root_of_the_core_holds_at_most_eight_modules() -> None:
    assert len([path for path in CORE.glob("*.py") if path.name != "__init__.py"]) <= 8


def test_the_architecture_names_every_module_of_the_core_in_its_room() -> None:
    """And no module that is not there."""
    text = (ROOT / "docs/architecture.md").read_text(encoding="utf-8")
    rooms = text[text.index("## The rooms of the core") : text.index("## How a typed reading")]
    named: dict[str, set[str]] = {"": set(re.findall(r"`(\w+)`", rooms.split("| room |")[0]))}
    for line in rooms.splitlines():
        if found := re.match(r"\| `([\w/]+)/` \| (.*) \|$", line):
            named[found[1]] = set(re.findall(r"`(\w+)`", found[2]))
    there: dict[str, set[str]] = {}
    for path in CORE.rglob("*.py"):
        if path.name != "__init__.py":
            there.setdefault(str(path.parent.relative_to(CORE)).replace(".", ""), set()).add(path.stem)
    assert named == there


def test_every_file_that_the_docs_name_is_there() -> None:
    named = {
        (path.name, name)
        for path in [*(ROOT / "docs").glob("*.md"), ROOT / "README.md", ROOT / "CONTRIBUTING.md"]
        for name in re.findall(
            r"`((?:core|formats|records|web|twin|instruments)/[\w/]+(?:\.py|/))`", path.read_text(encoding="utf-8")
        )
    }
    assert named
    assert {(page, name) for page, name in named if not (ROOT / "src" / "muster" / name).exists()} == set()
