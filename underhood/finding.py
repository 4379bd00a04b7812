"""One finding: what is wrong, why it matters, what to do about it, and the field it leads to.

Findings of a forecast, of a bench sheet and of a loudspeaker's parameters are all of this one kind.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Literal

Severity = Literal["act", "caution", "note"]
ORDER: dict[Severity, int] = {"act": 0, "caution": 1, "note": 2}
Station = Literal["load", "amplifiers", "draw", "supply", "cable", ""]
"""Where in a job it is put right; empty for what is no job's."""


@dataclass(frozen=True, slots=True)
class Finding:
    """One finding.

    code      its kind, e.g. `fuse_missing`
    text      what was found, with its numbers
    why       why it matters; `remedy` what to do
    field     path or column of the value to look at; `station` the place of the job that shows it
    title     the kind in words; empty where the text says it
    row       of a bench sheet, from 1; None for the whole sheet or job
    settled   the reason recorded by whoever looked at it and kept the reading
    """

    code: str
    severity: Severity
    text: str
    why: str = ""
    remedy: str = ""
    station: Station = ""
    field: str = ""
    title: str = ""
    row: int | None = None
    settled: str = ""


def most_serious_first(found: Iterable[Finding]) -> list[Finding]:
    """Findings by severity; of one severity, as they came."""
    return sorted(found, key=lambda each: ORDER[each.severity])
