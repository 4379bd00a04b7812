"""The words of jobs, amplifiers, drivers, parts and readings, in a full-text table that the database itself keeps.

Triggers follow the rows, whoever writes them, in the transaction that does; so nothing can be stored and not be found.
They are taken off before a migration, which makes tables anew, and put back after it.
Left out: what is shown of what is found (see `records.find`, and lists of jobs).
"""

from __future__ import annotations

import re
from typing import NamedTuple

from django.db import connection
from django.db.models.expressions import RawSQL

TABLE = "find_words"
WORDS = re.compile(r"[^\W_]+")
"""As the table tells words apart."""


class Kind(NamedTuple):
    """How rows of a kind are told, in SQL over `{row}`, the row that is written.

    table      where they are
    workshop   whose they are
    title      what they are called; `told` what else is shown and found; `more` what is found only
    present    whether they are there
    """

    table: str
    workshop: str
    title: str
    told: str
    more: str = "''"
    present: str = "{row}.removed_at IS NULL"


def _joined(*parts: str) -> str:
    """Texts with a dot between, without those that are empty."""
    each = " || ".join(f"CASE coalesce({part}, '') WHEN '' THEN '' ELSE ' · ' || {part} END" for part in parts)
    return f"substr({each}, 4)"


def _of(column: str, key: str) -> str:
    return f"json_extract({{row}}.{column}, '$.{key}')"


KINDS: dict[str, Kind] = {
    "job": Kind(
        "jobs_job",
        "{row}.workshop_id",
        "{row}.title",
        _joined(_of("summary", "customer"), _of("summary", "plate"), _of("summary", "state")),
        _joined(_of("summary", "tagged"), _of("summary", "amplifiers")),
    ),
    "amplifier": Kind("bench_amplifier", "{row}.workshop_id", "{row}.name", "'class ' || " + _of("record", "class")),
    "driver": Kind("parts_driver", "{row}.workshop_id", "{row}.name", "'driver'"),
    "part": Kind("parts_part", "{row}.workshop_id", "{row}.name", "{row}.kind", _joined(_of("part", "notes"))),
    "reading": Kind(
        "proof_jobreading",
        "(SELECT workshop_id FROM jobs_job WHERE id = {row}.job_id)",
        "(SELECT title FROM jobs_job WHERE id = {row}.job_id)",
        _joined("replace(" + _of("reading", "what") + ", '_', ' ')", _of("reading", "note"), _of("reading", "by")),
        _joined(_of("reading", "from"), _of("reading", "meter")),
        "EXISTS (SELECT 1 FROM jobs_job WHERE id = {row}.job_id AND removed_at IS NULL)",
    ),
}
"""In the order in which their numbers tell them apart."""


def _rowid(kind: str, row: str) -> str:
    return f"{row}.id * {len(KINDS)} + {list(KINDS).index(kind)}"


def _put(kind: str, row: str, source: str = "") -> str:
    """The statement that puts a row's words in, where it is present."""
    of = KINDS[kind]
    values = [_rowid(kind, row), f"'{kind}'", f"{row}.id", of.workshop, of.title, of.told, of.more]
    columns = "rowid, kind, row, workshop, title, told, more"
    return (f"INSERT INTO {TABLE} ({columns}) SELECT {', '.join(values)} {source} WHERE {of.present}").replace(
        "{row}", row
    )


def matching(search: str) -> str:
    """What the table is asked for: every word, or a longer one that begins with it; empty where there is no word."""
    return " ".join(f'"{word}"*' for word in WORDS.findall(search))


def numbers(kind: str, workshop: int, search: str) -> RawSQL:
    """The numbers of a workshop's rows of a kind that have every word of a search; none where it has no word."""
    if not matching(search):
        return RawSQL("SELECT NULL", ())
    asked = f"SELECT row FROM {TABLE} WHERE {TABLE} MATCH %s AND workshop = %s AND kind = %s"  # noqa: S608
    return RawSQL(asked, (matching(search), workshop, kind))  # noqa: S611 - of our own words


def _names(kind: str) -> dict[str, str]:
    return {event: f"{TABLE}_{kind}_{event}" for event in ("insert", "update", "delete")}


def stop() -> None:
    """Take the triggers off."""
    with connection.cursor() as cursor:
        for kind in KINDS:
            for name in _names(kind).values():
                cursor.execute(f"DROP TRIGGER IF EXISTS {name}")


def follow() -> None:
    """Write every row's words anew, and follow them from now on."""
    stop()
    tables = connection.introspection.table_names()
    with connection.cursor() as cursor:
        cursor.execute(f"DROP TABLE IF EXISTS {TABLE}")
        cursor.execute(
            f"CREATE VIRTUAL TABLE {TABLE} USING fts5(kind UNINDEXED, row UNINDEXED, workshop UNINDEXED, title, told, "
            "more, tokenize = 'unicode61 remove_diacritics 2', prefix = '2 3')"
        )
        for kind, of in KINDS.items():
            if of.table not in tables:  # a migration back to an earlier state
                continue
            cursor.execute(_put(kind, of.table, f"FROM {of.table}"))
            drop = f"DELETE FROM {TABLE} WHERE rowid = {{}};"  # noqa: S608
            names, old, new = _names(kind), drop.format(_rowid(kind, "OLD")), _put(kind, "NEW") + ";"
            cursor.execute(f"CREATE TRIGGER {names['insert']} AFTER INSERT ON {of.table} BEGIN {new} END")
            cursor.execute(f"CREATE TRIGGER {names['update']} AFTER UPDATE ON {of.table} BEGIN {old} {new} END")
            cursor.execute(f"CREATE TRIGGER {names['delete']} AFTER DELETE ON {of.table} BEGIN {old} END")
