"""`manage.py exportworkshop NAME FILE`: a whole workshop as one ZIP."""

from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from underhood_server.accounts.models import Workshop
from underhood_server.archives.writing import write
from underhood_server.storage.files import private


class Command(BaseCommand):
    """Exports."""

    help = "Write a whole workshop into one ZIP."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("name")
        parser.add_argument("file")

    def handle(self, *args: Any, **options: Any) -> None:
        workshop, path = Workshop.objects.filter(name=options["name"]).first(), Path(options["file"])
        if workshop is None:
            raise CommandError(f"there is no workshop {options['name']!r}")
        if path.exists():
            raise CommandError(f"{path} is there already; nothing is written over")
        private(path)
        write(workshop, path, lambda done, of: None)
        self.stdout.write(f"{path}: {path.stat().st_size} bytes")
