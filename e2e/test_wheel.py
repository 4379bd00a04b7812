"""The package by itself: built, installed in a fresh environment, its command line run and the demo served from it."""

import json
import os
import subprocess
import sys
import tempfile
import time
import unittest
import urllib.error
import urllib.request
import venv
import zipfile
from importlib import metadata
from pathlib import Path

from packaging.requirements import Requirement

ROOT = Path(__file__).resolve().parents[1]
ADDRESS = "127.0.0.1:8397"


def pulled_in(by: metadata.Distribution, *extras: str) -> list[metadata.Distribution]:
    """All that something installed asks for, and what that asks for."""
    found: dict[str, metadata.Distribution] = {}
    waiting = [(by, extras)]
    while waiting:
        distribution, extras = waiting.pop()
        for needed in map(Requirement, distribution.requires or []):
            wanted = needed.marker is None or any(needed.marker.evaluate({"extra": each}) for each in ("", *extras))
            key = f"{needed.name} {sorted(needed.extras)}".lower()
            if wanted and key not in found:
                found[key] = metadata.distribution(needed.name)
                waiting.append((found[key], tuple(needed.extras)))
    return list(found.values())


class Wheel(unittest.TestCase):
    first = True
    folder: Path
    wheel: Path
    bin: Path

    @classmethod
    def setUpClass(cls):
        cls.folder = Path(cls.enterClassContext(tempfile.TemporaryDirectory()))
        # Built from a copy, so that nothing is left in the tree.
        copied = cls.folder / "source"
        copied.mkdir()
        for name in ("underhood", "underhood_server", "pyproject.toml", "README.md"):
            (copied / name).symlink_to(ROOT / name)
        cls.call(sys.executable, "-m", "pip", "wheel", "--no-deps", "--no-build-isolation", "--wheel-dir", ".", copied)
        (cls.wheel,) = cls.folder.glob("*.whl")
        venv.create(cls.folder / "fresh")
        cls.bin = cls.folder / "fresh" / "bin"

    @classmethod
    def call(cls, *words) -> str:
        clean = {"PATH": os.environ["PATH"], "HOME": os.environ.get("HOME", ""), "UNDERHOOD_DEMO": "1"}
        passed = {key: value for key, value in os.environ.items() if key.startswith(("PIP_", "SSL_"))}
        done = subprocess.run(  # noqa: S603 - words of this test
            [str(word) for word in words],
            cwd=cls.folder,
            env=clean | passed,
            capture_output=True,
            text=True,
            check=False,
        )
        if done.returncode:
            raise AssertionError(f"{words}: {done.stdout} {done.stderr}")
        return done.stdout

    def pip(self, *words) -> str:
        return self.call(sys.executable, "-m", "pip", "--python", self.bin / "python", *words)

    def install(self, extra: str = "") -> None:
        """What the wheel asks for, with all that pulls in and nothing else, linked from where the tests run."""
        (fresh,) = self.folder.glob("fresh/lib/python*/site-packages")
        if not (found := list(fresh.glob("under_hood-*.dist-info"))):
            self.pip("install", "--quiet", "--no-deps", self.wheel)
            found = list(fresh.glob("under_hood-*.dist-info"))
        for distribution in pulled_in(metadata.Distribution.at(found[0]), extra):
            for top in {each.parts[0] for each in distribution.files or [] if each.parts[0] != ".."}:
                if not (link := fresh / top).exists():
                    link.symlink_to(Path(str(distribution.locate_file(top))))
        self.pip("check")

    def test_command_line_and_demo_work_from_the_wheel_alone(self):
        names = zipfile.ZipFile(self.wheel).namelist()
        for part in ("underhood/py.typed", "underhood_server/interface/index.html", "underhood/reference/"):
            self.assertTrue(any(name.startswith(part) for name in names), part)
        self.assertFalse([name for name in names if "/tests/" in name])
        tops = {name.split("/")[0] for name in names if ".dist-info" not in name}
        self.assertEqual(tops, {"underhood", "underhood_server"})

        self.install()
        asked = ["cable", "size", "--current", "100", "--rms", "60", "--length", "5", "--drop", "0.3", "--json"]
        told = self.call(self.bin / "under-hood", *asked)
        self.assertTrue(json.loads(told))
        listed = json.loads(self.pip("list", "--format", "json"))
        installed = {each["name"].lower() for each in listed}
        self.assertFalse(installed & {"django", "django-ninja", "whitenoise", "gunicorn"})
        self.assertFalse((self.folder / "var").exists())

        self.install("server")
        self.serves_the_demo()

    def serves_the_demo(self) -> None:
        server = subprocess.Popen(  # noqa: S603
            [self.bin / "under-hood-server", "serve", "--demo", "--bind", ADDRESS],
            cwd=self.folder,
            env={"PATH": os.environ["PATH"], "UNDERHOOD_DEMO": "1"},
            stdout=subprocess.DEVNULL,
            stderr=subprocess.DEVNULL,
        )
        self.addCleanup(server.wait)
        self.addCleanup(server.terminate)
        page = self.fetched("/")[1].decode()
        script = next(part.split('"')[0] for part in page.split('src="')[1:] if part.split('"')[0].endswith(".js"))
        headers, body = self.fetched(script, {"Accept-Encoding": "br, gzip"})
        self.assertEqual(headers["Content-Encoding"], "br")
        self.assertIn("immutable", headers["Cache-Control"])
        self.assertLess(len(body), 250_000)
        self.assertTrue(json.loads(self.fetched("/api/v1/session")[1])["demo"])

    def fetched(self, path: str, headers: dict[str, str] | None = None):
        for _ in range(1500):  # migrated and filled first
            try:
                asked = urllib.request.Request(f"http://{ADDRESS}{path}", headers=headers or {})
                with urllib.request.urlopen(asked) as answer:  # noqa: S310
                    return answer.headers, answer.read()
            except urllib.error.HTTPError:
                raise
            except OSError:
                time.sleep(0.2)
        raise AssertionError("the server did not come up")
