"""Every error of the API in one shape: problem+json (RFC 9457), made here and nowhere else."""

from __future__ import annotations

from typing import Any

import pydantic
from django.http import Http404, HttpRequest, HttpResponse, JsonResponse
from ninja import NinjaAPI, Schema
from ninja.errors import AuthenticationError, HttpError, ValidationError

from underhood.document.quantity import explain
from underhood.errors import BadInput


class Problem(Schema):
    """What went wrong, in one sentence that can be shown as it is."""

    status: int
    title: str
    detail: str
    field: str = ""
    line: int | None = None
    file: str = ""
    version: int | None = None


class Conflict(Exception):  # noqa: N818 - named for what it is in HTTP
    """Somebody else saved first; `version` is theirs."""

    def __init__(self, version: int) -> None:
        super().__init__("This was changed elsewhere since you opened it. Reload to see it, then change it again.")
        self.version = version


def _answer(api: NinjaAPI, request: HttpRequest, problem: Problem) -> HttpResponse:
    response = api.create_response(request, problem.model_dump(), status=problem.status)
    response["Content-Type"] = "application/problem+json"
    return response


def bad_input(problem: BadInput) -> Problem:
    """The core's refusal as a problem."""
    return Problem(
        status=422,
        title="Cannot be used",
        detail=str(problem),
        field=problem.field,
        line=problem.line,
        file=problem.file,
    )


def _invalid(error: ValidationError) -> Problem:
    first: dict[str, Any] = error.errors[0]
    steps = [str(step) for step in first["loc"] if step not in ("body", "payload", "query", "path", "function-plain")]
    field = ".".join(steps[1:] if steps and steps[0] == "setup" else steps)
    text = "is missing" if first["type"] == "missing" else first["msg"]
    return Problem(status=422, title="Cannot be used", detail=f"{field}: {text}" if field else text, field=field)


def locked_out(request: HttpRequest, *args: Any, **kwargs: Any) -> JsonResponse:
    """What somebody sees who has tried too many passwords."""
    problem = Problem(status=429, title="Too many tries", detail="Too many wrong passwords: wait a quarter of an hour.")
    return JsonResponse(problem.model_dump(), status=429, content_type="application/problem+json")


def register(api: NinjaAPI) -> None:
    """Install the handlers."""

    def on(kind: type[Exception], make: Any) -> None:
        def handle(request: HttpRequest, error: Any) -> HttpResponse:
            return _answer(api, request, make(error))

        api.add_exception_handler(kind, handle)

    on(BadInput, bad_input)
    on(ValidationError, _invalid)
    on(pydantic.ValidationError, lambda e: bad_input(explain(e)))
    on(Conflict, lambda e: Problem(status=409, title="Changed elsewhere", detail=str(e), version=e.version))
    on(Http404, lambda e: Problem(status=404, title="Not found", detail="There is nothing here by that number."))
    on(AuthenticationError, lambda e: Problem(status=401, title="Log in first", detail="You are not logged in."))
    on(HttpError, lambda e: Problem(status=e.status_code, title="Refused", detail=str(e)))
