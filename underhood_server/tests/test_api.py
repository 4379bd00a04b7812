"""The API as a whole: its session, the published document, how the database is set."""

import sys
from dataclasses import is_dataclass

from django.test import Client, TestCase, override_settings
from pydantic import BaseModel

from underhood_server.accounts.services import create_workshop
from underhood_server.api.published import published
from underhood_server.api.v1 import api
from underhood_server.demo.services import load_demo
from underhood_server.tests.base import PASSWORD, WorkshopTest


class Published(TestCase):
    def test_the_published_documents_are_those_of_the_code(self):
        for path, text in published().items():
            self.assertEqual(path.read_text(encoding="utf-8"), text, f"{path.name}: run `make schema`")


class Session(TestCase):
    def log_in(self, password: str, client: Client | None = None):
        body = {"username": "ines", "password": password}
        return (client or self.client).post("/api/v1/session", body, content_type="application/json")

    def test_a_log_in_opens_the_workshop_and_a_log_out_closes_it(self):
        create_workshop("Quay Audio", "ines", PASSWORD)
        self.assertEqual(self.log_in("wrong").status_code, 401)
        self.assertEqual(self.log_in(PASSWORD).json()["workshop"], "Quay Audio")
        self.assertEqual(self.client.get("/api/v1/jobs").status_code, 200)
        self.client.delete("/api/v1/session")
        self.assertEqual(self.client.get("/api/v1/jobs").status_code, 401)

    def test_too_many_wrong_passwords_close_the_door_even_for_the_right_one(self):
        create_workshop("Quay Audio", "ines", PASSWORD)
        for _ in range(9):
            self.log_in("wrong")
        answer = self.log_in(PASSWORD)
        self.assertEqual((answer.status_code, answer["Content-Type"]), (429, "application/problem+json"))

    def test_a_form_of_another_site_cannot_log_in_or_change_anything(self):
        user = create_workshop("Quay Audio", "ines", PASSWORD)
        strict = Client(enforce_csrf_checks=True)
        self.assertEqual(self.log_in(PASSWORD, strict).status_code, 403)
        strict.force_login(user)
        self.assertEqual(strict.post("/api/v1/jobs", "{}", content_type="application/json").status_code, 403)

    def test_the_demo_is_entered_only_on_a_server_started_as_one(self):
        load_demo()
        self.assertEqual(self.client.post("/api/v1/session/demo", content_type="application/json").status_code, 403)
        with override_settings(DEMO=True):
            self.assertEqual(
                self.client.post("/api/v1/session/demo", content_type="application/json").json()["workshop"],
                "Saltmarsh Mobile Audio",
            )


class Page(WorkshopTest):
    def test_the_page_allows_no_other_host(self):
        policy = self.client.get("/jobs")["Content-Security-Policy"]
        self.assertIn("default-src 'self'", policy)
        self.assertNotIn("http", policy)


class Shapes(TestCase):
    def test_no_two_shapes_of_the_api_share_a_name(self) -> None:
        """Of two with one name the description would show one, and the interface would be typed by the wrong one."""
        shown = set(api.get_openapi_schema()["components"]["schemas"])
        homes: dict[str, set[str]] = {}
        for name, module in list(sys.modules.items()):
            if name.startswith(("underhood.", "underhood_server.")) and ".tests" not in name:
                for each in vars(module).values():
                    if isinstance(each, type) and each.__name__ in shown and is_shape(each):
                        homes.setdefault(each.__name__, set()).add(each.__module__)
        several = {name for name, where in homes.items() if len(where) > 1}
        self.assertEqual(several - INSIDE, set())


INSIDE = {"Box", "Part", "Problem", "Step"}
"""Names that the core also uses for something of its own, which no operation takes or gives."""


def is_shape(each: type) -> bool:
    return issubclass(each, BaseModel) or is_dataclass(each)
