"""Values of a document by dotted path, as errors and findings name them: `cables.0.return.resistance_ohm`.

Digits step into lists. Left out: what is allowed there (see `job`).
"""

from __future__ import annotations

from typing import Any

from underhood.document.job import JobDocument
from underhood.document.quantity import Quantity

__all__ = ["get", "put", "replaced", "varied"]


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


def varied(job: JobDocument, path: str, value: Quantity) -> JobDocument:
    """The job with a quantity at a path replaced, quickly: nothing is checked, and all else is shared with `job`.

    path    of a field that a part has; a ground return that is missing on the way is a plain one through the chassis
    value   within what is allowed there
    """
    steps = path.split(".")

    def changed(part: Any, at: int) -> Any:
        if at == len(steps):
            return value
        step = steps[at]
        if isinstance(part, list):
            i = int(step)
            return [changed(each, at + 1) if k == i else each for k, each in enumerate(part)]
        name = f"{step}_" if step in ("return", "from", "class") else step
        return part.model_copy(update={name: changed(getattr(part, name), at + 1)})

    made: JobDocument = changed(job, 0)
    return made


def replaced(job: JobDocument, path: str, value: Any) -> JobDocument:
    """The job with the value at a path replaced. Raises pydantic's ValidationError for a value that is not allowed."""
    document = job.document()
    put(document, path, value)
    return JobDocument.model_validate(document)
