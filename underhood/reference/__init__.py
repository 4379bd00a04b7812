"""Published tables, each a CSV file under a header that names standard, edition and unit.

A header line `# from: memory` marks values that were written down from memory of the standard and want checking
against a copy of it.
"""

from __future__ import annotations

import csv
from dataclasses import dataclass
from functools import cache
from importlib import resources

__all__ = ["column", "table"]


@dataclass(frozen=True, slots=True)
class Table:
    """Rows of a published table in file order, and where they come from."""

    standard: str
    edition: str
    unit: str
    from_memory: bool
    rows: tuple[dict[str, str], ...]

    @property
    def source(self) -> str:
        """One line naming the table, for a figure's `source`."""
        memory = " (from memory)" if self.from_memory else ""
        return f"{self.standard}, {self.edition}{memory}"


@cache
def column(name: str, field: str) -> tuple[float, ...]:
    """One numeric column of a table."""
    return tuple(float(row[field]) for row in table(name).rows)


@cache
def table(name: str) -> Table:
    """The table in `name`.csv."""
    text = resources.files(__package__).joinpath(f"{name}.csv").read_text(encoding="utf-8")
    lines = text.splitlines()
    header = dict(line[1:].strip().split(": ", 1) for line in lines if line.startswith("#"))
    rows = tuple(csv.DictReader(line for line in lines if line and not line.startswith("#")))
    return Table(header["standard"], header["edition"], header["unit"], header.get("from") == "memory", rows)
