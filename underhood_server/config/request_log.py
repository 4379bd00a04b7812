"""One line for each request: what, by whom, how it went, how long it took.

Addresses carry numbers, never a name or a plate. What was searched for is left out with the rest of the query; links of
customers are told without their secret.
"""

from __future__ import annotations

import logging
import re
import time
from collections.abc import Callable, Iterable, Iterator

from django.http import FileResponse, HttpRequest, HttpResponseBase, StreamingHttpResponse

logger = logging.getLogger("underhood.requests")
SECRET = re.compile(r"^/(sheet|join)/.*")


class RequestLogMiddleware:
    """Outermost, so that every answer is told."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponseBase]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponseBase:
        start = time.perf_counter()
        response = self.get_response(request)
        if request.path.startswith(("/static/", "/assets/")):
            return response
        user = getattr(request, "user", None)
        who = user.get_username() if user is not None and user.is_authenticated else "-"
        path = SECRET.sub(r"/\1/…", request.path)

        def tell() -> None:
            took = 1000 * (time.perf_counter() - start)
            logger.info("%s %s %s %.0f ms %s", request.method, path, response.status_code, took, who)

        if isinstance(response, StreamingHttpResponse) and not isinstance(response, FileResponse):
            response.streaming_content = _then(iter(response), tell)
        else:
            tell()
        return response


def _then(parts: Iterable[bytes], tell: Callable[[], None]) -> Iterator[bytes]:
    """An answer that arrives in parts is told when the last of them has gone, or whoever asked has."""
    try:
        yield from parts
    finally:
        tell()
