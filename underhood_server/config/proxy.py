"""A server behind a proxy: who asks, and that the proxy speaks HTTPS to them."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from typing import Any

Application = Callable[[dict[str, Any], Any], Iterable[bytes]]


def behind(application: Application, proxies: int, https: bool) -> Application:
    """An application that is reached through so many proxies, each of which adds whom it heard to `X-Forwarded-For`.

    What is left of those is what a sender said of itself, and is not believed. `https`: the outermost proxy takes
    nothing but HTTPS, so that every request came by it, whatever headers it adds.
    """

    def seen(environ: dict[str, Any], start_response: Any) -> Iterable[bytes]:
        heard = [each.strip() for each in environ.get("HTTP_X_FORWARDED_FOR", "").split(",") if each.strip()]
        if proxies and len(heard) >= proxies:
            environ["REMOTE_ADDR"] = heard[-proxies]
        if https:
            environ["wsgi.url_scheme"] = "https"
        return application(environ, start_response)

    return seen
