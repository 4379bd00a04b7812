"""A server as a workshop starts it, in a folder of its own, and somebody who asks it."""

from __future__ import annotations

import json
import os
import socket
import subprocess
import sys
import tempfile
import time
import unittest
import urllib.error
import urllib.request
from http.cookiejar import CookieJar
from pathlib import Path
from typing import Any

from underhood_server.tests.base import PASSWORD


class Browser:
    """Somebody logged in to a running server."""

    def __init__(self, url: str) -> None:
        self.url, self.jar = url, CookieJar()
        self.open = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(self.jar)).open
        self.ask("GET", "/session")
        self.ask("POST", "/session", {"username": "ines", "password": PASSWORD})

    def ask(self, method: str, path: str, body: Any = None) -> Any:
        headers = {"Content-Type": "application/json", "Origin": self.url}
        token = next((each.value for each in self.jar if each.name == "csrftoken"), None)
        headers |= {"X-CSRFToken": token} if token else {}
        data = None if body is None else json.dumps(body).encode()
        asked = urllib.request.Request(f"{self.url}/api/v1{path}", data, headers, method=method)  # noqa: S310
        with self.open(asked, timeout=30) as answer:
            return json.load(answer)


class RunningServer(unittest.TestCase):
    """A migrated database with one workshop, and the server on it."""

    folder: str
    port: int
    environment: dict[str, str]

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        cls.folder = cls.enterClassContext(tempfile.TemporaryDirectory())
        with socket.socket() as free:
            free.bind(("127.0.0.1", 0))
            cls.port = free.getsockname()[1]
        cls.environment = {**os.environ, "UNDERHOOD_DATA": cls.folder, "UNDERHOOD_BENCH_PORT": "0"}
        cls.environment.pop("UNDERHOOD_DEMO", None)
        migrate = "from django.core.management import call_command; call_command('migrate', verbosity=0); "
        words = f"from underhood_server.accounts.services import create_workshop as c; c('Quay', 'ines', {PASSWORD!r})"
        cls.manage("shell", "-v", "0", "-c", migrate + words)

    @classmethod
    def manage(cls, *words: str) -> None:
        subprocess.run(  # noqa: S603 - our own program
            [sys.executable, "-m", "underhood_server", *words], env=cls.environment, check=True, timeout=120
        )

    @classmethod
    def served(cls) -> subprocess.Popen[bytes]:
        words = ["serve", "--bind", f"127.0.0.1:{cls.port}", "--threads", "8"]
        log = open(Path(cls.folder) / "log", "ab")  # noqa: SIM115
        server = subprocess.Popen(  # noqa: S603 - our own program
            [sys.executable, "-m", "underhood_server", *words],
            env=cls.environment,
            stdout=log,
            stderr=log,
            start_new_session=True,
        )
        log.close()
        for _ in range(300):
            try:
                urllib.request.urlopen(f"http://127.0.0.1:{cls.port}/api/v1/health", timeout=5).close()
                return server
            except (urllib.error.URLError, ConnectionError, TimeoutError):
                time.sleep(0.1)
        raise AssertionError((Path(cls.folder) / "log").read_text())
