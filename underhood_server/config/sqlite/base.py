"""Django's own backend for SQLite, but for the directory; Django asks for a module of this name."""

from pathlib import Path
from typing import Any

from django.db.backends.sqlite3 import base


class DatabaseWrapper(base.DatabaseWrapper):
    """Makes the database's directory when a connection is opened."""

    def get_new_connection(self, conn_params: dict[str, Any]) -> Any:
        name = str(conn_params["database"])
        if ":" not in name:  # not a database in memory
            Path(name).parent.mkdir(parents=True, exist_ok=True)
        return super().get_new_connection(conn_params)
