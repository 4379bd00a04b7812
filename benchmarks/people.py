"""Twenty people at once on a running server: `python -m benchmarks.people` alone, or with `make bench`.

A workshop of 2,000 jobs and 500 amplifiers of 20 runs each is made in a folder of its own; the server is started as a
workshop starts it, and each person reads, forecasts and saves for a minute, first alone, then while a plan is searched
and an archive is written. Afterwards every save that was acknowledged is looked for. The people run in processes of
their own, on the same machine: what they cost is in the figures.
"""

from __future__ import annotations

import json
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator
from concurrent.futures import ProcessPoolExecutor
from contextlib import contextmanager
from http.client import HTTPConnection
from pathlib import Path
from typing import Any, NamedTuple

from checks.server import Served, serving, surroundings

JOBS, MANY_JOBS, AMPLIFIERS, RUNS = 2000, 10_000, 500, 20
PEOPLE, SECONDS = 20, 60.0
THINKS_S = 0.5
"""Twice between a person's changes: somebody who types a value and looks at what it did, once a second."""
SETTLES_S = 4.0
NAME, PASSWORD = "load", "a password for the load alone"
GOALS_MS = {"forecast": 150, "save": 150, "list": 60, "read": 150}
ALONE_MS = 50
REQUESTS, ROUNDS, REPEATS = 5000, 4, 20
"""A day's worth of requests, told in so many parts; how often each is asked of many rows."""
FILL = """
import json, sys
import django
django.setup()
from benchmarks.people import fill
fill(int(sys.argv[1]))
"""


class Asked(NamedTuple):
    """One question: what, milliseconds, status, bytes."""

    what: str
    took_ms: float
    status: int
    size: int


def fill(jobs: int) -> None:
    """So many jobs and five hundred amplifiers, from the demo's, each with something of its own."""
    from django.db import transaction

    from underhood.amplifier import sheet_csv
    from underhood_server.accounts.services import create_workshop
    from underhood_server.bench.models import Amplifier, Run, Sheet
    from underhood_server.bench.services import import_sheet
    from underhood_server.demo.services import DATA, demo_job
    from underhood_server.jobs.models import Job, Revision
    from underhood_server.jobs.services import create_job
    from underhood_server.parts.list_services import import_parts
    from underhood_server.parts.services import import_drivers

    user = create_workshop("Load Audio", NAME, PASSWORD)
    workshop = user.workshop
    assert workshop is not None
    import_drivers(workshop, (DATA / "drivers.csv").read_bytes(), "drivers.csv")
    import_parts(workshop, (DATA / "parts.csv").read_bytes(), "parts.csv")
    sheets = sorted(DATA.glob("bench/*.csv"))
    for path in sheets:
        import_sheet(workshop, path.read_bytes(), path.name)
    first = [create_job(workshop, demo_job(path.stem), user) for path in sorted(DATA.glob("job-*.json"))]
    with transaction.atomic():
        for n in range(jobs - len(first)):
            of = first[n % len(first)]
            title = f"{of.title}, number {n}"
            document = {**of.document, "title": title, "customer": f"Customer {n}", "vehicle_plate": f"LO {n:05d}"}
            shown = {**of.summary, "customer": f"Customer {n}", "plate": f"LO {n:05d}"}
            job = Job.objects.create(workshop=workshop, title=title, document=document, summary=shown)
            Revision.objects.create(job=job, version=1, document=document, saved_by=user)
        sheet = sheet_csv.read(sheets[0].read_bytes(), sheets[0].name)
        plain = [run.model_dump(mode="json", exclude_defaults=True) for run in sheet.runs]
        known = workshop.amplifiers.first()
        assert known is not None
        for n in range(AMPLIFIERS - workshop.amplifiers.count()):
            amplifier = Amplifier.objects.create(
                workshop=workshop,
                name=f"Number {n}",
                record={**known.record, "name": f"Number {n}"},
                summary=known.summary,
            )
            made = Sheet.objects.create(amplifier=amplifier)
            Run.objects.bulk_create(
                Run(sheet=made, position=at, load_ohm=reading["load_ohm"], criterion="thd1", reading=reading)
                for at, reading in ((at, plain[at % len(plain)]) for at in range(RUNS))
            )


