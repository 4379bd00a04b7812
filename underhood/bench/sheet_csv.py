"""Bench sheets as CSV files: read with one clear message for anything that cannot be used, and written back.

Comma or semicolon separated; with semicolons a decimal comma is understood. `#` lines carry `key: value`.
"""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Iterable
from typing import Any, TypeVar

from pydantic import ValidationError

from underhood.bench.sheet import Sheet
from underhood.errors import BadInput, nearest
from underhood.job import AmplifierRecord, Claim, Given, Run, explain

LARGEST_BYTES = 1_000_000
MOST_RUNS = 2000
COLUMNS = tuple(Run.model_fields)
YES_NO = ("protect", "four_wire", "excluded")
TEXTS = ("load_kind", "criterion", "note", "meter", "reason", "date")
HEADER_KEYS = (
    "amplifier", "class", "supply", "supply_exponent", "idle_a", "minimum_load_ohm", "fuses_a", "price",
    "pass_band_hz", "channels", "measured_as", "dropout_v", "cutout_v", "terminal_max", "terminal_inputs", "claim",
)  # fmt: skip
HEADER_LISTS = ("fuses_a", "pass_band_hz")
HEADER_TEXTS = ("class", "supply", "measured_as", "terminal_max")
CLAIM_COLUMNS = ("load_ohm", "power_w", "supply_v", "thd_percent", "kind")
FORMULA_STARTS = ("=", "+", "-", "@")

Row = TypeVar("Row", Run, Claim)


def read(content: str | bytes, file: str = "") -> Sheet:
    """The sheet in a file's content. Raises BadInput naming file, line, column and what is allowed."""
    try:
        lines = _text(content).splitlines()
        header, claims = _header(lines)
        runs = _runs(lines)
        if not runs and not claims:
            raise BadInput("holds no reading and no claim; a sheet needs at least one row")
        return Sheet(_record(header, file), tuple(runs), tuple(claims))
    except BadInput as problem:
        raise problem.at(file=file) from None


def _text(content: str | bytes) -> str:
    if len(content) > LARGEST_BYTES:
        raise BadInput(f"larger than {LARGEST_BYTES // 1000} kB; a bench sheet of {MOST_RUNS} rows is smaller")
    if isinstance(content, str):
        return content
    try:
        text = content.decode("utf-8-sig")
    except UnicodeDecodeError:
        raise BadInput("not UTF-8 text; save the sheet as CSV (UTF-8)") from None
    if "\0" in text:
        raise BadInput("not a text file; save the sheet as CSV (UTF-8)")
    return text


def _header(lines: list[str]) -> tuple[dict[str, tuple[int, str]], list[Claim]]:
    """The `# key: value` lines as {key: (line, value)}, and the claims among them."""
    header: dict[str, tuple[int, str]] = {}
    claims: list[Claim] = []
    for number, line in enumerate(lines, start=1):
        match = re.match(r"#\s*(\w+)\s*:\s*(.*)$", line)
        if not match:
            continue
        key, value = match[1], match[2].strip().strip(",;").strip()
        if key not in HEADER_KEYS:
            raise BadInput(f"unknown key {key!r}; {nearest(key, HEADER_KEYS)}", line=number)
        if key == "claim":
            claims.append(_claim(value, number))
        elif value:
            header[key] = (number, value)
    return header, claims


def _claim(value: str, line: int) -> Claim:
    """`load_ohm power_w supply_v thd_percent kind`, a dash for what is not stated."""
    words = value.split()
    if len(words) != len(CLAIM_COLUMNS):
        raise BadInput(f"a claim is `{' '.join(CLAIM_COLUMNS)}`, got {value!r}", "claim", line)
    raw = {
        name: word if name == "kind" else _number(word, name, line)
        for name, word in zip(CLAIM_COLUMNS, words, strict=True)
        if word != "-"
    }
    return _validated(Claim, raw, line)


def _record(header: dict[str, tuple[int, str]], file: str) -> AmplifierRecord:
    raw: dict[str, Any] = {"name": re.sub(r"\.csv$", "", file, flags=re.I) or "Unnamed amplifier"}
    for key, (line, value) in header.items():
        if key == "amplifier":
            raw["name"] = value
        elif key == "price":
            amount, _, currency = value.partition(" ")
            raw["price"] = _number(amount, key, line)
            raw["currency"] = currency.strip().upper() or None
        elif key in HEADER_LISTS:
            raw[key] = [_number(word, key, line) for word in value.split()]
        else:
            raw[key] = value if key in HEADER_TEXTS else _number(value, key, line)
    try:
        return AmplifierRecord.model_validate(raw)
    except ValidationError as error:
        key = str(error.errors()[0]["loc"][0])
        raise explain(error).at(line=header.get(key, header.get("amplifier", (None, "")))[0]) from None


