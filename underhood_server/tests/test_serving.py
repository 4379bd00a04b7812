"""A server that nobody ties up: slow senders, uploads of nobody, heavy questions; and how it stands behind a proxy."""

from __future__ import annotations

import gzip
import json
import os
import signal
import socket
import subprocess
import sys
import tempfile
import time
import urllib.request
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any
from unittest.mock import patch

from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import Client, SimpleTestCase, TestCase, override_settings
from ninja.errors import HttpError

from underhood.errors import BadInput
from underhood.programme import recording
from underhood.tests.examples import document
from underhood_server.api import heavy, uploads
from underhood_server.config.proxy import behind
from underhood_server.config.worker import HEAD_S, LOOKED_AT, arrived
from underhood_server.instruments import rack
from underhood_server.storage.models import Change
from underhood_server.tests.base import WorkshopTest
from underhood_server.tests.running import Browser, RunningServer

SENDERS = 60
"""More than the server has threads."""


class SlowSenders(RunningServer):
    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        server = cls.served()
        cls.addClassCleanup(server.wait)
        cls.addClassCleanup(os.killpg, server.pid, signal.SIGTERM)

    def test_forty_half_requests_hold_nobody_up_and_are_dropped_in_time(self) -> None:
        half = b"POST /api/v1/session HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Length: 500\r\n"
        senders = [socket.create_connection(("127.0.0.1", self.port)) for _ in range(SENDERS)]
        for n, each in enumerate(senders):
            each.sendall(half if n % 2 else half + b"\r\n{")  # half of a head; half of a body
        time.sleep(1)
        start = time.monotonic()
        Browser(f"http://127.0.0.1:{self.port}").ask("GET", "/jobs")
        self.assertLess(time.monotonic() - start, HEAD_S / 2)  # while all of them still wait
        until = time.monotonic() + 3 * HEAD_S
        for each in senders:
            each.settimeout(max(until - time.monotonic(), 0.1))
            try:
                while each.recv(1000):
                    pass
            except ConnectionResetError:
                pass
            each.close()

    def test_a_request_has_arrived_with_its_head_and_a_short_one_with_its_body(self) -> None:
        head = b"POST / HTTP/1.1\r\nContent-Length: %d\r\n\r\n"
        for seen, enough in (
            (b"", False),
            (b"GET / HTTP/1.1\r\nHost: x\r\n", False),
            (b"GET / HTTP/1.1\r\nHost: x\r\n\r\n", True),
            (head % 5 + b"abcd", False),
            (head % 5 + b"abcde", True),
            (head % LOOKED_AT + b"a", True),
            (b"x" * LOOKED_AT, True),
        ):
            self.assertEqual(arrived(seen), enough, seen[:60])

    def test_a_large_upload_of_nobody_is_refused_by_its_head(self) -> None:
        head = (
            "POST /api/v1/recordings HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Length: 400000000\r\n"
            "Content-Type: multipart/form-data; boundary=x\r\n\r\n--x\r\n"
        )
        with socket.create_connection(("127.0.0.1", self.port), timeout=5) as one:
            one.sendall(head.encode())
            self.assertIn(b" 401 ", one.recv(100))
        page = urllib.request.urlopen(f"http://127.0.0.1:{self.port}/jobs", timeout=5)
        self.assertIn(b"<div id=", page.read())
        log = Path(f"{self.folder}/log").read_text(encoding="utf-8")
        self.assertIn("POST /api/v1/recordings 401", log)


class Uploads(WorkshopTest):
    def test_a_form_larger_than_its_address_takes_is_refused_before_it_is_read(self) -> None:
        with (
            patch.object(uploads, "OTHERWISE", 1000),
            patch("django.http.request.HttpRequest._load_post_and_files") as read,
        ):
            file = SimpleUploadedFile("parts.csv", b"x" * 2000)
            answer = self.client.post("/api/v1/parts/import", {"file": file})
            self.assertEqual((answer.status_code, read.called), (413, False))
            nobodys = Client().post("/api/v1/recordings", {"file": file})
            self.assertEqual((nobodys.status_code, read.called), (401, False))
        body = {"username": "ines", "password": "x" * 30_000}
        self.assertEqual(self.send("post", "/session", body).status_code, 413)


