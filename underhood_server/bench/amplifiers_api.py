"""Operations on the bench book: amplifiers, their claims, their sheets."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from ninja import File, Form, Query, Router, Status
from ninja.files import UploadedFile
from pydantic import Field

from underhood.amplifier import claims, curves, measurement, sheet_csv
from underhood.amplifier.audit import audit
from underhood.bench.source_resistance import stiffness
from underhood.circuit.start import usual_amplifier
from underhood.document.job import Amplifier as JobAmplifier
from underhood_server.accounts.services import workshop_of
from underhood_server.api.problems import Problem
from underhood_server.api.shapes import Id, Page, Paged, attachment, content, page
from underhood_server.bench import services
from underhood_server.bench.models import Amplifier, Sheet
from underhood_server.bench.schemas import (
    AmplifierLine,
    AmplifierOut,
    AmplifierSummary,
    NewAmplifier,
    NewSheet,
    SaveAmplifier,
    SaveSheet,
    SheetLine,
    SheetOf,
    SheetReading,
    SheetRevisionLine,
)
from underhood_server.storage import summaries

router = Router(by_alias=True)
CSV = "text/csv; charset=utf-8"
ToneAsked = Annotated[float, Field(gt=0, le=20000, allow_inf_nan=False)] | None


def amplifier_of(request: HttpRequest, amplifier_id: Id) -> Amplifier:
    """The workshop's amplifier by its number; what belongs to another workshop is not there."""
    return get_object_or_404(services.amplifiers_of(workshop_of(request)), pk=amplifier_id)


def _sheet(request: HttpRequest, amplifier_id: Id, sheet_id: Id) -> Sheet:
    sheets = Sheet.objects.filter(amplifier__workshop=workshop_of(request)).select_related("amplifier__workshop")
    return get_object_or_404(sheets, amplifier_id=amplifier_id, pk=sheet_id)


class AmplifiersAsked(Paged):
    """Which amplifiers: `search` is a part of the name."""

    sort: Literal["name", "-name", "created_at", "-created_at"] = "name"


def _line(amplifier: Amplifier) -> AmplifierLine:
    shown, problem = summaries.current(services.KIND, amplifier.summary)
    summary = None if shown is None else AmplifierSummary(**shown)
    return AmplifierLine(id=amplifier.pk, name=amplifier.name, summary=summary, problem=problem)


def _sheet_line(sheet: Sheet) -> SheetLine:
    return SheetLine(
        id=sheet.pk,
        measured_on=sheet.measured_on,
        file_name=sheet.file_name,
        note=sheet.note,
        version=sheet.version,
        runs=len(sheet.runs.all()),
    )


def _out(amplifier: Amplifier, sheet_id: int | None = None, tone_hz: ToneAsked = None) -> AmplifierOut:
    opened = services.opened_sheet(amplifier, sheet_id)
    sheet = services.bench_sheet(amplifier, sheet_id)
    return AmplifierOut(
        id=amplifier.pk,
        version=amplifier.version,
        record=sheet.record,
        one_output=sheet.record.one_output,
        claims=list(sheet.claims),
        sheets=[_sheet_line(each) for each in amplifier.sheets.all()],
        sheet=_sheet_line(opened) if opened else None,
        cells=[sheet_csv.cells_of_run(run) for run in sheet.runs],
        readings=[
            SheetReading(
                **run.model_dump(),
                out_w=measurement.output_watts(run),
                efficiency=measurement.efficiency(run),
                heat_w=measurement.heat_watts(run),
            )
            for run in sheet.runs
        ],
        curves=curves.curves(sheet, tone_hz),
        tones_hz=measurement.tones_hz(sheet.runs),
        findings=audit(sheet),
        judged=claims.judge(sheet),
        stiffness=stiffness(sheet),
    )


@router.get("", response=Page[AmplifierLine])
def list_amplifiers(request: HttpRequest, asked: Query[AmplifiersAsked]) -> dict[str, Any]:
    """The workshop's amplifiers by name."""
    rows = workshop_of(request).amplifiers.filter(name__icontains=asked.search).order_by(asked.sort, "id")
    count, amplifiers = page(rows.defer("record"), asked)
    return {"count": count, "items": [_line(amplifier) for amplifier in amplifiers]}


@router.post("", response={201: AmplifierOut})
def create_amplifier(request: HttpRequest, payload: NewAmplifier) -> Status[AmplifierOut]:
    """A new amplifier with nothing measured yet."""
    amplifier = services.create_amplifier(workshop_of(request), payload.record)
    return Status(201, _out(amplifier_of(request, amplifier.pk)))


@router.post("/import", response=AmplifierOut)
def import_sheet(request: HttpRequest, file: File[UploadedFile], asked: Form[SheetOf]) -> AmplifierOut:
    """Import a bench sheet in CSV."""
    content = file.read(sheet_csv.LARGEST_BYTES + 1)
    amplifier = services.import_sheet(workshop_of(request), content, file.name or "sheet.csv", asked.name.strip())
    return _out(amplifier_of(request, amplifier.pk))


