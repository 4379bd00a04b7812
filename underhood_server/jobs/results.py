"""Forecasts that were made are kept for a while: a station asks for its job's several times, and saving asks once more.

By the hash of the document without its words, so that whatever else differs in it is forecast anew and a title that is
typed is not, and for all server processes together. One is made at a time in each process: threads that worked at
several would share one processor, and everybody would wait until all of them are done.
"""

from __future__ import annotations

import hashlib
from threading import Lock

from django.core.cache import caches

from underhood.document.job import JobDocument
from underhood.forecast.build import build_result
from underhood.forecast.results import ForecastResult

WORDS = {"title", "customer", "vehicle_plate", "tags", "notes", "state"}
"""Of a document: nothing that is worked out depends on them."""
_turn = Lock()


def forecast_of(document: JobDocument) -> ForecastResult:
    """The forecast of a document. Raises BadInput for one that cannot be forecast."""
    kept = caches["results"]
    physical = document.model_dump_json(by_alias=True, exclude=WORDS)
    key = hashlib.sha256(physical.encode()).hexdigest()
    found: ForecastResult | None = kept.get(key)
    if found is None:
        with _turn:
            found = build_result(document)
        kept.set(key, found)
    return found
