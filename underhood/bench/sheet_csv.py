"""Bench sheets as CSV files: read with one clear message for anything that cannot be used, and written back.

Comma or semicolon separated; with semicolons a decimal comma is understood. `#` lines carry `key: value`.
"""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Iterable, Mapping, Sequence
from typing import Any, TypeVar

from pydantic import ValidationError

from underhood.amplifier import AmplifierRecord, Claim, Run
from underhood.bench.sheet import Sheet
from underhood.errors import BadInput, nearest
from underhood.schema import Given, explain

LARGEST_BYTES = 1_000_000
MOST_RUNS = 2000
COLUMNS = tuple(Run.model_fields)
YES_NO = ("protect", "four_wire", "excluded", "kept")
TEXTS = ("load_kind", "criterion", "note", "meter", "reason", "as_read", "date")
SPELT = {"name": "amplifier", "class_": "class"}
"""Fields of the record whose header key differs."""
HEADER_KEYS = (*(SPELT.get(field, field) for field in AmplifierRecord.model_fields if field != "currency"), "claim")
HEADER_NUMBERS = ("fuses_a", "pass_band_hz", "input_range_v", "high_pass_range_hz", "low_pass_range_hz", "size_mm")
HEADER_WORDS = ("inputs", "lights")
HEADER_YES_NO = ("bridgeable", "strappable", "remote_level")
HEADER_TEXTS = (
    "class", "supply", "measured_as", "terminal_max", "band", "price_date", "list_price_date", "likes", "dislikes",
)  # fmt: skip
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
            raw["name"] = _harmed(value)
        elif key in ("price", "list_price"):
            amount, _, currency = value.partition(" ")
            raw[key] = _number(amount, key, line)
            if currency.strip():
                raw["currency"] = currency.strip().upper()
        else:
            raw[key] = _header_value(key, value, line)
    try:
        return AmplifierRecord.model_validate(raw)
    except ValidationError as error:
        key = str(error.errors()[0]["loc"][0])
        raise explain(error).at(line=header.get(key, header.get("amplifier", (None, "")))[0]) from None


def _header_value(key: str, value: str, line: int) -> Any:
    if key in HEADER_NUMBERS:
        return [_number(word, key, line) for word in value.split()]
    if key in HEADER_WORDS:
        return value.split()
    if key in HEADER_YES_NO:
        return _yes_no(key, value, line)
    return _harmed(value) if key in HEADER_TEXTS else _number(value, key, line)


def _runs(lines: list[str]) -> list[Run]:
    """The table's rows. Blank rows and comments are passed over; lines are counted as in the file."""
    rows = [(n, line) for n, line in enumerate(lines, start=1) if line.strip(" ,;\t") and not line.startswith("#")]
    if not rows:
        return []
    title_line, title = rows[0]
    separator, decimal_comma = _separator(title, title_line)
    columns = [column.strip().lower() for column in title.split(separator)]
    _check_columns(columns, title_line, COLUMNS, ("load_ohm", "criterion"))
    if not {"power_w", "output_v"} & set(columns):
        raise BadInput("no column states the output; add power_w, or output_v", "power_w", title_line)
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


def _check_columns(columns: list[str], line: int, known: Sequence[str], needed: Sequence[str]) -> None:
    for column in columns:
        if column not in known:
            raise BadInput(f"unknown column {column[:40]!r}; {nearest(column, known)}", line=line)
        if columns.count(column) > 1:
            raise BadInput("stands twice in the header row", column, line)
    for column in needed:
        if column not in columns:
            raise BadInput(f"this column is missing; {', '.join(needed)} are needed", column, line)


def _run(columns: list[str], separator: str, decimal_comma: bool, number: int, line: str) -> Run:
    cells = next(csv.reader([line], delimiter=separator))
    if len(cells) > len(columns) and any(cell.strip() for cell in cells[len(columns) :]):
        raise BadInput(f"{len(cells)} cells under {len(columns)} columns", line=number)
    return run_of_cells(dict(zip(columns, cells, strict=False)), number, decimal_comma)


def run_of_cells(cells: Mapping[str, str], line: int, decimal_comma: bool = False) -> Run:
    """One run from the text of its cells by column; empty cells say nothing. Raises BadInput naming line and column."""
    raw = {column: _cell(column, cell.strip(), decimal_comma, line) for column, cell in cells.items() if cell.strip()}
    return _validated(Run, raw, line)


def cells_of_run(run: Run) -> dict[str, str]:
    """The text of a run's cells by column, as a person would type them: what says nothing is left out."""
    said = {column: getattr(run, column) for column in run.model_fields_set | {"load_kind"}}
    return {column: _typed(value) for column, value in said.items() if value is not None and value is not False}


def _typed(value: object) -> str:
    match value:
        case True:
            return "yes"
        case float():
            return f"{value:.10g}"
        case _:
            return str(value)


def _cell(column: str, cell: str, decimal_comma: bool, line: int) -> Any:
    if column in YES_NO:
        return _yes_no(column, cell, line)
    if column in TEXTS:
        return cell.lower() if column in ("load_kind", "criterion") else _harmed(cell)
    return _number(cell.replace(",", ".") if decimal_comma else cell, column, line)


def _yes_no(field: str, word: str, line: int) -> bool:
    known = {"yes": True, "true": True, "1": True, "no": False, "false": False, "0": False}
    if word.lower() not in known:
        raise BadInput(f"{word[:40]!r} is not allowed; give yes or no", field, line)
    return known[word.lower()]


def _harmed(text: str) -> str:
    """A text whose leading formula sign was made harmless on the way out, as it was."""
    return text[1:] if text[:1] == "'" and text[1:2] in FORMULA_STARTS else text


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
    for field in AmplifierRecord.model_fields:
        key, value = SPELT.get(field, field), getattr(record, field)
        assumed = isinstance(value, Given) and value.origin == "assumed"
        if key not in HEADER_KEYS or assumed or value in (None, "", ()):
            continue
        if key in ("price", "list_price"):
            yield key, f"{_written(value)} {record.currency or ''}".strip()
        elif isinstance(value, tuple):
            yield key, " ".join(_written(each) for each in value)
        else:
            yield key, _written(value)


def read_claims(content: str | bytes, file: str = "") -> list[Claim]:
    """Claims from a CSV of their own, with the columns `load_ohm,power_w,supply_v,thd_percent,kind`."""
    try:
        lines = _text(content).splitlines()
        rows = [(n, line) for n, line in enumerate(lines, start=1) if line.strip(" ,;\t") and not line.startswith("#")]
        if len(rows) < 2:
            raise BadInput("holds no claim; it needs a header row and at least one row")
        (title_line, title), *claims = rows
        separator, decimal_comma = _separator(title, title_line)
        columns = [column.strip().lower() for column in title.split(separator)]
        _check_columns(columns, title_line, CLAIM_COLUMNS, ("load_ohm", "power_w", "kind"))
        return [_claim_of_cells(columns, next(csv.reader([line], delimiter=separator)), decimal_comma, n)
                for n, line in claims]  # fmt: skip
    except BadInput as problem:
        raise problem.at(file=file) from None


def _claim_of_cells(columns: list[str], cells: list[str], decimal_comma: bool, line: int) -> Claim:
    raw = {
        column: cell.strip()
        if column == "kind"
        else _number(cell.strip().replace(",", ".") if decimal_comma else cell.strip(), column, line)
        for column, cell in zip(columns, cells, strict=False)
        if cell.strip()
    }
    return _validated(Claim, raw, line)


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
