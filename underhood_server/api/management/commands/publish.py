"""`manage.py publish`: write what in docs/ follows from the code: OpenAPI, the job file's schema, the cautions."""

from typing import Any

from django.core.management.base import BaseCommand

from underhood_server.api.published import published


class Command(BaseCommand):
    """Publishes the documents."""

    help = "Write the OpenAPI document, the job file's JSON Schema and the guide's cautions into docs/."

    def handle(self, *args: Any, **options: Any) -> None:
        for path, text in published().items():
            path.write_text(text, encoding="utf-8")
            self.stdout.write(path.name)
