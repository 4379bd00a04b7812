"""`manage.py backup [FILE]`: a checked copy of the database, while it is used."""

from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser
from django.utils import timezone

from underhood.errors import BadInput
from underhood_server.storage import backup


class Command(BaseCommand):
    """Backs up."""

    help = "Copy the database to a file and check the copy. Without a file: among the automatic copies."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("file", nargs="?")

    def handle(self, *args: Any, **options: Any) -> None:
        to = Path(options["file"] or backup.folder() / timezone.now().strftime(backup.NAME)).absolute()
        try:
            found = backup.backup(to)
        except (BadInput, OSError) as problem:
            raise CommandError(str(problem)) from None
        self.stdout.write(f"{to}: sound, {sum(found.values())} rows in {len(found)} tables")
