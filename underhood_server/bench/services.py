"""Changes to the bench book: amplifiers, their sheets by date, their claims. Every save counts a version.

A sheet is fitted before its transaction begins: what cannot be fitted is refused, and nobody waits for the storage.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from dataclasses import replace
from datetime import date
from typing import Any

from django.db import IntegrityError, transaction
from django.db.models import F, Prefetch, QuerySet
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
from underhood_server.bench.models import Amplifier, Claim, Run, Sheet, SheetRevision
from underhood_server.storage import removable, summaries, trail
from underhood_server.storage.summaries import SUMMARIES, Summary
from underhood_server.storage.versioned import save_over

KIND, SHEET = "amplifier", "sheet"


def amplifiers_of(workshop: Workshop) -> QuerySet[Amplifier]:
    """The workshop's amplifiers with everything on them, in a fixed number of queries."""
    sheets = Prefetch("sheets", Sheet.objects.prefetch_related("runs"))
    return workshop.amplifiers.prefetch_related(sheets, "claims")


def import_sheet(workshop: Workshop, content: bytes, file_name: str, name: str = "") -> Amplifier:
    """Store a bench sheet; an amplifier already known by that name gets it as a further sheet.

    name   of its amplifier, where the file itself does not say

    What the file's header says of a known amplifier goes over what was on record; the rest of the record stays. Raises
    BadInput for a file that cannot be used; nothing of it is then stored.
    """
    sheet = sheet_csv.read(content, file_name)
    if not sheet_csv.names_amplifier(content):
        if not name:
            raise BadInput("names no amplifier; say which one it is of", "amplifier", file=file_name)
        sheet = replace(sheet, record=sheet.record.model_copy(update={"name": name}))
    summary_of(sheet)
    days = [run.date for run in sheet.runs if run.date]
    with transaction.atomic():
        amplifier, new = Amplifier.objects.get_or_create(
            workshop=workshop, name=sheet.record.name, defaults={"record": _document(sheet.record)}
        )
        if not new:
            said = sheet.record.model_dump(mode="json", by_alias=True, exclude_unset=True)
            save_over(workshop.amplifiers.all(), amplifier.pk, amplifier.version, record={**amplifier.record, **said})
        if sheet.runs:
            stored = Sheet.objects.create(
                amplifier=amplifier, file_name=file_name[:200], measured_on=max(days, default=timezone.localdate())
            )
            _store_runs(stored, sheet.runs)
            trail.note(workshop.pk, "imported", SHEET, stored.pk, str(stored), version=1)
        if sheet.claims:
            _store_claims(amplifier, sheet.claims)
        _counted(amplifier)
        if new or not sheet.runs:
            trail.note(workshop.pk, "imported", KIND, amplifier.pk, amplifier.name)
    return _summed_up(amplifier)


def create_amplifier(workshop: Workshop, record: AmplifierRecord) -> Amplifier:
    """An amplifier with nothing measured yet. Raises BadInput for a name that is taken."""
    summary_of(BenchSheet(record))
    with _single_name(record.name), transaction.atomic():
        amplifier = Amplifier.objects.create(workshop=workshop, name=record.name, record=_document(record))
        trail.note(workshop.pk, "made", KIND, amplifier.pk, amplifier.name, version=1)
    return _summed_up(amplifier)


def save_amplifier(
    amplifier: Amplifier, version: int, record: AmplifierRecord, claims: Sequence[ClaimDocument]
) -> Amplifier:
    """Record and claims over the version they were changed from. Raises Conflict when another save came first."""
    summary_of(replace(bench_sheet(amplifier), record=record, claims=tuple(claims)))
    rows = Amplifier.objects.filter(workshop=amplifier.workshop_id)
    with _single_name(record.name), transaction.atomic():
        saved = save_over(rows, amplifier.pk, version, name=record.name, record=_document(record))
        _store_claims(amplifier, claims)
        _counted(amplifier)
        trail.note(amplifier.workshop_id, "saved", KIND, amplifier.pk, record.name, version=saved)
    return _summed_up(amplifier)


def import_claims(amplifier: Amplifier, content: bytes, file_name: str) -> Amplifier:
    """Claims of a file in place of those on record. Raises BadInput for a file that cannot be used."""
    claims = sheet_csv.read_claims(content, file_name)
    summary_of(replace(bench_sheet(amplifier), claims=tuple(claims)))
    with transaction.atomic():
        Amplifier.objects.filter(pk=amplifier.pk).update(version=F("version") + 1)
        _store_claims(amplifier, claims)
        _counted(amplifier)
        trail.note(amplifier.workshop_id, "imported", KIND, amplifier.pk, amplifier.name, told="claims")
    return _summed_up(amplifier)


@contextmanager
def _single_name(name: str) -> Iterator[None]:
    """Turns the database's refusal of a second amplifier of a name into the field's."""
    try:
        yield
    except IntegrityError:
        text = f"{name!r} is on the bench already; give another name"
        raise BadInput(text, "record.name", value=name) from None


def create_sheet(amplifier: Amplifier, measured_on: date, note: str, rows: Sequence[dict[str, str]]) -> Sheet:
    """A further sheet, entered by hand. Raises BadInput naming row and column."""
    runs = _fitting(amplifier, rows)
    with transaction.atomic():
        sheet = Sheet.objects.create(amplifier=amplifier, measured_on=measured_on, note=note)
        _store_runs(sheet, runs)
        _counted(amplifier)
        trail.note(amplifier.workshop_id, "made", SHEET, sheet.pk, str(sheet), version=1)
    _summed_up(amplifier)
    return sheet


