"""What a page shows of one job document, asked for at once: each answer is sent as soon as it is there, a line each.

A page that is changed asks for its forecast and for what its station shows besides; with a request each, a slow line
would carry the document as often. Whoever goes away meanwhile is worked for no longer than until the next line.
"""

from __future__ import annotations

import json
import zlib
from collections.abc import Callable, Iterator
from functools import cache
from typing import Any, Literal, get_type_hints

from django.http import HttpRequest, StreamingHttpResponse
from ninja import Router
from pydantic import Field, TypeAdapter

from underhood.errors import BadInput
from underhood_server.accounts.permission import VIEWER
from underhood_server.api import problems
from underhood_server.api.packed import GZIP
from underhood_server.api.shapes import FiniteJson, Id, In, content
from underhood_server.jobs import forecasts_api, harness_api, loads_api, supply_api
from underhood_server.jobs.schemas import SizesIn
from underhood_server.proof import proofs_api

router = Router(by_alias=True, auth=VIEWER)
MOST_QUESTIONS = 12
LINES = "application/x-ndjson"
What = Literal[
    "forecasts",
    "sensitivities",
    "supply-reports",
    "programme-strips",
    "cable-options",
    "cable-options/{index}",
    "cable-schedules",
    "cable-edits",
    "load-curves/{index}",
    "wiring-options/{index}",
    "test-cards",
    "proofs",
]
QUESTIONS: dict[What, Callable[..., Any]] = {
    "forecasts": forecasts_api.create_forecast,
    "sensitivities": forecasts_api.list_sensitivities,
    "supply-reports": supply_api.create_supply_report,
    "programme-strips": supply_api.create_programme_strips,
    "cable-options": harness_api.list_cable_options,
    "cable-options/{index}": harness_api.list_cable_choices,
    "cable-schedules": harness_api.create_schedule,
    "cable-edits": harness_api.list_cable_edits,
    "load-curves/{index}": loads_api.create_load_curves,
    "wiring-options/{index}": loads_api.list_wiring_options,
    "test-cards": proofs_api.create_test_card,
    "proofs": proofs_api.create_proof,
}
"""The operations that answer them alone, by their address."""


class Question(In):
    """One of the operations that take a document, by its address; `index` stands in for the one in it."""

    what: What
    index: int = 0


class OverviewIn(SizesIn):
    """A job document, what is asked of it, in the order in which it is answered, and the job whose readings count."""

    questions: list[Question] = Field(min_length=1, max_length=MOST_QUESTIONS)
    job: Id | None = None


@router.post("/overviews", openapi_extra=content(LINES))
def create_overview(request: HttpRequest, payload: OverviewIn) -> StreamingHttpResponse:
    """Several answers about one document, a line of JSON each: `answer`, or the `problem` that it would have given."""
    lines = (f"{_line(request, payload, each)}\n".encode() for each in payload.questions)
    packing = "gzip" in request.headers.get("Accept-Encoding", "")
    response = StreamingHttpResponse(_packed(lines) if packing else lines, content_type=LINES)
    if packing:
        response["Content-Encoding"] = "gzip"
    response["Vary"] = "Accept-Encoding"
    response["X-Accel-Buffering"] = "no"  # a proxy in front holds nothing back
    return response


def _line(request: HttpRequest, payload: OverviewIn, question: Question) -> str:
    told: dict[str, Any] = {"what": question.what, "index": question.index}
    try:
        told["answer"] = _answer(request, payload, question)
        return json.dumps(told, **FiniteJson.json_dumps_params)
    except Exception as error:
        return json.dumps({**told, "answer": None, "problem": problems.problem_of(error).model_dump()})


def _answer(request: HttpRequest, payload: OverviewIn, question: Question) -> Any:
    if question.what == "proofs" and payload.job is None:
        raise BadInput("is missing; give the job whose readings count", "job")
    alone = QUESTIONS[question.what]
    index = [question.index] if "{index}" in question.what else []
    return _shape(alone).dump_python(alone(request, *index, payload), mode="json", by_alias=True)


@cache
def _shape(answer: Callable[..., Any]) -> TypeAdapter[Any]:
    return TypeAdapter(get_type_hints(answer)["return"])


def _packed(lines: Iterator[bytes]) -> Iterator[bytes]:
    """Gzip, with each line whole in what has been sent."""
    packing = zlib.compressobj(wbits=GZIP)
    for line in lines:
        yield packing.compress(line) + packing.flush(zlib.Z_SYNC_FLUSH)
    yield packing.flush()
