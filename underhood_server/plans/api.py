"""The upgrade plan of a job document, from the workshop's parts list. No plan is stored."""

from __future__ import annotations

from dataclasses import replace

from django.http import HttpRequest
from ninja import Router
from pydantic import Field

from underhood.plan.answer import PlanAnswer, StageResult, plan
from underhood.plan.steps import Entries
from underhood_server.accounts.models import Workshop
from underhood_server.accounts.services import workshop_of
from underhood_server.bench.services import newest_sheets
from underhood_server.jobs import recordings
from underhood_server.jobs.schemas import DocumentIn
from underhood_server.parts.list_services import parts_of

router = Router(by_alias=True)
MOST_SETS = 600
"""Solved in one request: some ten seconds."""


class PlanIn(DocumentIn):
    """A job document, what may be spent (its cost goal where nothing is said), and how many sets to solve at most."""

    budget: float | None = Field(default=None, ge=0, le=10_000_000)
    sets: int = Field(default=400, ge=1, le=MOST_SETS)


@router.post("/plans", response=PlanAnswer)
def create_plan(request: HttpRequest, payload: PlanIn) -> PlanAnswer:
    """The sets that the budget allows, the cheapest first; named plans, their stages, and reasons."""
    workshop = workshop_of(request)
    found = plan(payload.document, parts_of(workshop), _entries(workshop), budget=payload.budget, most=payload.sets)
    plans = [replace(each, stages=[_sent(workshop, stage) for stage in each.stages]) for each in found.plans]
    return replace(found, plans=plans)


def _sent(workshop: Workshop, stage: StageResult) -> StageResult:
    """A stage as it is sent: of a recording its job carries the hash, not some megabytes in each."""
    return replace(stage, job=recordings.apart(workshop, stage.job))


def _entries(workshop: Workshop) -> Entries:
    drivers = {driver.name: driver.driver for driver in workshop.drivers.all()}
    return Entries(drivers, newest_sheets(workshop))
