"""One finding about a setup: what is wrong, why it matters, what to do, and the field it leads to."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

Severity = Literal["act", "caution", "note"]
ORDER: dict[Severity, int] = {"act": 0, "caution": 1, "note": 2}


@dataclass(frozen=True, slots=True)
class Flag:
    """One finding. `station` and `field` lead to where it is put right."""

    code: str
    severity: Severity
    text: str
    why: str
    remedy: str
    station: Literal["load", "amplifiers", "draw", "supply", "cable"]
    field: str = ""