class Person:
    """Somebody with one job of their own, over one connection that is kept."""

    def __init__(self, port: int) -> None:
        self.connection = HTTPConnection("127.0.0.1", port, timeout=60)
        self.cookies: dict[str, str] = {}
        self.asked: list[Asked] = []
        self.ask("open", "GET", "/session")
        self.ask("open", "POST", "/session", {"username": NAME, "password": PASSWORD})

    def ask(self, what: str, method: str, path: str, body: Any = None) -> Any:
        """The answer; what it took is kept."""
        headers = {"Cookie": "; ".join(f"{name}={value}" for name, value in self.cookies.items())}
        headers |= {"X-CSRFToken": self.cookies.get("csrftoken", ""), "Content-Type": "application/json"}
        raw = None if body is None else json.dumps(body)
        start = time.perf_counter()
        self.connection.request(method, f"/api/v1{path}", raw, headers)
        answer = self.connection.getresponse()
        text = answer.read()
        self.asked.append(Asked(what, 1000 * (time.perf_counter() - start), answer.status, len(text)))
        for each in answer.headers.get_all("Set-Cookie") or []:
            name, _, value = each.split(";")[0].partition("=")
            self.cookies[name] = value
        return json.loads(text) if text else None


def one_person(port: int, number: int, seconds: float) -> tuple[list[Asked], int, str]:
    """(what was asked, the job, the last title that was acknowledged) of somebody who works for a while."""
    person = Person(port)
    lines = person.ask("list", "GET", f"/jobs?limit=50&offset={number * 50}")["items"]
    job = person.ask("read", "GET", f"/jobs/{lines[number % len(lines)]['id']}")
    number_of, version, document = job["id"], job["version"], job["document"]
    kept = document["title"]
    time.sleep(SETTLES_S + 2 * number * THINKS_S / PEOPLE)  # everybody has logged in, and nobody in step
    person.asked.clear()
    until = time.monotonic() + seconds
    turn = 0
    while time.monotonic() < until:
        turn += 1
        document["basis"]["tone_hz"] = 30 + (turn * 7 + number) % 40 + turn / 1000
        if turn % 3 == 0:
            document["title"] = f"Person {number}, turn {turn}"
        person.ask("forecast", "POST", "/forecasts", {"document": document})
        time.sleep(THINKS_S)
        if turn % 3 == 0:
            saved = person.ask("save", "PUT", f"/jobs/{number_of}", {"version": version, "document": document})
            if "version" in saved and person.asked[-1].status == 200:
                version, kept = saved["version"], document["title"]
        if turn % 4 == 0:
            person.ask("list", "GET", "/jobs?limit=50&search=&sort=-updated_at")
        if turn % 5 == 0:
            person.ask("read", "GET", f"/jobs/{lines[turn % len(lines)]['id']}")
        time.sleep(THINKS_S)
    return person.asked, number_of, kept


@contextmanager
def served(jobs: int) -> Iterator[Served]:
    """A server with so many jobs."""
    with tempfile.TemporaryDirectory() as folder:
        environment = surroundings(folder)
        manage = [sys.executable, "-m", "underhood_server"]
        subprocess.run([*manage, "migrate", "--verbosity", "0"], env=environment, check=True)  # noqa: S603
        subprocess.run([sys.executable, "-c", FILL, str(jobs)], env=environment, check=True)  # noqa: S603
        with serving(folder) as at:
            yield at


