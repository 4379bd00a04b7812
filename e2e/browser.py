"""A live server with the built interface, and Debian's headless Chromium to drive it."""

from __future__ import annotations

import logging
import os
import re
import sqlite3
import time
from contextlib import closing
from functools import cache
from pathlib import Path
from threading import Event, Thread, get_ident
from urllib.parse import urlparse

from django.contrib.staticfiles.testing import StaticLiveServerTestCase
from django.core.signals import request_finished, request_started
from django.db import connection
from django.test import override_settings
from django_tasks import TaskResultStatus
from django_tasks_db.models import DBTaskResult
from playwright.sync_api import (
    Browser,
    BrowserContext,
    Page,
    Playwright,
    Request,
    ViewportSize,
    expect,
    sync_playwright,
)

from underhood_server.demo.services import load_demo
from underhood_server.plans.models import PlanSearch
from underhood_server.storage.files import private

CHROMIUM = os.environ.get("CHROMIUM", "/usr/bin/chromium-headless-shell")
FLAGS = [
    "--no-sandbox",
    "--disable-gpu",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--disable-quic",
]
expect.set_options(timeout=15_000)  # a page waits for the processor, which other work may hold
VIEWPORT = ViewportSize(width=1280, height=800)
TABLET = ViewportSize(width=820, height=1180)
PHONE = ViewportSize(width=390, height=844)


class Works:
    """What `manage.py work` does, in a thread of this process, so that it works on the tests' own database."""

    def __init__(self) -> None:
        self._stop = Event()
        self._thread = Thread(target=self._run, daemon=True)
        self._thread.start()

    def _run(self) -> None:
        while not self._stop.wait(0.1):
            for waiting in DBTaskResult.objects.filter(status=TaskResultStatus.READY):
                waiting.task_result.task.call(*waiting.task_result.args)
                waiting.set_successful(None)
        connection.close()

    def stop(self) -> None:
        """Ends what it does, and waits for it."""
        PlanSearch.objects.update(cancelled=True)
        self._stop.set()
        self._thread.join(60)


class Traffic:
    """What the live server is still answering: a test that ends must not take the tables from under it."""

    def __init__(self) -> None:
        self.answering: set[int] = set()  # threads, each of which answers one request at a time
        request_started.connect(self._start)
        request_finished.connect(self._finish)

    def _start(self, **_: object) -> None:
        self.answering.add(get_ident())

    def _finish(self, **_: object) -> None:
        self.answering.discard(get_ident())

    def drained(self, within_s: float = 10) -> bool:
        until = time.monotonic() + within_s
        while self.answering and time.monotonic() < until:
            time.sleep(0.02)
        return not self.answering


@cache
def empty() -> Path:
    """A copy of the tests' database as this process found it."""
    return _copy("empty")


@cache
def with_demo() -> Path:
    """A copy of it with the demo, which is loaded once in a process."""
    empty()
    load_demo()
    return _copy("demo")


def _copy(name: str) -> Path:
    path = Path(f"{connection.settings_dict['NAME']}.{name}.copy")
    private(path)
    connection.ensure_connection()
    with closing(sqlite3.connect(path)) as out:
        connection.connection.backup(out)
    return path


def put_back(copy: Path) -> None:
    """The tests' database is again as in a copy of it."""
    connection.ensure_connection()
    with closing(sqlite3.connect(copy)) as kept:
        kept.backup(connection.connection)


@override_settings(DEMO=True)
class BrowserTest(StaticLiveServerTestCase):
    """Each test starts in the demo workshop with a page of its own; what the page asks elsewhere is collected."""

    first = True
    playwright: Playwright
    browser: Browser
    context: BrowserContext
    page: Page

    @classmethod
    def setUpClass(cls) -> None:
        # Playwright keeps an event loop in this thread, which Django would take for an asynchronous view.
        os.environ["DJANGO_ALLOW_ASYNC_UNSAFE"] = "true"
        # A page that is closed while it asks how far a search is breaks its connection: no news.
        logging.getLogger("django.server").setLevel(logging.ERROR)
        super().setUpClass()
        cls.playwright = sync_playwright().start()
        cls.browser = cls.playwright.chromium.launch(executable_path=CHROMIUM, args=FLAGS)

    @classmethod
    def tearDownClass(cls) -> None:
        cls.browser.close()
        cls.playwright.stop()
        put_back(empty())
        del os.environ["DJANGO_ALLOW_ASYNC_UNSAFE"]
        super().tearDownClass()

    def _fixture_teardown(self) -> None:
        """Nothing is emptied row by row: the next story begins with a copy."""

    def setUp(self) -> None:
        put_back(with_demo())
        self.context = self.browser.new_context(viewport=VIEWPORT)
        self.page = self.context.new_page()
        self.page.set_default_timeout(15_000)
        self.traffic = Traffic()
        self.foreign: list[str] = []
        self.complaints: list[str] = []
        self.page.on("request", self._note)
        self.page.on("pageerror", lambda error: self.complaints.append(str(error)))
        self.page.on(
            "console", lambda m: self.complaints.append(f"{m.text} {m.location}") if m.type == "error" else None
        )

    def _note(self, request: Request) -> None:
        parts = urlparse(request.url)
        if parts.scheme not in ("data", "blob") and parts.netloc != urlparse(self.live_server_url).netloc:
            self.foreign.append(request.url)

    def tearDown(self) -> None:
        self.context.close()
        self.assertTrue(self.traffic.drained(), "the server is still answering ten seconds after the page was closed")

    def saved(self, version: int | None = None) -> None:
        """Waits until the open job is stored, as its heading says."""
        revision = r"\d+" if version is None else str(version)
        status = self.page.get_by_role("status").filter(has_text="revision")
        expect(status).to_have_text(re.compile(rf"^revision {revision} · saved$"))

    def enter(self) -> Page:
        """The demo workshop, by its one click."""
        self.page.goto(self.live_server_url)
        self.page.get_by_role("button", name="Enter the demo workshop").click()
        self.page.get_by_role("heading", name="Jobs").wait_for()
        return self.page
