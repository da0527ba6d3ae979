"""The records app."""

from django.apps import AppConfig
from django.db.backends.signals import connection_created
from django.db.backends.sqlite3.base import DatabaseWrapper


def _settle(sender: type, connection: DatabaseWrapper, **_: object) -> None:
    """Ask SQLite for a write-ahead log and full sync: what a person typed survives a power cut."""
    if connection.vendor == "sqlite":
        with connection.cursor() as cursor:
            cursor.execute("PRAGMA journal_mode=WAL")
            cursor.execute("PRAGMA synchronous=FULL")
            cursor.execute("PRAGMA foreign_keys=ON")


class RecordsConfig(AppConfig):
    """Sets up the database connection as docs/architecture.md says."""

    name = "muster.records"
    default_auto_field = "django.db.models.BigAutoField"

    def ready(self) -> None:
        """Attach the settings to every new connection."""
        connection_created.connect(_settle, dispatch_uid="muster-sqlite")
