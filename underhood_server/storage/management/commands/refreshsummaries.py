"""`manage.py refreshsummaries`: what lists show, made anew where it is of an older version; `--all` for every row."""

from typing import Any

from django.core.management.base import BaseCommand, CommandParser

from underhood_server.storage import summaries


class Command(BaseCommand):
    """Refreshes stored summaries."""

    help = "Make anew what lists show of jobs and amplifiers."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("--all", action="store_true", help="also those of the present version")

    def handle(self, *args: Any, **options: Any) -> None:
        for kind, summary in summaries.SUMMARIES.items():
            count = summaries.refresh(kind, summary.rows() if options["all"] else None)
            self.stdout.write(f"{kind}: {count}")
