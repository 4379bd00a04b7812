"""What lists show of a row, stored with it: fits and walks through documents take too long for a list of hundreds.

A summary carries the version of the code that made it. One of another version is not shown but made anew: on migration,
by `manage.py refreshsummaries`, and whenever its row is saved. A row that cannot be summarised is listed with the
reason. Left out: what a summary holds (see each app's services).
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any, NamedTuple

from django.db.models import Model, Q, QuerySet
from pydantic import ValidationError

from underhood.document.quantity import explain
from underhood.document.words import refusal
from underhood.errors import BadInput


class Summary(NamedTuple):
    """How rows of a kind are summarised.

    rows      all of them
    version   to be raised whenever `make` gives something else
    make      a row's summary, given what its caller knows of it already; raises BadInput where it cannot be made
    counter   the field that counts a row's changes, so that a summary never replaces a newer one
    """

    rows: Callable[[], QuerySet[Any, Any]]
    version: int
    make: Callable[..., dict[str, Any]]
    counter: str


SUMMARIES: dict[str, Summary] = {}
"""By the name of the model; each app adds its own when it is ready."""


def made(kind: str, row: Any, *known: Any) -> dict[str, Any]:
    """A row's summary with the version of the code, or with what is wrong with the row.

    known   what need not be found out once more
    """
    summary = SUMMARIES[kind]
    try:
        return {"version": summary.version, **summary.make(row, *known)}
    except (BadInput, ValidationError) as problem:
        told = problem if isinstance(problem, BadInput) else explain(problem)
        return {"version": summary.version, "problem": refusal(told)}


def current(kind: str, stored: Mapping[str, Any]) -> tuple[dict[str, Any] | None, str]:
    """(what a list may show, or None; what is wrong in words) of a stored summary."""
    if stored.get("version") != SUMMARIES[kind].version:
        return None, "Its summary is of an older version; open and save it, or run `manage.py refreshsummaries`."
    if "problem" in stored:
        return None, str(stored["problem"])
    return {key: value for key, value in stored.items() if key != "version"}, ""


def refresh(kind: str, rows: QuerySet[Any, Any] | None = None) -> int:
    """Make summaries anew; those of older versions only, unless rows are named. Returns how many were made."""
    summary = SUMMARIES[kind]
    other = ~Q(summary__version=summary.version) | Q(summary__version__isnull=True)
    stale = summary.rows().filter(other) if rows is None else rows
    count = 0
    for row in stale.iterator(chunk_size=100):
        _store(summary, row, made(kind, row))
        count += 1
    return count


def _store(summary: Summary, row: Model, content: dict[str, Any]) -> None:
    seen = {summary.counter: getattr(row, summary.counter)}
    type(row)._default_manager.filter(pk=row.pk, **seen).update(summary=content)
