"""What the operations on job sheets take and give."""

from __future__ import annotations

from datetime import datetime
from typing import Literal

from ninja import Schema
from pydantic import Field

from underhood.report.job_sheet import Page
from underhood_server.api.shapes import Id, In


class PlanChosen(In):
    """The plan whose cost the customer's page tells: a search, and which of the plans that it found, by its name."""

    plan: Id | None = None
    name: str = Field(default="", max_length=200)


class SheetAsked(PlanChosen):
    """Which pages of a job's sheet, with the cost of a plan or without."""

    pages: list[Page] = Field(default=["customer"], max_length=6)


class LinkIn(PlanChosen):
    """How long a customer's link opens, with the cost of a plan or without."""

    days: int = Field(default=30, ge=1, le=90)


class LinkOut(Schema):
    """A customer's link; its address was told when it was made."""

    id: int
    created_at: datetime
    expires_at: datetime
    opened: int
    opened_at: datetime | None


class NewLink(LinkOut):
    """A new link with its secret, which is told this once: the page is `/sheet/` and the secret."""

    secret: str
    state: Literal["open"] = "open"
