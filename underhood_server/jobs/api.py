"""Jobs and their revisions."""

from __future__ import annotations

from typing import Any, Literal

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from ninja import File, Query, Router, Status
from ninja.files import UploadedFile
from pydantic import Field

from underhood.document.job_file import LARGEST_FILE_BYTES, write_job
from underhood.document.upgrade import read_document
from underhood_server.accounts.models import User
from underhood_server.accounts.services import workshop_of
from underhood_server.api.problems import Problem, field_error
from underhood_server.api.shapes import Id, Page, Paged, attachment, content, page
from underhood_server.jobs import recordings, services
from underhood_server.jobs.models import Job
from underhood_server.jobs.schemas import (
    Archived,
    DocumentIn,
    JobLine,
    JobOut,
    JobSummary,
    RevisionLine,
    SaveJob,
    State,
)
from underhood_server.storage import summaries

router = Router(by_alias=True)


class JobsAsked(Paged):
    """Which jobs: words of title, customer, plate, tags or amplifiers begin with those of `search`; `tag` is whole."""

    sort: Literal["-updated_at", "updated_at", "title", "-title"] = "-updated_at"
    state: State | Literal[""] = ""
    tag: str = Field(default="", max_length=30)
    archived: bool = False


def job_of(request: HttpRequest, job_id: int) -> Job:
    """The workshop's job by its number; what belongs to another workshop is not there."""
    return get_object_or_404(Job, pk=job_id, workshop=workshop_of(request))


def _user(request: HttpRequest) -> User | None:
    return request.user if isinstance(request.user, User) else None


def _out(job_id: int, version: int, updated_at: Any, stored: dict[str, Any]) -> JobOut:
    document, wrong = services.opened(stored)
    problems = [field_error(each) for each in wrong]
    return JobOut(id=job_id, version=version, updated_at=updated_at, document=document, problems=problems)


def _job_out(job: Job) -> JobOut:
    return _out(job.pk, job.version, job.updated_at, job.document)


def _line(job: Job) -> JobLine:
    shown, problem = summaries.current(services.KIND, job.summary)
    summary = None if shown is None else JobSummary(**shown)
    return JobLine(
        id=job.pk,
        title=job.title,
        version=job.version,
        updated_at=job.updated_at,
        archived=job.archived_at is not None,
        summary=summary,
        problem=problem,
    )


@router.get("", response=Page[JobLine])
def list_jobs(request: HttpRequest, asked: Query[JobsAsked]) -> dict[str, Any]:
    """The workshop's jobs, the latest first; those that were put away only where they are asked for."""
    rows = services.found(workshop_of(request), asked.search, asked.state, asked.tag, asked.archived)
    count, jobs = page(rows.order_by(asked.sort, "-id").defer("document"), asked)
    return {"count": count, "items": [_line(job) for job in jobs]}


@router.post("", response={201: JobOut})
def create_job(request: HttpRequest, payload: DocumentIn) -> Status[JobOut]:
    """A new job."""
    return Status(201, _job_out(services.create_job(workshop_of(request), payload.document, _user(request))))


@router.post("/import", response={201: JobOut})
def import_job(request: HttpRequest, file: File[UploadedFile]) -> Status[JobOut]:
    """A new job from a job file of any version."""
    raw = file.read(LARGEST_FILE_BYTES + 1)
    job = services.import_job(workshop_of(request), raw, file.name or "job.json", _user(request))
    return Status(201, _job_out(job))


@router.get("/{job_id}", response=JobOut)
def read_job(request: HttpRequest, job_id: Id) -> JobOut:
    """A job with its document; values that are no longer allowed stand in it and are named in `problems`."""
    return _job_out(job_of(request, job_id))


@router.put("/{job_id}", response={200: JobOut, 409: Problem})
def save_job(request: HttpRequest, job_id: Id, payload: SaveJob) -> JobOut:
    """Save a document over the version it was changed from."""
    saved = services.save_job(job_of(request, job_id), payload.version, payload.document, _user(request))
    return JobOut(id=saved.pk, version=saved.version, updated_at=saved.updated_at, document=saved.document, problems=[])


@router.put("/{job_id}/archived", response=JobLine)
def archive_job(request: HttpRequest, job_id: Id, payload: Archived) -> JobLine:
    """Put a job away, or take it out again."""
    return _line(services.archive(job_of(request, job_id), payload.archived))


@router.delete("/{job_id}", response={204: None})
def delete_job(request: HttpRequest, job_id: Id) -> Status[None]:
    """Remove a job with its revisions; it can be put back for a month."""
    services.delete_job(job_of(request, job_id))
    return Status(204, None)


@router.get("/{job_id}/file", openapi_extra=content("application/json", shape="JobDocument"))
def export_job(request: HttpRequest, job_id: Id) -> HttpResponse:
    """The job file."""
    job = job_of(request, job_id)
    document = recordings.whole(job.workshop_id, read_document(job.document))
    return attachment(write_job(document), "application/json", f"job-{job.pk}.json")


@router.get("/{job_id}/revisions", response=Page[RevisionLine])
def list_revisions(request: HttpRequest, job_id: Id, asked: Query[Paged]) -> dict[str, Any]:
    """The job's saves, the latest first, each with what it changed; `search` is a part of a saver's name."""
    rows = job_of(request, job_id).revisions.all()
    if asked.search:
        rows = rows.filter(saved_by_name__icontains=asked.search)
    count, revisions = page(rows, asked)
    return {
        "count": count,
        "items": [
            RevisionLine(
                version=each.version,
                saved_at=each.saved_at,
                saved_by=each.saved_by_name or None,
                changes=changes,
            )
            for each, changes in services.with_changes(revisions)
        ],
    }


@router.get("/{job_id}/revisions/{version}", response=JobOut)
def read_revision(request: HttpRequest, job_id: Id, version: Id) -> JobOut:
    """The document as it was saved under a version number."""
    revision = get_object_or_404(job_of(request, job_id).revisions, version=version)
    return _out(job_id, version, revision.saved_at, revision.document)
