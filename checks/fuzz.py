"""`python -m checks.fuzz [CASES [SEED]]`: requests from the published API, good and bad, at a server with the demo.

schemathesis makes them from docs/openapi.json. Every answer must have a status and a type that are published for its
operation and hold what its schema says; none may be the server's own failure. Left out: the operations that log in and
out or send people away, which would end the session that the rest needs; and the stream of the practice bench.
"""

from __future__ import annotations

import http.cookiejar
import os
import subprocess
import sys
import tempfile
import time
import urllib.error
import urllib.request
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
ADDRESS = "127.0.0.1:8399"
CASES_EACH = 40
"""For each of some hundred operations."""
LEFT_OUT = "/session|/sign-ins|/password|/people|/invitations|/readout"
PATIENCE_S = 120
"""What a first request needs (imports, beside a compiler and another test on two cores) says nothing of the answers."""
CHECKS = "not_a_server_error,status_code_conformance,content_type_conformance,response_schema_conformance"


@contextmanager
def served() -> Iterator[str]:
    """A server with the demo, in a folder of its own; yields its address."""
    with tempfile.TemporaryDirectory() as folder:
        os.environ.update({"UNDERHOOD_DEMO": "1", "UNDERHOOD_DATA": folder})
        manage = [sys.executable, str(ROOT / "manage.py")]
        for command in (["migrate", "--verbosity", "0"], ["loaddemo"]):
            subprocess.run([*manage, *command], check=True, stdout=subprocess.DEVNULL)  # noqa: S603
        with open(Path(folder) / "log", "w", encoding="utf-8") as log:
            server = subprocess.Popen([*manage, "serve", "--bind", ADDRESS], stdout=log, stderr=log)  # noqa: S603
            try:
                yield f"http://{ADDRESS}"
            finally:
                server.terminate()
                server.wait()


def logged_in(url: str) -> list[str]:
    """Headers of the demo's session."""
    jar = http.cookiejar.CookieJar()
    browser = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(jar))
    for _ in range(5 * PATIENCE_S):
        try:
            browser.open(f"{url}/api/v1/session")
            break
        except urllib.error.URLError:
            time.sleep(0.2)

    def headers() -> dict[str, str]:
        return {"X-CSRFToken": next(c.value or "" for c in jar if c.name == "csrftoken"), "Origin": url}

    browser.open(urllib.request.Request(f"{url}/api/v1/session/demo", b"", headers(), method="POST"))  # noqa: S310
    cookie = "; ".join(f"{each.name}={each.value}" for each in jar)
    return [f"{name}: {value}" for name, value in {**headers(), "Cookie": cookie}.items()]


def main(cases: int = CASES_EACH, seed: int | None = None) -> int:
    """Schemathesis's own report and status; with a seed, of the same requests every time."""
    with served() as url:
        words = [word for header in logged_in(url) for word in ("-H", header)]
        told = ["--checks", CHECKS, "--phases", "fuzzing", "-n", str(cases), "--continue-on-failure"]
        told += ["--exclude-path-regex", LEFT_OUT, "--suppress-health-check", "all", "--warnings", "off"]
        told += ["--request-timeout", str(PATIENCE_S)]
        program = str(Path(sys.executable).with_name("schemathesis"))
        told += [] if seed is None else ["--seed", str(seed), "--generation-deterministic"]
        schema = str(ROOT / "docs" / "openapi.json")
        command = [program, "run", schema, "--url", url, *words, *told]
        # What it notes down for a later run goes with the server's folder.
        return subprocess.run(command, cwd=os.environ["UNDERHOOD_DATA"], check=False).returncode  # noqa: S603


if __name__ == "__main__":
    raise SystemExit(main(*map(int, sys.argv[1:])))
