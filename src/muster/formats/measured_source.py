"""A measured source as a file: put on another shelf, or sent to whoever has to judge it. ``*.muster-source.json``."""

from __future__ import annotations

import hashlib
import json
from dataclasses import replace
from typing import Any

from muster.core.errors import MusterError
from muster.core.shelf.measured import MeasuredSource

from .codec import canonical, dump, json_schema, load

FORM = "muster-source"
VERSION = 1
MOST_BYTES = 20_000_000


def digest_of_evidence(measured: MeasuredSource) -> str:
    """SHA-256 over all that was measured, and on what: not over who put it on which shelf when."""
    bare = replace(measured, put_at="", put_by="", digest="")
    return hashlib.sha256(canonical(dump(bare)).encode()).hexdigest()


def source_text(measured: MeasuredSource) -> str:
    """A measured source as its file has it."""
    return json.dumps({"form": FORM, "version": VERSION, **dump(measured)}, ensure_ascii=False, indent=1) + "\n"


def parse_source(text: str) -> MeasuredSource:
    """A measured source from its file, its digest checked.

    Raises
    ------
    MusterError
        If it is none, of a later version, or was changed since it was written.
    """
    if len(text.encode()) > MOST_BYTES:
        raise MusterError("this file is very large", where="file", want=f"under {MOST_BYTES // 1_000_000} MB")
    try:
        data = json.loads(text)
    except ValueError:
        raise MusterError("not JSON", where="file", want="a *.muster-source.json that Muster wrote") from None
    if not isinstance(data, dict) or data.get("form") != FORM:
        raise MusterError("no measured source", where="form", want=f"“{FORM}”")
    if data.get("version") != VERSION:
        raise MusterError(f"version {data.get('version')}", where="version", want=f"{VERSION}")
    measured = load(MeasuredSource, {name: value for name, value in data.items() if name not in ("form", "version")})
    if digest_of_evidence(measured) != measured.digest:
        raise MusterError(
            "its evidence is not what its digest was made of: it was changed after it was written",
            where="digest",
            want="the file as Muster wrote it",
        )
    return measured


def schema() -> dict[str, Any]:
    """The JSON Schema of the file."""
    described = json_schema(MeasuredSource)
    marks = {"form": {"const": FORM}, "version": {"const": VERSION}}
    return {**described, "properties": {**marks, **described["properties"]}}
