"""Tools of the bench that store nothing: rows being typed, comparison, resistor banks, mounting, gain settings."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from django.http import HttpRequest
from ninja import Router

from underhood.amplifier import comparison, measurement, mounting, sheet_csv
from underhood.amplifier.audit import audit
from underhood.amplifier.sheet import Sheet, fitted, predict
from underhood.bench import resistor_bank
from underhood.circuit.loaded_amplifier import sheet_of
from underhood.circuit.start import usual_amplifier
from underhood.constants import REFERENCE_V
from underhood.document.amplifier import AmplifierRecord, Measurement
from underhood.document.job import Amplifier as JobAmplifier
from underhood.document.upgrade import read_document
from underhood.errors import BadInput
from underhood.finding import Finding
from underhood.forecast.cautions import CAUTIONS
from underhood.forecast.gain_setting import GainSettingSheet, gain_setting_sheet
from underhood_server.accounts.permission import VIEWER
from underhood_server.accounts.services import workshop_of
from underhood_server.api.problems import Problem
from underhood_server.api.shapes import MOST_ON_A_PAGE
from underhood_server.bench import services
from underhood_server.bench.amplifiers_api import amplifier_of
from underhood_server.bench.schemas import (
    BankIn,
    BankOut,
    Cells,
    ClaimedAmplifier,
    CompareIn,
    CompareOut,
    DraftIn,
    DraftOut,
    DraftRow,
    GainSettingIn,
    MountingIn,
    MountingLine,
)
from underhood_server.jobs.api import job_of

router = Router(by_alias=True, auth=VIEWER)
USUAL_W = 500.0
"""Watts a bank is planned for until somebody says what to expect."""


@router.post("/job-amplifiers", response=JobAmplifier)
def create_job_amplifier(request: HttpRequest, payload: ClaimedAmplifier) -> JobAmplifier:
    """An amplifier that only has a claim, as a job embeds it with a usual lead and load."""
    return usual_amplifier(payload.record, claims=payload.claims, came_from="its maker's claim")


@router.post("/sheet-drafts", response=DraftOut)
def read_draft(request: HttpRequest, payload: DraftIn) -> DraftOut:
    """What follows from rows being typed, row by row; nothing is stored."""
    rows, runs, places = [], [], []
    for number, cells in enumerate(payload.rows, start=1):
        row, run = _draft_row(cells, number)
        rows.append(row)
        if run is not None:
            runs.append(run)
            places.append(number)
    return DraftOut(rows=rows, findings=_findings(payload.record, runs, places))


def _draft_row(cells: Cells, number: int) -> tuple[DraftRow, Measurement | None]:
    if not any(cell.strip() for cell in cells.values()):
        return DraftRow(problem="", column="", out_w=None, efficiency=None, heat_w=None), None
    try:
        run = sheet_csv.run_of_cells(cells, number, decimal_comma=True)
    except BadInput as problem:
        column = problem.field.split(".")[0]
        return DraftRow(problem=problem.text, column=column, out_w=None, efficiency=None, heat_w=None), None
    derived = DraftRow(
        problem="",
        column="",
        out_w=measurement.output_watts(run),
        efficiency=measurement.efficiency(run),
        heat_w=measurement.heat_watts(run),
    )
    return derived, run


def _findings(record: AmplifierRecord, runs: list[Measurement], places: list[int]) -> list[Finding]:
    """The audit of the rows that can be read, its rows counted as they were sent."""
    found = audit(Sheet(record, tuple(runs)))
    return [replace(each, row=places[each.row - 1]) if each.row else each for each in found]


@router.post("/comparisons", response={200: CompareOut, 404: Problem})
def compare_amplifiers(request: HttpRequest, payload: CompareIn) -> CompareOut:
    """Two to six amplifiers under the same conditions."""
    entries = [
        (services.bench_sheet(amplifier_of(request, entry.amplifier_id)), entry.bridged) for entry in payload.amplifiers
    ]
    at = comparison.Conditions(
        payload.load_ohm, payload.supply_v, payload.criterion, payload.rise, payload.power_factor
    )
    return CompareOut(compared=comparison.compare(entries, at))


@router.post("/resistor-banks", response={200: BankOut, 404: Problem})
def plan_resistor_bank(request: HttpRequest, payload: BankIn) -> BankOut:
    """Every load that a stock of resistors makes, and how long it bears the expected watts."""
    loads = resistor_bank.plan(payload.resistors, payload.duty, _expected(request, payload))
    return BankOut(loads=loads, cautions=[CAUTIONS["resistor_bank"], CAUTIONS["shock"]])


def _expected(request: HttpRequest, payload: BankIn) -> Callable[[float], float]:
    """Watts to expect at a load: what the amplifier gives at clipping, or the typed figure for every load."""
    if payload.amplifier_id is None:
        typed_w = payload.expected_w or USUAL_W
        return lambda ohm: typed_w
    sheet = services.bench_sheet(amplifier_of(request, payload.amplifier_id))
    found = fitted(sheet, "clip", None)
    return lambda ohm: predict(found, ohm, REFERENCE_V).power_w


@router.post("/mounting-options", response=list[MountingLine])
def list_mounting_options(request: HttpRequest, payload: MountingIn) -> list[MountingLine]:
    """Which of the workshop's amplifiers fit a space, one or two of them."""
    lines = []
    for amplifier in workshop_of(request).amplifiers.all()[:MOST_ON_A_PAGE]:
        size = AmplifierRecord.model_validate(amplifier.record).size_mm
        ways = None if size is None else [fit.words for fit in mounting.ways(size, payload.space_mm)]
        lines.append(
            MountingLine(id=amplifier.pk, name=amplifier.name, size_mm=list(size) if size else None, ways=ways)
        )
    return lines


@router.post("/gain-settings", response={200: GainSettingSheet, 404: Problem})
def create_gain_setting(request: HttpRequest, payload: GainSettingIn) -> GainSettingSheet:
    """Target volts, steps and gain structure for an amplifier of the bench or of a job."""
    return gain_setting_sheet(_sheet_to_set_up(request, payload), payload.to)


def _sheet_to_set_up(request: HttpRequest, payload: GainSettingIn) -> Sheet:
    if payload.job_id is None:
        return services.bench_sheet(amplifier_of(request, payload.amplifier_id or 0))
    job = job_of(request, payload.job_id)
    for amplifier in read_document(job.document).amplifiers:
        if amplifier.id == payload.job_amplifier:
            return sheet_of(amplifier)
    raise BadInput(f"{payload.job_amplifier!r} is no amplifier of that job", "job_amplifier")
