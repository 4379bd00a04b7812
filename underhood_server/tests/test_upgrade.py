"""Databases and job files of every earlier release open, with nothing missing and nothing that takes a list down.

`releases/` holds a small database of each as SQL, with the demo of its time and some work of its own, and job files.
"""

from __future__ import annotations

import json
import os
import sqlite3
import subprocess
import sys
import tempfile
import unittest
from pathlib import Path
from typing import Any

from underhood.document.job_file import read_job
from underhood.forecast.build import build_result

RELEASES = Path(__file__).parent / "releases"
OPEN_EVERYTHING = """
import io, json, sys
import django
django.setup()
from django.conf import settings
from django.core.management import call_command
told = io.StringIO()
for command in sys.argv[1:]:
    call_command(command, stdout=told)
settings.ALLOWED_HOSTS = ["testserver"]
from django.test import Client
from underhood_server.accounts.models import User
client = Client()
client.force_login(User.objects.get(username="saltmarsh"))
def get(path):
    answer = client.get("/api/v1" + path)
    return answer.json() if answer.status_code == 200 else {"status": answer.status_code, **answer.json()}
found = {"told": told.getvalue()}
found |= {"jobs": get("/jobs"), "amplifiers": get("/amplifiers"), "drivers": get("/parts/drivers")}
found["opened"] = [get(f"/jobs/{each['id']}") for each in found["jobs"]["items"]]
found["benched"] = [get(f"/amplifiers/{each['id']}") for each in found["amplifiers"]["items"][:2]]
found["revisions"] = [get(f"/jobs/{each['id']}/revisions")["count"] for each in found["jobs"]["items"]]
json.dump(found, sys.stdout)
"""


class Upgraded:
    """A database of a release in a directory of its own, for this program's own commands."""

    def __init__(self, release: str, folder: str, *changes: str) -> None:
        self.environment = {
            **os.environ,
            "UNDERHOOD_DATA": folder,
            "UNDERHOOD_DEMO": "1",
            "DJANGO_SETTINGS_MODULE": "underhood_server.config.settings",
        }
        self.path = Path(folder) / "demo.sqlite3"
        with sqlite3.connect(self.path) as database:
            database.executescript((RELEASES / f"{release}.sql").read_text(encoding="utf-8"))
            for change in changes:
                database.execute(change)
        database.close()

    def after(self, *commands: str) -> Any:
        """What the program shows after commands of its own."""
        words = [sys.executable, "-c", OPEN_EVERYTHING, *commands]
        done = subprocess.run(words, env=self.environment, capture_output=True, text=True, check=False, timeout=120)  # noqa: S603
        assert done.returncode == 0, done.stderr
        return json.loads(done.stdout)