class Packed(WorkshopTest):
    def posted(self, body: bytes, path: str = "/forecasts", kind: str = "application/json", **more: str) -> Any:
        headers = {"content-encoding": "gzip", **more}
        return self.client.post(f"/api/v1{path}", body, content_type=kind, headers=headers)

    def test_a_packed_request_is_the_plain_one_and_its_answer_is_packed_where_it_may_be(self) -> None:
        plain = json.dumps({"document": document()}).encode()
        told = self.posted(gzip.compress(plain), **{"accept-encoding": "gzip"})
        self.assertEqual((told.status_code, told["Content-Encoding"]), (200, "gzip"))
        self.assertLess(len(told.content), 10_000)
        asked = self.client.post("/api/v1/forecasts", plain, content_type="application/json")
        self.assertEqual(json.loads(gzip.decompress(told.content)), asked.json())
        job = self.new_job()["id"]
        archive = self.client.post("/api/v1/workshop-archives").json()["id"]
        self.work()
        for path in (f"/workshop-archives/{archive}/file", f"/jobs/{job}/sheet.pdf"):
            plain_file = self.client.get(f"/api/v1{path}", headers={"accept-encoding": "gzip"})
            self.assertEqual((plain_file.status_code, "Content-Encoding" in plain_file), (200, False), path)
            self.assertIn("Content-Length", plain_file)
            plain_file.getvalue()

    def test_what_unpacks_to_too_much_is_broken_or_comes_from_nobody_is_refused(self) -> None:
        whole = gzip.compress(json.dumps({"document": document()}).encode())
        with self.settings(DATA_UPLOAD_MAX_MEMORY_SIZE=1_000_000):
            self.assertEqual(self.posted(gzip.compress(b" " * 1_000_001)).status_code, 413)
        for body in (whole[:-9], b"no gzip"):
            self.assertEqual(self.posted(body).status_code, 400)
        self.assertEqual(self.posted(whole, **{"content-encoding": "br"}).status_code, 415)
        self.assertEqual(self.posted(whole, "/recordings", "multipart/form-data; boundary=x").status_code, 415)
        self.assertEqual(self.posted(whole, "/session").status_code, 401)
        self.client.logout()
        self.assertEqual(self.posted(whole).status_code, 401)


class Heavy(SimpleTestCase):
    alone = True

    def setUp(self) -> None:
        self.enterContext(override_settings(HEAVY_WORK_HERE=False))
        self.addCleanup(heavy._end)

    def test_a_question_is_answered_or_refused_in_another_process_that_is_more_patient(self) -> None:
        self.assertNotEqual(heavy.heavy(os.getpid), os.getpid())
        self.assertEqual(heavy.heavy(os.nice, 0), os.nice(0) + heavy.NICE)
        with self.assertRaises(BadInput) as refused:
            heavy.heavy(recording.analyse, Path("/nowhere"), "song.wav")
        self.assertEqual((refused.exception.file, refused.exception.text[:14]), ("song.wav", "cannot be read"))

    def test_few_wait_more_are_sent_away_and_what_takes_too_long_is_ended(self) -> None:
        heavy.heavy(os.getpid)
        with ThreadPoolExecutor(12) as pool:
            asked = [pool.submit(heavy.heavy, time.sleep, 0.4) for _ in range(12)]
            failed = [each.exception() for each in asked]
        self.assertEqual(sum(each is None for each in failed), heavy.MOST_WAITING)
        self.assertEqual({getattr(each, "status_code", None) for each in failed if each}, {503})
        with patch.object(heavy, "LONGEST_S", 0.3), self.assertRaises(HttpError) as ended:
            heavy.heavy(time.sleep, 30)
        self.assertEqual(ended.exception.status_code, 503)
        start = time.monotonic()
        self.assertGreater(heavy.heavy(os.getpid), 0)
        self.assertLess(time.monotonic() - start, 20)


class Proxies(SimpleTestCase):
    def seen(self, proxies: int, https: bool, heard: str) -> tuple[str, str]:
        found: dict[str, Any] = {}
        environ = {"REMOTE_ADDR": "127.0.0.1", "wsgi.url_scheme": "http", "HTTP_X_FORWARDED_FOR": heard}
        behind(lambda environ, _: [found.update(environ) or b""], proxies, https)(environ, None)
        return found["REMOTE_ADDR"], found["wsgi.url_scheme"]

    def test_whoever_asks_is_told_by_the_proxies_that_are_there_and_by_nobody_else(self) -> None:
        self.assertEqual(self.seen(0, False, "203.0.113.5"), ("127.0.0.1", "http"))
        self.assertEqual(self.seen(1, True, "198.51.100.1, 203.0.113.5"), ("203.0.113.5", "https"))
        self.assertEqual(self.seen(2, True, "198.51.100.1, 203.0.113.5"), ("198.51.100.1", "https"))
        self.assertEqual(self.seen(1, True, ""), ("127.0.0.1", "https"))


