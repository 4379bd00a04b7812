"""What the bench operations take and give. Runs, claims, records and what follows from them are the core's own."""

from __future__ import annotations

from datetime import date

from ninja import Schema
from pydantic import Field

from underhood.amplifier import claims as core_claims
from underhood.amplifier.audit import Finding
from underhood.amplifier.claims import ClaimStatus
from underhood.amplifier.comparison import Compared
from underhood.amplifier.curves import Curve
from underhood.bench.resistor_bank import AtWork, Duty, Resistors
from underhood.bench.source_resistance import Stiffness
from underhood.document.amplifier import AmplifierRecord, Claim, Criterion, Measurement, Millimetres
from underhood.forecast.gain_setting import GainSetting, Step
from underhood_server.api.figures import FigureOut, figure_out

Cells = dict[str, str]
"""One row of the readings grid: text by column of the bench sheet, as it was typed."""


class AmplifierLine(Schema):
    """An amplifier in the list; `rated_w` is at 1 % THD and 14.4 V into `rated_ohm`, an estimate between readings."""

    id: int
    name: str
    amplifier_class: str
    runs: int
    criteria: list[Criterion]
    lowest_load_ohm: float | None
    rated_w: float | None
    rated_ohm: float | None
    price: float | None
    currency: str | None
    price_per_watt: float | None
    verdict: str
    findings: int
    channels: int


class Reading(Measurement):
    """A run with what follows from it."""

    out_w: float | None
    efficiency: float | None
    heat_w: float | None


class SheetLine(Schema):
    """A sheet of an amplifier."""

    id: int
    measured_on: date
    file_name: str
    note: str
    version: int
    runs: int


class ClaimCheckOut(Schema):
    """A claim against what was measured at its own supply volts."""

    claim: Claim
    criterion: Criterion
    standing: ClaimStatus
    measured: FigureOut | None
    share: float | None
    db: float | None
    remark: str


class PerWattOut(Schema):
    """Price of a measured watt at one criterion."""

    criterion: Criterion
    load_ohm: float
    watts: float
    price_per_watt: FigureOut | None


class ClaimsReportOut(Schema):
    """Verdict, claims, what the fuses allow, prices."""

    verdict: str
    claims: list[ClaimCheckOut]
    fuses: FigureOut | None
    prices: list[PerWattOut]

    @staticmethod
    def of(judged: core_claims.ClaimsReport) -> ClaimsReportOut:
        """The core's judgement as the API sends it."""
        return ClaimsReportOut(
            verdict=judged.verdict,
            claims=[
                ClaimCheckOut(
                    claim=w.claim,
                    criterion=w.criterion,
                    standing=w.standing,
                    measured=figure_out(w.measured),
                    share=w.share,
                    db=w.db,
                    remark=w.remark,
                )
                for w in judged.claims
            ],
            fuses=figure_out(judged.fuses),
            prices=[
                PerWattOut(
                    criterion=p.criterion,
                    load_ohm=p.load_ohm,
                    watts=p.watts,
                    price_per_watt=figure_out(p.price_per_watt),
                )
                for p in judged.prices
            ],
        )


class AmplifierOut(Schema):
    """An amplifier with one of its sheets opened: the newest, or the one asked for."""

    id: int
    version: int
    record: AmplifierRecord
    one_output: bool
    claims: list[Claim]
    sheets: list[SheetLine]
    sheet: SheetLine | None
    cells: list[Cells]
    readings: list[Reading]
    curves: list[Curve]
    tones_hz: list[float]
    findings: list[Finding]
    judged: ClaimsReportOut
    stiffness: Stiffness


class SaveAmplifier(Schema):
    """Record and claims, and the version they were changed from."""

    version: int = Field(ge=1)
    record: AmplifierRecord
    claims: list[Claim] = Field(max_length=100)


class NewAmplifier(Schema):
    """An amplifier that nothing was measured of yet."""

    record: AmplifierRecord


class NewSheet(Schema):
    """A sheet entered by hand: rows as they were typed."""

    measured_on: date
    note: str = Field(default="", max_length=200)
    rows: list[Cells] = Field(max_length=2000)


class SaveSheet(NewSheet):
    """A sheet, and the version it was changed from."""

    version: int = Field(ge=1)


class DraftIn(Schema):
    """Rows being typed, for what follows from them; nothing is stored."""

    record: AmplifierRecord
    rows: list[Cells] = Field(max_length=2000)


class DraftRow(Schema):
    """What follows from one row, or what is wrong with it and where. An empty row has neither."""

    problem: str
    column: str
    out_w: float | None
    efficiency: float | None
    heat_w: float | None


class DraftOut(Schema):
    """Row by row, and the audit of those that can be read; findings count rows as they were sent."""

    rows: list[DraftRow]
    findings: list[Finding]


class Entry(Schema):
    """An amplifier in a comparison."""

    amplifier_id: int
    bridged: bool = False


class CompareIn(Schema):
    """Two to six amplifiers and the conditions that hold for all."""

    amplifiers: list[Entry] = Field(max_length=6)
    load_ohm: float
    supply_v: float = 14.4
    criterion: Criterion = "thd1"
    rise: float = 1.0
    power_factor: float = 1.0


class CompareOut(Schema):
    """One row an amplifier, in the order asked for."""

    compared: list[Compared]


class BankIn(Schema):
    """A stock of resistors, its duty, and the watts to expect: of an amplifier, or typed for every load."""

    resistors: list[Resistors] = Field(min_length=1, max_length=5)
    duty: Duty = Duty()
    amplifier_id: int | None = None
    expected_w: float | None = Field(default=None, ge=1, le=50000)


class BankOut(Schema):
    """Every load that can be made, the highest first."""

    loads: list[AtWork]
    cautions: list[str]


class RoomIn(Schema):
    """The space at hand: length, width, height."""

    space_mm: Millimetres


class RoomLine(Schema):
    """How an amplifier fits it; empty `ways` where it does not, None where its size is unknown."""

    id: int
    name: str
    size_mm: list[float] | None
    ways: list[str] | None


class GainSettingIn(Schema):
    """What to set up: an amplifier of the bench, or one of a job by its id there."""

    amplifier_id: int | None = None
    job_id: int | None = None
    job_amplifier: str = ""
    to: GainSetting


class GainOut(Schema):
    """How the source's volts sit in the amplifier's input range."""

    verdict: str
    text: str
    source_v: FigureOut | None
    while_setting_v: FigureOut | None


class GainSettingOut(Schema):
    """The set-up sheet."""

    name: str
    target_v: FigureOut | None
    meter_range_v: float
    tone_hz: float
    overlap_db: float
    clamp_a: FigureOut | None
    steps: list[Step]
    gain: GainOut | None
    cautions: list[str]
    gaps: list[str]


class JobAmplifier(Schema):
    """An amplifier as a job embeds it: record, runs and claims by value."""

    record: AmplifierRecord
    runs: list[Measurement]
    claims: list[Claim]
    came_from: str
