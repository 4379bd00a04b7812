"""Changes to the bench book, and what a sheet says."""

from __future__ import annotations

from contextlib import suppress
from typing import Any

import numpy as np
from django.db import transaction
from django.db.models import Prefetch, QuerySet

from server.accounts.models import Workshop
from server.bench.models import Amplifier, Claim, Run, Sheet
from underhood.amplifier import AmplifierRecord, Criterion
from underhood.amplifier import Claim as BenchClaim
from underhood.amplifier import Run as BenchRun
from underhood.bench import runs as bench_runs
from underhood.bench import sheet_csv
from underhood.bench.runs import REFERENCE_V
from underhood.bench.sheet import CRITERIA, fitted, predict
from underhood.bench.sheet import Sheet as BenchSheet
from underhood.errors import BadInput

CURVE_POINTS = 90


def amplifiers_of(workshop: Workshop) -> QuerySet[Amplifier]:
    """The workshop's amplifiers with everything on them, in a fixed number of queries."""
    sheets = Prefetch("sheets", Sheet.objects.prefetch_related("runs"))
    return workshop.amplifiers.prefetch_related(sheets, "claims")


@transaction.atomic
def import_sheet(workshop: Workshop, content: bytes, file_name: str) -> Amplifier:
    """Store a bench sheet; an amplifier already known by that name gets it as its newest sheet.

    Raises BadInput for a file that cannot be used; nothing of it is then stored.
    """
    sheet = sheet_csv.read(content, file_name)
    amplifier, _ = Amplifier.objects.update_or_create(
        workshop=workshop,
        name=sheet.record.name,
        defaults={"record": sheet.record.model_dump(mode="json", by_alias=True), "summary": summary(sheet)},
    )
    stored = Sheet.objects.create(amplifier=amplifier, file_name=file_name[:200])
    Run.objects.bulk_create(
        Run(
            sheet=stored,
            position=position,
            load_ohm=run.load_ohm,
            criterion=run.criterion,
            reading=run.model_dump(mode="json", exclude_defaults=True),
        )
        for position, run in enumerate(sheet.runs)
    )
    if sheet.claims:
        amplifier.claims.all().delete()
        Claim.objects.bulk_create(
            Claim(amplifier=amplifier, load_ohm=c.load_ohm, kind=c.kind, claim=c.model_dump(mode="json"))
            for c in sheet.claims
        )
    return amplifier


@transaction.atomic
def delete_amplifier(amplifier: Amplifier) -> None:
    """Remove an amplifier and its sheets; jobs keep their own copies."""
    amplifier.delete()


def bench_sheet(amplifier: Amplifier) -> BenchSheet:
    """The newest sheet as the core knows it; the record and claims alone where none was imported."""
    sheets = list(amplifier.sheets.all())
    readings = [run.reading for run in sheets[0].runs.all()] if sheets else []
    return BenchSheet(
        AmplifierRecord.model_validate(amplifier.record),
        tuple(BenchRun.model_validate(reading) for reading in readings),
        tuple(BenchClaim.model_validate(claim.claim) for claim in amplifier.claims.all()),
    )


def summary(sheet: BenchSheet) -> dict[str, Any]:
    """What a list shows of a sheet: readings, criteria, and measured watts at 14.4 V.

    `rated_w` is into the lowest safe load, or else the lowest measured; None with nothing to go by.
    """
    shown: dict[str, Any] = {
        "runs": len(sheet.runs),
        "criteria": [criterion for criterion in CRITERIA if any(run.criterion == criterion for run in sheet.runs)],
        "lowest_load_ohm": min((run.load_ohm for run in sheet.runs), default=None),
        "rated_w": None,
        "rated_ohm": None,
    }
    with suppress(BadInput):  # neither a usable reading nor a claim
        found = fitted(sheet, "thd1", None)
        lowest = sheet.record.minimum_load_ohm
        ohm = max(lowest.value, found.fit.load_ohm[0]) if lowest else found.fit.load_ohm[0]
        shown |= {"rated_w": predict(found, ohm, REFERENCE_V).power_w, "rated_ohm": ohm}
    return shown


def curve(sheet: BenchSheet, criterion: Criterion) -> dict[str, Any] | None:
    """Watts over load at 14.4 V for one criterion, with band, rule and readings; None where it was not measured."""
    readings = bench_runs.at_criterion(sheet.runs, criterion)
    if not readings:
        return None
    found = fitted(sheet, criterion, None)
    grid = np.geomspace(found.fit.load_ohm[0], found.fit.load_ohm[-1], CURVE_POINTS)
    predictions = [predict(found, float(ohm), REFERENCE_V) for ohm in sorted({*grid, *found.fit.load_ohm})]
    loads = sorted({*map(float, grid), *found.fit.load_ohm})
    return {
        "criterion": criterion,
        "load_ohm": loads,
        "power_w": [each.power_w for each in predictions],
        "low_w": [each.low_w for each in predictions],
        "high_w": [each.high_w for each in predictions],
        "limited_by": [each.limited_by for each in predictions],
        "readings": [_point(run, found.scale(run.supply_v or REFERENCE_V)) for run in readings],
        "supply_exponent": found.exponent,
        "exponent_origin": found.exponent_origin,
        "gaps": list(found.gaps),
    }


def _point(run: BenchRun, scale: float) -> dict[str, float | None]:
    """A reading as read and as it would be at 14.4 V."""
    watts = bench_runs.output_watts(run) or 0.0
    return {"load_ohm": run.load_ohm, "power_w": watts / scale**2, "as_read_w": watts, "supply_v": run.supply_v}


def curves(sheet: BenchSheet) -> list[dict[str, Any]]:
    """The curves of every measured criterion."""
    return [found for criterion in CRITERIA if (found := curve(sheet, criterion))]
