"""Writing the trail: each service that changes something notes it, in the transaction that makes the change.

Whoever asks is remembered for the length of a request (`acting`), so that no service hands a person through.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from typing import Any

from django.http import HttpRequest, HttpResponseBase

from underhood_server.storage.models import Change

_actor: ContextVar[Any] = ContextVar("actor", default=None)


def actor() -> Any:
    """Whoever asks for what is going on; None where the program itself does it."""
    return _actor.get()


@contextmanager
def acting(user: Any) -> Iterator[None]:
    """What is done within is done by a person."""
    before = _actor.set(user)
    try:
        yield
    finally:
        _actor.reset(before)


class ActingMiddleware:
    """Whoever is logged in does what a request asks for."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponseBase]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponseBase:
        user = getattr(request, "user", None)
        with acting(user if user is not None and user.is_authenticated else None):
            return self.get_response(request)


def note(
    workshop_id: int, did: str, kind: str, row: int | None, title: str, *, version: int | None = None, told: str = ""
) -> None:
    """Add a change to the trail."""
    who = actor()
    Change.objects.create(
        workshop_id=workshop_id,
        by=who,
        name="" if who is None else who.get_username(),
        did=did,
        kind=kind,
        row=row,
        title=title[:200],
        version=version,
        told=told[:400],
    )
