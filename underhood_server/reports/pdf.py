"""A page as PDF. Nothing but what the page itself holds is read, and the program's own fonts."""

from __future__ import annotations

import re
from typing import Any

from underhood.errors import BadInput

OWN_FONT = re.compile(r"file:///[^?#%]*/interface/assets/atkinson-[\w-]+\.woff2")
PICTURE = "data:image/png;base64,"


def is_own(url: str) -> bool:
    """Whether something that a page asks for stands in the page, or is one of the program's fonts."""
    return url.startswith(PICTURE) or (OWN_FONT.fullmatch(url) is not None and ".." not in url)


def written(html: str) -> bytes:
    """The PDF of a page. Raises BadInput where the libraries that set it are not installed."""
    try:
        import weasyprint
        from weasyprint.urls import URLFetcher
    except OSError:
        raise BadInput("PDF needs the system's Pango: libpangoft2-1.0-0 and libharfbuzz-subset0") from None

    class OwnAlone(URLFetcher):  # type: ignore[misc]
        def fetch(self, url: str, headers: Any = None) -> Any:
            if not is_own(url):
                raise ValueError(f"{url[:80]} is not read")
            return super().fetch(url, headers)

    found: bytes = weasyprint.HTML(string=html, url_fetcher=OwnAlone()).write_pdf()
    return found
