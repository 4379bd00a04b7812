"""What was acknowledged is there afterwards: a killed server, copies of the database, a full disk, how it is set."""

from __future__ import annotations

import io
import json
import os
import shutil
import signal
import sqlite3
import tempfile
import time
import urllib.error
from concurrent.futures import ThreadPoolExecutor
from datetime import UTC, datetime, timedelta
from pathlib import Path
from unittest.mock import patch

from django.core.management import call_command
from django.core.management.base import CommandError
from django.db import connection
from django.test import TransactionTestCase

from underhood.tests.examples import document
from underhood_server.accounts.models import Workshop
from underhood_server.accounts.services import create_workshop
from underhood_server.storage import backup
from underhood_server.tests.base import PASSWORD, WorkshopTest
from underhood_server.tests.running import Browser, RunningServer

WRITES = int(os.environ.get("UNDERHOOD_KILL_WRITES", "200"))
AT_ONCE = 8


class Database(TransactionTestCase):
    def test_an_open_connection_is_set_to_lose_nothing(self) -> None:
        """A write reaches the disk before it is acknowledged (FULL is 2), references hold, files are their owner's."""
        expected = {"journal_mode": "wal", "synchronous": 2, "foreign_keys": 1, "busy_timeout": 10_000}
        with connection.cursor() as cursor:
            found = {name: cursor.execute(f"PRAGMA {name}").fetchone()[0] for name in expected}
            path = cursor.execute("PRAGMA database_list").fetchone()[2]
        self.assertEqual(found, expected)
        self.assertEqual(connection.settings_dict["OPTIONS"]["transaction_mode"], "IMMEDIATE")
        for each in Path(path).parent.glob(Path(path).name + "*"):
            self.assertEqual(each.stat().st_mode & 0o077, 0, each)


