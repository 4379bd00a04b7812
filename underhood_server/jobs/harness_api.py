"""The cables of a job document: sizes, fuses, tests with a meter, the schedule, the tree. No job is stored."""

from __future__ import annotations

from django.http import HttpRequest, HttpResponse
from ninja import File, Form, Router
from ninja.files import UploadedFile

from underhood.cable import gauge
from underhood.cable.gauge import GaugeCheck
from underhood.document.job import JobDocument
from underhood.document.job_file import LARGEST_FILE_BYTES, read_job
from underhood.errors import BadInput
from underhood.harness import drop_test, edits, schedule_csv, size_options
from underhood.harness.drop_test import DropTestResult
from underhood.harness.schedule import Schedule, schedule
from underhood.harness.size_options import CableChoices, CablePlan
from underhood_server.accounts.permission import VIEWER
from underhood_server.accounts.services import settings_of, workshop_of
from underhood_server.api.shapes import attachment, content
from underhood_server.jobs import recordings
from underhood_server.jobs.schemas import DocumentIn, DropTestIn, EditIn, GaugeTestIn, Offers, SizesIn

router = Router(by_alias=True, auth=VIEWER)


@router.post("/cable-options", response=CablePlan)
def list_cable_options(request: HttpRequest, payload: DocumentIn) -> CablePlan:
    """Sizes for every cable by both sizing bases, the amplifiers' own fuses, and the speaker leads."""
    return size_options.plan(payload.document, settings_of(request))


@router.post("/cable-options/{index}", response=CableChoices)
def list_cable_choices(request: HttpRequest, index: int, payload: SizesIn) -> CableChoices:
    """Sizes in stock for one cable of a job, round those that pass, the others as they stand."""
    found = size_options.choices(payload.document, index, settings_of(request))
    return size_options.looked_at(found, payload.sizes.conductor, payload.sizes.runs, payload.sizes.kind)


@router.post("/cable-schedules", response=Schedule)
def create_schedule(request: HttpRequest, payload: DocumentIn) -> Schedule:
    """The cut list with terminals, fuses, weight and price."""
    return schedule(payload.document, settings_of(request))


@router.post("/cable-schedules/csv", openapi_extra=content("text/csv"))
def export_schedule(request: HttpRequest, payload: DocumentIn) -> HttpResponse:
    """The same as a CSV table."""
    text = schedule_csv.write(schedule(payload.document, settings_of(request)))
    return attachment(text, "text/csv; charset=utf-8", "cable-schedule.csv")


@router.post("/cable-schedules/import", response=JobDocument)
def import_schedule(request: HttpRequest, file: File[UploadedFile], document: Form[str]) -> JobDocument:
    """A job document with its cables as a schedule in CSV states them."""
    job = read_job(document[: LARGEST_FILE_BYTES + 1])
    return schedule_csv.read(job, file.read(schedule_csv.LARGEST_BYTES + 1), file.name or "schedule.csv")


@router.post("/cable-edits", response=Offers)
def list_cable_edits(request: HttpRequest, payload: DocumentIn) -> Offers:
    """What can be put into the tree of a job, or taken out of it."""
    return Offers(offers=edits.offers(payload.document))


@router.post("/cable-edits/made", response=JobDocument)
def make_cable_edit(request: HttpRequest, payload: EditIn) -> JobDocument:
    """The job document with one such change made."""
    return recordings.apart(workshop_of(request), edits.change(payload.document, payload.key))


@router.post("/gauge-tests", response=GaugeCheck)
def read_gauge_test(request: HttpRequest, payload: GaugeTestIn) -> GaugeCheck:
    """Whether a cable is the gauge on its label."""
    if payload.strands is not None:
        return gauge.by_strands(payload.size, payload.conductor, payload.strands)
    if payload.drop is not None:
        return gauge.by_drop(payload.size, payload.conductor, payload.drop)
    raise BadInput("nothing was read; give strands, or the volts dropped over a length", "strands")


@router.post("/drop-tests", response=DropTestResult)
def read_drop_test(request: HttpRequest, payload: DropTestIn) -> DropTestResult:
    """A reading across a ground return or joints, put into the job document as measured."""
    return drop_test.run(payload.document, payload.field, payload.what, payload.reading)
