"""Where a value stands in the text of a JSON file, so that a refusal can name its line.

Everything that is not on the way is skipped by the standard decoder, at its speed.
"""

from __future__ import annotations

import json
from collections.abc import Iterator, Sequence
from json.decoder import scanstring  # type: ignore[attr-defined]  # public since Python 2, absent from its stubs

_DECODER = json.JSONDecoder()
_BLANK = " \t\r\n"


def line_of(text: str, path: Sequence[int | str]) -> int | None:
    """The line, from 1, of the value at a path of keys and indices; of the nearest value around it where it is missing.

    None for a text that is not JSON.
    """
    try:
        at = _after_blank(text, 0)
        for step in path:
            found = next((start for name, start in _members(text, at) if name == step), None)
            if found is None:
                break
            at = found
    except (ValueError, IndexError):
        return None
    return text.count("\n", 0, at) + 1


def _after_blank(text: str, at: int) -> int:
    while text[at] in _BLANK:
        at += 1
    return at


def _members(text: str, at: int) -> Iterator[tuple[int | str, int]]:
    """(key or index, where its value starts) of the object or list that starts at `at`; nothing for other values."""
    if text[at] not in "{[":
        return
    is_object, index, at = text[at] == "{", 0, _after_blank(text, at + 1)
    while text[at] not in "}]":
        name: int | str = index
        if is_object:
            name, at = scanstring(text, at + 1, True)
            at = _after_blank(text, _after_blank(text, at) + 1)
        yield name, at
        _, end = _DECODER.raw_decode(text, at)
        at = _after_blank(text, end)
        if text[at] == ",":
            at = _after_blank(text, at + 1)
        index += 1