def save_sheet(sheet: Sheet, version: int, measured_on: date, note: str, rows: Sequence[dict[str, str]]) -> Sheet:
    """Readings over the version they were changed from. Raises BadInput for a row, Conflict for another save."""
    runs = _fitting(sheet.amplifier, rows)
    with transaction.atomic():
        of_amplifier = Sheet.objects.filter(amplifier=sheet.amplifier_id)
        sheet.version = save_over(of_amplifier, sheet.pk, version, measured_on=measured_on, note=note)
        sheet.measured_on, sheet.note = measured_on, note
        sheet.runs.all().delete()
        _store_runs(sheet, runs)
        _counted(sheet.amplifier)
        workshop_id = sheet.amplifier.workshop_id
        trail.note(workshop_id, "saved", SHEET, sheet.pk, str(sheet), version=sheet.version)
    _summed_up(sheet.amplifier)
    return sheet


def cells_of(revision: SheetRevision) -> list[dict[str, str]]:
    """A revision's readings as the grid shows them."""
    return [sheet_csv.cells_of_run(Measurement.model_validate(each)) for each in revision.runs]


def delete_sheet(sheet: Sheet) -> None:
    """Remove a sheet with its readings; it can be put back for a month."""
    amplifier = sheet.amplifier
    with transaction.atomic():
        removable.remove(sheet, amplifier.workshop_id, SHEET)
        _counted(amplifier)
    _summed_up(amplifier)


def put_sheet_back(sheet: Sheet) -> None:
    """A removed sheet counts again."""
    with transaction.atomic():
        removable.put_back(sheet, sheet.amplifier.workshop_id, SHEET)
        _counted(sheet.amplifier)
    _summed_up(sheet.amplifier)


def delete_amplifier(amplifier: Amplifier) -> None:
    """Remove an amplifier and its sheets, which can be put back for a month; jobs keep their own copies."""
    removable.remove(amplifier, amplifier.workshop_id, KIND)


def _fitting(amplifier: Amplifier, rows: Sequence[dict[str, str]]) -> list[Measurement]:
    """The rows as readings that can be fitted; the fit is then known, and not made within the transaction."""
    runs = runs_of_rows(rows)
    summary_of(replace(bench_sheet(amplifiers_of(amplifier.workshop).get(pk=amplifier.pk)), runs=tuple(runs)))
    return runs


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
    """The readings of a sheet, and what it holds as a revision of its present version."""
    plain = [run.model_dump(mode="json", exclude_defaults=True) for run in runs]
    who = trail.actor()
    SheetRevision.objects.create(
        sheet=sheet,
        version=sheet.version,
        measured_on=sheet.measured_on,
        note=sheet.note,
        runs=plain,
        saved_by=who,
        saved_by_name="" if who is None else who.get_username(),
    )
    Run.objects.bulk_create(
        Run(
            sheet=sheet,
            position=position,
            load_ohm=run.load_ohm,
            criterion=run.criterion,
            reading=plain[position],
        )
        for position, run in enumerate(runs)
    )


def _store_claims(amplifier: Amplifier, claims: Sequence[ClaimDocument]) -> None:
    amplifier.claims.all().delete()
    Claim.objects.bulk_create(
        Claim(amplifier=amplifier, load_ohm=c.load_ohm, kind=c.kind, claim=c.model_dump(mode="json")) for c in claims
    )


def _counted(amplifier: Amplifier) -> None:
    Amplifier.objects.filter(pk=amplifier.pk).update(changes=F("changes") + 1)


def _summed_up(amplifier: Amplifier) -> Amplifier:
    """The amplifier as it is stored now, with what lists show of its newest sheet."""
    summaries.refresh(KIND, amplifiers_of(amplifier.workshop).filter(pk=amplifier.pk))
    return amplifiers_of(amplifier.workshop).get(pk=amplifier.pk)


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


def newest_sheets(workshop: Workshop) -> dict[str, dict[str, Any]]:
    """Each amplifier with its newest sheet as a job holds it, by name."""
    return {
        amplifier.name: {**sheet_csv.embedded(bench_sheet(amplifier)), "came_from": f"bench, {amplifier.name}"}
        for amplifier in amplifiers_of(workshop)
    }


def summary(amplifier: Amplifier) -> dict[str, Any]:
    """What a list shows of an amplifier with its newest sheet. Raises BadInput for one that cannot be fitted."""
    return summary_of(bench_sheet(amplifier))


def summary_of(sheet: BenchSheet) -> dict[str, Any]:
    """What a list shows of a sheet: readings, criteria, measured watts, price per watt, verdict and findings."""
    watts, ohm = rated(sheet) or (None, None)
    price = sheet.record.price.value if sheet.record.price else None
    return {
        "amplifier_class": sheet.record.class_,
        "price": price,
        "currency": sheet.record.currency,
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


def _all() -> QuerySet[Amplifier]:
    return Amplifier.objects.prefetch_related(Prefetch("sheets", Sheet.objects.prefetch_related("runs")), "claims")


SUMMARIES[KIND] = Summary(_all, 2, summary, counter="changes")
