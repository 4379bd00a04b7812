"""The parts list as CSV: a row a part, the job file's own names as columns, empty where they do not apply."""

from __future__ import annotations

import csv
import io
from collections.abc import Sequence
from typing import Any

from underhood.document import csv_table
from underhood.document.csv_table import number, validated
from underhood.document.part import COLUMNS, FIELDS, Part
from underhood.errors import BadInput

MOST_PARTS, LARGEST_BYTES = 5000, 2_000_000
LISTS = ("needs", "excludes")
NUMBERS = tuple(
    column for column in COLUMNS if "float" in str(Part.model_fields[FIELDS.get(column, column)].annotation)
)


def read(content: str | bytes, file: str = "") -> list[Part]:
    """The parts of a list. Raises BadInput naming file, line, column and what is allowed; nothing is then read."""
    try:
        text = csv_table.text_of(content, LARGEST_BYTES, "a parts list")
        found = csv_table.table(text, COLUMNS, ("kind", "name"), MOST_PARTS, "a parts list")
        if found is None:
            raise BadInput("holds no part; it needs a header row and at least one row")
        parts = [_part(cells, line, found.decimal_comma) for line, cells in found.rows]
        _check_names(parts, [line for line, _ in found.rows])
        return parts
    except BadInput as problem:
        raise problem.at(file=file) from None


def _part(cells: dict[str, str], line: int, comma: bool) -> Part:
    raw: dict[str, Any] = {}
    for column, cell in cells.items():
        if column in NUMBERS:
            raw[column] = number(cell, column, line, comma)
        elif column in LISTS:
            raw[column] = [name.strip() for name in csv_table.harmed(cell).split(";") if name.strip()]
        else:
            raw[column] = csv_table.harmed(cell)
    return validated(Part, raw, line)


def _check_names(parts: Sequence[Part], lines: Sequence[int]) -> None:
    seen: dict[str, int] = {}
    for part, line in zip(parts, lines, strict=True):
        if part.name in seen:
            raise BadInput(f"{part.name!r} stands in line {seen[part.name]} too; give each a name", "name", line)
        seen[part.name] = line


def write(parts: Sequence[Part]) -> str:
    """The parts as a list that `read` reads."""
    out = io.StringIO()
    rows = [[_cell(getattr(part, FIELDS.get(column, column))) for column in COLUMNS] for part in parts]
    csv.writer(out, lineterminator="\n").writerows([list(COLUMNS), *rows])
    return out.getvalue()


def _cell(value: object) -> str:
    match value:
        case None:
            return ""
        case float() | int():
            return repr(value)
        case tuple():
            return csv_table.harmless(";".join(value))
        case _:
            return csv_table.harmless(value)
