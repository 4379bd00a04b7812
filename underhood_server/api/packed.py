"""Requests and answers that go packed, as a slow line has them: a job of thirty kilobytes is four.

Requests are unpacked before anything else reads them, to no more than a plain one may hold, and only for somebody who
is logged in. Of answers JSON is packed: pictures, papers and archives are so already, and an archive tells its length.
"""

from __future__ import annotations

import zlib
from collections.abc import Callable

from django.conf import settings
from django.http import HttpRequest, HttpResponseBase
from django.middleware.gzip import GZipMiddleware

from underhood_server.api.problems import FOR_ANYBODY, problem, response_of

GZIP = 16 + zlib.MAX_WBITS


class PackedAnswersMiddleware(GZipMiddleware):
    """Stands outside of everything that changes an answer."""

    def process_response(self, request: HttpRequest, response: HttpResponseBase) -> HttpResponseBase:
        if "json" not in response.get("Content-Type", ""):
            return response
        return super().process_response(request, response)


class PackedMiddleware:
    """Stands behind the session."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponseBase]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponseBase:
        packing = request.META.pop("HTTP_CONTENT_ENCODING", "")
        if packing:
            if not request.user.is_authenticated or request.path.startswith(FOR_ANYBODY):
                return response_of(problem(401, "log-in", "You are not logged in."))
            if packing != "gzip" or request.content_type != "application/json":
                return response_of(problem(415, "malformed", "Only JSON may be packed, and only as gzip."))
            most = settings.DATA_UPLOAD_MAX_MEMORY_SIZE
            unpacking = zlib.decompressobj(GZIP)
            broken = response_of(problem(400, "malformed", "The request cannot be unpacked."))
            try:
                body = unpacking.decompress(request.body, most)
            except zlib.error:
                return broken
            if unpacking.unconsumed_tail:
                return response_of(problem(413, "too-large", f"More than {most / 1e6:g} MB; nothing here is as large."))
            if not unpacking.eof:
                return broken
            request._body = body  # what `request.body` gives from now on
            request.META["CONTENT_LENGTH"] = str(len(body))
        return self.get_response(request)
