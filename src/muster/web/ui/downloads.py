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


def file_name(*words: str, ending: str) -> str:
    """A file's name of words, those left out that no file name can hold (a home in another script)."""
    return "-".join(filter(None, map(slugify, words))) + ending


def keep_as(response: HttpResponse, name: str) -> None:
    """Have a page kept as a file instead of shown."""
    response["Content-Disposition"] = f'attachment; filename="{name}"'


def download(data: bytes, name: str) -> HttpResponse:
    """A file to be kept under a name."""
    kind = KINDS[name[name.rindex(".") :]]
    response = HttpResponse(data, content_type=kind)
    keep_as(response, name)
    return response
