"""How long a plan takes to find, beside forecasting its sets one by one, and how much memory."""

from __future__ import annotations

import multiprocessing
import resource
import time
from concurrent.futures import ProcessPoolExecutor

import django

from underhood.circuit import compiled
from underhood.document.job import Goal, JobDocument
from underhood.document.part import Part
from underhood.plan import parts_csv
from underhood.plan.evaluate import Evaluator
from underhood.plan.robustness import DRAWS, robustness
from underhood.plan.search import Progress, search
from underhood.plan.sets import sets_within
from underhood.plan.steps import slots
from underhood_server.demo.services import DATA, demo_job

BUDGETS = (300.0, 500.0, 700.0)
ONE_BY_ONE = 60
PLANS = 20
SECOND_STATE = Goal(quantity="front_v", at_least=12.0, engine="off", programme="everyday", minutes=30)
"""Beside the estate car's own goal: two states of music."""


def show() -> None:
    """The table of the plan; each search in a process that does nothing else."""
    compiled.prepare()
    print(
        "\nPlan of the demo's estate car, two goal states of music (goals: first marks in 0.5 s; 200,000 sets in 3 s; "
        "a million in 12 s, 100 MB besides what is imported)"
    )
    print(f"  {'sets':>10}{'first marks':>14}{'exact':>10}{'µs a set':>11}{'memory':>12}")
    for budget in BUDGETS:
        with ProcessPoolExecutor(1, multiprocessing.get_context("spawn"), django.setup) as alone:
            print(alone.submit(_searched, budget).result())
    job, parts = _given()
    _one_by_one(job, parts)
    outcomes = [plan.outcome for plan in search(job, parts, budget=BUDGETS[0]).plans]
    named = [(str(k), each) for k, each in enumerate((outcomes * PLANS)[:PLANS])]
    start = time.perf_counter()
    robustness(job, named, BUDGETS[0])
    print(f"  how sure {PLANS} plans are, {DRAWS} draws each: {time.perf_counter() - start:.1f} s   goal 1 s")


def _given() -> tuple[JobDocument, list[Part]]:
    parts = [
        part for part in parts_csv.read((DATA / "parts.csv").read_bytes()) if part.kind not in ("driver", "amplifier")
    ]
    job = demo_job("job-1-estate-car")
    return job.model_copy(update={"goals": [*job.goals, SECOND_STATE]}), parts


def _searched(budget: float) -> str:
    """A line of the table: the memory is what the search took besides what was imported and compiled."""
    job, parts = _given()
    compiled.prepare()
    before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
    start = time.perf_counter()
    first: list[float] = []

    def seen(progress: Progress) -> bool:
        if progress.done and not first:
            progress.points()
            first.append(time.perf_counter() - start)
        return True

    found = search(job, parts, budget=budget, seen=seen)
    took = time.perf_counter() - start
    memory = (resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - before) / 1024
    told = f"{first[0]:>12.1f} s" if first else f"{'at once':>14}"
    return f"  {found.sets:>10,}{told}{took:>8.1f} s{1e6 * took / found.sets:>11.0f}{memory:>9.0f} MB"


def _one_by_one(job: JobDocument, parts: list[Part]) -> None:
    evaluator = Evaluator(job, parts)
    sets = sets_within(slots(job, parts), evaluator, BUDGETS[0])
    start = time.perf_counter()
    for i in range(0, len(sets), max(len(sets) // ONE_BY_ONE, 1)):
        evaluator.of(sets.steps(i))
    count = len(range(0, len(sets), max(len(sets) // ONE_BY_ONE, 1)))
    print(
        f"  one by one, {count} of them by a forecast each: {1e6 * (time.perf_counter() - start) / count:,.0f} µs a set"
    )
