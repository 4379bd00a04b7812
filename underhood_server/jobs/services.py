"""Changes to jobs. Every save makes a revision; a save on an old version is refused, so that nothing is overwritten.

A job is forecast before its transaction begins, so that nobody waits for the storage while somebody else's is solved.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any

from django.db import transaction
from django.db.models import QuerySet
from django.utils import timezone

from underhood.document import upgrade
from underhood.document.differences import Difference, differences
from underhood.document.job import JobDocument
from underhood.document.job_file import read_job
from underhood.errors import BadInput
from underhood.forecast.results import ForecastResult
from underhood_server.accounts.models import User, Workshop
from underhood_server.jobs import recordings
from underhood_server.jobs.models import Job, Revision
from underhood_server.jobs.results import forecast_of
from underhood_server.storage import removable, summaries, trail, words
from underhood_server.storage.summaries import SUMMARIES, Summary
from underhood_server.storage.versioned import save_over

KIND = "job"
NEXT_TAG = "\n"
"""Between tags as they are searched: a tag holds none. In a stored list accents and quotes would stand escaped."""


def create_job(workshop: Workshop, document: JobDocument, user: User | None) -> Job:
    """A new job with its first revision. Raises BadInput for a document that cannot be forecast."""
    result = forecast_of(document)
    document = recordings.apart(workshop, document)
    job = Job(workshop=workshop, title=document.title, document=document.document())
    job.summary = summaries.made(KIND, job, result, document)
    with transaction.atomic():
        job.save()
        _revised(job, user)
        trail.note(workshop.pk, "made", KIND, job.pk, job.title, version=job.version)
    return job


def summary(job: Job, result: ForecastResult | None = None, document: JobDocument | None = None) -> dict[str, Any]:
    """What a list shows of a job. Raises BadInput for a document that cannot be read.

    result     its forecast, where that was made already
    document   its document, where that was read already
    """
    document = document or upgrade.read_document(job.document)
    return {
        "amplifiers": [amplifier.name for amplifier in document.amplifiers],
        "amplifier_ids": [amplifier.id for amplifier in document.amplifiers],
        "drive": document.vehicle.drive,
        "state": document.state,
        "customer": document.customer,
        "plate": document.vehicle_plate,
        "tags": document.tags,
        "tagged": "".join(f"{NEXT_TAG}{each}{NEXT_TAG}" for each in document.tags),
        **_verdict(result or forecast_of(recordings.whole(job.workshop_id, document))),
    }


def _verdict(result: ForecastResult) -> dict[str, Any]:
    """Volts at the first amplifier at idle, watts of all in the state that is open, and the worst flag."""
    idle = next((each for each in result.engines if each.engine == "idle"), None)
    worst = result.flags[0] if result.flags else None
    return {
        "idle_v": None if idle is None else idle.terminal_low_v,
        "delivered_w": math.fsum(each.delivered_w for each in result.amplifiers) if result.amplifiers else None,
        "half_band_w": math.fsum(each.half_band_w for each in result.amplifiers),
        "worst": None if worst is None else worst.severity,
        "worst_title": "" if worst is None else worst.title or worst.text,
    }


SUMMARIES[KIND] = Summary(Job.objects.all, 4, summary, counter="version")


def import_job(workshop: Workshop, content: bytes, file_name: str, user: User | None) -> Job:
    """A new job from a job file. Raises BadInput naming file, line and field; nothing is then stored."""
    return create_job(workshop, read_job(content, file_name), user)


def save_job(job: Job, version: int, document: JobDocument, user: User | None) -> Job:
    """Save a document over the version it was changed from. Raises Conflict when another save came first."""
    result = forecast_of(document)  # what cannot be forecast in every engine state is not saved
    document = recordings.apart(job.workshop, document)
    plain = document.document()
    if plain == job.document and version == job.version:
        return job
    job.title, job.document = document.title, plain
    job.summary, job.updated_at = summaries.made(KIND, job, result, document), timezone.now()
    with transaction.atomic():
        job.version = save_over(
            Job.objects.filter(workshop=job.workshop_id),
            job.pk,
            version,
            title=job.title,
            document=plain,
            summary=job.summary,
            updated_at=job.updated_at,
        )
        _revised(job, user)
        trail.note(job.workshop_id, "saved", KIND, job.pk, job.title, version=job.version)
    return job


def _revised(job: Job, user: User | None) -> None:
    name = "" if user is None else user.username
    Revision.objects.create(job=job, version=job.version, document=job.document, saved_by=user, saved_by_name=name)


def found(workshop: Workshop, search: str, state: str, tag: str, archived: bool) -> QuerySet[Job]:
    """Those of a workshop in whose title, customer, plate or tags words begin with those of `search`, in a state and
    with a tag if asked; amplifiers count too."""
    rows = workshop.jobs.filter(archived_at__isnull=not archived)
    if search.strip():
        rows = rows.filter(pk__in=words.numbers(KIND, workshop.pk, search))
    if state:
        rows = rows.filter(state=state)
    if words.matching(tag):
        rows = rows.filter(pk__in=words.numbers(KIND, workshop.pk, tag))
    return rows.filter(summary__tagged__icontains=f"{NEXT_TAG}{tag}{NEXT_TAG}") if tag else rows


def with_changes(revisions: Sequence[Revision]) -> list[tuple[Revision, list[Difference]]]:
    """Revisions of one job, each with what it changed of the one before it: one query, whatever their number."""
    if not revisions:
        return []
    job_id = revisions[0].job_id
    earlier = Revision.objects.filter(job=job_id, version__in=[each.version - 1 for each in revisions])
    before = {each.version + 1: each.document for each in earlier}
    return [
        (each, differences(before[each.version], each.document) if each.version in before else []) for each in revisions
    ]


def archive(job: Job, away: bool) -> Job:
    """Put a job away, or take it out again; nothing in it changes."""
    job.archived_at = timezone.now() if away else None
    with transaction.atomic():
        Job.objects.filter(pk=job.pk).update(archived_at=job.archived_at)
        trail.note(job.workshop_id, "archived" if away else "taken out", KIND, job.pk, job.title)
    return job


def delete_job(job: Job) -> None:
    """Remove a job with its revisions; it can be put back for a month."""
    removable.remove(job, job.workshop_id, KIND)


def opened(document: dict[str, Any]) -> tuple[dict[str, Any], list[BadInput]]:
    """(a stored document as the newest version writes it, what is wrong with its values).

    A value that an older release took and this one refuses stands where it stood, to be seen and changed.
    """
    try:
        return upgrade.opened(document)
    except BadInput as problem:
        return document, [problem]
