"""Every value of a whole job spoilt in its turn, and somebody of another workshop at every door."""

from __future__ import annotations

import copy
import json
import tempfile
from collections.abc import Iterator
from pathlib import Path as Folder
from typing import Any
from unittest.mock import patch

from django.core.files.uploadedfile import SimpleUploadedFile
from django.http import FileResponse
from django.test import Client

from underhood.tests.examples import LABELLED_DRIVER, document
from underhood_server.accounts.services import create_workshop
from underhood_server.api.v1 import api
from underhood_server.archives.models import Archive
from underhood_server.demo.services import demo_job
from underhood_server.tests.base import PASSWORD, WorkshopTest
from underhood_server.tests.test_proof import photo, reading

SPOILT: list[Any] = [None, "", "zz", -1, 0, 1e12, [], {}, True, "1/0", 0.3]
LISTS = ("/jobs", "/amplifiers", "/parts/drivers", "/parts", "/plans", "/changes")
READING = reading()
FUSE = {"kind": "fuse", "name": "Mega 80", "amps": 80}
CLAIMS = b"load_ohm,power_w,criterion,supply_v\n4,400,thd1,14.4\n"
Path = tuple[str | int, ...]


def leaves(part: Any, path: Path = ()) -> Iterator[Path]:
    """The path of each value; of a list, those of its first member, which is made like the others."""
    if isinstance(part, dict):
        for key, inner in part.items():
            yield from leaves(inner, (*path, key))
    elif isinstance(part, list) and part:
        yield from leaves(part[0], (*path, 0))
    else:
        yield path


def spoilt(whole: dict[str, Any], path: Path, value: Any) -> dict[str, Any]:
    changed = copy.deepcopy(whole)
    part: Any = changed
    for step in path[:-1]:
        part = part[step]
    part[path[-1]] = value
    return changed


class OneValueSpoilt(WorkshopTest):
    def test_each_value_is_taken_or_refused_in_words_at_its_own_field_and_refused_jobs_are_not_stored(self):
        whole = demo_job("job-2-book-van").document()
        taken = refused = 0
        turns = [
            (path, (turn + 4 * more) % len(SPOILT)) for turn, path in enumerate(leaves(whole)) for more in range(2)
        ]
        for path, turn in turns:
            setup, name = spoilt(whole, path, SPOILT[turn]), ".".join(map(str, path))
            with self.subTest(field=name, value=SPOILT[turn]):
                answer = self.send("post", "/jobs", {"document": setup})
                if answer.status_code == 422:
                    refused += 1
                    problem = answer.json()
                    at = problem["errors"][0]["path"]
                    self.assertTrue(at and (name.startswith(at) or at.startswith(name)), problem)
                    self.assertTrue(problem["detail"].removeprefix(at).strip(": "), problem)
                    continue
                taken += 1
                self.assertEqual(answer.status_code, 201, answer.content)
                for question in ("/forecasts", "/cable-schedules"):
                    self.assertIn(self.send("post", question, {"document": setup}).status_code, (200, 422))
        self.assertGreater(min(taken, refused), 40, "the sweep should meet both kinds")
        self.assertEqual(self.client.get("/api/v1/jobs").json()["count"], taken)


