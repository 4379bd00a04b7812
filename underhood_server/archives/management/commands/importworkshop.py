"""`manage.py importworkshop FILE NAME USER`: a new workshop out of a ZIP, with its first person."""

import getpass
from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser
from django.db import transaction

from underhood.errors import BadInput
from underhood_server.accounts.services import create_workshop
from underhood_server.archives.reading import read


class Command(BaseCommand):
    """Imports."""

    help = "Make a new workshop and its first person, and read an archive into it."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("file")
        parser.add_argument("name")
        parser.add_argument("user")

    def handle(self, *args: Any, **options: Any) -> None:
        password = getpass.getpass()
        try:
            with transaction.atomic():
                user = create_workshop(options["name"], options["user"], password)
                assert user.workshop is not None
                counts = read(user.workshop, Path(options["file"]), lambda done, of: None)
        except BadInput as problem:
            raise CommandError(str(problem)) from None
        self.stdout.write(", ".join(f"{count} {kind}" for kind, count in counts.items()))
