"""Forecasts that were made are kept for a while: a station asks for its job's several times, and saving asks once more.

By the document's own hash, so that whatever differs in it is forecast anew; in the memory of each server process.
"""

from __future__ import annotations

import hashlib

from django.core.cache import caches

from underhood.document.job import JobDocument
from underhood.forecast.build import build_result
from underhood.forecast.results import ForecastResult

__all__ = ["forecast_of"]


def forecast_of(document: JobDocument) -> ForecastResult:
    """The forecast of a document. Raises BadInput for one that cannot be forecast."""
    kept = caches["results"]
    key = hashlib.sha256(document.model_dump_json(by_alias=True).encode()).hexdigest()
    found: ForecastResult | None = kept.get(key)
    if found is None:
        found = build_result(document)
        kept.set(key, found)
    return found