class Settings(TestCase):
    def run_with(self, *words: str, **environment: str) -> subprocess.CompletedProcess[str]:
        with tempfile.TemporaryDirectory() as folder:
            return subprocess.run(  # noqa: S603 - our own program
                [sys.executable, "-m", "underhood_server", *words],
                env={**os.environ, "UNDERHOOD_DATA": folder, **environment},
                capture_output=True,
                text=True,
                check=False,
                timeout=60,
            )

    def test_a_server_for_a_workshop_passes_djangos_own_check(self) -> None:
        checked = self.run_with(
            "check", "--deploy", "--fail-level", "WARNING", UNDERHOOD_HTTPS="1", UNDERHOOD_HOSTS="uh.example"
        )
        self.assertEqual(
            (checked.returncode, checked.stdout.strip()), (0, "System check identified no issues (0 silenced).")
        )

    def test_a_server_on_an_empty_database_says_what_to_do_first(self) -> None:
        told = self.run_with("serve")
        self.assertEqual(told.returncode, 1)
        self.assertRegex(told.stderr, "run `(migrate|make serve)`")

    def test_health_needs_no_log_in_and_a_strange_name_is_told_what_to_do(self) -> None:
        self.assertEqual(self.client.get("/api/v1/health").json(), {"status": "ok"})
        with self.settings(ALLOWED_HOSTS=["127.0.0.1"]):
            for path in ("/jobs", "/api/v1/health"):
                answer = self.client.get(path, headers={"host": "tablet.example"})
                self.assertEqual(answer.status_code, 400)
                self.assertIn("UNDERHOOD_HOSTS", answer.content.decode())

    def test_instruments_are_read_from_a_private_network_or_from_named_hosts_alone(self) -> None:
        ok = "TCPIP::192.168.7.20::5025::SOCKET"
        self.assertEqual(rack.allowed(ok), ok)
        for address in (
            "TCPIP::127.0.0.1::22::SOCKET",
            "TCPIP::169.254.169.254::80::SOCKET",
            "TCPIP::192.0.2.1::80::SOCKET",
        ):
            if "192.0.2" in address:
                continue  # a documentation address, which Python counts among the private ones
            with self.assertRaisesRegex(Exception, "no instrument"):
                rack.allowed(address)
        with self.settings(INSTRUMENT_HOSTS=("bench.example",)), self.assertRaisesRegex(Exception, "no instrument"):
            rack.allowed(ok)


class RequestLog(WorkshopTest):
    def test_each_line_names_job_and_person_and_nothing_of_a_customer(self) -> None:
        job = self.new_job()
        with self.assertLogs("underhood.requests", "INFO") as told:
            self.client.get(f"/api/v1/jobs/{job['id']}")
            self.client.get("/api/v1/jobs", {"search": "Ida Fenn"})
            self.client.get("/sheet/very-secret")
        lines = [each.split(":", 2)[2] for each in told.output]
        self.assertRegex(lines[0], rf"^GET /api/v1/jobs/{job['id']} 200 \d+ ms ines$")
        self.assertRegex(lines[1], r"^GET /api/v1/jobs 200 \d+ ms ines$")
        self.assertRegex(lines[2], r"^GET /sheet/… \d+ \d+ ms ines$")
        self.assertTrue(Change.objects.exists())
        body = json.dumps({"document": job["document"], "questions": [{"what": "cable-edits"}] * 2})
        with self.assertLogs("underhood.requests", "INFO") as told:
            parts = iter(self.client.post("/api/v1/overviews", body, content_type="application/json"))
            next(parts)
            self.assertEqual(told.output, [], "it is told when the last line has gone")
            self.assertEqual(len(list(parts)), 1)
        self.assertRegex(told.output[0], r"POST /api/v1/overviews 200 \d+ ms ines$")
