"""Forms with files, refused before they are read: from nobody who is logged in, or larger than their address takes."""

from __future__ import annotations

from collections.abc import Callable

from django.conf import settings
from django.http import HttpRequest, HttpResponseBase

from underhood_server.api.problems import problem, response_of

OTHERWISE = 13_000_000
"""Bytes of a form: a photograph of 12 MB, the largest of the small files, and what surrounds it."""
LARGER = {
    "/api/v1/recordings": 101_000_000,
    "/api/v1/impedance-recordings": 121_000_000,
    "/api/v1/workshop-archives/import": 520_000_000,
}


class UploadMiddleware:
    """Stands behind the session, and before anything that reads a form."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponseBase]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponseBase:
        if request.path.startswith("/api/") and (request.content_type or "").startswith("multipart/"):
            if not request.user.is_authenticated:
                return response_of(problem(401, "log-in", "You are not logged in."))
            most = min(LARGER.get(request.path, OTHERWISE), settings.UPLOAD_MAX_BYTES)
            if int(request.META.get("CONTENT_LENGTH") or 0) > most:
                return response_of(
                    problem(413, "too-large", f"More than {most // 1_000_000} MB were sent; nothing here is as large.")
                )
        return self.get_response(request)