class Copies(TransactionTestCase):
    def setUp(self) -> None:
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        self.enterContext(patch.object(backup, "folder", lambda: self.folder))
        create_workshop("Quay Audio", "ines", PASSWORD)

    def test_a_copy_is_sound_holds_every_row_and_replaces_what_came_after_it(self) -> None:
        copy = self.folder / "copy.sqlite3"
        call_command("backup", str(copy), stdout=io.StringIO())
        self.assertEqual(copy.stat().st_mode & 0o077, 0)
        with self.assertRaises(CommandError):  # nothing is written over
            call_command("backup", str(copy))
        Workshop.objects.update(name="Changed since")
        create_workshop("Later", "jon", PASSWORD)
        connection.close()
        call_command("restore", str(copy), stdout=io.StringIO())
        self.assertEqual(list(Workshop.objects.values_list("name", flat=True)), ["Quay Audio"])
        (kept,) = self.folder.glob("before-restore-*")
        with sqlite3.connect(kept) as one:
            self.assertEqual(one.execute("SELECT count(*) FROM accounts_workshop").fetchone()[0], 2)
        one.close()

    def test_a_copy_that_is_damaged_foreign_or_later_is_refused_and_nothing_changes(self) -> None:
        copy = self.folder / "copy.sqlite3"
        backup.backup(copy)
        damaged, foreign, later = (self.folder / f"{name}.sqlite3" for name in ("damaged", "foreign", "later"))
        whole = copy.read_bytes()
        damaged.write_bytes(whole[: len(whole) // 2] + b"\x00" * 5000 + whole[len(whole) // 2 + 5000 :])
        for path, change in (
            (foreign, "CREATE TABLE notes (id)"),
            (later, "INSERT INTO django_migrations VALUES (9999, 'jobs', '0999_far', '')"),
        ):
            if path is later:
                shutil.copy(copy, later)
            with sqlite3.connect(path) as one:
                one.execute(change)
            one.close()
        for path, words in ((damaged, "damaged|read"), (foreign, "something else"), (later, "later release")):
            with self.assertRaisesRegex(CommandError, words):
                call_command("restore", str(path))
        self.assertEqual(Workshop.objects.get().name, "Quay Audio")
        self.assertEqual(list(self.folder.glob("before-restore-*")), [])

    def test_there_is_a_copy_a_day_for_a_week_and_one_a_week_for_two_months(self) -> None:
        self.enterContext(patch.object(backup, "backup", Path.touch))
        start = datetime(2026, 1, 5, 3, tzinfo=UTC)  # a Monday
        for hour in range(0, 24 * 100, 12):
            backup.daily(start + timedelta(hours=hour))
        moments = [moment for _, moment in backup.backups()]
        newest = start + timedelta(days=99)
        self.assertEqual(moments[:7], [newest - timedelta(days=n) for n in range(7)])
        weeks = {moment.isocalendar()[:2] for moment in moments}
        self.assertEqual((len(weeks), len(moments)), (8, 7 + 6))


class NoRoom(WorkshopTest):
    def test_a_full_or_read_only_disk_is_told_and_nothing_of_the_change_is_kept(self) -> None:
        job = self.new_job()
        for pragma, back, status, words in (
            ("max_page_count = 1", "max_page_count = 4294967294", 507, "disk is full"),
            ("query_only = ON", "query_only = OFF", 503, "cannot be written"),
        ):
            changed = {**document(), "notes": "x" * 1900, "title": "Not to be kept"}
            with connection.cursor() as cursor, self.assertLogs("underhood_server.api.problems", "ERROR"):
                cursor.execute(f"PRAGMA {pragma}")
                self.client.raise_request_exception = False
                body = json.dumps({"document": changed})
                answers = [self.client.post("/api/v1/jobs", body, content_type="application/json") for _ in range(40)]
                cursor.execute(f"PRAGMA {back}")
            refused = [each for each in answers if each.status_code != 201]
            self.assertTrue(refused, pragma)
            self.assertEqual({each.status_code for each in refused}, {status})
            self.assertIn(words, refused[0].json()["detail"])
            kept = self.client.get("/api/v1/jobs").json()["items"]
            written = [each for each in answers if each.status_code == 201]
            self.assertEqual(sum(each["title"] == "Not to be kept" for each in kept), len(written))
            for each in written:
                self.send("delete", f"/jobs/{each.json()['id']}")
        self.assertEqual(self.client.get(f"/api/v1/jobs/{job['id']}").json()["document"], job["document"])


class Killed(RunningServer):
    """The server and all that belongs to it, killed at once in the middle of many writes."""

    def test_in_the_middle_of_many_writes_nothing_acknowledged_is_lost_and_nothing_is_half_kept(self) -> None:
        server, url = self.served(), f"http://127.0.0.1:{self.port}"
        acknowledged: dict[int, list[str]] = {}

        def write(who: int) -> None:
            """One job of one's own, then saved again and again; stops where the server does not answer any more."""
            try:
                browser = Browser(url)
                job = browser.ask("POST", "/jobs", {"document": {**document(), "title": f"{who} 1"}})
                acknowledged[job["id"]] = [job["document"]["title"]]
                for n in range(2, WRITES // AT_ONCE + 1):
                    saved = {"version": n - 1, "document": {**document(), "title": f"{who} {n}"}}
                    browser.ask("PUT", f"/jobs/{job['id']}", saved)
                    acknowledged[job["id"]].append(f"{who} {n}")
            except (urllib.error.URLError, ConnectionError, TimeoutError, OSError):
                pass

        with ThreadPoolExecutor(AT_ONCE) as pool:
            writers = [pool.submit(write, who) for who in range(AT_ONCE)]
            while sum(map(len, acknowledged.values())) < WRITES // 2 and not all(each.done() for each in writers):
                time.sleep(0.005)
            os.killpg(server.pid, signal.SIGKILL)
            server.wait()
        count = sum(map(len, acknowledged.values()))
        self.assertTrue(WRITES // 2 <= count < WRITES, count)
        backup.check(Path(self.folder) / "under-hood.sqlite3")
        again = self.served()
        try:
            browser = Browser(url)
            for job, titles in acknowledged.items():
                rows = browser.ask("GET", f"/jobs/{job}/revisions?limit=500")["items"]
                stored = browser.ask("GET", f"/jobs/{job}")
                # The last write may have been made and not acknowledged: then it is there whole.
                self.assertIn(len(rows), (len(titles), len(titles) + 1))
                self.assertEqual([each["version"] for each in rows], list(range(len(rows), 0, -1)))
                self.assertEqual(stored["version"], len(rows))
                kept = [
                    browser.ask("GET", f"/jobs/{job}/revisions/{n + 1}")["document"]["title"] for n in range(len(rows))
                ]
                self.assertEqual(kept[: len(titles)], titles)
                self.assertEqual(stored["document"]["title"], kept[-1])
        finally:
            os.killpg(again.pid, signal.SIGTERM)
            again.wait()
