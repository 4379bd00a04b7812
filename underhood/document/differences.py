"""What differs between two documents, field by field, in words and figures: two saves of a job, mine and another's.

Lists of one length are compared entry by entry; of lists of different lengths what each holds is told, and what changed
in the parts that have the same name in both.
Left out: which of both is right.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from functools import cache
from typing import Any, NamedTuple

from underhood.document.job import JobDocument
from underhood.document.words import path_words
from underhood.document.workshop import WorkshopSettings

MOST_NAMES = 6
"""That are listed of what a list holds; of a longer one its length is told."""
SYMBOLS = {"ohm": "Ω", "ohm/m": "Ω/m"}
MOST_STEPS = 24
"""Deeper than any document of the project; what lies below is told as a whole."""
LONGEST = 80
KEY = re.compile(r"[a-z]+(_[a-z]+)+")
"""One of a few words that the file may hold, such as `bass_heavy`: told with spaces; what a person wrote stays."""
SMALL = 0.1
"""Ohms below which milliohms read better."""


@dataclass(frozen=True)
class Difference:
    """A field with different values: its dotted path for programs, its words for people, and both values in words."""

    path: str
    words: str
    before: str
    after: str


def differences(before: Any, after: Any) -> list[Difference]:
    """Every field in which two plain documents differ, in the order of the first, then those that only the second has.

    Parts in lists are told by their names: which came and went, and what changed in those that stayed. `path` then is
    the list's, for one of both lists can only be taken whole. An empty list where both say the same: a bare number says
    what the same number says that is marked as typed.
    """
    return [
        Difference(
            each.path,
            path_words(each.at, after if _has(after, each.at) else before),
            value_words(each.before, each.at),
            value_words(each.after, each.at),
        )
        for each in _changed(_Pair("", "", before, after))
    ]


class _Pair(NamedTuple):
    """Two values: the path by which one can be put for the other, and the one by which they are told."""

    path: str
    at: str
    before: Any
    after: Any

    def inside(self, key: str, before: Any, after: Any) -> _Pair:
        path = f"{self.path}.{key}" if self.path else key
        return _Pair(path, f"{self.at}.{key}" if self.at else key, before, after)


def _changed(pair: _Pair) -> Iterable[_Pair]:
    before, after = pair.before, pair.after
    if _same(before, after):
        return
    deep = pair.at.count(".") >= MOST_STEPS
    if not deep and _is_part(before) and _is_part(after) and not _is_another(pair):
        for key in [*before, *(key for key in after if key not in before)]:
            yield from _changed(pair.inside(key, before.get(key), after.get(key)))
    elif not deep and _are_parts(before) and _are_parts(after):
        yield from _listed_pairs(pair)
    else:
        yield pair


def _listed_pairs(pair: _Pair) -> Iterable[_Pair]:
    before, after = pair.before, pair.after
    if len(before) == len(after):
        for i, (a, b) in enumerate(zip(before, after, strict=True)):
            yield from _changed(pair.inside(str(i), a, b))
        return
    yield pair
    was = {each["name"]: each for each in before if each.get("name")}
    for i, each in enumerate(after):
        if each.get("name") in was:
            inside = _changed(_Pair("", f"{pair.at}.{i}", was[each["name"]], each))
            yield from (found._replace(path=pair.path) for found in inside)


def _is_another(pair: _Pair) -> bool:
    """Whether a part of a list is another one, and not the same with another name."""
    before, after = pair.before, pair.after
    if not pair.at.rpartition(".")[2].isdecimal() or before.get("name") == after.get("name"):
        return False
    return any(key != "name" and not _same(before.get(key), after.get(key)) for key in {*before, *after})


def _same(a: Any, b: Any) -> bool:
    return bool(a == b) or (_number(a) is not None and _number(a) == _number(b) and _origin(a) == _origin(b))


def _is_part(value: Any) -> bool:
    return isinstance(value, Mapping) and not _is_quantity(value)


def _are_parts(value: Any) -> bool:
    """Whether entries are worth comparing one by one: those of a sweep or of a recording are not."""
    return isinstance(value, list) and all(_is_part(each) for each in value)


def _is_quantity(value: Any) -> bool:
    return isinstance(value, Mapping) and "value" in value and "origin" in value


def _number(value: Any) -> float | None:
    inner = value.get("value") if _is_quantity(value) else value
    return inner if isinstance(inner, int | float) and not isinstance(inner, bool) else None


def _origin(value: Any) -> str:
    return str(value["origin"]) if _is_quantity(value) else "typed"


def _has(document: Any, path: str) -> bool:
    """Whether a list that the path leads through is long enough here."""
    here = document
    for step in path.split("."):
        if isinstance(here, list):
            if not step.isdecimal() or int(step) >= len(here):
                return False
            here = here[int(step)]
        elif isinstance(here, Mapping):
            here = here.get(step)
    return True


def value_words(value: Any, path: str = "") -> str:
    """A value as a person reads it, with the unit of the field that `path` ends in."""
    if value is None or value in ("", [], ()):
        return "nothing"
    if isinstance(value, bool):
        return "yes" if value else "no"
    number = _number(value)
    if number is not None:
        figure = _figure(number, _units().get(path.rpartition(".")[2], ""))
        return figure if _origin(value) == "typed" else f"{figure}, {_origin(value)}"
    if isinstance(value, list):
        return _listed(value, path)
    if isinstance(value, Mapping):
        return value_words(value.get("name") or value.get("kind") or "given")
    words = str(value)
    return (words.replace("_", " ") if KEY.fullmatch(words) else words)[:LONGEST]


def _listed(values: list[Any], path: str) -> str:
    if len(values) > MOST_NAMES or any(isinstance(each, list) for each in values):
        return f"{len(values)} entries"
    return ", ".join(value_words(each, path) for each in values)


def _figure(number: float, unit: str) -> str:
    if unit in SYMBOLS and 0 < abs(number) < SMALL:
        number, unit = number * 1000, f"m{SYMBOLS[unit]}"
    words = f"{number:.10g} {SYMBOLS.get(unit, unit)}".strip()
    return words.replace("-", "−")


@cache
def _units() -> dict[str, str]:
    """The unit of each field that has one."""
    found: dict[str, str] = {}
    for model in (JobDocument, WorkshopSettings):
        schema = model.model_json_schema(by_alias=True)
        for part in (schema, *schema.get("$defs", {}).values()):
            for name, field in part.get("properties", {}).items():
                unit = next((each["x-unit"] for each in (field, *field.get("anyOf", ())) if "x-unit" in each), "")
                found[name] = found.get(name) or unit
    return found
