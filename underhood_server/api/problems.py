"""Every error of the API in one shape: problem+json (RFC 9457), made here and nowhere else."""

from __future__ import annotations

import logging
import re
import sqlite3
import sys
from collections.abc import Callable, Sequence
from http import HTTPStatus
from typing import Any

import pydantic
from django.conf import settings
from django.core.exceptions import DisallowedHost, PermissionDenied, RequestDataTooBig, SuspiciousOperation
from django.db import DatabaseError
from django.http import Http404, HttpRequest, HttpResponse, HttpResponseBase, JsonResponse
from django.http.multipartparser import MultiPartParserError
from ninja import NinjaAPI, Schema
from ninja.errors import AuthenticationError, HttpError, ValidationError

from underhood.document.quantity import explain, path_of, plain, sentence
from underhood.document.words import path_words, refusal
from underhood.errors import BadInput
from underhood_server.storage.versioned import Conflict

CONTENT_TYPE = "application/problem+json"
TYPE_ROOT = "urn:under-hood:problem:"
"""A type names a kind of problem; it is no address."""
MOST_ERRORS = 100
FOR_ANYBODY = ("/api/v1/session", "/api/v1/invitations/")
MOST_OF_ANYBODY = 20_000
"""Bytes that are read of somebody who is not logged in: a name and a password."""
LOCKED = re.compile("locked|busy", re.IGNORECASE)
logger = logging.getLogger(__name__)


class FieldError(Schema):
    """One thing that is wrong: the dotted path of the value, the value as it was given, and what is allowed."""

    path: str
    value: str | int | float | bool | None = None
    message: str
    line: int | None = None


class Problem(Schema):
    """What went wrong, `detail` in one sentence that can be shown as it is; `errors` has everything at once."""

    type: str
    title: str
    status: int
    detail: str
    errors: list[FieldError] = []
    file: str = ""
    version: int | None = None


def problem(status: int, kind: str, detail: str, errors: Sequence[FieldError] = (), **more: Any) -> Problem:
    """A problem of a kind, such as `not-found`."""
    title = HTTPStatus(status).phrase
    return Problem(type=TYPE_ROOT + kind, title=title, status=status, detail=detail, errors=list(errors), **more)


def response_of(found: Problem) -> JsonResponse:
    """The problem as an answer."""
    response = JsonResponse(found.model_dump(), status=found.status, content_type=CONTENT_TYPE)
    if found.status == HTTPStatus.SERVICE_UNAVAILABLE:
        response["Retry-After"] = "1"
    return response


def bad_input(refused: BadInput) -> Problem:
    """The core's refusal."""
    errors = [field_error(each) for each in refused.each()[:MOST_ERRORS]]
    return problem(422, "bad-input", refusal(refused), errors, file=refused.file)


def field_error(refused: BadInput) -> FieldError:
    """One thing of a refusal."""
    return FieldError(path=refused.field, value=plain(refused.value), message=refused.text, line=refused.line)


def _invalid(error: ValidationError) -> Problem:
    errors = [_field_error(each) for each in error.errors[:MOST_ERRORS]]
    first = errors[0]
    detail = f"{path_words(first.path)}: {first.message}" if first.path else first.message
    return problem(422, "bad-input", detail, errors)


def _field_error(found: dict[str, Any]) -> FieldError:
    steps = [step for step in found["loc"] if step not in ("body", "payload", "query", "path", "form", "file")]
    if steps and steps[0] in ("document", "settings", "asked"):
        steps = steps[1:]
    return FieldError(path=path_of(steps), value=plain(found.get("input")), message=sentence(found))


def _stored_badly(error: DatabaseError) -> Problem:
    """A database that cannot be written or read just now."""
    cause = error.__cause__
    text = str(cause if isinstance(cause, sqlite3.Error) else error)
    logger.error("database: %s", text)
    if LOCKED.search(text):
        return problem(503, "busy", "The workshop's storage is busy: nothing was saved. Try again in a moment.")
    if "full" in text:
        return problem(507, "storage-full", "The workshop's disk is full: nothing was saved.")
    if "readonly" in text or "read-only" in text:
        return problem(503, "read-only", "The workshop's storage cannot be written: nothing was saved.")
    return problem(500, "storage", "The workshop's storage failed: nothing was saved.")


def _failed(error: Exception) -> Problem:
    logger.exception("unhandled", exc_info=error)
    return problem(500, "internal", "Something failed in the server; what you sent was not saved.")


