"""Impedance sweeps and lists of drivers as CSV files."""

from __future__ import annotations

import csv
import io
from collections.abc import Mapping, Sequence
from itertools import pairwise

import numpy as np

from underhood.document import csv_table
from underhood.document.csv_table import number, validated
from underhood.document.job import Driver, Sweep
from underhood.document.quantity import Quantity
from underhood.errors import BadInput

LARGEST_BYTES = 12_000_000
MOST_SWEEP_ROWS = 200_000
KEPT_POINTS = 2000
"""A longer sweep is thinned to this many points in equal ratios of frequency: a job carries its sweep along."""
FEWEST_POINTS = 3
FEW_POINTS = 12
SWEEP_COLUMNS = ("frequency_hz", "impedance_ohm", "phase_deg")
DRIVER_COLUMNS = tuple(name for name in Driver.model_fields if name != "semi_inductance")
MOST_DRIVERS = 2000


def read_sweep(content: str | bytes, file: str = "") -> tuple[Sweep, list[str]]:
    """A sweep and what is to be said of it: sorted, thinned, few points, no phase.

    Raises BadInput naming file, line and column; a frequency that stands twice is refused, as it has two answers.
    """
    try:
        text = csv_table.text_of(content, LARGEST_BYTES, f"a sweep of {MOST_SWEEP_ROWS} rows")
        found = csv_table.table(text, SWEEP_COLUMNS, SWEEP_COLUMNS[:2], MOST_SWEEP_ROWS, "a sweep")
        if found is None or len(found.rows) < FEWEST_POINTS:
            raise BadInput(f"holds {len(found.rows) if found else 0} points; a sweep needs {FEWEST_POINTS} at least")
        return _swept(found)
    except BadInput as problem:
        raise problem.at(file=file) from None


def _swept(found: csv_table.Table) -> tuple[Sweep, list[str]]:
    comma, rows = found.decimal_comma, found.rows
    points = [
        (
            number(_cell(cells, "frequency_hz", line), "frequency_hz", line, comma),
            number(_cell(cells, "impedance_ohm", line), "impedance_ohm", line, comma),
            line,
        )
        for line, cells in rows
    ]
    phases = [
        number(cells["phase_deg"], "phase_deg", line, comma) if "phase_deg" in cells else None for line, cells in rows
    ]
    order = sorted(range(len(points)), key=lambda i: points[i][0])
    for before, after in pairwise(order):
        if points[before][0] == points[after][0]:
            raise BadInput(f"{points[after][0]:g} Hz stands twice; give each once", "frequency_hz", points[after][2])
    said = [] if order == list(range(len(points))) else ["the rows were sorted by frequency"]
    kept = _thinned([points[i][0] for i in order])
    if len(kept) < len(order):
        said.append(f"{len(order)} points were thinned to {len(kept)}")
    if len(order) < FEW_POINTS:
        said.append(f"only {len(order)} points: between them the curve is a guess")
    with_phase = all(phases[i] is not None for i in order)
    if not with_phase:
        said.append("no phase at every point: the power factor is unknown, true watts are not more than shown")
    chosen = [order[i] for i in kept]
    raw = {
        "frequency_hz": [points[i][0] for i in chosen],
        "impedance_ohm": [points[i][1] for i in chosen],
        "phase_deg": [phases[i] for i in chosen] if with_phase else None,
    }
    return _validated_sweep(raw, [points[i][2] for i in chosen]), said


def _cell(cells: dict[str, str], column: str, line: int) -> str:
    if column not in cells:
        raise BadInput("is empty", column, line)
    return cells[column]


def _validated_sweep(raw: Mapping[str, object], lines: Sequence[int]) -> Sweep:
    try:
        return validated(Sweep, raw, lines[0])
    except BadInput as problem:
        column, _, position = problem.field.partition(".")
        line = lines[int(position)] if position.isdecimal() else lines[0]
        raise BadInput(problem.text, column, line) from None


def _thinned(frequency_hz: Sequence[float]) -> list[int]:
    """Indices of at most KEPT_POINTS points, the nearest to equal ratios, ends kept."""
    if len(frequency_hz) <= KEPT_POINTS or frequency_hz[0] <= 0:
        return list(range(len(frequency_hz)))
    x = np.log(frequency_hz)
    wanted = np.linspace(x[0], x[-1], KEPT_POINTS)
    return sorted({int(i) for i in np.clip(np.searchsorted(x, wanted), 0, len(x) - 1)})


def write_sweep(sweep: Sweep) -> str:
    """The sweep as a file that `read_sweep` reads."""
    columns = SWEEP_COLUMNS if sweep.phase_deg else SWEEP_COLUMNS[:2]
    parts = [sweep.frequency_hz, sweep.impedance_ohm, *([sweep.phase_deg] if sweep.phase_deg else [])]
    rows = [[repr(cell) for cell in row] for row in zip(*parts, strict=True)]
    return _written(columns, rows)


def read_drivers(content: str | bytes, file: str = "") -> list[Driver]:
    """Drivers from a list, one a row. Raises BadInput naming file, line and column, also for a name that recurs."""
    try:
        text = csv_table.text_of(content, LARGEST_BYTES, "a list of drivers")
        needed = ("name", "re_ohm", "fs_hz", "qms", "qes", "vas_l", "sd_cm2")
        found = csv_table.table(text, DRIVER_COLUMNS, needed, MOST_DRIVERS, "a list of drivers")
        if found is None or not found.rows:
            raise BadInput("holds no driver; it needs a header row and at least one row")
        drivers = [_driver(cells, line, found.decimal_comma) for line, cells in found.rows]
        names = [driver.name for driver in drivers]
        for (line, _), driver in zip(found.rows, drivers, strict=True):
            if not driver.name:
                raise BadInput("is empty", "name", line)
            if names.count(driver.name) > 1:
                raise BadInput(f"{driver.name!r} stands twice; each needs a name of its own", "name", line)
        return drivers
    except BadInput as problem:
        raise problem.at(file=file) from None


def _driver(cells: dict[str, str], line: int, comma: bool) -> Driver:
    raw = {
        column: csv_table.harmed(cell) if column == "name" else number(cell, column, line, comma)
        for column, cell in cells.items()
    }
    return validated(Driver, raw, line)


def write_drivers(drivers: Sequence[Driver]) -> str:
    """The drivers as a list that `read_drivers` reads."""
    return _written(
        DRIVER_COLUMNS, [[_text(getattr(driver, column)) for column in DRIVER_COLUMNS] for driver in drivers]
    )


def _text(value: object) -> str:
    match value:
        case None:
            return ""
        case Quantity():
            return "" if value.origin == "assumed" else repr(value.value)
        case float() | int():
            return repr(value)
        case _:
            return csv_table.harmless(value)


def _written(columns: Sequence[str], rows: Sequence[Sequence[str]]) -> str:
    out = io.StringIO()
    csv.writer(out, lineterminator="\n").writerows([list(columns), *rows])
    return out.getvalue()