def show(seconds: float = SECONDS) -> None:
    """One person with many rows, many people at once, and what the processes hold after a day's requests."""
    print(f"\nOne person, {MANY_JOBS} jobs (goal: {ALONE_MS} ms each)")
    print(f"  {'':<24}{'asked':>8}{'median':>9}{'95 %':>9}{'99 %':>9}{'goal':>7}{'kB':>7}{'errors':>8}")
    with served(MANY_JOBS) as at:
        _warm(at.port)
        _many_rows(at.port)
    print(f"\n{PEOPLE} people at once, {seconds:g} s, {JOBS} jobs, {AMPLIFIERS} amplifiers of {RUNS} runs")
    print(f"  {'':<24}{'asked':>8}{'median':>9}{'95 %':>9}{'99 %':>9}{'goal':>7}{'kB':>7}{'errors':>8}")
    with served(JOBS) as at:
        port = at.port
        _warm(port)
        for words, people in (("one person", 1), ("all", PEOPLE), ("plan, archive too", PEOPLE)):
            if words.startswith("plan"):
                _besides(port)
            with ProcessPoolExecutor(people) as pool:
                found = list(pool.map(one_person, [port] * people, range(people), [seconds] * people))
            asked = [each for person, _, _ in found for each in person]
            for what, goal in GOALS_MS.items():
                _line(f"{words}: {what}", [each for each in asked if each.what == what], goal)
            lost = [job for _, job, title in found if _title(port, job) != title]
            print(f"  {words}: acknowledged saves that are lost: {len(lost)}")
    with served(JOBS) as at:
        _warm(at.port)
        print(f"\nMemory that is each process's own, MB, of {REQUESTS} mixed requests (goal: it does not grow)")
        person = Person(at.port)
        print(f"  {'at the beginning':<24}{_memory(at.process)}", flush=True)
        for part in range(ROUNDS):
            _mixed(person, REQUESTS // ROUNDS, part)
            print(f"  {f'after {(part + 1) * REQUESTS // ROUNDS}':<24}{_memory(at.process)}", flush=True)


def _many_rows(port: int) -> None:
    person = Person(port)
    line = person.ask("", "GET", "/jobs?limit=1")["items"][0]
    job = person.ask("", "GET", f"/jobs/{line['id']}")
    person.asked.clear()
    for turn in range(REPEATS):
        person.ask("list", "GET", f"/jobs?limit=50&offset={turn * 50}")
        person.ask("search", "GET", f"/jobs?limit=50&search=customer%20{turn * 37}")
        person.ask("search many", "GET", "/jobs?limit=50&search=estate")
        person.ask("state", "GET", "/jobs?limit=50&state=planned")
        person.ask("find", "GET", f"/find?search=LO%200{turn}")
        person.ask("open", "GET", f"/jobs/{job['id']}")
        document = {**job["document"], "title": f"Turn {turn}"}
        job["version"] = person.ask(
            "save", "PUT", f"/jobs/{job['id']}", {"version": job["version"], "document": document}
        )["version"]
    for what in dict.fromkeys(each.what for each in person.asked):
        _line(what, [each for each in person.asked if each.what == what], ALONE_MS)


def _mixed(person: Person, count: int, part: int) -> None:
    """What somebody asks who works: forecasts of changed documents most of all."""
    lines = person.ask("", "GET", "/jobs?limit=50")["items"]
    document: dict[str, Any] = {}
    for turn in range(count):
        if turn % 50 == 0:
            document = person.ask("", "GET", f"/jobs/{lines[turn // 50 % len(lines)]['id']}")["document"]
        document["basis"]["tone_hz"] = 30 + turn % 40 + (part * count + turn) / 100_000
        asked = ("/forecasts", "/forecasts", "/supply-reports", "/cable-options", "/sensitivities")[turn % 5]
        person.ask("", "POST", asked, {"document": document})
        person.asked.clear()


def _memory(server: int) -> str:
    """Of each process of a server, what no other shares (in Linux's smaps_rollup)."""
    children = Path(f"/proc/{server}/task/{server}/children").read_text().split()
    told = []
    for process in [str(server), *children]:
        rows = Path(f"/proc/{process}/smaps_rollup").read_text().splitlines()
        kb = sum(int(row.split()[1]) for row in rows if row.startswith(("Private_Clean", "Private_Dirty")))
        words = Path(f"/proc/{process}/cmdline").read_bytes().split(b"\0")
        name = "long work" if b"work" in words else "first" if process == str(server) else "worker"
        told.append(f"{name} {kb / 1024:.0f}")
    return ", ".join(told)


def _warm(port: int) -> None:
    """Both server processes have answered once, as they have on any morning."""
    for _ in range(6):
        one_person(port, 0, 0.5)


def _besides(port: int) -> None:
    """A search for a plan and an archive, begun and not waited for."""
    person = Person(port)
    line = person.ask("list", "GET", "/jobs?limit=1&search=Estate")["items"][0]
    document = person.ask("read", "GET", f"/jobs/{line['id']}")["document"]
    person.ask("plan", "POST", "/plans", {"document": document, "budget": 900, "job": line["id"]})
    person.ask("archive", "POST", "/workshop-archives")


def _title(port: int, job: int) -> str:
    return str(Person(port).ask("read", "GET", f"/jobs/{job}")["document"]["title"])


def _line(words: str, asked: list[Asked], goal: float) -> None:
    took = sorted(each.took_ms for each in asked)
    median, p95, p99 = (took[min(int(share * len(took)), len(took) - 1)] for share in (0.5, 0.95, 0.99))
    size = max(each.size for each in asked) / 1000
    errors = sum(each.status >= 400 for each in asked)
    print(
        f"  {words:<34}{len(took):>6}{median:>7.0f}{p95:>9.0f}{p99:>9.0f}{goal:>7}{size:>7.1f}{errors:>8}", flush=True
    )


if __name__ == "__main__":
    show(float(sys.argv[1]) if len(sys.argv) > 1 else SECONDS)
