"""A written page with decimal commas, where the workshop writes those.

The page on the screen has the same rule (`web/src/ui/writing.ts`); both are tested on the core's
`tests/comma_cases.json`.
Left out: numbers that no unit, bracket or end of a cell follows: they may be part of a name, such as a release.
"""

from __future__ import annotations

import re

UNTOUCHED = re.compile(r"(<style.*?</style>|<[^>]+>)", re.DOTALL)
UNIT = r"m?[VAW]\b|m?Ω|VA|dB|[kKM]?Hz|m?s\b|h\b|mm|cm|m\b|ft|in\b|°|%|[²³]|times|to\b|and\b|[A-Z]{3}\b|[)×·+−*/=]|$"
NUMBER = re.compile(rf"(?<![\w.])(\d+)\.(\d+)(?=[\s\u00a0]*(?:{UNIT}))")


def with_commas(html: str) -> str:
    """The page with a comma in every number that is text; style, addresses and attributes as they are."""
    parts = UNTOUCHED.split(html)
    parts[::2] = [NUMBER.sub(r"\1,\2", text) for text in parts[::2]]
    return "".join(parts)
