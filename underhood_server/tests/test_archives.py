"""A workshop as one ZIP and out of it again: every figure the same; and ZIPs that are not what they say."""

from __future__ import annotations

import hashlib
import io
import json
import tempfile
import zipfile
from pathlib import Path
from typing import Any
from unittest.mock import patch

from django.test import Client

from underhood.document.upgrade import read_document
from underhood.forecast.build import build_result
from underhood_server.accounts.models import User
from underhood_server.accounts.services import create_workshop
from underhood_server.archives import services, zip_file
from underhood_server.archives.models import Archive
from underhood_server.bench.models import Amplifier
from underhood_server.demo.services import load_demo
from underhood_server.jobs.models import Job
from underhood_server.parts.models import Driver, Part
from underhood_server.proof.models import JobReading
from underhood_server.tests.base import PASSWORD, WorkshopTest
from underhood_server.tests.test_proof import photo, reading

OWN_NUMBERS = {"id", "replaces"}
"""Keys that hold a database's own numbers, which are others after a round trip."""


def told_without_numbers(part: Any) -> Any:
    if isinstance(part, list):
        return [told_without_numbers(each) for each in part]
    if isinstance(part, dict):
        return {key: told_without_numbers(each) for key, each in part.items() if key not in OWN_NUMBERS}
    return part


