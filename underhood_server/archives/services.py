"""Archives: begun by an owner, carried by the worker, fetched within a day."""

from __future__ import annotations

import logging
import time
from collections.abc import Iterable
from datetime import timedelta
from typing import Any

from django.db import transaction
from django.utils import timezone

from underhood.errors import BadInput
from underhood_server.accounts.models import Workshop
from underhood_server.archives import reading, writing
from underhood_server.archives.models import Archive
from underhood_server.archives.tasks import carry
from underhood_server.storage import trail
from underhood_server.storage.files import private

KEPT = timedelta(days=1)
TELLS_S = 0.5
KIND = "archive"


def start(workshop: Workshop) -> Archive:
    """An archive of a workshop that waits for the worker; one that is on its way is the same one."""
    with transaction.atomic():
        known = workshop.archives.filter(way=Archive.Way.OUT, status__in=("waiting", "running")).first()
        if known is not None:
            return known
        made = Archive.objects.create(workshop=workshop, way=Archive.Way.OUT, made_by=trail.actor())
        trail.note(workshop.pk, "exported", KIND, made.pk, workshop.name)
        carry.enqueue(made.pk)
    return made


def read_in(workshop: Workshop, chunks: Iterable[bytes]) -> Archive:
    """A file that waits to be read into an empty workshop. Raises BadInput for a workshop that is not."""
    reading.check_empty(workshop)
    made = Archive.objects.create(workshop=workshop, way=Archive.Way.IN, made_by=trail.actor())
    private(made.path)
    try:
        with made.path.open("wb") as out:
            for chunk in chunks:
                out.write(chunk)
    except OSError:  # such as a full disk: half a file is no use
        throw_away(made)
        raise
    change(made, size=made.path.stat().st_size)
    made.refresh_from_db()
    carry.enqueue(made.pk)
    return made


def run(archive: Archive) -> None:
    """Carry an archive out or in. What cannot be done is told with it."""
    change(archive, status=Archive.Status.RUNNING, done=0)
    told_at = time.monotonic()

    def told(done: int, of: int) -> None:
        nonlocal told_at
        if time.monotonic() - told_at > TELLS_S or done == of:
            told_at = time.monotonic()
            change(archive, done=done, of=of)

    try:
        with trail.acting(archive.made_by):
            if archive.way == Archive.Way.OUT:
                private(archive.path)
                writing.write(archive.workshop, archive.path, told)
                change(archive, status=Archive.Status.DONE, size=archive.path.stat().st_size)
            else:
                counts = reading.read(archive.workshop, archive.path, told)
                words = ", ".join(f"{count} {kind}" for kind, count in counts.items())
                change(archive, status=Archive.Status.DONE, told=words)
                archive.path.unlink(missing_ok=True)
    except BadInput as problem:
        archive.path.unlink(missing_ok=True)
        change(archive, status=Archive.Status.REFUSED, told=f"The file {problem.text}.")
    except Exception:
        logging.getLogger(__name__).exception("The archive failed")
        archive.path.unlink(missing_ok=True)
        change(archive, status=Archive.Status.FAILED, told="It failed; the server's log says why.")


def change(archive: Archive, **values: Any) -> None:
    """Change some fields of an archive, which may have been thrown away meanwhile."""
    Archive.objects.filter(pk=archive.pk).update(**values)


def throw_away(archive: Archive) -> None:
    """An archive and its file."""
    archive.path.unlink(missing_ok=True)
    archive.delete()


def begin_again() -> None:
    """Archives that a stop of the server has cut off are carried again."""
    for archive in Archive.objects.filter(status=Archive.Status.RUNNING):
        with transaction.atomic():
            change(archive, status=Archive.Status.WAITING)
            carry.enqueue(archive.pk)


def clear() -> int:
    """Throw away archives that nobody fetched for a day. Returns how many."""
    old = list(Archive.objects.filter(created_at__lt=timezone.now() - KEPT))
    for each in old:
        throw_away(each)
    return len(old)
