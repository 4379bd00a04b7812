"""What the operations on plans take and give, where it is not the core's own."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Literal

from ninja import Schema
from pydantic import Field

from underhood.plan.answer import PlanAnswer
from underhood.plan.search import Marks
from underhood_server.api.shapes import Id, Paged
from underhood_server.jobs.schemas import DocumentIn, PlayedBack

MOST_STEPS, MOST_STAGES = 40, 20
Title = Annotated[str, Field(max_length=400)]


class PlansAsked(Paged):
    """Which searches: those of a job, or all."""

    job: Id | None = None


class PlanIn(DocumentIn):
    """A job document, its job where that is saved, and what may be spent: the cost goal where nothing is said."""

    job: Id | None = None
    budget: float | None = Field(default=None, ge=0, le=10_000_000)


class PlanOut(Schema):
    """A search: where it stands, how far it is, and what it found.

    points      sets that were solved so far, while it runs
    current     whether the job, as it is saved, is still what the search was for
    answer      null until it is done
    problem     why there is none
    """

    id: int
    job: int | None
    status: Literal["waiting", "running", "done", "refused", "failed"]
    cancelled: bool
    current: bool
    budget: float | None
    created_at: datetime
    done: int
    of: int
    points: Marks | None
    answer: PlanAnswer | None
    problem: str


class StagesIn(DocumentIn):
    """A job document, and the steps to fit by their titles, in stages."""

    stages: list[Annotated[list[Title], Field(max_length=MOST_STEPS)]] = Field(max_length=MOST_STAGES)


class SwapsIn(DocumentIn):
    """A job document, the steps of a plan by their titles, and which of them to put something else in place of."""

    steps: list[Title] = Field(max_length=MOST_STEPS)
    title: Title


class StepsIn(DocumentIn):
    """A job document, and the steps of a plan by their titles."""

    steps: list[Title] = Field(max_length=MOST_STEPS)


class CarsIn(DocumentIn):
    """Two states of a car: the document is the later one."""

    before: PlayedBack
