"""Django's own backend for SQLite, but for the directory; Django asks for a module of this name."""

from pathlib import Path
from typing import Any

from django.db.backends.sqlite3 import base, creation

from underhood_server.storage.files import private


class DatabaseCreation(creation.DatabaseCreation):
    """Copies a test database whole: what has just been written stands in the log beside it."""

    def _clone_test_db(self, *args: Any, **kwargs: Any) -> None:  # of Django's own, which its types leave out
        with self.connection.cursor() as cursor:
            cursor.execute("PRAGMA wal_checkpoint(TRUNCATE)")
        super()._clone_test_db(*args, **kwargs)  # type: ignore[misc]


class DatabaseWrapper(base.DatabaseWrapper):
    """Makes the database's directory when a connection is opened."""

    creation_class = DatabaseCreation

    def get_new_connection(self, conn_params: dict[str, Any]) -> Any:
        name = str(conn_params["database"])
        if ":" not in name:  # not a database in memory
            private(Path(name))
        return super().get_new_connection(conn_params)
