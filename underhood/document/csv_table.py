"""CSV tables as people save them: comma or semicolon separated, with semicolons a decimal comma, `#` lines passed over.

What cannot be used is refused in one line that names the file's line, the column, the value and what is allowed.
"""

from __future__ import annotations

import csv
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any, TypeVar

from pydantic import BaseModel, ValidationError

from underhood.document.quantity import explain
from underhood.errors import BadInput, nearest

FORMULA_STARTS = ("=", "+", "-", "@")
MARKS = {"\t": "tabs", "|": "bars"}

Row = TypeVar("Row", bound=BaseModel)


@dataclass(frozen=True, slots=True)
class Table:
    """Rows as (line, text by column). `decimal_comma` where numbers are written with one."""

    columns: tuple[str, ...]
    rows: tuple[tuple[int, dict[str, str]], ...]
    decimal_comma: bool
    title_line: int


def text_of(content: str | bytes, largest_bytes: int, what: str) -> str:
    """The text of a file; `what` names what it should be. Raises BadInput for a file too large or not text."""
    if len(content) > largest_bytes:
        raise BadInput(f"larger than {largest_bytes // 1000} kB; {what} is smaller")
    if isinstance(content, str):
        return content
    try:
        text = content.decode("utf-8-sig")
    except UnicodeDecodeError:
        raise BadInput("not UTF-8 text; save it as CSV (UTF-8)") from None
    if "\0" in text:
        raise BadInput("not a text file; save it as CSV (UTF-8)")
    return text


def table(text: str, known: Sequence[str], needed: Sequence[str], most_rows: int, what: str) -> Table | None:
    """The table of a text; None where it holds no row at all. Lines are counted as in the file."""
    lines = [
        (n, line)
        for n, line in enumerate(text.splitlines(), start=1)
        if line.strip(" ,;\t") and not line.startswith("#")
    ]
    if not lines:
        return None
    (title_line, title), *rest = lines
    separator = _separator(title, title_line)
    columns = [column.strip().lower() for column in title.split(separator)]
    _check_columns(columns, title_line, known, needed)
    if len(rest) > most_rows:
        raise BadInput(f"{len(rest)} rows; {what} may hold {most_rows}", line=rest[most_rows][0])
    rows = tuple((n, _cells(columns, line, separator, n)) for n, line in rest)
    return Table(tuple(columns), rows, separator == ";", title_line)


def _separator(title: str, line: int) -> str:
    counts = {mark: title.count(mark) for mark in (",", ";", *MARKS)}
    mark = max(counts, key=lambda m: counts[m])
    if counts[mark] == 0 or mark in MARKS:
        named = MARKS[mark] if counts[mark] else "neither commas nor semicolons"
        raise BadInput(f"the header row has {named}; separate columns with commas or semicolons", line=line)
    return mark


def _check_columns(columns: Sequence[str], line: int, known: Sequence[str], needed: Sequence[str]) -> None:
    for column in columns:
        if column not in known:
            raise BadInput(f"unknown column {column[:40]!r}; {nearest(column, known)}", line=line)
        if columns.count(column) > 1:
            raise BadInput("stands twice in the header row", column, line)
    for column in needed:
        if column not in columns:
            raise BadInput(f"this column is missing; {', '.join(needed)} are needed", column, line)


def _cells(columns: Sequence[str], line: str, separator: str, number: int) -> dict[str, str]:
    cells = next(csv.reader([line], delimiter=separator))
    if len(cells) > len(columns) and any(cell.strip() for cell in cells[len(columns) :]):
        raise BadInput(f"{len(cells)} cells under {len(columns)} columns", line=number)
    return {column: cell.strip() for column, cell in zip(columns, cells, strict=False) if cell.strip()}


def number(word: str, field: str, line: int, decimal_comma: bool = False) -> float:
    """The number in a cell."""
    try:
        return float(word.replace(",", ".") if decimal_comma else word)
    except ValueError:
        raise BadInput(f"{word[:40]!r} is not a number", field, line) from None


def harmed(text: str) -> str:
    """A text whose leading formula sign was made harmless on the way out, as it was."""
    return text[1:] if text[:1] == "'" and text.lstrip("'")[:1] in FORMULA_STARTS else text


def harmless(value: object) -> str:
    """A text for a cell that a spreadsheet will not take for a formula."""
    text = " ".join(str(value).split())
    return f"'{text}" if text.lstrip("'").startswith(FORMULA_STARTS) else text  # one that had a mark keeps it


def validated(model: type[Row], raw: Mapping[str, Any], line: int | None = None) -> Row:
    """The row as a model. Raises BadInput naming the line and the field."""
    try:
        return model.model_validate(raw)
    except ValidationError as error:
        raise explain(error).at(line=line) from None
