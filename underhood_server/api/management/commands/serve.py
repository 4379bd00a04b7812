"""`serve`: the server on an address, by gunicorn, with as many threads as a workshop needs."""

import os
import socket
import sys
from typing import Any

from django.conf import settings
from django.core.cache import caches
from django.core.management.base import BaseCommand, CommandError, CommandParser
from django.db import connection
from django.db.migrations.executor import MigrationExecutor

EVERYWHERE = ("0.0.0.0", "[::]", "")  # noqa: S104 - what somebody gives who wants tablets to reach it


class Command(BaseCommand):
    """Serves."""

    help = "Serve the interface and the API. `--bind 0.0.0.0:8000` serves the tablets in the workshop's network too."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("--bind", default="127.0.0.1:8000", metavar="ADDRESS:PORT")
        parser.add_argument("--workers", default="2")
        parser.add_argument("--threads", default="12")

    def handle(self, *args: Any, **options: Any) -> None:
        if not (settings.INTERFACE / "index.html").exists():
            raise CommandError("The interface is not built: run `make serve`, or install what `make wheel` makes")
        executor = MigrationExecutor(connection)
        if executor.migration_plan(executor.loader.graph.leaf_nodes()):
            raise CommandError("The database is of an earlier release, or new: run `migrate` first")
        connection.close()
        caches["results"].clear()  # what another release worked out is not shown
        host, _, port = options["bind"].rpartition(":")
        hosts = [*settings.ALLOWED_HOSTS, *(own_names() if host in EVERYWHERE else [host])]
        os.environ["UNDERHOOD_HOSTS"] = ",".join(dict.fromkeys(hosts))
        scheme = "https" if settings.HTTPS else "http"
        for name in dict.fromkeys(hosts):
            self.stdout.write(f"{scheme}://{name}{'' if settings.HTTPS else f':{port}'}/")
        self.stdout.flush()
        words = ["--bind", options["bind"], "--workers", options["workers"], "--threads", options["threads"]]
        words += ["--config", "python:underhood_server.config.gunicorn"]
        python = sys.executable
        os.execv(python, [python, "-m", "gunicorn", *words, "underhood_server.config.wsgi"])  # noqa: S606


def own_names() -> list[str]:
    """What other machines of the network call this one: its name, and its addresses as far as they are known."""
    name = socket.gethostname()
    found = [name, f"{name}.local"]
    with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as asked:
        try:
            asked.connect(("192.0.2.1", 9))  # nothing is sent: the system only says which address it would use
            found.append(asked.getsockname()[0])
        except OSError:  # no network
            pass
    return found
