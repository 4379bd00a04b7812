"""Changes to the bench book: amplifiers, their sheets by date, their claims. Every save counts a version."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date
from typing import Any

from django.db import IntegrityError, transaction
from django.db.models import Prefetch, QuerySet
from django.http import Http404
from django.utils import timezone

from underhood.amplifier import sheet_csv
from underhood.amplifier.audit import audit
from underhood.amplifier.claims import judge
from underhood.amplifier.curves import rated
from underhood.amplifier.sheet import CRITERIA
from underhood.amplifier.sheet import Sheet as BenchSheet
from underhood.document.amplifier import AmplifierRecord, Measurement
from underhood.document.amplifier import Claim as ClaimDocument
from underhood.errors import BadInput
from underhood_server.accounts.models import Workshop
from underhood_server.api.problems import Conflict
from underhood_server.bench.models import Amplifier, Claim, Run, Sheet


def amplifiers_of(workshop: Workshop) -> QuerySet[Amplifier]:
    """The workshop's amplifiers with everything on them, in a fixed number of queries."""
    sheets = Prefetch("sheets", Sheet.objects.prefetch_related("runs"))
    return workshop.amplifiers.prefetch_related(sheets, "claims")


@transaction.atomic
def import_sheet(workshop: Workshop, content: bytes, file_name: str) -> Amplifier:
    """Store a bench sheet; an amplifier already known by that name gets it as a further sheet.

    What the file's header says of a known amplifier goes over what was on record; the rest of the record stays. Raises
    BadInput for a file that cannot be used; nothing of it is then stored.
    """
    sheet = sheet_csv.read(content, file_name)
    amplifier, new = Amplifier.objects.get_or_create(
        workshop=workshop, name=sheet.record.name, defaults={"record": _document(sheet.record)}
    )
    if not new:
        said = sheet.record.model_dump(mode="json", by_alias=True, exclude_unset=True)
        amplifier.record = {**amplifier.record, **said}
        amplifier.version += 1
    days = [run.date for run in sheet.runs if run.date]
    if sheet.runs:
        stored = Sheet.objects.create(
            amplifier=amplifier, file_name=file_name[:200], measured_on=max(days, default=timezone.localdate())
        )
        _store_runs(stored, sheet.runs)
    if sheet.claims:
        _store_claims(amplifier, sheet.claims)
    return _summed_up(amplifier)


@transaction.atomic
def create_amplifier(workshop: Workshop, record: AmplifierRecord) -> Amplifier:
    """An amplifier with nothing measured yet. Raises BadInput for a name that is taken."""
    _free_name(workshop, record.name)
    return _summed_up(Amplifier.objects.create(workshop=workshop, name=record.name, record=_document(record)))


@transaction.atomic
def save_amplifier(
    amplifier: Amplifier, version: int, record: AmplifierRecord, claims: Sequence[ClaimDocument]
) -> Amplifier:
    """Record and claims over the version they were changed from. Raises Conflict when another save came first."""
    if amplifier.version != version:
        raise Conflict(amplifier.version)
    if record.name != amplifier.name:
        _free_name(amplifier.workshop, record.name)
    amplifier.name, amplifier.record, amplifier.version = record.name, _document(record), version + 1
    _store_claims(amplifier, claims)
    return _summed_up(amplifier)


@transaction.atomic
def import_claims(amplifier: Amplifier, content: bytes, file_name: str) -> Amplifier:
    """Claims of a file in place of those on record. Raises BadInput for a file that cannot be used."""
    _store_claims(amplifier, sheet_csv.read_claims(content, file_name))
    amplifier.version += 1
    return _summed_up(amplifier)


def _free_name(workshop: Workshop, name: str) -> None:
    if workshop.amplifiers.filter(name=name).exists():
        raise BadInput(f"{name!r} is on the bench already; give another name", "record.name")


@transaction.atomic
def create_sheet(amplifier: Amplifier, measured_on: date, note: str, rows: Sequence[dict[str, str]]) -> Sheet:
    """A further sheet, entered by hand. Raises BadInput naming row and column."""
    runs = runs_of_rows(rows)
    sheet = Sheet.objects.create(amplifier=amplifier, measured_on=measured_on, note=note)
    _store_runs(sheet, runs)
    _summed_up(amplifier)
    return sheet


