"""Operations on jobs, and forecasts of setups."""

from __future__ import annotations

from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from ninja import File, Router, Status
from ninja.files import UploadedFile

from underhood.document.job import LARGEST_FILE_BYTES, JobDocument, Load
from underhood.forecast import cautions
from underhood.forecast.forecast import make_forecast
from underhood.forecast.sensitivity import measure_next
from underhood.loudspeaker import coils
from underhood_server.accounts.models import User
from underhood_server.accounts.services import workshop_of
from underhood_server.api.problems import Problem
from underhood_server.jobs import services
from underhood_server.jobs.models import Job
from underhood_server.jobs.schemas import (
    ForecastOut,
    JobLine,
    JobOut,
    MeasureNext,
    RevisionLine,
    SaveJob,
    SetupIn,
    WiringOut,
)

router = Router(by_alias=True)
STATIONS = ("load", "amplifiers", "draw", "supply", "cable")


def _job(request: HttpRequest, job_id: int) -> Job:
    return get_object_or_404(Job, pk=job_id, workshop=workshop_of(request))


def _user(request: HttpRequest) -> User | None:
    return request.user if isinstance(request.user, User) else None


def _out(job: Job) -> JobOut:
    return JobOut(
        id=job.pk, version=job.version, updated_at=job.updated_at, setup=JobDocument.model_validate(job.setup)
    )


@router.get("/jobs", response=list[JobLine])
def list_jobs(request: HttpRequest) -> list[JobLine]:
    """The workshop's jobs, the latest first."""
    return [
        JobLine(
            id=job.pk,
            title=job.title,
            version=job.version,
            updated_at=job.updated_at,
            **job.summary,
        )
        for job in workshop_of(request).jobs.defer("setup")
    ]


@router.post("/jobs", response={201: JobOut, 422: Problem})
def create_job(request: HttpRequest, payload: SetupIn) -> Status[JobOut]:
    """A new job."""
    return Status(201, _out(services.create_job(workshop_of(request), payload.setup, _user(request))))


@router.post("/jobs/import", response={201: JobOut, 422: Problem})
def import_job(request: HttpRequest, file: File[UploadedFile]) -> Status[JobOut]:
    """A new job from a job file."""
    content = file.read(LARGEST_FILE_BYTES + 1)
    job = services.import_job(workshop_of(request), content, file.name or "job.json", _user(request))
    return Status(201, _out(job))


@router.get("/jobs/{job_id}", response={200: JobOut, 404: Problem})
def read_job(request: HttpRequest, job_id: int) -> JobOut:
    """A job with its setup."""
    return _out(_job(request, job_id))


@router.put("/jobs/{job_id}", response={200: JobOut, 404: Problem, 409: Problem, 422: Problem})
def save_job(request: HttpRequest, job_id: int, payload: SaveJob) -> JobOut:
    """Save a setup over the version it was changed from."""
    _job(request, job_id)
    return _out(services.save_job(job_id, workshop_of(request), payload.version, payload.setup, _user(request)))


@router.delete("/jobs/{job_id}", response={204: None, 404: Problem})
def delete_job(request: HttpRequest, job_id: int) -> Status[None]:
    """Remove a job with its revisions."""
    services.delete_job(_job(request, job_id))
    return Status(204, None)


@router.get("/jobs/{job_id}/job.json", response={404: Problem})
def export_job(request: HttpRequest, job_id: int) -> HttpResponse:
    """The job file."""
    job = _job(request, job_id)
    text = JobDocument.model_validate(job.setup).model_dump_json(by_alias=True, indent=1)
    response = HttpResponse(text, content_type="application/json")
    response["Content-Disposition"] = f'attachment; filename="job-{job.pk}.json"'
    return response


@router.get("/jobs/{job_id}/revisions", response={200: list[RevisionLine], 404: Problem})
def list_revisions(request: HttpRequest, job_id: int) -> list[RevisionLine]:
    """The job's saves, the latest first."""
    revisions = _job(request, job_id).revisions.select_related("saved_by").defer("setup")[:200]
    return [
        RevisionLine(version=r.version, saved_at=r.saved_at, saved_by=r.saved_by.username if r.saved_by else None)
        for r in revisions
    ]


@router.get("/jobs/{job_id}/revisions/{version}", response={200: JobOut, 404: Problem})
def read_revision(request: HttpRequest, job_id: int, version: int) -> JobOut:
    """The setup as it was saved under a version number."""
    revision = get_object_or_404(_job(request, job_id).revisions, version=version)
    setup = JobDocument.model_validate(revision.setup)
    return JobOut(id=job_id, version=version, updated_at=revision.saved_at, setup=setup)


@router.post("/forecast", response={200: ForecastOut, 422: Problem})
def create_forecast(request: HttpRequest, payload: SetupIn) -> dict[str, Any]:
    """The forecast of a setup, saved or not."""
    forecast = make_forecast(payload.setup)
    output_v = max((each.output_v for each in forecast.amplifiers), default=0.0)
    return {
        **forecast.numbers(),
        "figures": forecast.figures(),
        "cautions": {station: cautions.for_station(forecast.job, station, output_v) for station in STATIONS},
    }


@router.post("/measure-next", response={200: MeasureNext, 422: Problem})
def what_to_measure_next(request: HttpRequest, payload: SetupIn) -> MeasureNext:
    """The assumptions that move the answer most."""
    return MeasureNext(assumptions=measure_next(payload.setup))


@router.get("/wirings", response={200: list[WiringOut], 422: Problem})
def list_wirings(request: HttpRequest, drivers: float, coils_per_driver: float, coil_ohm: float) -> list[WiringOut]:
    """Every way to wire equal drivers."""
    load = Load.model_validate({"drivers": drivers, "coils_per_driver": coils_per_driver, "coil_ohm": coil_ohm})
    found = coils.arrangements(int(load.drivers.value), int(load.coils_per_driver.value), load.coil_ohm.value)
    return [WiringOut(words=each.words, load_ohm=each.load_ohm, coil_share=each.coil_share) for each in found]