class EarlierDatabases(unittest.TestCase):
    first = True

    def setUp(self) -> None:
        self.folder = self.enterContext(tempfile.TemporaryDirectory())

    def test_of_the_first_release_opens_with_every_list_complete(self) -> None:
        """And a value that is no longer allowed is shown as refused where it stands, its job listed with the reason."""
        too_long = "UPDATE jobs_job SET setup = json_set(setup, '$.cables[0].length_m', 90) WHERE id = 1"
        found = Upgraded("first", self.folder, too_long).after("migrate")
        jobs = {line["id"]: line for line in found["jobs"]["items"]}
        self.assertEqual(
            [jobs[n]["title"] for n in (1, 2, 3)],
            ["Book-delivery van, long run", "Estate car, changed by hand", "A copy with a second battery"],
        )
        self.assertTrue(all(jobs[n]["summary"]["amplifiers"] and not jobs[n]["problem"] for n in (2, 3)))
        self.assertIsNone(jobs[1]["summary"])
        self.assertIn("length: 90 is not allowed", jobs[1]["problem"])
        names = [line["name"] for line in found["amplifiers"]["items"]]
        self.assertEqual(names, ["Dunlin 300 mono", "Marram 1200 mono", "Saltpan 2x90", "Skerry 800 mono"])
        dunlin = found["amplifiers"]["items"][0]["summary"]
        self.assertEqual((dunlin["runs"], dunlin["amplifier_class"], dunlin["rated_ohm"]), (2, "D", 2))
        opened = {job["id"]: job for job in found["opened"]}
        self.assertEqual([opened[n]["problems"] for n in (2, 3)], [[], []])
        self.assertEqual(opened[1]["document"]["cables"][0]["length_m"], 90)
        self.assertEqual([(each["path"], each["value"]) for each in opened[1]["problems"]], [("cables.0.length_m", 90)])
        self.assertEqual(sorted(found["revisions"]), [1, 1, 2])
        self.assertEqual([bool(each["sheet"]["runs"]) for each in found["benched"]], [True, True])

    def test_of_the_release_before_opens_and_summaries_of_another_version_wait_until_made_anew(self) -> None:
        old_keys = """UPDATE jobs_job SET setup = json_set(setup, '$.banks[0].isolator', json('true'),
            '$.basis.programme_file', json('{"name": "a.wav", "sha256": "%s", "envelope": [1.0, 0.5, 0]}'))
            WHERE id = 2""" % ("a" * 64)  # noqa: S608
        release = Upgraded("second", self.folder, old_keys)
        found = release.after("migrate")
        with sqlite3.connect(release.path) as database:
            (kept,) = database.execute("SELECT analysis FROM jobs_recording").fetchone()
            (stored,) = database.execute("SELECT document FROM jobs_job WHERE id = 2").fetchone()
        self.assertEqual(json.loads(kept)["bands"], {"63": [-5.0, -11.02, -125.0]})
        self.assertEqual(json.loads(stored)["banks"][0]["isolator"], "relay")
        self.assertNotIn("envelope", stored)
        with sqlite3.connect(release.path) as database:
            tables = ("jobs_job", "bench_amplifier", "parts_driver")
            counts = [database.execute(f"SELECT count(*) FROM {each}").fetchone()[0] for each in tables]  # noqa: S608
            database.execute('UPDATE bench_amplifier SET summary = \'{"version": 0, "runs": 99}\'')
        database.close()
        self.assertEqual([found[kind]["count"] for kind in ("jobs", "amplifiers", "drivers")], counts)
        self.assertGreater(min(counts), 2)
        self.assertTrue(all(line["summary"] for line in found["jobs"]["items"]))
        self.assertEqual([job["problems"] for job in found["opened"]], [[], [], []])
        stale = release.after()["amplifiers"]["items"]
        self.assertEqual({line["summary"] for line in stale}, {None})
        self.assertIn("refreshsummaries", stale[0]["problem"])
        refreshed = release.after("refreshsummaries")
        self.assertIn(f"amplifier: {counts[1]}", refreshed["told"])
        self.assertTrue(all(line["summary"] for line in refreshed["amplifiers"]["items"]))

    def test_of_the_release_with_plans_opens_with_jobs_found_by_what_they_now_hold(self) -> None:
        found = Upgraded("third", self.folder).after("migrate")
        jobs = {line["title"]: line for line in found["jobs"]["items"]}
        self.assertEqual(sorted(jobs), ["Electric van, no engine", "Estate car, changed by hand"])
        with sqlite3.connect(Path(self.folder) / "demo.sqlite3") as database:
            words = "FROM find_words WHERE find_words MATCH 'electric'"
            tables = ("FROM bench_sheet", "FROM bench_sheetrevision", words)
            sheets, kept, found_words = (database.execute(f"SELECT count(*) {each}").fetchone() for each in tables)
            roles = {role for (role,) in database.execute("SELECT role FROM accounts_user")}
            named = "SELECT count(*) FROM jobs_revision WHERE saved_by_id IS NOT NULL AND saved_by_name = ''"
            self.assertEqual(database.execute(named).fetchone(), (0,))
            planned = "SELECT title FROM jobs_job WHERE state = 'planned'"
            self.assertEqual(database.execute(planned).fetchall(), [("Estate car, changed by hand",)])
        database.close()
        self.assertEqual((sheets, roles, found_words), (kept, {"owner"}, (1,)))
        told = [(each["archived"], each["summary"]["customer"], each["summary"]["tags"]) for each in jobs.values()]
        self.assertEqual(told, [(False, "", [])] * 2)
        self.assertEqual(jobs["Estate car, changed by hand"]["summary"]["state"], "planned")
        self.assertEqual(sorted(found["revisions"]), [1, 2])
        self.assertEqual([job["problems"] for job in found["opened"]], [[], []])


class EarlierJobFiles(unittest.TestCase):
    def test_are_read_and_forecast(self) -> None:
        files = sorted(RELEASES.glob("*.json"))
        self.assertGreater(len(files), 3)
        for path in files:
            with self.subTest(path.name):
                job = read_job(path.read_bytes(), path.name)
                self.assertTrue(build_result(job).amplifiers)