class AnotherWorkshop(WorkshopTest):
    def setUp(self) -> None:
        super().setUp()
        self.amplifier, self.job = self.new_amplifier(), self.new_job()
        self.driver = self.send("post", "/parts/drivers", {"driver": LABELLED_DRIVER}).json()
        self.part = self.send("post", "/parts", {"part": FUSE}).json()
        self.plan = self.send("post", "/plans", {"document": document(), "budget": 9, "job": self.job["id"]}).json()
        self.reading = self.send("post", f"/jobs/{self.job['id']}/readings", READING).json()
        self.photo = self.upload(f"/readings/{self.reading['id']}/photos", photo((60, 40)), "meter.jpg").json()
        self.stranger = Client()
        self.stranger.force_login(create_workshop("Harbour Sound", "oskar", PASSWORD))

    def own(self) -> list[Any]:
        """Everything the workshop that was there first holds."""
        amplifier, job = self.amplifier["id"], self.job["id"]
        addresses = (
            f"/amplifiers/{amplifier}",
            f"/jobs/{job}",
            f"/jobs/{job}/revisions",
            f"/jobs/{job}/readings",
            "/parts/drivers",
            "/parts",
            "/plans",
            "/workshop-settings",
            "/people",
            "/removed",
            f"/amplifiers/{amplifier}/sheets/{self.amplifier['sheets'][0]['id']}/revisions",
        )
        return [self.client.get(f"/api/v1{address}").json() for address in addresses]

    def test_finds_nothing_at_any_address_and_changes_nothing(self):
        amplifier, job, driver = self.amplifier["id"], self.job["id"], self.driver["id"]
        typed = {"measured_on": "2026-11-25", "rows": [{"load_ohm": "4", "power_w": "1", "supply_v": "14"}]}
        record = {"name": "Mine now", "class": "D"}
        bodies = {
            ("put", "/api/v1/amplifiers/{amplifier_id}"): {"version": 1, "record": record, "claims": []},
            ("post", "/api/v1/amplifiers/{amplifier_id}/sheets"): typed,
            ("put", "/api/v1/amplifiers/{amplifier_id}/sheets/{sheet_id}"): {"version": 1, **typed},
            ("put", "/api/v1/jobs/{job_id}"): {"version": 1, "document": document()},
            ("put", "/api/v1/jobs/{job_id}/archived"): {"archived": True},
            ("post", "/api/v1/jobs/{job_id}/readings"): READING,
            ("post", "/api/v1/readings/{reading_id}/corrections"): READING,
            ("put", "/api/v1/parts/drivers/{driver_id}"): {"version": 1, "driver": LABELLED_DRIVER},
            ("put", "/api/v1/parts/{part_id}"): {"version": 1, "part": FUSE | {"price": 1}},
            ("put", "/api/v1/people/{person_id}"): {"role": "viewer"},
            ("post", "/api/v1/jobs/{job_id}/links"): {"days": 1},
        }
        sheet = self.amplifier["sheets"][0]["id"]
        self.send("post", "/invitations", {"role": "viewer"})
        gone = self.send("post", "/parts", {"part": FUSE | {"name": "Mega 100"}}).json()
        self.send("delete", f"/parts/{gone['id']}")
        ids = {"amplifier_id": amplifier, "sheet_id": sheet, "job_id": job, "driver_id": driver, "version": 1}
        ids |= {"part_id": self.part["id"], "plan_id": self.plan["id"]}
        people = self.client.get("/api/v1/people").json()
        ids |= {"person_id": people["people"][0]["id"], "invitation_id": people["invitations"][0]["id"]}
        ids |= {"sign_in_id": self.client.get("/api/v1/sign-ins").json()[0]["id"], "kind": "part", "row_id": gone["id"]}
        folder = Folder(self.enterContext(tempfile.TemporaryDirectory()))
        self.enterContext(patch.object(Archive, "path", property(lambda one: folder / f"{one.pk}.zip")))
        link = self.send("post", f"/jobs/{job}/links", {"days": 1}).json()
        archive = self.send("post", "/workshop-archives").json()
        self.work()
        ids |= {"link_id": link["id"], "archive_id": archive["id"]}
        ids |= {"reading_id": self.reading["id"], "photo_id": self.photo["id"]}
        before, answered = self.own(), {}
        for path, operations in api.get_openapi_schema()["paths"].items():
            if "_id}" not in path:
                continue
            address = path.format(**ids)
            if "get" in operations:
                found: Any = self.client.get(address)
                self.assertEqual(found.status_code, 200, address)  # there for its owner
                if isinstance(found, FileResponse):
                    b"".join(found)  # to its end, where it is closed
            for method in operations:
                claims = {"file": SimpleUploadedFile("claims.csv", CLAIMS)}
                answered[method, path] = (
                    self.stranger.post(address, claims)
                    if path.endswith(("/import", "/photos"))
                    else self.stranger.generic(
                        method.upper(), address, json.dumps(bodies.get((method, path))), content_type="application/json"
                    )
                ).status_code
        self.assertLessEqual(bodies.keys(), answered.keys())
        self.assertEqual({key: code for key, code in answered.items() if code != 404}, {})
        self.assertEqual(self.own(), before)
        self.assertEqual(
            [self.stranger.get(f"/api/v1{each}").json() for each in LISTS], [{"count": 0, "items": []}] * len(LISTS)
        )
