"""What server tests share: a workshop with somebody logged in, and requests as the interface makes them."""

from __future__ import annotations

import json
from typing import Any

from django.core.cache import caches
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import TestCase
from django_tasks import TaskResultStatus
from django_tasks_db.models import DBTaskResult

from underhood.tests.amplifier.test_sheet_csv import SHEET
from underhood.tests.examples import document
from underhood_server.accounts.services import create_workshop

PASSWORD = "correct horse battery"


class WorkshopTest(TestCase):
    """A logged-in client in a workshop of its own."""

    def setUp(self) -> None:
        caches["results"].clear()
        self.user = create_workshop("Quay Audio", "ines", PASSWORD)
        self.client.force_login(self.user)

    def log_in_elsewhere(self) -> None:
        """As somebody of another workshop."""
        self.client.force_login(create_workshop("Shoal Audio", "jon", PASSWORD))

    def work(self) -> None:
        """What the worker does, once."""
        for waiting in DBTaskResult.objects.filter(status=TaskResultStatus.READY):
            waiting.task_result.task.call(*waiting.task_result.args)
            waiting.set_successful(None)

    def send(self, method: str, path: str, body: Any = None) -> Any:
        call = getattr(self.client, method)
        return call(
            f"/api/v1{path}", data=json.dumps(body) if body is not None else None, content_type="application/json"
        )

    def upload(self, path: str, content: str | bytes, name: str) -> Any:
        raw = content.encode() if isinstance(content, str) else content
        return self.client.post(f"/api/v1{path}", {"file": SimpleUploadedFile(name, raw)})

    def new_job(self) -> dict[str, Any]:
        return self.send("post", "/jobs", {"document": document()}).json()

    def new_amplifier(self) -> dict[str, Any]:
        return self.upload("/amplifiers/import", SHEET, "marram.csv").json()
