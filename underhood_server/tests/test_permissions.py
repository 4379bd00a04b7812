"""Every operation of the API and every role: who may do what stands here as a table, and a walk holds the API to it."""

from __future__ import annotations

import json
import re

from django.test import Client, TestCase

from underhood_server.accounts.models import Role, User
from underhood_server.accounts.services import create_workshop
from underhood_server.api.v1 import api
from underhood_server.tests.base import PASSWORD

NOBODY = {
    "get /session",
    "post /session",
    "post /session/demo",
    "post /invitations/asked",
    "post /invitations/accepted",
    "get /health",
    "get /job-schema",
}
"""Without a log-in."""
OWNER = {
    "put /people/{person_id}",
    "delete /people/{person_id}",
    "post /invitations",
    "delete /invitations/{invitation_id}",
    "put /workshop-settings",
    "post /workshop-archives",
    "get /workshop-archives",
    "get /workshop-archives/{archive_id}",
    "get /workshop-archives/{archive_id}/file",
    "delete /workshop-archives/{archive_id}",
    "post /workshop-archives/import",
    "post /workshop-settings/logo",
    "delete /workshop-settings/logo",
}
INSTALLER = {
    "post /amplifiers",
    "post /amplifiers/import",
    "put /amplifiers/{amplifier_id}",
    "delete /amplifiers/{amplifier_id}",
    "post /amplifiers/{amplifier_id}/claims/import",
    "post /amplifiers/{amplifier_id}/sheets",
    "put /amplifiers/{amplifier_id}/sheets/{sheet_id}",
    "delete /amplifiers/{amplifier_id}/sheets/{sheet_id}",
    "post /instrument-readings",
    "post /jobs",
    "post /jobs/import",
    "put /jobs/{job_id}",
    "delete /jobs/{job_id}",
    "put /jobs/{job_id}/archived",
    "post /jobs/{job_id}/readings",
    "post /jobs/{job_id}/readings/import",
    "post /jobs/{job_id}/links",
    "delete /links/{link_id}",
    "post /parts",
    "post /parts/import",
    "put /parts/{part_id}",
    "delete /parts/{part_id}",
    "post /parts/drivers",
    "post /parts/drivers/import",
    "put /parts/drivers/{driver_id}",
    "delete /parts/drivers/{driver_id}",
    "post /plans",
    "post /plans/{plan_id}/cancel",
    "post /readings/{reading_id}/corrections",
    "post /readings/{reading_id}/photos",
    "post /recordings",
    "post /removed/{kind}/{row_id}/put-back",
}
RANK = {None: 0, Role.VIEWER: 1, Role.INSTALLER: 2, Role.OWNER: 3}


def needed(operation: str) -> Role | None:
    """What the table says; whatever it does not name looks or asks, and any role may."""
    if operation in NOBODY:
        return None
    return Role.OWNER if operation in OWNER else Role.INSTALLER if operation in INSTALLER else Role.VIEWER


class EveryOperationAndRole(TestCase):
    def test_does_what_the_table_says(self) -> None:
        owner = create_workshop("Quay Audio", "ines", PASSWORD)
        clients: dict[Role | None, Client] = {None: Client()}
        for role in Role:
            user = owner if role == Role.OWNER else User.objects.create_user(role, role=role, workshop=owner.workshop)
            clients[role] = Client()
            clients[role].force_login(user)
        operations = {
            f"{method} {path.removeprefix('/api/v1')}": (method, re.sub(r"{\w+}", "999", path))
            for path, methods in api.get_openapi_schema()["paths"].items()
            for method in methods
        }
        self.assertEqual((NOBODY | OWNER | INSTALLER) - operations.keys(), set())
        for name, (method, address) in operations.items():
            for role, client in clients.items():
                if name == "delete /session" and role is not None:
                    continue  # would end the walk of that role
                body = json.dumps({"no": "such field"})
                status = client.generic(method.upper(), address, body, content_type="application/json").status_code
                with self.subTest(operation=name, role=role):
                    if RANK[role] >= RANK[needed(name)]:
                        # Let in: what was asked is then refused for what it is, or done.
                        self.assertNotIn(status, (401, 403) if name != "post /session/demo" else (401,))
                    else:
                        self.assertEqual(status, 401 if role is None else 403)
        self.assertEqual(User.objects.get(pk=owner.pk).role, Role.OWNER)