@router.get("/{amplifier_id}", response=AmplifierOut)
def read_amplifier(
    request: HttpRequest, amplifier_id: Id, sheet: Id | None = None, tone_hz: ToneAsked = None
) -> AmplifierOut:
    """An amplifier with its newest sheet, or the one asked for, and what follows from it."""
    return _out(amplifier_of(request, amplifier_id), sheet, tone_hz)


@router.put("/{amplifier_id}", response={200: AmplifierOut, 409: Problem})
def save_amplifier(request: HttpRequest, amplifier_id: Id, payload: SaveAmplifier) -> AmplifierOut:
    """Save record and claims over the version they were changed from."""
    services.save_amplifier(amplifier_of(request, amplifier_id), payload.version, payload.record, payload.claims)
    return _out(amplifier_of(request, amplifier_id))


@router.post("/{amplifier_id}/claims/import", response=AmplifierOut)
def import_claims(request: HttpRequest, amplifier_id: Id, file: File[UploadedFile]) -> AmplifierOut:
    """Claims from a CSV file, in place of those on record."""
    content = file.read(sheet_csv.LARGEST_BYTES + 1)
    services.import_claims(amplifier_of(request, amplifier_id), content, file.name or "claims.csv")
    return _out(amplifier_of(request, amplifier_id))


@router.post("/{amplifier_id}/sheets", response={201: AmplifierOut})
def create_sheet(request: HttpRequest, amplifier_id: Id, payload: NewSheet) -> Status[AmplifierOut]:
    """A further sheet, entered by hand."""
    amplifier = amplifier_of(request, amplifier_id)
    sheet = services.create_sheet(amplifier, payload.measured_on, payload.note, payload.rows)
    return Status(201, _out(amplifier_of(request, amplifier_id), sheet.pk))


@router.put("/{amplifier_id}/sheets/{sheet_id}", response={200: AmplifierOut, 409: Problem})
def save_sheet(request: HttpRequest, amplifier_id: Id, sheet_id: Id, payload: SaveSheet) -> AmplifierOut:
    """Save a sheet's readings over the version they were changed from."""
    sheet = _sheet(request, amplifier_id, sheet_id)
    services.save_sheet(sheet, payload.version, payload.measured_on, payload.note, payload.rows)
    return _out(amplifier_of(request, amplifier_id), sheet_id)


@router.delete("/{amplifier_id}/sheets/{sheet_id}", response={204: None})
def delete_sheet(request: HttpRequest, amplifier_id: Id, sheet_id: Id) -> Status[None]:
    """Remove a sheet with its readings; it can be put back for a month."""
    services.delete_sheet(_sheet(request, amplifier_id, sheet_id))
    return Status(204, None)


@router.get("/{amplifier_id}/sheets/{sheet_id}/revisions", response=Page[SheetRevisionLine])
def list_sheet_revisions(request: HttpRequest, amplifier_id: Id, sheet_id: Id, asked: Query[Paged]) -> dict[str, Any]:
    """Every save of a sheet, the latest first; `search` is a part of a saver's name."""
    rows = _sheet(request, amplifier_id, sheet_id).revisions.filter(saved_by_name__icontains=asked.search)
    count, found = page(rows, asked)
    return {
        "count": count,
        "items": [
            SheetRevisionLine(
                version=each.version,
                saved_at=each.saved_at,
                saved_by=each.saved_by_name or None,
                measured_on=each.measured_on,
                note=each.note,
                cells=services.cells_of(each),
            )
            for each in found
        ],
    }


@router.get("/{amplifier_id}/job-amplifier", response=JobAmplifier)
def amplifier_for_job(request: HttpRequest, amplifier_id: Id) -> JobAmplifier:
    """The amplifier as a job embeds it, with a usual lead and load."""
    amplifier = amplifier_of(request, amplifier_id)
    sheet = services.bench_sheet(amplifier)
    opened = services.opened_sheet(amplifier)
    note = f"bench, sheet of {opened.measured_on}" if opened else "bench, nothing measured"
    return usual_amplifier(sheet.record, sheet.runs, sheet.claims, note)


@router.get("/{amplifier_id}/sheet", openapi_extra=content("text/csv"))
def export_sheet(request: HttpRequest, amplifier_id: Id, sheet: Id | None = None) -> HttpResponse:
    """A sheet as CSV, readable by `import`; the newest where none is named."""
    amplifier = amplifier_of(request, amplifier_id)
    return attachment(sheet_csv.write(services.bench_sheet(amplifier, sheet)), CSV, f"amplifier-{amplifier.pk}.csv")


@router.get("/{amplifier_id}/curves", openapi_extra=content("text/csv"))
def export_curves(request: HttpRequest, amplifier_id: Id, sheet: Id | None = None) -> HttpResponse:
    """The fitted curves as CSV, for a spreadsheet."""
    amplifier = amplifier_of(request, amplifier_id)
    found = curves.curves(services.bench_sheet(amplifier, sheet))
    return attachment(curves.csv_text(found), CSV, f"curves-{amplifier.pk}.csv")


@router.delete("/{amplifier_id}", response={204: None})
def delete_amplifier(request: HttpRequest, amplifier_id: Id) -> Status[None]:
    """Remove an amplifier, which can be put back for a month; jobs keep their copies."""
    services.delete_amplifier(amplifier_of(request, amplifier_id))
    return Status(204, None)