def locked_out(request: HttpRequest, *args: Any, **kwargs: Any) -> JsonResponse:
    """What somebody sees who has tried too many passwords."""
    return response_of(problem(429, "too-many-tries", "Too many wrong passwords: wait a quarter of an hour."))


HANDLERS: tuple[tuple[type[Exception], Callable[[Any], Problem]], ...] = (
    (BadInput, bad_input),
    (ValidationError, _invalid),
    (pydantic.ValidationError, lambda e: bad_input(explain(e))),
    (Conflict, lambda e: problem(409, "changed-elsewhere", str(e), version=e.version)),
    (Http404, lambda e: problem(404, "not-found", "There is nothing here by that number.")),
    (AuthenticationError, lambda e: problem(401, "log-in", "You are not logged in.")),
    (PermissionDenied, lambda e: problem(403, "forbidden", "This is not allowed.")),
    (HttpError, lambda e: problem(e.status_code, "refused", str(e))),
    (RequestDataTooBig, lambda e: _too_large(settings.DATA_UPLOAD_MAX_MEMORY_SIZE)),
    (MultiPartParserError, lambda e: problem(400, "malformed", "The form that was sent cannot be read.")),
    (SuspiciousOperation, lambda e: problem(400, "malformed", "The request cannot be read.")),
    (DatabaseError, _stored_badly),
    (Exception, _failed),
)


def problem_of(error: Exception) -> Problem:
    """What a failure is answered with."""
    return next(make for kind, make in HANDLERS if isinstance(error, kind))(error)


def _too_large(most: int) -> Problem:
    return problem(413, "too-large", f"More than {most / 1e6:g} MB were sent; nothing here is as large.")


def register(api: NinjaAPI) -> None:
    """Install the handlers."""

    def on(kind: type[Exception], make: Callable[[Any], Problem]) -> None:
        api.add_exception_handler(kind, lambda request, error: response_of(make(error)))

    for kind, make in HANDLERS:
        on(kind, make)


def unreadable(request: HttpRequest, exception: Exception) -> HttpResponse:
    """What is answered where a request is no good as a whole, such as one by a name that the server does not know."""
    detail = "The request cannot be read."
    if isinstance(exception, DisallowedHost):
        detail = "This server is not known by that name: add it to UNDERHOOD_HOSTS and start it again."
    if request.path.startswith("/api/"):
        return response_of(problem(400, "malformed", detail))
    return HttpResponse(detail, status=400, content_type="text/plain; charset=utf-8")


def server_error(request: HttpRequest) -> HttpResponse:
    """What is answered where something fails outside of the API's own operations, such as in reading the session."""
    error = sys.exc_info()[1]
    found = _stored_badly(error) if isinstance(error, DatabaseError) else problem(500, "internal", "The server failed.")
    if request.path.startswith("/api/"):
        return response_of(found)
    return HttpResponse(found.detail, status=found.status, content_type="text/plain; charset=utf-8")


class ProblemMiddleware:
    """Refuses what is too large before it is read, and gives every other refusal of an API address its one shape."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponseBase]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponseBase:
        if not request.path.startswith("/api/"):
            return self.get_response(request)
        length = request.META.get("CONTENT_LENGTH") or "0"
        if not length.isdecimal():
            return response_of(problem(400, "malformed", "The length of the request cannot be read."))
        is_form = (request.content_type or "").startswith("multipart/")
        most = settings.UPLOAD_MAX_BYTES if is_form else settings.DATA_UPLOAD_MAX_MEMORY_SIZE
        if request.path.startswith(FOR_ANYBODY):
            most = MOST_OF_ANYBODY
        if int(length) > most:
            return response_of(_too_large(most))
        response = self.get_response(request)
        if response.status_code < 400 or response.get("Content-Type", "").startswith(CONTENT_TYPE):
            return response
        shaped = response_of(_of_status(response.status_code))
        if "Allow" in response:
            shaped["Allow"] = response["Allow"]
        return shaped


def _of_status(status: int) -> Problem:
    kind, detail = {
        400: ("malformed", "The request cannot be read."),
        403: ("forbidden", "The page is too old: reload it."),
        404: ("not-found", "There is no such address."),
        405: ("method", "This address does not take that method."),
    }.get(status, ("internal", "The server failed."))
    return problem(status, kind, detail)
