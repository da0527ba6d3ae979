"""Core values to plain JSON values and back, checked, with the path of what is wrong."""

from __future__ import annotations

import json
from typing import Any, TypeVar

from pydantic import TypeAdapter, ValidationError

from muster.core.errors import MusterError

from .upgrades import with_names_of_now

T = TypeVar("T")


_adapters: dict[Any, TypeAdapter[Any]] = {}
"""One adapter a kind: building one costs milliseconds."""


def _adapter(kind: Any) -> TypeAdapter[Any]:
    if kind not in _adapters:
        _adapters[kind] = TypeAdapter(kind)
    return _adapters[kind]


def dump(value: Any) -> Any:
    """A core value as plain JSON values (dicts, lists, text, numbers)."""
    return _adapter(type(value)).dump_python(value, mode="json")


def load(kind: type[T], data: Any) -> T:
    """A core value of ``kind`` from plain JSON values; a field may bear the name that it had before.

    Raises
    ------
    MusterError
        If the data does not fit: path, reason and what was got.
    """
    try:
        value: T = _adapter(kind).validate_python(with_names_of_now(data))
        return value
    except ValidationError as error:
        first = error.errors(include_url=False)[0]
        raise _told(first) from None


def json_schema(kind: Any) -> dict[str, Any]:
    """The JSON Schema of a core value."""
    return _adapter(kind).json_schema(mode="serialization")


def _path(parts: tuple[int | str, ...]) -> str:
    text = ""
    for part in parts:
        text += f"[{part}]" if isinstance(part, int) else f"{'.' if text else ''}{part}"
    return text


def _told(error: Any) -> MusterError:
    """What pydantic found, as one of our errors: path, what would be right, what was got."""
    path = _path(error["loc"])
    inner = (error.get("ctx") or {}).get("error")
    if isinstance(inner, MusterError):
        where = f"{path}.{inner.where}" if path and inner.where else path or inner.where
        return MusterError(f"{inner.want}, {inner.what}" if inner.want else inner.what, where=where)
    got = error.get("input")
    shown = f", got {got!r}" if isinstance(got, str | int | float | bool | None) else ""
    return MusterError(f"{error['msg'].lower()}{shown}", where=path)


def canonical(data: Any) -> str:
    """One spelling of plain JSON values, for digests: sorted keys, no spaces."""
    return json.dumps(data, sort_keys=True, separators=(",", ":"), ensure_ascii=False, allow_nan=True)
