"""A disk that is full: SQLite itself is told that there is no page left."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager

from django.db import connection

NO_LIMIT = 1_073_741_823


@contextmanager
def full_disk() -> Iterator[None]:
    """No page more than there are; what earlier rows left free is filled first."""
    with connection.cursor() as cursor:
        free = cursor.execute("PRAGMA freelist_count").fetchone()[0]
        size = cursor.execute("PRAGMA page_size").fetchone()[0]
        cursor.execute("CREATE TABLE filler (b BLOB)")
        cursor.execute("INSERT INTO filler VALUES (zeroblob(%s))", [free * size])
        pages = cursor.execute("PRAGMA page_count").fetchone()[0]
        cursor.execute(f"PRAGMA max_page_count = {pages}")
        try:
            yield
        finally:
            cursor.execute(f"PRAGMA max_page_count = {NO_LIMIT}")
            cursor.execute("DROP TABLE filler")
