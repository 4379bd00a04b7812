"""Values of a document by dotted path, as errors and findings name them: `cables.0.return.resistance_ohm`.

Digits step into lists. Left out: what is allowed there (see `job`).
"""

from __future__ import annotations

from typing import Any

from underhood.document.job import JobDocument


def get(document: Any, path: str) -> Any:
    """The value at a path of a plain document; the document itself for an empty path.

    Raises KeyError or IndexError where the path leads nowhere.
    """
    here = document
    for step in path.split(".") if path else ():
        here = here[int(step)] if isinstance(here, list) else here[step]
    return here


def put(document: Any, path: str, value: Any) -> None:
    """Replace the value at a path of a plain document, in place; objects missing on the way are made."""
    *way, last = path.split(".")
    here = document
    for step in way:
        if isinstance(here, dict) and here.get(step) is None:
            here[step] = {}
        here = get(here, step)
    here[int(last) if isinstance(here, list) else last] = value


def replaced(job: JobDocument, path: str, value: Any) -> JobDocument:
    """The job with the value at a path replaced. Raises pydantic's ValidationError for a value that is not allowed."""
    document = job.document()
    put(document, path, value)
    return JobDocument.model_validate(document)
