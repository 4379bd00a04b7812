"""How long the core and the API take for the demo's largest job."""

from __future__ import annotations

import json
import statistics
import time
from collections.abc import Callable

from django.conf import settings
from django.test import Client
from django.test.utils import get_runner

from server.accounts.models import User
from server.demo.services import demo_job, load_demo
from underhood import load_curves
from underhood.bench import sheet as bench_sheet
from underhood.cable import sizing
from underhood.forecast import forecast
from underhood.job import Job
from underhood.load import coils
from underhood.schema import Given
from underhood.setup import setup, sheet_of

REPEATS = 60
LARGEST = "job-2-book-van"


def milliseconds(work: Callable[[], object], repeats: int = REPEATS) -> float:
    """Median milliseconds of a piece of work, after one unmeasured run."""
    work()
    taken = []
    for _ in range(repeats):
        start = time.perf_counter()
        work()
        taken.append(time.perf_counter() - start)
    return 1000 * statistics.median(taken)


def row(what: str, taken: float, goal: str) -> None:
    """One line of the table."""
    print(f"  {what:<58}{taken:>8.1f} ms   goal {goal}")


def show() -> None:
    """The table of the core and the API."""
    job = demo_job(LARGEST)
    for programme in ("tone", "bass_heavy"):
        basis = job.basis.model_copy(update={"programme": programme})
        _forecast(job.model_copy(update={"basis": basis}), programme)
    row("curves of four drivers, 200 points, every arrangement", _load_curves(job), "≤ 30 ms")
    row("a fit of one sheet, uncached", _fit(job), "tens of ms")
    row("every cable candidate ranked", milliseconds(lambda: list(sizing.candidates(sizing.Demand(150, 60, 5.5)))), "")
    _api(job)


def _forecast(job: Job, programme: str) -> None:
    row(f"forecast of the largest demo job, {programme}", milliseconds(lambda: forecast(job)), "≤ 10 ms")
    row(f"  with flags, cables and path, {programme}", milliseconds(lambda: forecast(job).numbers()), "none set")


def _load_curves(job: Job) -> float:
    """All curves of the demo's largest load, doubled to four drivers, in every arrangement."""
    load = job.amplifiers[0].load
    assert load is not None
    four = load.model_copy(update={"drivers": Given(4)})
    ways = [four.model_copy(update={"wiring": each.words}) for each in coils.arrangements(4, 1, 4.0)]
    amplifiers = [job.amplifiers[0].model_copy(update={"load": way}) for way in ways]
    driven = [setup(job.model_copy(update={"amplifiers": [each]})).driven[0] for each in amplifiers]
    frequency = load_curves.grid(200)
    return milliseconds(lambda: [load_curves.curves(each, 13.5, frequency) for each in driven])


def _fit(job: Job) -> float:
    sheet = sheet_of(job.amplifiers[0])

    def fit() -> None:
        bench_sheet.fitted.cache_clear()
        bench_sheet.fitted(sheet, "thd1", 40.0)

    return milliseconds(fit, 15)


def _api(job: Job) -> None:
    runner = get_runner(settings)(verbosity=0)
    runner.setup_test_environment()
    databases = runner.setup_databases()
    try:
        load_demo()
        client = Client()
        client.force_login(User.objects.get())
        body = json.dumps({"setup": job.document()})

        def ask() -> None:
            client.post("/api/forecast", body, content_type="application/json")

        row("POST /api/forecast, whole round trip", milliseconds(ask), "≤ 60 ms")
        row("GET /api/jobs", milliseconds(lambda: client.get("/api/jobs")), "≤ 100 ms")
        row("GET /api/amplifiers", milliseconds(lambda: client.get("/api/amplifiers")), "≤ 100 ms")
    finally:
        runner.teardown_databases(databases)
        runner.teardown_test_environment()
