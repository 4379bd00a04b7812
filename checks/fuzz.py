"""`python -m checks.fuzz [CASES [SEED]]`: requests from the published API, good and bad, at a server with the demo.

schemathesis makes them from docs/openapi.json. Every answer must have a status and a type that are published for its
operation and hold what its schema says; none may be the server's own failure. Left out: the operations that log in and
out or send people away, which would end the session that the rest needs; and the stream of the practice bench.
"""

from __future__ import annotations

import http.cookiejar
import subprocess
import sys
import tempfile
import urllib.request
from pathlib import Path

from checks.server import demo

ROOT = Path(__file__).resolve().parents[1]
CASES_EACH = 40
"""For each of some hundred operations."""
LEFT_OUT = "/session|/sign-ins|/password|/people|/invitations|/readout"
PATIENCE_S = 120
"""What a first request needs (imports, beside a compiler and another test on two cores) says nothing of the answers."""
CHECKS = "not_a_server_error,status_code_conformance,content_type_conformance,response_schema_conformance"


def logged_in(url: str) -> list[str]:
    """Headers of the demo's session."""
    jar = http.cookiejar.CookieJar()
    browser = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(jar))
    browser.open(f"{url}/api/v1/session")

    def headers() -> dict[str, str]:
        return {"X-CSRFToken": next(c.value or "" for c in jar if c.name == "csrftoken"), "Origin": url}

    browser.open(urllib.request.Request(f"{url}/api/v1/session/demo", b"", headers(), method="POST"))  # noqa: S310
    cookie = "; ".join(f"{each.name}={each.value}" for each in jar)
    return [f"{name}: {value}" for name, value in {**headers(), "Cookie": cookie}.items()]


def main(cases: int = CASES_EACH, seed: int | None = None) -> int:
    """Schemathesis's own report and status; with a seed, of the same requests every time."""
    with demo() as server, tempfile.TemporaryDirectory() as notes:
        words = [word for header in logged_in(server.url) for word in ("-H", header)]
        told = ["--checks", CHECKS, "--phases", "fuzzing", "-n", str(cases), "--continue-on-failure"]
        told += ["--exclude-path-regex", LEFT_OUT, "--suppress-health-check", "all", "--warnings", "off"]
        told += ["--request-timeout", str(PATIENCE_S)]
        program = str(Path(sys.executable).with_name("schemathesis"))
        told += [] if seed is None else ["--seed", str(seed), "--generation-deterministic"]
        schema = str(ROOT / "docs" / "openapi.json")
        command = [program, "run", schema, "--url", server.url, *words, *told]
        # What it notes down for a later run goes with it.
        return subprocess.run(command, cwd=notes, check=False).returncode  # noqa: S603


if __name__ == "__main__":
    raise SystemExit(main(*map(int, sys.argv[1:])))