def _runs(lines: list[str]) -> list[Run]:
    """The table's rows. Blank rows and comments are passed over; lines are counted as in the file."""
    rows = [(n, line) for n, line in enumerate(lines, start=1) if line.strip(" ,;\t") and not line.startswith("#")]
    if not rows:
        return []
    title_line, title = rows[0]
    separator, decimal_comma = _separator(title, title_line)
    columns = [column.strip().lower() for column in title.split(separator)]
    _check_columns(columns, title_line)
    if len(rows) - 1 > MOST_RUNS:
        raise BadInput(f"{len(rows) - 1} rows; a sheet may hold {MOST_RUNS}", line=rows[MOST_RUNS + 1][0])
    return [_run(columns, separator, decimal_comma, number, line) for number, line in rows[1:]]


def _separator(title: str, line: int) -> tuple[str, bool]:
    """The separator and whether decimals use a comma."""
    counts = {mark: title.count(mark) for mark in (",", ";", "\t", "|")}
    mark = max(counts, key=lambda m: counts[m])
    if counts[mark] == 0 or mark in ("\t", "|"):
        named = (
            {"\t": "tabs", "|": "bars"}.get(mark, "neither commas nor semicolons")
            if counts[mark]
            else ("neither commas nor semicolons")
        )
        raise BadInput(f"the header row has {named}; separate columns with commas or semicolons", line=line)
    return mark, mark == ";"


def _check_columns(columns: list[str], line: int) -> None:
    for column in columns:
        if column not in COLUMNS:
            raise BadInput(f"unknown column {column[:40]!r}; {nearest(column, COLUMNS)}", line=line)
        if columns.count(column) > 1:
            raise BadInput("stands twice in the header row", column, line)
    for column in ("load_ohm", "criterion"):
        if column not in columns:
            raise BadInput("this column is missing; load_ohm, criterion and power_w or output_v are needed",
                           column, line)  # fmt: skip
    if not {"power_w", "output_v"} & set(columns):
        raise BadInput("no column states the output; add power_w, or output_v", "power_w", line)


def _run(columns: list[str], separator: str, decimal_comma: bool, number: int, line: str) -> Run:
    cells = next(csv.reader([line], delimiter=separator))
    if len(cells) > len(columns) and any(cell.strip() for cell in cells[len(columns) :]):
        raise BadInput(f"{len(cells)} cells under {len(columns)} columns", line=number)
    raw = {
        column: _cell(column, cell.strip(), decimal_comma, number)
        for column, cell in zip(columns, cells, strict=False)
        if cell.strip()
    }
    return _validated(Run, raw, number)


def _cell(column: str, cell: str, decimal_comma: bool, line: int) -> Any:
    if column in YES_NO:
        known = {"yes": True, "true": True, "1": True, "no": False, "false": False, "0": False}
        if cell.lower() not in known:
            raise BadInput(f"{cell[:40]!r} is not allowed; give yes or no", column, line)
        return known[cell.lower()]
    if column in TEXTS:
        return cell[1:] if cell[:1] == "'" and cell[1:2] in FORMULA_STARTS else cell
    return _number(cell.replace(",", ".") if decimal_comma else cell, column, line)


def _number(word: str, field: str, line: int) -> float:
    try:
        return float(word)
    except ValueError:
        raise BadInput(f"{word[:40]!r} is not a number", field, line) from None


def _validated(model: type[Row], raw: dict[str, Any], line: int) -> Row:
    try:
        return model.model_validate(raw)
    except ValidationError as error:
        raise explain(error).at(line=line) from None


def write(sheet: Sheet) -> str:
    """The sheet as a CSV file that `read` gives back unchanged."""
    out = io.StringIO()
    for key, value in _header_values(sheet.record):
        out.write(f"# {key}: {value}\n")
    for claim in sheet.claims:
        cells = [getattr(claim, name) for name in CLAIM_COLUMNS]
        out.write(f"# claim: {' '.join('-' if cell is None else _written(cell) for cell in cells)}\n")
    rows = [[_written(getattr(run, column)) for column in COLUMNS] for run in sheet.runs]
    writer = csv.writer(out, lineterminator="\n")
    writer.writerows([COLUMNS, *rows])
    return out.getvalue()


def _header_values(record: AmplifierRecord) -> Iterable[tuple[str, str]]:
    yield "amplifier", record.name
    for key in HEADER_KEYS:
        value = getattr(record, "class_" if key == "class" else key, None)
        if key == "price" and value is not None:
            yield key, f"{_written(value)} {record.currency or ''}".strip()
        elif key in HEADER_LISTS:
            if value:
                yield key, " ".join(_written(each) for each in value)
        elif value is not None and not (isinstance(value, Given) and value.origin == "assumed"):
            yield key, _written(value)


def _written(value: object) -> str:
    """A cell: yes or no, a number in full, or text that a spreadsheet will not take for a formula."""
    match value:
        case None:
            return ""
        case bool():
            return "yes" if value else "no"
        case Given():
            return repr(value.value)
        case float() | int():
            return repr(value)
        case _:
            text = " ".join(str(value).split())
            return f"'{text}" if text.startswith(FORMULA_STARTS) else text
