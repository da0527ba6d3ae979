"""Answers that are files."""

from __future__ import annotations

from django.http import HttpResponse
from django.utils.text import slugify

from muster.formats.tables import Table, csv_text

KINDS = {
    ".json": "application/json; charset=utf-8",
    ".zip": "application/zip",
    ".csv": "text/csv; charset=utf-8",
    ".ics": "text/calendar; charset=utf-8",
    ".cff": "application/octet-stream",
}


def csv_file(table: Table, name: str) -> HttpResponse:
    """A table to be kept as ``name.csv``."""
    return download(csv_text(table).encode(), f"{slugify(name) or 'table'}.csv")


def download(data: bytes, name: str) -> HttpResponse:
    """A file to be kept under a name."""
    kind = KINDS[name[name.rindex(".") :]]
    response = HttpResponse(data, content_type=kind)
    response["Content-Disposition"] = f'attachment; filename="{name}"'
    return response
