"""Readings of a job and their photographs."""

from __future__ import annotations

from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from ninja import File, Query, Router, Status
from ninja.files import UploadedFile

from underhood.document import upgrade
from underhood.proof import readings_csv
from underhood_server.accounts.models import User
from underhood_server.accounts.services import workshop_of
from underhood_server.api.shapes import Id, Page, attachment, content, page
from underhood_server.jobs.api import job_of
from underhood_server.proof import photos, services
from underhood_server.proof.models import JobReading, ReadingPhoto
from underhood_server.proof.schemas import HistoryOut, JobReadingIn, PhotoOut, ReadingOut, ReadingsAsked

router = Router(by_alias=True)


def _user(request: HttpRequest) -> User | None:
    return request.user if isinstance(request.user, User) else None


def _out(row: JobReading) -> ReadingOut:
    return ReadingOut(
        id=row.pk,
        key=row.key,
        reading=services.read(row),
        created_at=row.created_at,
        created_by=row.created_by_name,
        replaces=row.replaces_id,
        replaced=hasattr(row, "replaced_by"),
        photos=[PhotoOut(id=each.pk, width=each.width, height=each.height) for each in row.photos.all()],
    )


def _reading_of(request: HttpRequest, reading_id: int) -> JobReading:
    return get_object_or_404(
        JobReading.objects.select_related("job"), pk=reading_id, job__workshop=workshop_of(request)
    )


@router.get("/jobs/{job_id}/readings", response=Page[ReadingOut])
def list_readings(request: HttpRequest, job_id: Id, asked: Query[ReadingsAsked]) -> dict[str, Any]:
    """The job's readings in their order."""
    job = job_of(request, job_id)
    rows = job.readings.all() if asked.replaced else services.counting(job)
    rows = rows.select_related("replaced_by").prefetch_related("photos")
    count, found = page(rows, asked)
    return {"count": count, "items": [_out(each) for each in found]}


@router.post("/jobs/{job_id}/readings", response={201: ReadingOut})
def create_reading(request: HttpRequest, job_id: Id, payload: JobReadingIn) -> Status[ReadingOut]:
    """A reading; sent again with the same key it is the one that is stored already."""
    return Status(201, _out(services.add(job_of(request, job_id), payload.key, payload.reading, _user(request))))


@router.post("/jobs/{job_id}/readings/import", response={201: list[ReadingOut]})
def import_readings(request: HttpRequest, job_id: Id, file: File[UploadedFile]) -> Status[list[ReadingOut]]:
    """Readings from a CSV file; all of them, or none."""
    raw = file.read(readings_csv.LARGEST_BYTES + 1)
    rows = services.import_csv(job_of(request, job_id), raw, file.name or "readings.csv", _user(request))
    return Status(201, [_out(each) for each in rows])


@router.get("/jobs/{job_id}/readings/csv", openapi_extra=content("text/csv"))
def export_readings(request: HttpRequest, job_id: Id) -> HttpResponse:
    """The readings that count, as CSV."""
    return attachment(services.as_csv(job_of(request, job_id)), "text/csv; charset=utf-8", "readings.csv")


@router.get("/jobs/{job_id}/history", response=HistoryOut)
def read_history(request: HttpRequest, job_id: Id) -> HistoryOut:
    """What was read of the same vehicle over time, and what has changed."""
    job = job_of(request, job_id)
    plate = upgrade.read_document(job.document).vehicle_plate.strip()
    return HistoryOut(plate=plate, series=services.history_of(job))


@router.post("/readings/{reading_id}/corrections", response={201: ReadingOut})
def correct_reading(request: HttpRequest, reading_id: Id, payload: JobReadingIn) -> Status[ReadingOut]:
    """Another reading in the place of one; what was read stays."""
    row = services.correct(_reading_of(request, reading_id), payload.key, payload.reading, _user(request))
    return Status(201, _out(row))


@router.post("/readings/{reading_id}/photos", response={201: PhotoOut})
def create_photo(request: HttpRequest, reading_id: Id, file: File[UploadedFile]) -> Status[PhotoOut]:
    """A photograph of a meter or a place: JPEG or PNG, kept smaller and without where it was taken."""
    made = services.add_photo(_reading_of(request, reading_id), file.read(photos.LARGEST_BYTES + 1))
    return Status(201, PhotoOut(id=made.pk, width=made.width, height=made.height))


@router.get("/photos/{photo_id}", openapi_extra=content("image/jpeg", binary=True))
def read_photo(request: HttpRequest, photo_id: Id) -> HttpResponse:
    """A photograph."""
    found = get_object_or_404(ReadingPhoto, pk=photo_id, reading__job__workshop=workshop_of(request))
    response = HttpResponse(bytes(found.jpeg), content_type="image/jpeg")
    response["Cache-Control"] = "private, max-age=86400"
    return response
