"""Plans of a job, from the workshop's parts list: searches that the worker runs, and orders that a person makes."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from ninja import Query, Router, Status

from underhood.plan import arrange
from underhood.plan.answer import PlanResult
from underhood.plan.arrange import Swap
from underhood.plan.compare import Comparison, compare
from underhood.plan.quote import Quote, quote_csv
from underhood_server.accounts.permission import INSTALLER, VIEWER
from underhood_server.accounts.services import workshop_of
from underhood_server.api.shapes import Page, attachment, content, page
from underhood_server.jobs.api import job_of
from underhood_server.parts.list_services import priced_parts
from underhood_server.plans import services
from underhood_server.plans.models import PlanSearch
from underhood_server.plans.runs import entries_of, sent_stage
from underhood_server.plans.schemas import CarsIn, PlanIn, PlanOut, PlansAsked, StagesIn, StepsIn, SwapsIn

router = Router(by_alias=True, auth=VIEWER)


def _out(search: PlanSearch) -> PlanOut:
    answer, problem = services.answer_of(search)
    shown = {
        "id": search.pk,
        "job": search.job_id,
        "status": search.status,
        "cancelled": search.cancelled,
        "current": services.is_current(search),
        "budget": search.budget,
        "created_at": search.created_at,
        "done": search.progress.get("done", 0),
        "of": search.progress.get("of", 0),
        "points": search.progress.get("points"),
        "answer": answer,
        "problem": problem,
    }
    return PlanOut.model_validate(shown)


def _search_of(request: HttpRequest, plan_id: int) -> PlanSearch:
    searches = PlanSearch.objects.filter(workshop=workshop_of(request)).select_related("job")
    return get_object_or_404(searches, pk=plan_id)


@router.get("/plans", response=Page[PlanOut])
def list_plans(request: HttpRequest, asked: Query[PlansAsked]) -> dict[str, Any]:
    """Searches for plans, the latest first."""
    rows = PlanSearch.objects.filter(workshop=workshop_of(request)).select_related("job")
    if asked.job is not None:
        rows = rows.filter(job=asked.job)
    count, found = page(rows, asked)
    return {"count": count, "items": [_out(each) for each in found]}


@router.post("/plans", response={201: PlanOut}, auth=INSTALLER)
def create_plan(request: HttpRequest, payload: PlanIn) -> Status[PlanOut]:
    """Begin a search of every set of steps that the budget allows; ask for it again to see how far it is."""
    job = None if payload.job is None else job_of(request, payload.job)
    return Status(201, _out(services.start(workshop_of(request), job, payload.document, payload.budget)))


@router.get("/plans/{plan_id}", response=PlanOut)
def read_plan(request: HttpRequest, plan_id: int) -> PlanOut:
    """A search: how far it is, and what it found."""
    return _out(_search_of(request, plan_id))


@router.post("/plans/{plan_id}/cancel", response=PlanOut, auth=INSTALLER)
def cancel_plan(request: HttpRequest, plan_id: int) -> PlanOut:
    """Stop a search; what was solved by then is told."""
    return _out(services.cancel(_search_of(request, plan_id)))


@router.post("/plan-stages", response=PlanResult)
def create_plan_stages(request: HttpRequest, payload: StagesIn) -> PlanResult:
    """What stages come to that a person puts together: steps of the parts list by their titles."""
    workshop = workshop_of(request)
    made = arrange.arranged(payload.document, priced_parts(workshop), entries_of(workshop), payload.stages)
    return replace(made, stages=[sent_stage(workshop, stage) for stage in made.stages])


@router.post("/plan-swaps", response=list[Swap])
def create_plan_swaps(request: HttpRequest, payload: SwapsIn) -> list[Swap]:
    """What could be put in place of a step, with the rest of the plan as it is; the most valuable first."""
    workshop = workshop_of(request)
    return arrange.swaps(payload.document, priced_parts(workshop), entries_of(workshop), payload.steps, payload.title)


@router.post("/plan-quotes", response=Quote)
def create_plan_quote(request: HttpRequest, payload: StepsIn) -> Quote:
    """What the steps of a plan cost: lines, tax by the workshop's setting, and until when that holds."""
    return services.quoted(workshop_of(request), payload.document, payload.steps)


@router.post("/plan-quotes/csv", openapi_extra=content("text/csv"))
def create_plan_quote_csv(request: HttpRequest, payload: StepsIn) -> HttpResponse:
    """The same as CSV."""
    return attachment(quote_csv(create_plan_quote(request, payload)), "text/csv; charset=utf-8", "quote.csv")


@router.post("/job-comparisons", response=Comparison)
def create_job_comparison(request: HttpRequest, payload: CarsIn) -> Comparison:
    """What differs between two states of a car, in words and figures."""
    return compare(payload.before, payload.document)
