"""What every operation's shapes are built from: numbers that are finite, identifiers, pages, files sent out."""

from __future__ import annotations

import json
from typing import Annotated, Any, Generic, TypeVar

from django.db.models import Model, QuerySet
from django.http import HttpRequest, HttpResponse
from ninja import Schema
from ninja.parser import Parser
from ninja.renderers import JSONRenderer
from pydantic import BaseModel, ConfigDict, Field

LARGEST_ID = 2**63 - 1
MOST_ON_A_PAGE = 500
Id = Annotated[int, Field(ge=1, le=LARGEST_ID)]
"""A row's number, as far as the database counts."""
Row = TypeVar("Row")
Stored = TypeVar("Stored", bound=Model)


class In(Schema):
    """What an operation takes: nothing it does not know, no number that is not finite."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)


class Page(BaseModel, Generic[Row]):
    """A part of a list, and how many there are in all."""

    count: int
    items: list[Row]


class Paged(In):
    """Which part of a list."""

    limit: int = Field(default=100, ge=1, le=MOST_ON_A_PAGE)
    offset: int = Field(default=0, ge=0, le=LARGEST_ID)
    search: str = Field(default="", max_length=120)


def page(rows: QuerySet[Stored], asked: Paged) -> tuple[int, list[Stored]]:
    """(how many there are, those asked for): two queries whatever the length."""
    return rows.count(), list(rows[asked.offset : asked.offset + asked.limit])


def content(kind: str, *, binary: bool = False, shape: str = "") -> dict[str, Any]:
    """How OpenAPI is told that an operation answers with a file of a kind: text, bytes, or JSON of a named shape."""
    schema = {"type": "string", **({"format": "binary"} if binary else {})}
    if shape:
        schema = {"$ref": f"#/components/schemas/{shape}"}
    return {"responses": {200: {"description": "The file", "content": {kind: {"schema": schema}}}}}


def attachment(text: str | bytes, kind: str, name: str) -> HttpResponse:
    """A file to be saved under a name."""
    response = HttpResponse(text, content_type=kind)
    response["Content-Disposition"] = f'attachment; filename="{name}"'
    return response


class FiniteParser(Parser):
    """JSON whose numbers are numbers: `NaN` and `Infinity` are no JSON."""

    def parse_body(self, request: HttpRequest) -> Any:
        return json.loads(request.body, parse_constant=_refused)


def _refused(word: str) -> float:
    raise ValueError(f"{word} is no number")


class FiniteJson(JSONRenderer):
    """Never sends what is no JSON; a result that is not finite is the server's fault and answered as one."""

    json_dumps_params = {"allow_nan": False}
