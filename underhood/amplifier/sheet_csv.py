"""Bench sheets as CSV files: read with one clear message for anything that cannot be used, and written back.

Comma or semicolon separated; with semicolons a decimal comma is understood. `#` lines carry `key: value`.
"""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Iterable, Mapping
from typing import Any

from pydantic import ValidationError

from underhood.amplifier.sheet import Sheet
from underhood.document import csv_table
from underhood.document.amplifier import AmplifierRecord, Claim, Measurement
from underhood.document.csv_table import harmed, number, validated
from underhood.document.quantity import Quantity, explain
from underhood.errors import BadInput, nearest

LARGEST_BYTES = 1_000_000
MOST_RUNS = 2000
MOST_CLAIMS = 100
COLUMNS = tuple(Measurement.model_fields)
YES_NO = ("protect", "four_wire", "excluded", "kept")
TEXTS = ("load_kind", "criterion", "note", "meter", "reason", "as_read", "date")
SPELT = {"name": "amplifier", "class_": "class"}
"""Fields of the record whose header key differs."""
HEADER_KEYS = (*(SPELT.get(field, field) for field in AmplifierRecord.model_fields if field != "currency"), "claim")
HEADER_NUMBERS = ("fuses_a", "pass_band_hz", "input_range_v", "high_pass_range_hz", "low_pass_range_hz", "size_mm")
HEADER_WORDS = ("inputs", "lights")
HEADER_YES_NO = ("all_channels_driven", "bridgeable", "strappable", "remote_level")
HEADER_TEXTS = (
    "class",
    "supply",
    "measured_as",
    "terminal_max",
    "terminal_kind",
    "band",
    "price_date",
    "list_price_date",
    "likes",
    "dislikes",
)
CLAIM_COLUMNS = ("load_ohm", "power_w", "supply_v", "thd_percent", "kind")


def read(content: str | bytes, file: str = "") -> Sheet:
    """The sheet in a file's content. Raises BadInput naming file, line, column and what is allowed."""
    try:
        text = csv_table.text_of(content, LARGEST_BYTES, f"a bench sheet of {MOST_RUNS} rows")
        header, claims = _header(text.splitlines())
        runs = _runs(text)
        if not runs and not claims:
            raise BadInput("holds no reading and no claim; a sheet needs at least one row")
        return Sheet(_record(header, file), tuple(runs), tuple(claims))
    except BadInput as problem:
        raise problem.at(file=file) from None


def names_amplifier(content: bytes | str) -> bool:
    """Whether a sheet says which amplifier it is of; else its file's name has to do, which says little."""
    text = csv_table.text_of(content, LARGEST_BYTES, f"a bench sheet of {MOST_RUNS} rows")
    return any(re.match(r"#\s*amplifier\s*:\s*\S", line) for line in text.splitlines())


def _header(lines: list[str]) -> tuple[dict[str, tuple[int, str]], list[Claim]]:
    """The `# key: value` lines as {key: (line, value)}, and the claims among them."""
    header: dict[str, tuple[int, str]] = {}
    claims: list[Claim] = []
    for at, line in enumerate(lines, start=1):
        match = re.match(r"#\s*(\w+)\s*:\s*(.*)$", line)
        if not match:
            continue
        key, value = match[1], match[2].strip().strip(",;").strip()
        if key not in HEADER_KEYS:
            raise BadInput(f"unknown key {key!r}; {nearest(key, HEADER_KEYS)}", line=at)
        if key == "claim":
            claims.append(_claim(value, at))
        elif value:
            header[key] = (at, value)
    return header, claims


def _claim(value: str, line: int) -> Claim:
    """`load_ohm power_w supply_v thd_percent kind`, a dash for what is not stated."""
    words = value.split()
    if len(words) != len(CLAIM_COLUMNS):
        raise BadInput(f"a claim is `{' '.join(CLAIM_COLUMNS)}`, got {value!r}", "claim", line)
    said = {name: word for name, word in zip(CLAIM_COLUMNS, words, strict=True) if word != "-"}
    return _claim_of_cells(said, line)


def _record(header: dict[str, tuple[int, str]], file: str) -> AmplifierRecord:
    raw: dict[str, Any] = {"name": re.sub(r"\.csv$", "", file, flags=re.I) or "Unnamed amplifier"}
    for key, (line, value) in header.items():
        if key == "amplifier":
            raw["name"] = harmed(value)
        elif key in ("price", "list_price"):
            amount, _, currency = value.partition(" ")
            raw[key] = number(amount, key, line)
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
        return [number(word, key, line) for word in value.split()]
    if key in HEADER_WORDS:
        return value.split()
    if key in HEADER_YES_NO:
        return _yes_no(key, value, line)
    return harmed(value) if key in HEADER_TEXTS else number(value, key, line)


def _runs(text: str) -> list[Measurement]:
    found = csv_table.table(text, COLUMNS, ("load_ohm", "criterion"), MOST_RUNS, "a sheet")
    if found is None:
        return []
    if not {"power_w", "output_v"} & set(found.columns):
        raise BadInput("no column states the output; add power_w, or output_v", "power_w", found.title_line)
    return [run_of_cells(cells, line, found.decimal_comma) for line, cells in found.rows]


def run_of_cells(cells: Mapping[str, str], line: int, decimal_comma: bool = False) -> Measurement:
    """One run from the text of its cells by column; empty cells say nothing. Raises BadInput naming line and column."""
    raw = {column: _cell(column, cell.strip(), decimal_comma, line) for column, cell in cells.items() if cell.strip()}
    return validated(Measurement, raw, line)


def cells_of_run(run: Measurement) -> dict[str, str]:
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
        return cell.lower() if column in ("load_kind", "criterion") else harmed(cell)
    return number(cell, column, line, decimal_comma)


def _yes_no(field: str, word: str, line: int) -> bool:
    known = {"yes": True, "true": True, "1": True, "no": False, "false": False, "0": False}
    if word.lower() not in known:
        raise BadInput(f"{word[:40]!r} is not allowed; give yes or no", field, line)
    return known[word.lower()]


def embedded(sheet: Sheet) -> dict[str, Any]:
    """A sheet's record, runs and claims as a job holds them, plain."""
    return {
        **sheet.record.model_dump(mode="json", by_alias=True),
        "runs": [run.model_dump(mode="json", exclude_defaults=True) for run in sheet.runs],
        "claims": [claim.model_dump(mode="json") for claim in sheet.claims],
    }


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
        assumed = isinstance(value, Quantity) and value.origin == "assumed"
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
        text = csv_table.text_of(content, LARGEST_BYTES, "a file of claims")
        found = csv_table.table(text, CLAIM_COLUMNS, ("load_ohm", "power_w", "kind"), MOST_CLAIMS, "a file of claims")
        if found is None or not found.rows:
            raise BadInput("holds no claim; it needs a header row and at least one row")
        return [_claim_of_cells(cells, line, found.decimal_comma) for line, cells in found.rows]
    except BadInput as problem:
        raise problem.at(file=file) from None


def _claim_of_cells(cells: Mapping[str, str], line: int, decimal_comma: bool = False) -> Claim:
    raw = {name: cell if name == "kind" else number(cell, name, line, decimal_comma) for name, cell in cells.items()}
    return validated(Claim, raw, line)


def _written(value: object) -> str:
    """A cell: yes or no, a number in full, or text that a spreadsheet will not take for a formula."""
    match value:
        case None:
            return ""
        case bool():
            return "yes" if value else "no"
        case Quantity():
            return repr(value.value)
        case float() | int():
            return repr(value)
        case _:
            return csv_table.harmless(value)
