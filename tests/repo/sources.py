"""The source files, each read and parsed once for all checks of the repository."""

from __future__ import annotations

import ast
from functools import cache
from pathlib import Path


@cache
def text_of(path: Path) -> str:
    """What a file says."""
    return path.read_text(encoding="utf-8")


@cache
def tree_of(path: Path) -> ast.Module:
    """A file parsed; nobody changes it."""
    return ast.parse(text_of(path))


@cache
def nodes_of(path: Path) -> tuple[ast.AST, ...]:
    """Every node of a file, in the order of a walk."""
    return tuple(ast.walk(tree_of(path)))
