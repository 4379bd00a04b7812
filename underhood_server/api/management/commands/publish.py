"""`manage.py publish`: write docs/openapi.json and docs/job.schema.json."""

from typing import Any

from django.core.management.base import BaseCommand

from underhood_server.api.published import published


class Command(BaseCommand):
    """Publishes the documents."""

    help = "Write the OpenAPI document and the job file's JSON Schema into docs/."

    def handle(self, *args: Any, **options: Any) -> None:
        for path, text in published().items():
            path.write_text(text, encoding="utf-8")
            self.stdout.write(path.name)
