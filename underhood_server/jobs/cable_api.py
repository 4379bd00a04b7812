"""The cables of a setup: sizes, fuses, tests with a meter, the schedule, the tree. Nothing here is stored."""

from __future__ import annotations

from django.http import HttpRequest, HttpResponse
from ninja import File, Form, Router
from ninja.files import UploadedFile

from underhood.cable import gauge
from underhood.cable.gauge import GaugeCheck
from underhood.document.job import LARGEST_FILE_BYTES, JobDocument, read_job
from underhood.errors import BadInput
from underhood.harness import drop_test, edits, schedule_csv, size_options
from underhood.harness.edits import Offer
from underhood.harness.schedule import Schedule, schedule
from underhood.harness.size_options import CableChoices, CablePlan
from underhood_server.accounts.services import workshop_of
from underhood_server.api.problems import Problem
from underhood_server.jobs.schemas import DropTestIn, DropTestOut, GaugeIn, LayoutIn, SetupIn
from underhood_server.workshop.services import settings_of

router = Router(by_alias=True)


@router.post("/cable-plan", response={200: CablePlan, 422: Problem})
def make_cable_plan(request: HttpRequest, payload: SetupIn) -> CablePlan:
    """Sizes for every cable by both schools, the amplifiers' own fuses, and the speaker leads."""
    return size_options.plan(payload.setup, settings_of(workshop_of(request)))


@router.post("/cable-choices/{index}", response={200: CableChoices, 422: Problem})
def list_cable_choices(request: HttpRequest, index: int, payload: SetupIn) -> CableChoices:
    """Every size in stock for one cable of a setup, the others as they stand."""
    return size_options.choices(payload.setup, index, settings_of(workshop_of(request)))


@router.post("/cable-schedule", response={200: Schedule, 422: Problem})
def make_schedule(request: HttpRequest, payload: SetupIn) -> Schedule:
    """The cut list with terminals, fuses, weight and price."""
    return schedule(payload.setup, settings_of(workshop_of(request)))


@router.post("/cable-schedule.csv", response={422: Problem})
def export_schedule(request: HttpRequest, payload: SetupIn) -> HttpResponse:
    """The same as a CSV table."""
    found = schedule(payload.setup, settings_of(workshop_of(request)))
    return HttpResponse(schedule_csv.write(found), content_type="text/csv; charset=utf-8")


@router.post("/cable-schedule/read", response={200: JobDocument, 422: Problem})
def read_schedule(request: HttpRequest, file: File[UploadedFile], setup: Form[str]) -> JobDocument:
    """A setup with its cables as a schedule in CSV states them."""
    job = read_job(setup[: LARGEST_FILE_BYTES + 1])
    return schedule_csv.read(job, file.read(schedule_csv.LARGEST_BYTES + 1), file.name or "schedule.csv")


@router.post("/cable-layout", response={200: list[Offer], 422: Problem})
def list_layout_changes(request: HttpRequest, payload: SetupIn) -> list[Offer]:
    """What can be put into the tree of a setup, or taken out of it."""
    return edits.offers(payload.setup)


@router.post("/cable-layout/change", response={200: JobDocument, 422: Problem})
def change_layout(request: HttpRequest, payload: LayoutIn) -> JobDocument:
    """The setup with one such change made."""
    return edits.change(payload.setup, payload.key)


@router.post("/gauge-check", response={200: GaugeCheck, 422: Problem})
def check_gauge(request: HttpRequest, payload: GaugeIn) -> GaugeCheck:
    """Whether a cable is the gauge on its label."""
    if payload.strands is not None:
        return gauge.by_strands(payload.size, payload.conductor, payload.strands)
    if payload.drop is not None:
        return gauge.by_drop(payload.size, payload.conductor, payload.drop)
    raise BadInput("nothing was read; give strands, or the volts dropped over a length", "strands")


@router.post("/drop-test", response={200: DropTestOut, 422: Problem})
def run_drop_test(request: HttpRequest, payload: DropTestIn) -> DropTestOut:
    """A reading across a way back or joints, put into the setup as measured."""
    done = drop_test.run(payload.setup, payload.field, payload.what, payload.reading)
    return DropTestOut(
        found=done.found, was_ohm=done.was_ohm, setup=done.job, drop_before_v=done.drop_before_v, drop_v=done.drop_v
    )
