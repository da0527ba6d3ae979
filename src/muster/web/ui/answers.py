"""Answers that are files."""

from __future__ import annotations

from django.http import HttpResponse

KINDS = {
    ".json": "application/json; charset=utf-8", ".zip": "application/zip", ".csv": "text/csv; charset=utf-8",
}  # fmt: skip


def download(data: bytes, name: str) -> HttpResponse:
    """A file to be kept under a name."""
    kind = KINDS[name[name.rindex(".") :]]
    response = HttpResponse(data, content_type=kind)
    response["Content-Disposition"] = f'attachment; filename="{name}"'
    return response
