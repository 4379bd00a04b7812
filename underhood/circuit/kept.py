"""Where numba finds what it compiled of the engine.

By itself it asks for a file's path and date: an engine of the same text, unpacked elsewhere or anew, would be compiled
again although it is kept, and marked so, while somebody waits.
"""

from __future__ import annotations

from numba.core.caching import UserProvidedCacheLocator

from underhood.circuit import compiled


class Kept(UserProvidedCacheLocator):
    """By the text of all that the engine is made of, wherever that lies (`numba.config.CACHE_LOCATOR_CLASSES`)."""

    def get_cache_path(self) -> str:
        """Its folder."""
        return str(compiled.kept_in())

    def get_source_stamp(self) -> str:
        """What it is held against."""
        return compiled.digest()
