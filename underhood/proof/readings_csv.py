"""Readings as CSV files: read with one clear message for what cannot be used, and written back.

Left out: what a place of the job is called, which is asked when they are compared (see `places`).
"""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable
from typing import Any

from underhood.document import csv_table
from underhood.document.csv_table import harmed, harmless, number, validated
from underhood.document.written import PREFIXES, UNIT_WORDS, number_written
from underhood.errors import BadInput
from underhood.proof.reading import KINDS, Reading

LARGEST_BYTES = 1_000_000
MOST_READINGS = 2000
COLUMNS = (
    *("what", "from", "to", "amplifier", "engine", "programme", "tone_hz", "level_db", "load", "value", "hold"),
    *("side", "since_s", "unit", "meter", "meter_range", "accuracy_percent", "taken_at", "by", "note", "excluded"),
)
NUMBERS = ("tone_hz", "level_db", "since_s", "accuracy_percent")


def read(content: str | bytes, file: str = "") -> list[Reading]:
    """The readings in a file's content. Raises BadInput naming file, line, column and what is allowed."""
    try:
        text = csv_table.text_of(content, LARGEST_BYTES, f"a list of {MOST_READINGS} readings")
        found = csv_table.table(text, COLUMNS, ("what", "value"), MOST_READINGS, "a list of readings")
        if found is None:
            raise BadInput("holds no reading; a list needs at least one row")
        return [_reading(cells, line, found.decimal_comma) for line, cells in found.rows]
    except BadInput as problem:
        raise problem.at(file=file) from None


def _reading(cells: dict[str, str], line: int, decimal_comma: bool) -> Reading:
    raw: dict[str, Any] = {name: harmed(word) for name, word in cells.items() if name not in ("unit", "meter_range")}
    for name in NUMBERS:
        if name in raw:
            raw[name] = number(raw[name], name, line, decimal_comma)
    kind = KINDS.get(raw["what"]) if "what" in raw else None
    if kind is not None:
        factor = _factor(cells.get("unit", ""), kind.unit, line)
        for name in ("value", "meter_range"):
            if name in cells:
                try:
                    raw[name] = number_written(cells[name], kind.unit, name) * factor
                except BadInput as problem:
                    raise problem.at(line=line) from None
    if "excluded" in raw:
        raw["excluded"] = raw["excluded"].lower() in ("yes", "true", "1")
    return validated(Reading, raw, line)


def _factor(word: str, unit: str, line: int) -> float:
    """What the column `unit` multiplies by: `mV` a thousandth, the unit itself nothing."""
    if not word:
        return 1.0
    for prefix, factor in PREFIXES.items():
        if word.startswith(prefix) and word[len(prefix) :].lower() in (unit.lower(), *UNIT_WORDS[unit]):
            return factor
    raise BadInput(f"{word[:20]!r} is not a unit of this reading; give {unit}, or one like m{unit}", "unit", line)


def write(readings: Iterable[Reading]) -> str:
    """Readings as the file that `read` reads, in the units of their kinds."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(COLUMNS)
    for each in readings:
        dumped = each.model_dump(mode="json", by_alias=True) | {"unit": each.unit}
        dumped["excluded"] = "yes" if each.excluded else ""
        writer.writerow([_cell(dumped[name]) for name in COLUMNS])
    return out.getvalue()


def _cell(value: Any) -> str:
    if value is None:
        return ""
    return f"{value:.10g}" if isinstance(value, float) else harmless(value)