@transaction.atomic
def save_sheet(sheet: Sheet, version: int, measured_on: date, note: str, rows: Sequence[dict[str, str]]) -> Sheet:
    """Readings over the version they were changed from. Raises BadInput for a row, Conflict for another save."""
    runs = runs_of_rows(rows)
    if sheet.version != version:
        raise Conflict(sheet.version)
    sheet.measured_on, sheet.note, sheet.version = measured_on, note, version + 1
    sheet.save()
    sheet.runs.all().delete()
    _store_runs(sheet, runs)
    _summed_up(sheet.amplifier)
    return sheet


@transaction.atomic
def delete_sheet(sheet: Sheet) -> None:
    """Remove a sheet with its readings."""
    amplifier = sheet.amplifier
    sheet.delete()
    _summed_up(amplifier)


@transaction.atomic
def delete_amplifier(amplifier: Amplifier) -> None:
    """Remove an amplifier and its sheets; jobs keep their own copies."""
    amplifier.delete()


def runs_of_rows(rows: Sequence[dict[str, str]]) -> list[Measurement]:
    """Readings from the grid's rows; rows without any text are passed over. Raises BadInput naming row and column."""
    return [
        sheet_csv.run_of_cells(cells, number, decimal_comma=True)
        for number, cells in enumerate(rows, start=1)
        if any(cell.strip() for cell in cells.values())
    ]


def _document(record: AmplifierRecord) -> dict[str, Any]:
    return record.model_dump(mode="json", by_alias=True)


def _store_runs(sheet: Sheet, runs: Sequence[Measurement]) -> None:
    Run.objects.bulk_create(
        Run(
            sheet=sheet,
            position=position,
            load_ohm=run.load_ohm,
            criterion=run.criterion,
            reading=run.model_dump(mode="json", exclude_defaults=True),
        )
        for position, run in enumerate(runs)
    )


def _store_claims(amplifier: Amplifier, claims: Sequence[ClaimDocument]) -> None:
    amplifier.claims.all().delete()
    Claim.objects.bulk_create(
        Claim(amplifier=amplifier, load_ohm=c.load_ohm, kind=c.kind, claim=c.model_dump(mode="json")) for c in claims
    )


def _summed_up(amplifier: Amplifier) -> Amplifier:
    """Saves the amplifier with what lists show of its newest sheet. Raises BadInput for a sheet that cannot be used."""
    fresh = amplifiers_of(amplifier.workshop).get(pk=amplifier.pk)
    fresh.record = amplifier.record
    amplifier.summary = summary(bench_sheet(fresh))
    try:
        amplifier.save()
    except IntegrityError:  # two people took the name at the same moment
        raise BadInput(f"{amplifier.name!r} is on the bench already; give another name", "record.name") from None
    return amplifier


def opened_sheet(amplifier: Amplifier, sheet_id: int | None = None) -> Sheet | None:
    """The sheet asked for, else the newest; None where nothing was measured. Raises Http404 for an unknown one."""
    found = next((each for each in amplifier.sheets.all() if sheet_id in (None, each.pk)), None)
    if found is None and sheet_id is not None:
        raise Http404
    return found


def bench_sheet(amplifier: Amplifier, sheet_id: int | None = None) -> BenchSheet:
    """A sheet as the core knows it; the record and claims alone where nothing was measured."""
    sheet = opened_sheet(amplifier, sheet_id)
    readings = [run.reading for run in sheet.runs.all()] if sheet else []
    return BenchSheet(
        AmplifierRecord.model_validate(amplifier.record),
        tuple(Measurement.model_validate(reading) for reading in readings),
        tuple(ClaimDocument.model_validate(claim.claim) for claim in amplifier.claims.all()),
    )


def summary(sheet: BenchSheet) -> dict[str, Any]:
    """What a list shows of a sheet: readings, criteria, measured watts, what a watt costs, verdict and findings."""
    watts, ohm = rated(sheet) or (None, None)
    price = sheet.record.price.value if sheet.record.price else None
    return {
        "runs": len(sheet.runs),
        "criteria": [criterion for criterion in CRITERIA if any(run.criterion == criterion for run in sheet.runs)],
        "lowest_load_ohm": min((run.load_ohm for run in sheet.runs), default=None),
        "rated_w": watts,
        "rated_ohm": ohm,
        "price_per_watt": None
        if price is None or not watts or not sheet.runs
        else price / (watts * sheet.record.outputs),
        "verdict": judge(sheet).verdict,
        "findings": sum(each.severity != "note" for each in audit(sheet)),
        "channels": int(sheet.record.channels.value),
    }
