"""A server as a workshop starts it, in a process of its own, for as long as somebody asks it."""

from __future__ import annotations

import os
import socket
import subprocess
import sys
import tempfile
import time
import urllib.error
import urllib.request
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import NamedTuple

PATIENCE_S = 120
"""For its first answer: what else runs on two cores says nothing of it."""


class Served(NamedTuple):
    """A running server: its port, and the number of its process."""

    port: int
    process: int

    @property
    def url(self) -> str:
        """Its address."""
        return f"http://127.0.0.1:{self.port}"


def surroundings(folder: str | Path, *, demo: bool = False) -> dict[str, str]:
    """The environment of a program whose data are in a folder."""
    kept = {key: value for key, value in os.environ.items() if key != "UNDERHOOD_DEMO"}
    kept |= {"DJANGO_SETTINGS_MODULE": "underhood_server.config.settings", "UNDERHOOD_BENCH_PORT": "0"}
    return kept | {"UNDERHOOD_DATA": str(folder), **({"UNDERHOOD_DEMO": "1"} if demo else {})}


@contextmanager
def serving(folder: str | Path, *, demo: bool = False) -> Iterator[Served]:
    """A server with the data of a folder, once it answers; with the demo, which it makes first."""
    with socket.socket() as free:
        free.bind(("127.0.0.1", 0))
        port: int = free.getsockname()[1]
    words = ["serve", "--bind", f"127.0.0.1:{port}", *(["--demo"] if demo else [])]
    with open(Path(folder) / "log", "wb") as log:
        server = subprocess.Popen(  # noqa: S603 - our own program
            [sys.executable, "-m", "underhood_server", *words],
            env=surroundings(folder, demo=demo),
            stdout=log,
            stderr=log,
        )
        served = Served(port, server.pid)
        try:
            _first_answer(f"{served.url}/api/v1/health")
            yield served
        finally:
            server.terminate()
            server.wait()


@contextmanager
def demo() -> Iterator[Served]:
    """A server with the demo, in a folder that goes with it."""
    with tempfile.TemporaryDirectory() as folder, serving(folder, demo=True) as served:
        yield served


def _first_answer(url: str) -> None:
    until = time.monotonic() + PATIENCE_S
    while True:
        try:
            urllib.request.urlopen(url).close()  # noqa: S310
            return
        except (urllib.error.URLError, ConnectionError):
            if time.monotonic() > until:
                raise
            time.sleep(0.1)
