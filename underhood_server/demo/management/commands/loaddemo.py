"""`manage.py loaddemo`: the demo workshop, made anew."""

from typing import Any

from django.core.management.base import BaseCommand

from underhood_server.demo.services import load_demo


class Command(BaseCommand):
    """Loads the demo."""

    help = "Throw away the demo workshop and make it anew."

    def handle(self, *args: Any, **options: Any) -> None:
        workshop = load_demo()
        self.stdout.write(f"{workshop}: {workshop.amplifiers.count()} amplifiers, {workshop.jobs.count()} jobs.")
