"""One box over everything of a workshop: by the beginnings of words, the best match first.

Without a word it shows what was changed last.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, NamedTuple

from django.db import connection

from underhood_server.accounts.models import Workshop
from underhood_server.proof.models import JobReading
from underhood_server.storage.models import Change
from underhood_server.storage.words import KINDS, TABLE, matching

MOST, LOOKED_BACK = 20, 300
READING = "reading"
COLUMNS = "kind, row, title, told"


class Found(NamedTuple):
    """A row of a kind, by its number; `job` is the one that a reading belongs to."""

    kind: str
    id: int
    title: str
    told: str
    job: int | None


def found(workshop: Workshop, search: str, kind: str = "") -> list[Found]:
    """What has every word that is searched for, or a longer one that begins with it; nothing where there is no word."""
    match = matching(search)
    if not match:
        return []
    only, values = ("AND kind = %s", [kind]) if kind else ("", [])
    sql = f"SELECT {COLUMNS} FROM {TABLE} WHERE {TABLE} MATCH %s AND workshop = %s {only} ORDER BY rank LIMIT %s"  # noqa: S608
    with connection.cursor() as cursor:
        cursor.execute(sql, [match, workshop.pk, *values, MOST])
        return _with_jobs(cursor.fetchall())


def recent(workshop: Workshop, kind: str = "") -> list[Found]:
    """What was changed last, each once; readings only where they are asked for, as there are many to a job."""
    kinds = [kind] if kind else [each for each in KINDS if each != READING]
    changes = Change.objects.filter(workshop=workshop, kind__in=kinds, row__isnull=False)
    latest = list(dict.fromkeys(changes.values_list("kind", "row")[:LOOKED_BACK]))
    rowids = [(row or 0) * len(KINDS) + list(KINDS).index(kind) for kind, row in latest]
    if not rowids:
        return []
    marks = ", ".join(["%s"] * len(rowids))
    sql = f"SELECT rowid, {COLUMNS} FROM {TABLE} WHERE rowid IN ({marks}) AND workshop = %s"  # noqa: S608
    with connection.cursor() as cursor:
        cursor.execute(sql, [*rowids, workshop.pk])
        rows = {rowid: rest for rowid, *rest in cursor.fetchall()}
    return _with_jobs([rows[rowid] for rowid in rowids if rowid in rows][:MOST])


def _with_jobs(rows: Sequence[Sequence[Any]]) -> list[Found]:
    readings = [row for kind, row, *_ in rows if kind == READING]
    jobs = dict(JobReading.objects.filter(pk__in=readings).values_list("pk", "job_id")) if readings else {}
    return [
        Found(kind, row, title, told, jobs.get(row) if kind == READING else None) for kind, row, title, told in rows
    ]
