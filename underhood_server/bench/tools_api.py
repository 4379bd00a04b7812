"""Tools of the bench that store nothing: rows being typed, comparison, resistor banks, room, set-up sheets."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from django.http import HttpRequest
from django.shortcuts import get_object_or_404
from ninja import Router

from underhood.amplifier import comparison, measurement, mounting, sheet_csv
from underhood.amplifier.audit import Finding, audit
from underhood.amplifier.measurement import REFERENCE_V
from underhood.amplifier.sheet import Sheet, fitted, predict
from underhood.bench import resistor_bank
from underhood.circuit.build import sheet_of
from underhood.document.amplifier import AmplifierRecord, Measurement
from underhood.document.job import JobDocument
from underhood.errors import BadInput
from underhood.forecast.cautions import CAUTIONS
from underhood.forecast.gain_setting import GainStructure, gain_setting_sheet
from underhood_server.accounts.services import workshop_of
from underhood_server.api.figures import figure_out
from underhood_server.api.problems import Problem
from underhood_server.bench import services
from underhood_server.bench.api import amplifier_of
from underhood_server.bench.schemas import (
    BankIn,
    BankOut,
    Cells,
    CompareIn,
    CompareOut,
    DraftIn,
    DraftOut,
    DraftRow,
    GainOut,
    GainSettingIn,
    GainSettingOut,
    RoomIn,
    RoomLine,
)
from underhood_server.jobs.models import Job

router = Router(by_alias=True)
USUAL_W = 500.0
"""Watts a bank is planned for until somebody says what to expect."""


@router.post("/draft", response={200: DraftOut, 422: Problem})
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


@router.post("/compare", response={200: CompareOut, 404: Problem, 422: Problem})
def compare_amplifiers(request: HttpRequest, payload: CompareIn) -> CompareOut:
    """Two to six amplifiers under the same conditions."""
    entries = [
        (services.bench_sheet(amplifier_of(request, entry.amplifier_id)), entry.bridged) for entry in payload.amplifiers
    ]
    at = comparison.Conditions(
        payload.load_ohm, payload.supply_v, payload.criterion, payload.rise, payload.power_factor
    )
    return CompareOut(compared=comparison.compare(entries, at))


@router.post("/resistor-bank", response={200: BankOut, 404: Problem, 422: Problem})
def plan_resistor_bank(request: HttpRequest, payload: BankIn) -> BankOut:
    """Every load that a stock of resistors makes, and how long it bears the expected watts."""
    expected = _expected(request, payload)
    found = resistor_bank.arrangements(payload.resistors, lambda ohm: expected(ohm) * payload.duty.share)
    loads = [resistor_bank.at_work(each, expected(each.load_ohm), payload.duty) for each in found]
    return BankOut(loads=loads, cautions=[CAUTIONS["resistor_bank"], CAUTIONS["shock"]])


def _expected(request: HttpRequest, payload: BankIn) -> Callable[[float], float]:
    """Watts to expect at a load: what the amplifier gives at clipping, or the typed figure for every load."""
    if payload.amplifier_id is None:
        typed_w = payload.expected_w or USUAL_W
        return lambda ohm: typed_w
    sheet = services.bench_sheet(amplifier_of(request, payload.amplifier_id))
    found = fitted(sheet, "clip", None)
    return lambda ohm: predict(found, ohm, REFERENCE_V).power_w


@router.post("/room", response={200: list[RoomLine], 422: Problem})
def what_fits(request: HttpRequest, payload: RoomIn) -> list[RoomLine]:
    """Which of the workshop's amplifiers fit a space, one or two of them."""
    lines = []
    for amplifier in workshop_of(request).amplifiers.all():
        size = AmplifierRecord.model_validate(amplifier.record).size_mm
        ways = None if size is None else [fit.words for fit in mounting.ways(size, payload.space_mm)]
        lines.append(RoomLine(id=amplifier.pk, name=amplifier.name, size_mm=list(size) if size else None, ways=ways))
    return lines


@router.post("/set-up-sheet", response={200: GainSettingOut, 404: Problem, 422: Problem})
def make_set_up_sheet(request: HttpRequest, payload: GainSettingIn) -> GainSettingOut:
    """Target volts, steps and gain structure for an amplifier of the bench or of a job."""
    made = gain_setting_sheet(_sheet_to_set_up(request, payload), payload.to)
    return GainSettingOut(
        name=made.name,
        target_v=figure_out(made.target_v),
        meter_range_v=made.meter_range_v,
        tone_hz=made.tone_hz,
        overlap_db=made.overlap_db,
        clamp_a=figure_out(made.clamp_a),
        steps=made.steps,
        gain=_gain_out(made.gain),
        cautions=made.cautions,
        gaps=made.gaps,
    )


def _sheet_to_set_up(request: HttpRequest, payload: GainSettingIn) -> Sheet:
    if payload.job_id is None:
        return services.bench_sheet(amplifier_of(request, payload.amplifier_id or 0))
    job = get_object_or_404(Job, pk=payload.job_id, workshop=workshop_of(request))
    for amplifier in JobDocument.model_validate(job.setup).amplifiers:
        if amplifier.id == payload.job_amplifier:
            return sheet_of(amplifier)
    raise BadInput(f"{payload.job_amplifier!r} is no amplifier of that job", "job_amplifier")


def _gain_out(gain: GainStructure | None) -> GainOut | None:
    if gain is None:
        return None
    return GainOut(
        verdict=gain.verdict,
        text=gain.text,
        source_v=figure_out(gain.source_v),
        while_setting_v=figure_out(gain.while_setting_v),
    )
