"""Searches for a plan: start, cancel, begin again what a stop of the server has cut off."""

from __future__ import annotations

from collections.abc import Sequence

from django.db import transaction
from django.utils import timezone
from pydantic import ValidationError

from underhood.document.job import JobDocument
from underhood.document.workshop import WorkshopSettings
from underhood.plan import arrange
from underhood.plan.answer import PlanAnswer
from underhood.plan.quote import Quote, quote
from underhood.plan.search import budget_of
from underhood.plan.steps import slots
from underhood_server.accounts.models import Workshop
from underhood_server.jobs import recordings
from underhood_server.jobs.models import Job
from underhood_server.parts.list_services import priced_parts
from underhood_server.plans.models import PlanSearch
from underhood_server.plans.runs import ANSWER, change, entries_of
from underhood_server.plans.tasks import find_plan

KEPT = 5
"""Searches of a job that are kept."""


def start(workshop: Workshop, job: Job | None, document: JobDocument, budget: float | None) -> PlanSearch:
    """A search that waits for the worker. Raises BadInput for what can be told at once: no parts, no budget.

    Another one of the same job is stopped; the oldest are thrown away.
    """
    budget_of(document, budget)
    slots(document, priced_parts(workshop), entries_of(workshop))
    plain = recordings.apart(workshop, document).document()
    with transaction.atomic():
        if job is not None:
            job.plan_searches.update(cancelled=True)
            old = job.plan_searches.values_list("pk", flat=True)[KEPT - 1 :]
            PlanSearch.objects.filter(pk__in=list(old)).delete()
        search = PlanSearch.objects.create(workshop=workshop, job=job, document=plain, budget=budget)
        find_plan.enqueue(search.pk)
    return search


def cancel(search: PlanSearch) -> PlanSearch:
    """Ask a search to stop; what it has by then is told."""
    search.cancelled = True
    change(search, cancelled=True)
    return search


def begin_again() -> None:
    """Searches that a stop of the server has cut off wait again."""
    for search in PlanSearch.objects.filter(status=PlanSearch.Status.RUNNING):
        with transaction.atomic():
            change(search, status=PlanSearch.Status.WAITING, progress={})
            find_plan.enqueue(search.pk)


def answer_of(search: PlanSearch) -> tuple[PlanAnswer | None, str]:
    """(what it found, why there is none); one that another release found in another shape is not shown."""
    if search.answer is None:
        return None, search.problem
    try:
        return ANSWER.validate_python(search.answer), ""
    except ValidationError:
        return None, "was found by another release; find the plan again"


def quoted(workshop: Workshop, document: JobDocument, titles: Sequence[str]) -> Quote:
    """What the steps of a plan cost today, by their titles. Raises BadInput for one not offered, or unpriced."""
    steps, rate = arrange.chosen(document, priced_parts(workshop), entries_of(workshop), list(titles))
    return quote(steps, rate, WorkshopSettings.model_validate(workshop.settings), timezone.localdate())


def is_current(search: PlanSearch) -> bool:
    """Whether its job, as it is saved, is still what the search was for."""
    return search.job is None or search.job.document == search.document
