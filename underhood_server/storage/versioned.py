"""Saving over the version something was changed from: compared and written in one statement, for every versioned thing.

Two savers of one version can never both win, whatever the timing: the database finds the row by its version and raises
that in the same statement. Left out: what is saved (see each app's services).
"""

from __future__ import annotations

from typing import Any

from django.db.models import F, QuerySet
from django.http import Http404


class Conflict(Exception):  # noqa: N818 - named for what it is in HTTP
    """Somebody else saved first; `version` is theirs."""

    def __init__(self, version: int) -> None:
        super().__init__("This was changed elsewhere since you opened it. Reload to see it, then change it again.")
        self.version = version


def save_over(rows: QuerySet[Any, Any], pk: int, version: int, *, counter: str = "version", **fields: Any) -> int:
    """Write fields of the row over a version and return the new one.

    rows      those that whoever saves may change
    version   the one the fields were changed from
    counter   the field that counts the versions
    Raises Conflict with the row's version where another save came first, Http404 where there is no such row.
    """
    if rows.filter(pk=pk, **{counter: version}).update(**{counter: F(counter) + 1}, **fields):
        return version + 1
    stored = rows.filter(pk=pk).values_list(counter, flat=True).first()
    if stored is None:
        raise Http404
    raise Conflict(stored)
