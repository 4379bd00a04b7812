"""Changes to jobs. Every save makes a revision; a save on an old version is refused, so that nothing is overwritten."""

from __future__ import annotations

from typing import Any

from django.db import transaction
from django.shortcuts import get_object_or_404

from underhood.document.job import JobDocument, read_job
from underhood.forecast.forecast import make_forecast
from underhood_server.accounts.models import User, Workshop
from underhood_server.api.problems import Conflict
from underhood_server.jobs.models import Job, Revision


@transaction.atomic
def create_job(workshop: Workshop, setup: JobDocument, user: User | None) -> Job:
    """A new job with its first revision. Raises BadInput for a setup that cannot be forecast."""
    make_forecast(setup).numbers()
    job = Job.objects.create(workshop=workshop, title=setup.title, setup=setup.document(), summary=summary(setup))
    Revision.objects.create(job=job, version=job.version, setup=job.setup, saved_by=user)
    return job


def summary(setup: JobDocument) -> dict[str, Any]:
    """What a list shows of a setup."""
    return {
        "amplifiers": [amplifier.name for amplifier in setup.amplifiers],
        "amplifier_ids": [amplifier.id for amplifier in setup.amplifiers],
        "drive": setup.vehicle.drive,
    }


def import_job(workshop: Workshop, content: bytes, file_name: str, user: User | None) -> Job:
    """A new job from a job file. Raises BadInput naming file, line and field; nothing is then stored."""
    return create_job(workshop, read_job(content, file_name), user)


@transaction.atomic
def save_job(job_id: int, workshop: Workshop, version: int, setup: JobDocument, user: User | None) -> Job:
    """Save a setup over the version it was changed from. Raises Conflict when another save came first."""
    make_forecast(setup).numbers()  # what cannot be forecast in every engine state is not saved
    job = get_object_or_404(Job.objects.select_for_update(), pk=job_id, workshop=workshop)
    if job.version != version:
        raise Conflict(job.version)
    document = setup.document()
    if document == job.setup:
        return job
    job.setup, job.title, job.version, job.summary = document, setup.title, version + 1, summary(setup)
    job.save()
    Revision.objects.create(job=job, version=job.version, setup=document, saved_by=user)
    return job


@transaction.atomic
def delete_job(job: Job) -> None:
    """Remove a job with its revisions."""
    job.delete()
