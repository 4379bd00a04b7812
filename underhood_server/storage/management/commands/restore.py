"""`manage.py restore FILE`: a copy in the place of the database; what was there is kept."""

from pathlib import Path
from typing import Any

from django.core.management import call_command
from django.core.management.base import BaseCommand, CommandError, CommandParser

from underhood.errors import BadInput
from underhood_server.storage import backup


class Command(BaseCommand):
    """Restores."""

    help = "Put a copy in the place of the database, keep what was there, and migrate."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("file")

    def handle(self, *args: Any, **options: Any) -> None:
        try:
            kept = backup.restore(Path(options["file"]))
        except (BadInput, OSError) as problem:
            raise CommandError(str(problem)) from None
        call_command("migrate", verbosity=0)
        self.stdout.write("restored" if kept is None else f"restored; what was there is in {kept}")
