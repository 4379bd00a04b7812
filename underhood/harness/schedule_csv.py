"""The cable schedule as a CSV table, and what somebody changed in one read back into the job.

Sizes, metals, pieces, lengths, fitted fuses and grommets are read back; what follows from them is passed over.
"""

from __future__ import annotations

import csv
import io
from typing import Any

from underhood.circuit.build import build_circuit
from underhood.document import csv_table, paths
from underhood.document.csv_table import harmless
from underhood.document.job import JobDocument
from underhood.errors import BadInput, nearest
from underhood.harness.schedule import FEET_PER_M, CutRow, EndFuse, Schedule, schedule

COLUMNS = (
    "tag",
    "cable",
    "part",
    "from",
    "to",
    "size",
    "size_awg",
    "size_mm2",
    "conductor",
    "pieces",
    "length_m",
    "length_ft",
    "cut_m",
    "cut_ft",
    "terminal_from",
    "terminal_to",
    "fuse_from_a",
    "fuse_to_a",
    "advise_from_a",
    "advise_to_a",
    "grommets",
    "weight_kg",
    "price",
    "cautions",
)
NEEDED = ("cable", "part")
LARGEST_BYTES = 200_000
MOST_ROWS = 200
NUMBERS = {"length_m": "length_m", "fuse_from_a": "fuse_from_a", "fuse_to_a": "fuse_to_a", "grommets": "grommets"}
"""Columns that are read back as a number of a wire."""


def write(found: Schedule) -> str:
    """The schedule's rows as CSV; a fuse that is only advised stands in a column of its own."""
    out = io.StringIO()
    table = csv.DictWriter(out, COLUMNS, lineterminator="\n")
    table.writeheader()
    for row in found.rows:
        table.writerow({key: harmless(value) for key, value in _cells(row).items()})
    return out.getvalue()


def _cells(row: CutRow) -> dict[str, object]:
    return {
        "tag": row.tag,
        "cable": row.cable,
        "part": row.part,
        "from": row.start,
        "to": row.end,
        "size": row.size,
        "size_awg": row.awg,
        "size_mm2": row.mm2,
        "conductor": row.conductor,
        "pieces": row.pieces,
        "length_m": f"{row.length_m:g}",
        "length_ft": f"{row.length_m * FEET_PER_M:.1f}",
        "cut_m": f"{row.cut_m:g}",
        "cut_ft": f"{row.cut_ft:.1f}",
        "terminal_from": row.terminal_start,
        "terminal_to": row.terminal_end,
        "fuse_from_a": _rating(row.fuse_start, fitted=True),
        "fuse_to_a": _rating(row.fuse_end, fitted=True),
        "advise_from_a": _rating(row.fuse_start, fitted=False),
        "advise_to_a": _rating(row.fuse_end, fitted=False),
        "grommets": row.grommets,
        "weight_kg": f"{row.weight_kg:.2f}",
        "price": "" if row.price is None else f"{row.price:.2f}",
        "cautions": " ".join(row.cautions),
    }


def _rating(fuse: EndFuse | None, *, fitted: bool) -> str:
    return "" if fuse is None or fuse.rating_a is None or fuse.fitted != fitted else f"{fuse.rating_a:g}"


def read(job: JobDocument, content: str | bytes, file: str = "") -> JobDocument:
    """The job with its cables as a schedule states them. Raises BadInput naming file, line and column."""
    try:
        text = csv_table.text_of(content, LARGEST_BYTES, f"a schedule of {MOST_ROWS} rows")
        table = csv_table.table(text, COLUMNS, NEEDED, MOST_ROWS, "a schedule")
        if table is None:
            raise BadInput("holds no row")
        rows = schedule(job).rows
        document = job.document()
        for line, cells in table.rows:
            _apply(document, rows, cells, line, table.decimal_comma)
            _check(document, line)
        return JobDocument.model_validate(document)
    except BadInput as problem:
        raise problem.at(file=file) from None


def _apply(document: dict[str, Any], rows: list[CutRow], cells: dict[str, str], line: int, comma: bool) -> None:
    name, part = csv_table.harmed(cells.get("cable", "")), cells.get("part", "")
    row = next((row for row in rows if (row.cable, row.part) == (name, part)), None)
    if row is None:
        known = {row.cable for row in rows if row.part == part} or {row.cable for row in rows}
        raise BadInput(f"{name[:40]!r} has no {part[:20]!r} in this job; {nearest(name, known)}", "cable", line)
    changes = _changes(row, cells, line, comma)
    if changes:
        _put(document, row, changes)


def _changes(row: CutRow, cells: dict[str, str], line: int, comma: bool) -> dict[str, Any]:
    """What the line states otherwise than the job does."""
    changes: dict[str, Any] = {}
    now = _cells(row)
    for column, key in NUMBERS.items():
        if column in cells and cells[column] != str(now[column]):
            changes[key] = csv_table.number(cells[column], column, line, comma)
    for column in ("size", "conductor"):
        if column in cells and cells[column] != now[column]:
            changes[column] = cells[column]
    if "pieces" in cells and row.part != "speaker" and cells["pieces"] != str(now["pieces"]):
        changes["runs"] = csv_table.number(cells["pieces"], "pieces", line, comma)
    return changes


def _put(document: dict[str, Any], row: CutRow, changes: dict[str, Any]) -> None:
    """Set a wire's keys in the document; a ground return that was never stated becomes a cable of its own."""
    wire = paths.get(document, row.field)
    if wire is None:
        wire = {"kind": "cable", "size": row.size, "conductor": row.conductor, "length_m": row.length_m}
    if row.part == "body":
        changes = {key: value for key, value in changes.items() if key in ("size", "length_m")}
    paths.put(document, row.field, wire | changes)


def _check(document: dict[str, Any], line: int) -> None:
    try:
        build_circuit(csv_table.validated(JobDocument, document))
    except BadInput as problem:
        raise problem.at(line=line) from None
