"""`serve`: the server on an address, by gunicorn, with as many threads as a workshop needs.

Its workers are forked from this process, which has read all that they run: they answer at once, and share it.
"""

import socket
import sys
from typing import Any

from django.conf import settings
from django.core.cache import caches
from django.core.management import call_command
from django.core.management.base import BaseCommand, CommandError, CommandParser
from django.db import connection
from django.db.migrations.executor import MigrationExecutor
from gunicorn.app.wsgiapp import WSGIApplication

from underhood_server.demo.services import load_demo_once

EVERYWHERE = ("0.0.0.0", "[::]", "")  # noqa: S104 - what somebody gives who wants tablets to reach it


class Command(BaseCommand):
    """Serves."""

    help = "Serve the interface and the API. `--bind 0.0.0.0:8000` serves the tablets in the workshop's network too."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("--bind", default="127.0.0.1:8000", metavar="ADDRESS:PORT")
        parser.add_argument("--workers", default="2")
        parser.add_argument("--threads", default="12")
        parser.add_argument("--demo", action="store_true", help="first migrate, and make the demo workshop")

    def handle(self, *args: Any, **options: Any) -> None:
        if not (settings.INTERFACE / "index.html").exists():
            raise CommandError("The interface is not built: run `make serve`, or install what `make wheel` makes")
        if _out_of_date():
            if not options["demo"]:
                raise CommandError("The database is of an earlier release, or new: run `migrate` first")
            call_command("migrate", verbosity=0)
        if options["demo"]:
            load_demo_once()
        connection.close()
        caches["results"].clear()  # what another release worked out is not shown
        host, _, port = options["bind"].rpartition(":")
        hosts = [*settings.ALLOWED_HOSTS, *(own_names() if host in EVERYWHERE else [host])]
        settings.ALLOWED_HOSTS = list(dict.fromkeys(hosts))
        settings.CSRF_TRUSTED_ORIGINS = [f"https://{host}" for host in hosts] if settings.HTTPS else []
        scheme = "https" if settings.HTTPS else "http"
        for name in settings.ALLOWED_HOSTS:
            self.stdout.write(f"{scheme}://{name}{'' if settings.HTTPS else f':{port}'}/")
        self.stdout.flush()
        words = ["--bind", options["bind"], "--workers", options["workers"], "--threads", options["threads"]]
        words += ["--config", "python:underhood_server.config.gunicorn"]
        sys.argv = ["gunicorn", *words, "underhood_server.config.wsgi"]
        WSGIApplication().run()


def _out_of_date() -> bool:
    executor = MigrationExecutor(connection)
    return bool(executor.migration_plan(executor.loader.graph.leaf_nodes()))


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
