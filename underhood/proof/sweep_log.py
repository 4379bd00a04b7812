"""Sweeps with everything at once: supply and output of an amplifier over frequency or level, against the forecast.

Where it makes most, where it wastes most, where it cuts back. Left out: the readings' own correction of the model (a
log's rows can be read as readings too).
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Annotated, Literal

from pydantic import Field, model_validator
from pydantic_core import PydanticCustomError

from underhood.circuit.build import build_circuit
from underhood.circuit.operating_point import solve
from underhood.document import csv_table
from underhood.document.csv_table import number, validated
from underhood.document.job import Engine, JobDocument
from underhood.document.quantity import Number, Quantity, StrictModel
from underhood.errors import BadInput
from underhood.proof.places import amplifier_index

COLUMNS = ("frequency_hz", "level_db", "supply_v", "supply_a", "output_v", "output_a", "phase_deg")
MOST_ROWS = 2000
CUTS_BACK_DB = 1.0
"""Less output than the forecast by this much is said to be cut back [P]."""


class LogRow(StrictModel):
    """One row: what stood at supply and output at a frequency and a level below full scale."""

    frequency_hz: Annotated[float, Number("Hz", 5, 20000)]
    level_db: Annotated[float, Number("dB", -60, 0)] = 0.0
    supply_v: Annotated[float, Number("V", 5, 60)]
    supply_a: Annotated[float, Number("A", 0, 2000)]
    output_v: Annotated[float, Number("V", 0, 500)]
    output_a: Annotated[float, Number("A", 0, 500)]
    phase_deg: Annotated[float, Number("°", -90, 90)] | None = None

    @model_validator(mode="after")
    def _gives_no_more_than_it_takes(self) -> LogRow:
        if self.output_w > 1.05 * self.input_w:
            text = f"{self.output_w:.4g} W out of {self.input_w:.4g} W in; one of the meters is on the wrong range"
            raise PydanticCustomError("power", "{text}", {"text": text})
        return self

    @property
    def input_w(self) -> float:
        """Watts taken in."""
        return self.supply_v * self.supply_a

    @property
    def output_w(self) -> float:
        """True watts; volt-amperes where no phase was read."""
        return self.output_v * self.output_a * math.cos(math.radians(self.phase_deg or 0.0))


class SweepLog(StrictModel):
    """All rows of one amplifier in one state of the engine; `over` what was swept."""

    amplifier: str
    engine: Engine = "idle"
    over: Literal["frequency", "level"] = "frequency"
    rows: list[LogRow] = Field(min_length=2, max_length=MOST_ROWS)


@dataclass(frozen=True, slots=True)
class SweepPoint:
    """A row and the forecast at the same point: true watts out, watts in, share, volts; None where nothing holds."""

    frequency_hz: float
    level_db: float
    output_w: float
    input_w: float
    efficiency: float
    supply_v: float
    output_v: float
    forecast_output_w: float | None
    forecast_input_w: float | None
    forecast_efficiency: float | None
    forecast_supply_v: float | None
    forecast_output_v: float | None


@dataclass(frozen=True)
class SweepResult:
    """The points in order of what was swept, and what they say in words."""

    over: str
    points: list[SweepPoint]
    said: list[str]


def read(content: str | bytes, amplifier: str, engine: Engine, file: str = "") -> SweepLog:
    """The log in a file's content. Raises BadInput naming file, line, column and what is allowed."""
    try:
        text = csv_table.text_of(content, 1_000_000, f"a log of {MOST_ROWS} rows")
        needed = tuple(name for name in COLUMNS if name not in ("level_db", "phase_deg"))
        found = csv_table.table(text, COLUMNS, needed, MOST_ROWS, "a log")
        if found is None or len(found.rows) < 2:
            raise BadInput("holds less than two rows; a sweep needs more")
        rows = [
            validated(LogRow, {name: number(w, name, line, found.decimal_comma) for name, w in cells.items()}, line)
            for line, cells in found.rows
        ]
        swept = len({row.level_db for row in rows}) > len({row.frequency_hz for row in rows})
        return SweepLog(amplifier=amplifier, engine=engine, over="level" if swept else "frequency", rows=rows)
    except BadInput as problem:
        raise problem.at(file=file) from None


def compare(job: JobDocument, log: SweepLog) -> SweepResult:
    """A log against the forecast of the same job. Raises BadInput for an amplifier that is not there."""
    key: Callable[[LogRow], float] = (lambda r: r.level_db) if log.over == "level" else (lambda r: r.frequency_hz)
    points = [_point(job, log, row) for row in sorted(log.rows, key=key)]
    return SweepResult(log.over, points, list(_said(log.over, points)))


def _point(job: JobDocument, log: SweepLog, row: LogRow) -> SweepPoint:
    basis = job.basis.model_copy(
        update={
            "engine": log.engine,
            "programme": "tone",
            "tone_hz": Quantity(row.frequency_hz),
            "level_db": Quantity(row.level_db),
        }
    )
    circuit = build_circuit(job.model_copy(update={"basis": basis}))
    i = amplifier_index(circuit, log.amplifier)
    point = solve(circuit, log.engine)
    shown: list[float | None] = [None] * 5
    if point is not None:
        given, element = point.delivery(i), point.amplifiers[i]
        supply_v = float(point.volts[element.node])
        output_v = element.peak_output_v(supply_v) * circuit.loaded[i].in_series
        shown = [given.out_w, given.in_w, given.out_w / given.in_w, supply_v, output_v]
    efficiency = row.output_w / row.input_w if row.input_w else 0.0
    return SweepPoint(
        row.frequency_hz, row.level_db, row.output_w, row.input_w, efficiency, row.supply_v, row.output_v, *shown
    )


def _said(over: str, points: Sequence[SweepPoint]) -> list[str]:
    def at(point: SweepPoint) -> str:
        return f"{point.level_db:g} dB" if over == "level" else f"{point.frequency_hz:g} Hz"

    most = max(points, key=lambda each: each.output_w)
    waste = max(points, key=lambda each: each.input_w - each.output_w)
    said = [
        f"Most at {at(most)}: {most.output_w:.0f} W out of {most.input_w:.0f} W in, {100 * most.efficiency:.0f} %.",
        f"Most heat at {at(waste)}: {waste.input_w - waste.output_w:.0f} W.",
    ]
    cut = [
        (20 * math.log10(each.output_v / each.forecast_output_v), each)
        for each in points
        if each.forecast_output_v and each.output_v > 0
    ]
    least = min(cut, key=lambda one: one[0], default=None)
    if least is not None and least[0] < -CUTS_BACK_DB:
        said.append(f"At {at(least[1])} it gives {-least[0]:.1f} dB less volts than forecast: there it cuts back.")
    return said
