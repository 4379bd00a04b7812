"""What the bench operations give. Runs, claims and records are the core's own definitions."""

from ninja import Schema

from underhood.amplifier import AmplifierRecord, Claim, Criterion, Run
from underhood.bench.limits import Rule


class AmplifierLine(Schema):
    """An amplifier in the list; `rated_w` is measured at 14.4 V into `rated_ohm`, an estimate between readings."""

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


class Reading(Run):
    """A run with what follows from it."""

    out_w: float | None
    efficiency: float | None
    heat_w: float | None


class ReadingPoint(Schema):
    """A reading on the chart, referred to 14.4 V, and as it was read."""

    load_ohm: float
    power_w: float
    as_read_w: float
    supply_v: float | None


class Curve(Schema):
    """Watts over load at a 14.4 V supply for one criterion; lists of one length."""

    criterion: Criterion
    load_ohm: list[float]
    power_w: list[float]
    low_w: list[float]
    high_w: list[float]
    limited_by: list[Rule]
    readings: list[ReadingPoint]
    supply_exponent: float
    exponent_origin: str
    gaps: list[str]


class AmplifierOut(Schema):
    """An amplifier with its newest sheet."""

    id: int
    record: AmplifierRecord
    claims: list[Claim]
    readings: list[Reading]
    curves: list[Curve]
    file_name: str | None
    sheets: int


class JobAmplifier(Schema):
    """An amplifier as a job embeds it: record, runs and claims by value."""

    record: AmplifierRecord
    runs: list[Run]
    claims: list[Claim]
    came_from: str
