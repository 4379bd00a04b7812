"""Where people are logged in, kept up to date: on every log-in and log-out, and every few minutes between."""

from __future__ import annotations

import time
from collections.abc import Callable
from typing import Any

from django.contrib.auth.signals import user_logged_in, user_logged_out
from django.dispatch import receiver
from django.http import HttpRequest, HttpResponseBase
from django.utils import timezone

from underhood_server.accounts.models import SignIn, User
from underhood_server.accounts.people import note_sign_in

SEEN_EVERY_S = 300
_seen: dict[str, float] = {}
"""When this process last noted a session, so that a request does not write."""


@receiver(user_logged_in)
def _came(sender: Any, request: HttpRequest | None, user: Any, **kwargs: Any) -> None:
    if request is not None and isinstance(user, User):
        note_sign_in(request, user)


@receiver(user_logged_out)
def _went(sender: Any, request: HttpRequest | None, **kwargs: Any) -> None:
    if request is not None and request.session.session_key:
        SignIn.objects.filter(session_key=request.session.session_key).delete()


class SeenMiddleware:
    """Notes now and then that a browser is still used; one that logged in under an earlier release is noted then."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponseBase]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponseBase:
        response = self.get_response(request)
        key = request.session.session_key
        if key and response.status_code < 400 and time.monotonic() - _seen.get(key, -SEEN_EVERY_S) >= SEEN_EVERY_S:
            _seen[key] = time.monotonic()
            known = SignIn.objects.filter(session_key=key).update(seen_at=timezone.now())
            if not known and isinstance(request.user, User):
                note_sign_in(request, request.user)
        return response
