"""Runs a search for a plan, in the worker: tells how far it is, stops when it is asked to, keeps what it found."""

from __future__ import annotations

import logging
import time
from dataclasses import asdict, replace
from typing import Any

from pydantic import TypeAdapter

from underhood.document.upgrade import read_document
from underhood.document.words import refusal
from underhood.errors import BadInput
from underhood.plan.answer import PlanAnswer, StageResult, plan
from underhood.plan.search import Progress
from underhood.plan.steps import Entries
from underhood_server.accounts.models import Workshop
from underhood_server.bench.services import newest_sheets
from underhood_server.jobs import recordings
from underhood_server.parts.list_services import priced_parts
from underhood_server.plans.models import PlanSearch

TELLS_S = 0.5
"""How often a search tells how far it is."""
ANSWER: TypeAdapter[PlanAnswer] = TypeAdapter(PlanAnswer)


def entries_of(workshop: Workshop) -> Entries:
    """What `driver` and `amplifier` of the workshop's parts list name."""
    drivers = {driver.name: driver.driver for driver in workshop.drivers.all()}
    return Entries(drivers, newest_sheets(workshop))


def run(search: PlanSearch) -> None:
    """Run a search to its end. What somebody asked for and cannot be done is its answer, not a failure."""
    change(search, status=PlanSearch.Status.RUNNING)
    workshop = search.workshop
    document = recordings.whole(workshop.pk, read_document(search.document))
    told = time.monotonic()

    def seen(progress: Progress) -> bool:
        nonlocal told
        if progress.done == 0 or time.monotonic() - told > TELLS_S:
            told = time.monotonic()
            points = asdict(progress.points())
            change(search, progress={"done": progress.done, "of": progress.of, "points": points})
        return not PlanSearch.objects.filter(pk=search.pk, cancelled=True).exists()

    try:
        found = plan(document, priced_parts(workshop), entries_of(workshop), budget=search.budget, seen=seen)
        answer = ANSWER.dump_python(_sent(workshop, found), mode="json", by_alias=True)
        change(search, status=PlanSearch.Status.DONE, answer=answer, progress={})
    except BadInput as problem:
        change(search, status=PlanSearch.Status.REFUSED, problem=refusal(problem), progress={})
    except Exception:
        logging.getLogger(__name__).exception("The search for a plan failed")
        change(search, status=PlanSearch.Status.FAILED, problem="failed; the server's log says why", progress={})


def change(search: PlanSearch, **values: Any) -> None:
    """Change some fields of a search, which may have been thrown away meanwhile."""
    PlanSearch.objects.filter(pk=search.pk).update(**values)


def sent_stage(workshop: Workshop, stage: StageResult) -> StageResult:
    """A stage as it is sent: of a recording its job carries the hash, not some megabytes."""
    return replace(stage, job=recordings.apart(workshop, stage.job))


def _sent(workshop: Workshop, answer: PlanAnswer) -> PlanAnswer:
    plans = [replace(each, stages=[sent_stage(workshop, stage) for stage in each.stages]) for each in answer.plans]
    return replace(answer, plans=plans)
