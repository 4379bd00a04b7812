"""What the operations on records take and give."""

from __future__ import annotations

from datetime import datetime
from typing import Literal

from ninja import Schema
from pydantic import Field

from underhood_server.api.shapes import Id, In, Paged

Kind = Literal["job", "amplifier", "driver", "part", "reading"]


class ChangesAsked(Paged):
    """Which changes: of one kind, of one thing; `search` is a part of a title or of a person's name."""

    kind: str = Field(default="", max_length=20)
    row: Id | None = None


class ChangeOut(Schema):
    """One change: who did what to what, and when."""

    id: int
    at: datetime
    name: str
    did: str
    kind: str
    row: int | None
    title: str
    version: int | None
    told: str


class RemovedOut(Schema):
    """Something that can be put back until `gone_at`."""

    kind: str
    id: int
    title: str
    removed_at: datetime
    removed_by: str
    gone_at: datetime


class FindAsked(In):
    """What is looked for: beginnings of words; without any, what was changed last."""

    search: str = Field(default="", max_length=120)
    kind: Kind | Literal[""] = ""


class FoundOut(Schema):
    """Something that was found: its kind and number, what it is called, what else there is to say."""

    kind: Kind
    id: int
    title: str
    told: str
    job: int | None


class FoundList(Schema):
    """The best matches first; `recent` where nothing was looked for."""

    recent: bool
    items: list[FoundOut]
