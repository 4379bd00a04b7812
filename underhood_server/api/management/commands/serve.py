"""`serve`: the server on an address, by gunicorn, with as many threads as a workshop needs."""

import os
import sys
from typing import Any

from django.core.management.base import BaseCommand, CommandParser


class Command(BaseCommand):
    """Serves."""

    help = "Serve the interface and the API."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("--bind", default="127.0.0.1:8000", metavar="ADDRESS:PORT")
        parser.add_argument("--workers", default="2")
        parser.add_argument("--threads", default="12")

    def handle(self, *args: Any, **options: Any) -> None:
        words = ["--bind", options["bind"], "--workers", options["workers"], "--threads", options["threads"]]
        words += ["--config", "python:underhood_server.config.gunicorn"]
        python = sys.executable
        os.execv(python, [python, "-m", "gunicorn", *words, "underhood_server.config.wsgi"])  # noqa: S606
