"""What the operations on job sheets take and give."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Literal

from ninja import Schema
from pydantic import Field

from underhood.report.job_sheet import Page
from underhood_server.api.shapes import In

MOST_STEPS = 40
Title = Annotated[str, Field(max_length=400)]


class SheetAsked(In):
    """Which pages, and the steps of a plan by their titles, whose cost the customer's page then tells."""

    pages: list[Page] = Field(default=["customer"], max_length=6)
    steps: list[Title] = Field(default=[], max_length=MOST_STEPS)


class LinkIn(In):
    """How long a customer's link opens, and the steps of a plan whose cost its page tells."""

    days: int = Field(default=30, ge=1, le=90)
    steps: list[Title] = Field(default=[], max_length=MOST_STEPS)


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
