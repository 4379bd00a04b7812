"""`manage.py createworkshop NAME USER`: a workshop and its first person; asks for the password."""

import getpass
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from underhood.errors import BadInput
from underhood_server.accounts.services import create_workshop


class Command(BaseCommand):
    """Makes a workshop."""

    help = "Make a workshop and its first person."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("name")
        parser.add_argument("user")

    def handle(self, *args: Any, **options: Any) -> None:
        try:
            create_workshop(options["name"], options["user"], getpass.getpass())
        except BadInput as problem:
            raise CommandError(str(problem)) from None
        self.stdout.write(f"{options['user']} can log in to {options['name']}.")
