"""Copies of the database, made while it is used, and one put in its place.

A copy is made by SQLite's own online backup, then opened: it must pass SQLite's integrity check and hold as many rows
in every table as were counted in the database inside one transaction. Left out: copies on another machine, which are
the workshop's own to make from these files.
"""

from __future__ import annotations

import sqlite3
from collections.abc import Iterator
from contextlib import closing, contextmanager
from datetime import datetime, timedelta
from pathlib import Path

from django.conf import settings
from django.db import connections
from django.db.migrations.loader import MigrationLoader
from django.utils import timezone

from underhood.errors import BadInput
from underhood_server.storage.files import private

DAYS, WEEKS = 7, 8
"""Of the automatic copies: the newest of each of so many days, and of each of so many weeks before."""
NAME = "under-hood-%Y%m%d-%H%M%S.sqlite3"
WAIT_S = 30.0


def database() -> Path:
    """The database that the server uses."""
    return Path(str(connections["default"].settings_dict["NAME"]))


def folder() -> Path:
    """Where the automatic copies are."""
    return database().parent / "backups"


@contextmanager
def _opened(path: Path) -> Iterator[sqlite3.Connection]:
    with closing(sqlite3.connect(path, timeout=WAIT_S)) as one:
        yield one


def counts(one: sqlite3.Connection) -> dict[str, int]:
    """Rows by table, of one moment."""
    one.execute("BEGIN")
    names = [name for (name,) in one.execute("SELECT name FROM sqlite_master WHERE type = 'table' ORDER BY name")]
    found = {name: int(one.execute(f'SELECT count(*) FROM "{name}"').fetchone()[0]) for name in names}  # noqa: S608
    one.rollback()
    return found


def check(path: Path) -> dict[str, int]:
    """Rows by table of a sound copy. Raises BadInput for a file that is none."""
    if not path.is_file():
        raise BadInput("there is no such file", "file", value=str(path))
    try:
        with _opened(path) as one:
            (verdict,) = one.execute("PRAGMA integrity_check").fetchone()
            found = counts(one)
    except sqlite3.DatabaseError as problem:
        raise BadInput(f"is no database that can be read: {problem}", "file", value=str(path)) from None
    if verdict != "ok":
        raise BadInput(f"is damaged: {verdict}", "file", value=str(path))
    if "accounts_workshop" not in found:
        raise BadInput("is a database of something else", "file", value=str(path))
    return found


def backup(to: Path) -> dict[str, int]:
    """Copy the database, and check the copy. Returns its rows by table. Raises BadInput where it is not sound.

    The database is locked for writing while its rows are counted and copied: a second or so.
    """
    if to.exists():
        raise BadInput("is there already; nothing is written over", "file", value=str(to))
    partly = to.with_suffix(".part")
    private(partly)
    try:
        with _opened(database()) as source, _opened(database()) as lock, _opened(partly) as copy:
            lock.execute("BEGIN IMMEDIATE")  # nobody writes between the counting and the end of the copy
            expected = counts(source)
            source.backup(copy)
            lock.rollback()
        found = check(partly)
        if found != expected:
            raise BadInput("the copy holds other rows than the database; try again", "file", value=str(to))
        partly.replace(to)
    finally:
        for left in (partly, *(partly.with_name(partly.name + end) for end in ("-wal", "-shm"))):
            left.unlink(missing_ok=True)
    return found


def _unknown_migrations(path: Path) -> list[str]:
    known = MigrationLoader(None, ignore_no_migrations=True).disk_migrations
    with _opened(path) as one:
        applied = one.execute("SELECT app, name FROM django_migrations").fetchall()
    apps = {app for app, _ in known}
    return [f"{app}.{name}" for app, name in applied if app in apps and (app, name) not in known]


def restore(path: Path) -> Path | None:
    """Put a copy in the place of the database, which is kept beside the copies. Returns where; None if there was none.

    Raises BadInput for a copy that is damaged or of a later release; the database is then as it was. The server may
    run: it sees the old state or the new one, whole. Migrate afterwards.
    """
    check(path)
    if unknown := _unknown_migrations(path):
        raise BadInput(f"was made by a later release ({unknown[0]}); update the program first", "file", value=str(path))
    here = database()
    kept = None
    if here.exists() and here.stat().st_size:
        kept = folder() / timezone.now().strftime("before-restore-%Y%m%d-%H%M%S.sqlite3")
        backup(kept)
    private(here)
    with _opened(path) as source, _opened(here) as target:
        source.backup(target)
        target.execute("PRAGMA journal_mode=WAL")
    check(here)
    return kept


def backups() -> list[tuple[Path, datetime]]:
    """The automatic copies with their moments, the newest first."""
    found = []
    for path in folder().glob("under-hood-*.sqlite3"):
        try:
            found.append((path, datetime.strptime(path.name, NAME).replace(tzinfo=timezone.get_default_timezone())))
        except ValueError:  # somebody's own file
            continue
    return sorted(found, key=lambda each: each[1], reverse=True)


def daily(now: datetime | None = None) -> Path | None:
    """A copy where the newest is a day old, and those thrown away that are no longer kept. Returns the new one."""
    now = now or timezone.now()
    known = backups()
    made = None
    if settings.DAILY_BACKUPS and (not known or now - known[0][1] >= timedelta(days=1)):
        made = folder() / now.strftime(NAME)
        backup(made)
        known = [(made, now), *known]
    kept = _kept([moment for _, moment in known])
    for path, moment in known:
        if moment not in kept:
            path.unlink(missing_ok=True)
    return made


def _kept(moments: list[datetime]) -> set[datetime]:
    """Of moments, the newest first, those of the copies that are kept."""
    days: dict[object, datetime] = {}
    weeks: dict[object, datetime] = {}
    for moment in moments:
        days.setdefault(moment.date(), moment)
        weeks.setdefault(moment.isocalendar()[:2], moment)
    return {*list(days.values())[:DAYS], *list(weeks.values())[:WEEKS]}
