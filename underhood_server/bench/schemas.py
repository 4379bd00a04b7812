"""What the bench operations take and give. Runs, claims, records and what follows from them are the core's own."""

from __future__ import annotations

from datetime import date, datetime

from ninja import Schema
from pydantic import Field

from underhood.amplifier.claims import ClaimsReport
from underhood.amplifier.comparison import Compared
from underhood.amplifier.curves import Curve
from underhood.bench.resistor_bank import AtWork, Duty, Resistors
from underhood.bench.source_resistance import Stiffness
from underhood.document.amplifier import AmplifierRecord, Claim, Criterion, Measurement, Millimetres
from underhood.finding import Finding
from underhood.forecast.gain_setting import GainSetting
from underhood_server.api.shapes import LARGEST_ID, Id, In

Cells = dict[str, str]
"""One row of the readings grid: text by column of the bench sheet, as it was typed."""


class AmplifierSummary(Schema):
    """What the list shows of an amplifier's newest sheet; `rated_w` is at 1 % THD and 14.4 V into `rated_ohm`."""

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


class AmplifierLine(Schema):
    """An amplifier in the list; where it cannot be summarised `problem` says why."""

    id: int
    name: str
    summary: AmplifierSummary | None
    problem: str


class SheetReading(Measurement):
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
    readings: list[SheetReading]
    curves: list[Curve]
    tones_hz: list[float]
    findings: list[Finding]
    judged: ClaimsReport
    stiffness: Stiffness


class SaveAmplifier(In):
    """Record and claims, and the version they were changed from."""

    version: int = Field(ge=1, le=LARGEST_ID)
    record: AmplifierRecord
    claims: list[Claim] = Field(max_length=100)


class NewAmplifier(In):
    """An amplifier that nothing was measured of yet."""

    record: AmplifierRecord


class NewSheet(In):
    """A sheet entered by hand: rows as they were typed."""

    measured_on: date
    note: str = Field(default="", max_length=200)
    rows: list[Cells] = Field(max_length=2000)


class SheetRevisionLine(Schema):
    """One save of a sheet, with its readings as the grid shows them."""

    version: int
    saved_at: datetime
    saved_by: str | None
    measured_on: date
    note: str
    cells: list[Cells]


class SaveSheet(NewSheet):
    """A sheet, and the version it was changed from."""

    version: int = Field(ge=1, le=LARGEST_ID)


class DraftIn(In):
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


class Entry(In):
    """An amplifier in a comparison."""

    amplifier_id: Id
    bridged: bool = False


class CompareIn(In):
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


class BankIn(In):
    """A stock of resistors, its duty, and the watts to expect: of an amplifier, or typed for every load."""

    resistors: list[Resistors] = Field(min_length=1, max_length=5)
    duty: Duty = Duty()
    amplifier_id: Id | None = None
    expected_w: float | None = Field(default=None, ge=1, le=50000)


class BankOut(Schema):
    """Every load that can be made, the highest first."""

    loads: list[AtWork]
    cautions: list[str]


class MountingIn(In):
    """The space at hand: length, width, height."""

    space_mm: Millimetres


class MountingLine(Schema):
    """How an amplifier fits it; empty `ways` where it does not, None where its size is unknown."""

    id: int
    name: str
    size_mm: list[float] | None
    ways: list[str] | None


class GainSettingIn(In):
    """What to set up: an amplifier of the bench, or one of a job by its id there."""

    amplifier_id: Id | None = None
    job_id: Id | None = None
    job_amplifier: str = Field(default="", max_length=40)
    to: GainSetting


class SheetOf(In):
    """Which amplifier a sheet is of, where it does not say itself."""

    name: str = Field(default="", max_length=120)


class ClaimedAmplifier(In):
    """An amplifier that nobody has benched: its name, and what is claimed of it."""

    record: AmplifierRecord
    claims: list[Claim] = Field(min_length=1, max_length=100)
