"""Operations on the bench book."""

from __future__ import annotations

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from ninja import File, Router, Status
from ninja.files import UploadedFile

from server.accounts.services import workshop_of
from server.bench import services
from server.bench.models import Amplifier
from server.bench.schemas import AmplifierLine, AmplifierOut, Curve, JobAmplifier, Reading
from server.config.problems import Problem
from underhood.amplifier import AmplifierRecord
from underhood.bench import runs as bench_runs
from underhood.bench import sheet_csv

router = Router(by_alias=True)


def _amplifier(request: HttpRequest, amplifier_id: int) -> Amplifier:
    return get_object_or_404(services.amplifiers_of(workshop_of(request)), pk=amplifier_id)


def _line(amplifier: Amplifier) -> AmplifierLine:
    record = AmplifierRecord.model_validate(amplifier.record)
    return AmplifierLine(
        id=amplifier.pk,
        name=amplifier.name,
        amplifier_class=record.class_,
        price=record.price.value if record.price else None,
        currency=record.currency,
        **amplifier.summary,
    )


def _out(amplifier: Amplifier) -> AmplifierOut:
    sheet = services.bench_sheet(amplifier)
    sheets = list(amplifier.sheets.all())
    return AmplifierOut(
        id=amplifier.pk,
        record=sheet.record,
        claims=list(sheet.claims),
        readings=[
            Reading(
                **run.model_dump(),
                out_w=bench_runs.output_watts(run),
                efficiency=bench_runs.efficiency(run),
                heat_w=bench_runs.heat_watts(run),
            )
            for run in sheet.runs
        ],
        curves=[Curve.model_validate(found) for found in services.curves(sheet)],
        file_name=sheets[0].file_name if sheets else None,
        sheets=len(sheets),
    )


@router.get("", response=list[AmplifierLine])
def list_amplifiers(request: HttpRequest) -> list[AmplifierLine]:
    """The workshop's amplifiers by name."""
    return [_line(amplifier) for amplifier in workshop_of(request).amplifiers.all()]


@router.post("/import", response={200: AmplifierOut, 422: Problem})
def import_sheet(request: HttpRequest, file: File[UploadedFile]) -> AmplifierOut:
    """Import a bench sheet in CSV."""
    content = file.read(sheet_csv.LARGEST_BYTES + 1)
    amplifier = services.import_sheet(workshop_of(request), content, file.name or "sheet.csv")
    return _out(_amplifier(request, amplifier.pk))


@router.get("/{amplifier_id}", response={200: AmplifierOut, 404: Problem})
def read_amplifier(request: HttpRequest, amplifier_id: int) -> AmplifierOut:
    """An amplifier with its newest sheet and fitted curves."""
    return _out(_amplifier(request, amplifier_id))


@router.get("/{amplifier_id}/for-job", response={200: JobAmplifier, 404: Problem})
def amplifier_for_job(request: HttpRequest, amplifier_id: int) -> JobAmplifier:
    """The amplifier as a job embeds it."""
    amplifier = _amplifier(request, amplifier_id)
    sheet = services.bench_sheet(amplifier)
    sheets = list(amplifier.sheets.all())
    note = f"bench, {sheets[0].file_name}, {sheets[0].imported_at:%Y-%m-%d}" if sheets else "bench, no sheet"
    return JobAmplifier(record=sheet.record, runs=list(sheet.runs), claims=list(sheet.claims), came_from=note)


@router.get("/{amplifier_id}/sheet.csv", response={404: Problem})
def export_sheet(request: HttpRequest, amplifier_id: int) -> HttpResponse:
    """The newest sheet as CSV, readable by `import`."""
    amplifier = _amplifier(request, amplifier_id)
    response = HttpResponse(sheet_csv.write(services.bench_sheet(amplifier)), content_type="text/csv; charset=utf-8")
    response["Content-Disposition"] = f'attachment; filename="amplifier-{amplifier.pk}.csv"'
    return response


@router.delete("/{amplifier_id}", response={204: None, 404: Problem})
def delete_amplifier(request: HttpRequest, amplifier_id: int) -> Status[None]:
    """Remove an amplifier; jobs keep their copies."""
    services.delete_amplifier(_amplifier(request, amplifier_id))
    return Status(204, None)