class RoundTrip(WorkshopTest):
    def setUp(self) -> None:
        super().setUp()
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        self.enterContext(patch.object(Archive, "path", property(lambda one: self.folder / f"{one.pk}.zip")))

    def exported(self) -> bytes:
        made = self.send("post", "/workshop-archives").json()
        self.assertEqual(made["status"], "waiting")
        self.work()
        done = self.client.get(f"/api/v1/workshop-archives/{made['id']}").json()
        self.assertEqual((done["status"], done["done"]), ("done", done["of"]), done)
        answer = self.client.get(f"/api/v1/workshop-archives/{made['id']}/file")
        return b"".join(answer)

    def brought(self, content: bytes) -> dict[str, Any]:
        made = self.upload("/workshop-archives/import", content, "workshop.zip")
        if made.status_code != 201:
            return {"status": made.status_code, "told": made.json()["detail"]}
        self.work()
        found: dict[str, Any] = self.client.get(f"/api/v1/workshop-archives/{made.json()['id']}").json()
        return found

    def content(self, raw: bytes) -> dict[str, Any]:
        with zipfile.ZipFile(io.BytesIO(raw)) as one:
            files = {name: one.read(name) for name in one.namelist() if name != "manifest.json"}
        found: dict[str, Any] = {}
        for name, each in files.items():
            if name.endswith(".json"):
                found[name] = told_without_numbers(json.loads(each))
            elif not name.endswith(".jpg"):
                found[name] = each
        for name, plain in found.items():
            if name.endswith("whole.json"):
                for row in plain["readings"]:
                    row["photos"] = [hashlib.sha256(files[each]).hexdigest() for each in row["photos"]]
        return found

    def test_every_figure_of_a_workshop_comes_back_the_same(self) -> None:
        load_demo()
        owner = User.objects.get(username="saltmarsh")
        self.client.force_login(owner)
        estate = Job.objects.get(title__startswith="Estate", workshop=owner.workshop)
        read = self.send("post", f"/jobs/{estate.pk}/readings", reading()).json()
        self.upload(f"/readings/{read['id']}/photos", photo((80, 60)), "meter.jpg")
        document = {**estate.document}
        document["banks"][0]["resistance_ohm"] = {
            "value": 0.0051, "origin": "measured", "spread": 0.05, "readings": [str(read["id"])],
        }  # fmt: skip
        self.assertEqual(self.send("put", f"/jobs/{estate.pk}", {"version": 1, "document": document}).status_code, 200)
        self.send("put", f"/jobs/{Job.objects.exclude(pk=estate.pk).first().pk}/archived", {"archived": True})
        self.send("post", f"/readings/{read['id']}/corrections", reading(13.1))
        first = self.exported()
        before = {job.title: build_result(read_document(job.document)) for job in Job.objects.all()}
        self.client.force_login(create_workshop("Harbour copy", "noor", PASSWORD))
        counts = self.brought(first)
        rows: dict[str, Any] = {"jobs": Job, "amplifiers": Amplifier, "drivers": Driver, "parts": Part}
        told = ", ".join(
            f"{model.objects.filter(workshop=owner.workshop).count()} {name}" for name, model in rows.items()
        )
        self.assertEqual((counts["status"], counts["told"]), ("done", told))
        second = self.content(self.exported())
        one = self.content(first)
        for each in (one, second):  # an archive tells of its own making too
            each["workshop.json"].pop("name")
            each["workshop.json"].pop("settings_version")
            each["changes.json"] = [row for row in each["changes.json"] if row["kind"] not in ("archive", "settings")]
        (again,) = JobReading.objects.filter(job__workshop__name="Harbour copy", replaced_by__isnull=False)
        old, new = (f'"readings": ["{number}"]' for number in (read["id"], again.pk))
        self.assertEqual(one.keys(), second.keys())
        for name in one:
            with self.subTest(name):
                expected = json.dumps(one[name]) if name.endswith(".json") else one[name]
                found = json.dumps(second[name]) if name.endswith(".json") else second[name]
                if name == "jobs/00005/whole.json":
                    self.assertIn(old, expected)
                self.assertEqual(found, expected.replace(old, new) if isinstance(expected, str) else expected)
        copies = Job.objects.filter(workshop__name="Harbour copy")
        self.assertEqual({job.title for job in copies}, before.keys())
        for job in copies:
            self.assertEqual(build_result(read_document(job.document)), before[job.title])
        lists = [self.client.get(f"/api/v1/{each}").json() for each in ("jobs", "amplifiers")]
        self.assertTrue(all(row["summary"] for each in lists for row in each["items"]))
        self.assertEqual(self.brought(first)["status"], 422)  # it is not empty any more

    def test_a_file_that_is_not_what_it_says_is_refused_in_words_and_leaves_nothing(self) -> None:
        good = io.BytesIO()
        writer = zip_file.Writer(good)  # type: ignore[arg-type]
        writer.put_json("workshop.json", {"name": "a", "settings": {}})
        for name in ("parts/drivers.json", "parts/parts.json", "recordings.json", "changes.json"):
            writer.put_json(name, [])
        writer.end()
        writer.__exit__(None, None, None)

        def changed(
            manifest: dict[str, Any] | None = None, add: dict[str, bytes] | None = None, drop: tuple[str, ...] = ()
        ) -> bytes:
            out = io.BytesIO()
            with zipfile.ZipFile(good) as source, zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as target:
                for name in source.namelist():
                    raw = source.read(name)
                    if name == "manifest.json":
                        raw = json.dumps({**json.loads(raw), **(manifest or {})}).encode()
                    if name not in drop and name not in (add or {}):
                        target.writestr(name, raw)
                for name, raw in (add or {}).items():
                    target.writestr(name, raw)
            return out.getvalue()

        listed = json.loads(zipfile.ZipFile(good).read("manifest.json"))["files"]
        outside = {"name": "../../etc/x.json", "size": 2, "sha256": hashlib.sha256(b"{}").hexdigest()}
        bad_job = {"document": {"title": "x"}, "readings": [{"reading": {"what": "volts"}}]}
        raw_job = json.dumps(bad_job).encode()
        job = {"name": "jobs/1/whole.json", "size": len(raw_job), "sha256": hashlib.sha256(raw_job).hexdigest()}
        for content, words in (
            (b"PK no zip", "no ZIP"),
            (changed(drop=("manifest.json",)), "manifest"),
            (changed({"format": "something"}), "something else"),
            (changed({"version": 2}), "version 2"),
            (changed({"files": [*listed, outside]}, {"../../etc/x.json": b"{}"}), "names files"),
            (changed(add={"extra.json": b"{}"}), "other files"),
            (changed(drop=("changes.json",)), "other files"),
            (changed(add={"workshop.json": b'{"name": "b", "settings": {}}'}), "is not what the manifest says"),
            (changed(add={"workshop.json": b" " * 60_000_000}), "far more"),
            (changed({"files": [*listed, job]}, {"jobs/1/whole.json": raw_job}), "damaged|cannot be used"),
            (good.getvalue()[:-40], "no ZIP|damaged"),
            (good.getvalue()[:45] + bytes([7] * 12) + good.getvalue()[57:], "damaged"),
        ):
            with self.subTest(words):
                found = self.brought(content)
                self.assertEqual(found["status"], "refused", found)
                self.assertRegex(found["told"], words)
        self.assertEqual([Job.objects.count(), Amplifier.objects.count(), list(self.folder.iterdir())], [0, 0, []])
        self.assertEqual(self.brought(good.getvalue())["status"], "done")

    def test_is_kept_for_a_day_and_is_nobody_elses(self) -> None:
        self.exported()
        number = Archive.objects.get().pk
        other = Client()
        other.force_login(create_workshop("Shoal Audio", "jon", PASSWORD))
        self.assertEqual(other.get(f"/api/v1/workshop-archives/{number}/file").status_code, 404)
        self.assertEqual(services.clear(), 0)
        with patch.object(services, "KEPT", services.KEPT * -1):
            self.assertEqual(services.clear(), 1)
        self.assertEqual(list(self.folder.iterdir()), [])
