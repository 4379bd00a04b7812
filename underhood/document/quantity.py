"""What the job file is made of: numbers with a unit, a range and an origin, and parts that refuse unknown keys.

The parts themselves are in `amplifier` and `job`. Every refusal here says what was given and what is allowed.
"""

from __future__ import annotations

import json
import math
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from functools import cache
from typing import Annotated, Any, get_args

from pydantic import (
    BaseModel,
    ConfigDict,
    Field,
    GetCoreSchemaHandler,
    GetJsonSchemaHandler,
    ValidationError,
    model_validator,
)
from pydantic.json_schema import JsonSchemaValue
from pydantic_core import CoreSchema, PydanticCustomError, core_schema

from underhood.errors import BadInput, nearest
from underhood.figure import Provenance

PROVENANCES = get_args(Provenance)
KEYS = {"value", "origin", "spread", "readings"}
MOST_SPREAD, MOST_READINGS = 10.0, 40


@dataclass(frozen=True, slots=True)
class Quantity:
    """A value and where it comes from. A bare number in a file was typed.

    spread    one standard deviation, where readings in the car told it: of the logarithm, or in the unit for volts,
              shares and the like (see `sensitivity.Width`); None for what is usual of its origin
    readings  ids of the readings that it rests on
    """

    value: float
    origin: Provenance = "typed"
    spread: float | None = None
    readings: tuple[str, ...] = ()


@dataclass(frozen=True)
class Range:
    """Annotation of a number: its unit and what is allowed, inclusive.

    The number may come as `{"value": …, "origin": …}`; on a plain float (see `Number`) only the number is kept.
    """

    unit: str
    low: float
    high: float
    whole: bool = False

    def __get_pydantic_core_schema__(self, source: Any, handler: GetCoreSchemaHandler) -> CoreSchema:
        keep = source is Quantity
        return core_schema.no_info_plain_validator_function(
            self._given if keep else self._number,
            serialization=core_schema.plain_serializer_function_ser_schema(_dump) if keep else None,
        )

    def __get_pydantic_json_schema__(self, core: CoreSchema, handler: GetJsonSchemaHandler) -> JsonSchemaValue:
        number = {
            "type": "integer" if self.whole else "number",
            "minimum": self.low,
            "maximum": self.high,
        }
        return {
            "anyOf": [
                number,
                {
                    "type": "object",
                    "additionalProperties": False,
                    "required": ["value", "origin"],
                    "properties": {
                        "value": number,
                        "origin": {"enum": list(PROVENANCES), "type": "string"},
                        "spread": {"type": "number", "minimum": 0, "maximum": MOST_SPREAD},
                        "readings": {
                            "type": "array",
                            "maxItems": MOST_READINGS,
                            "items": {"type": "string", "maxLength": 40},
                        },
                    },
                },
            ],
            "x-unit": self.unit,
        }

    def _given(self, raw: object) -> Quantity:
        if isinstance(raw, Quantity):
            return raw
        if isinstance(raw, dict):
            if unknown := set(raw) - KEYS:
                text = f"holds unknown key {min(unknown)!r}; allowed: {', '.join(sorted(KEYS))}"
                raise PydanticCustomError("given", "{text}", {"text": text})
            origin = raw.get("origin", "typed")
            if origin not in PROVENANCES:
                raise PydanticCustomError(
                    "given", "{text}", {"text": f"origin {origin!r} is not one of {', '.join(PROVENANCES)}"}
                )
            return Quantity(self._number(raw.get("value")), origin, _spread(raw), _readings(raw))
        return Quantity(self._number(raw))

    def _number(self, raw: object) -> float:
        number = raw if isinstance(raw, (int, float)) and not isinstance(raw, bool) else math.nan
        if self.low <= number <= self.high and not (self.whole and number != int(number)):
            return number
        if isinstance(raw, dict):
            return self._given(raw).value
        kind = "a whole number" if self.whole else "a number"
        unit = f" {self.unit}" if self.unit else ""
        text = f"{quote(raw)} is not allowed; give {kind} from {self.low:g} to {self.high:g}{unit}"
        raise PydanticCustomError("range", "{text}", {"text": text})


@dataclass(frozen=True)
class Number(Range):
    """A range of a plain number: of a reading, say, whose origin is plain."""

    def __get_pydantic_json_schema__(self, core: CoreSchema, handler: GetJsonSchemaHandler) -> JsonSchemaValue:
        schema = super().__get_pydantic_json_schema__(core, handler)
        return {**schema["anyOf"][0], "x-unit": self.unit}


LONGEST_QUOTE = 40


def quote(raw: object) -> str:
    """A value as an error message repeats it, cut where it is long."""
    whole = int(raw) if isinstance(raw, float) and raw.is_integer() else raw
    text = json.dumps(whole, default=str, ensure_ascii=False)
    return text if len(text) <= LONGEST_QUOTE else text[: LONGEST_QUOTE - 1] + "…"


def _spread(raw: Mapping[str, Any]) -> float | None:
    spread = raw.get("spread")
    if spread is None:
        return None
    if isinstance(spread, bool) or not isinstance(spread, (int, float)) or not 0 <= spread <= MOST_SPREAD:
        text = f"spread {quote(spread)} is not allowed; give a number from 0 to {MOST_SPREAD:g}"
        raise PydanticCustomError("given", "{text}", {"text": text})
    return spread


def _readings(raw: Mapping[str, Any]) -> tuple[str, ...]:
    ids = raw.get("readings") or []
    if (
        not isinstance(ids, list)
        or len(ids) > MOST_READINGS
        or not all(isinstance(e, str) and len(e) <= 40 for e in ids)
    ):
        text = f"readings {quote(ids)} are not allowed; give a list of at most {MOST_READINGS} ids of readings"
        raise PydanticCustomError("given", "{text}", {"text": text})
    return tuple(ids)


def _dump(given: Quantity) -> float | dict[str, object]:
    """A typed value is written as the bare number; what is not told is left out."""
    if given.origin == "typed":
        return given.value
    told: dict[str, object] = {"value": given.value, "origin": given.origin}
    if given.spread is not None:
        told["spread"] = given.spread
    if given.readings:
        told["readings"] = list(given.readings)
    return told


class StrictModel(BaseModel):
    """A part of the job file: unknown keys are refused with their name and the nearest known one."""

    model_config = ConfigDict(
        extra="forbid", frozen=True, populate_by_name=True, validate_default=False, defer_build=True
    )

    @model_validator(mode="before")
    @classmethod
    def _known_keys(cls, data: object) -> object:
        if isinstance(data, dict):
            names, known = _keys(cls)
            unknown = next((key for key in data if key not in known), None)
            if unknown is not None:
                text = f"unknown key {unknown!r}; {nearest(str(unknown), names)}"
                raise PydanticCustomError("unknown_key", "{text}", {"text": text})
        return data


@cache
def _keys(model: type[StrictModel]) -> tuple[frozenset[str], frozenset[str]]:
    """(keys that a file has for a model's fields, those that are read for them)."""
    names = frozenset(field.alias or name for name, field in model.model_fields.items())
    return names, names.union(model.model_fields)


def assumed(value: float) -> Any:
    """Default of a field whose absence means `value`, assumed."""
    return Field(default=Quantity(value, "assumed"))


NODE_PATTERN = r"^[\w .-]+$"
TAG_PATTERN = r"^\S(.*\S)?$"
PATTERNS = {
    NODE_PATTERN: "give letters, digits, spaces, dots and dashes",
    TAG_PATTERN: "leave out the space at its end",
    r"^[A-Z]{3}$": "give three capital letters, such as EUR",
    r"^[\w-]+$": "give letters, digits and dashes",
}
"""What a pattern of the file asks for, in words."""

# Quantities that recur. The ranges catch slips (milliohms typed as ohms), not merely bad setups.
Volts = Annotated[Quantity, Range("V", 0.1, 64)]
Amps = Annotated[Quantity, Range("A", 0, 2000)]
Ohms = Annotated[Quantity, Range("ohm", 0.05, 64)]
SmallOhms = Annotated[Quantity, Range("ohm", 0, 1)]
SourceOhms = Annotated[Quantity, Range("ohm", 0.00005, 1)]
Celsius = Annotated[Quantity, Range("°C", -40, 150)]
Count = Annotated[Quantity, Range("", 1, 16, whole=True)]
Hertz = Annotated[Quantity, Range("Hz", 5, 20000)]
Price = Annotated[Quantity, Range("", 0, 1_000_000)]
Metres = Annotated[Quantity, Range("m", 0.05, 60)]
Share = Annotated[Quantity, Range("", 0, 1)]
Level = Annotated[Quantity, Range("dB", -60, 0)]
Name = Annotated[str, Field(min_length=1, max_length=120)]
NodeName = Annotated[str, Field(min_length=1, max_length=40, pattern=NODE_PATTERN)]
Note = Annotated[str, Field(max_length=2000)]
Tag = Annotated[str, Field(min_length=1, max_length=30, pattern=TAG_PATTERN)]


def explain(error: ValidationError) -> BadInput:
    """Pydantic's findings, each one sentence with the field's path and the value: the first, the others with it."""
    first, *others = [
        BadInput(sentence(detail), path_of(detail["loc"]), value=plain(detail["input"])) for detail in error.errors()
    ]
    first.also = tuple(others)
    return first


def path_of(steps: Iterable[int | str]) -> str:
    """A dotted path of keys and indices, without the names that pydantic gives to its own ways of trying."""
    return ".".join(str(step) for step in steps if step not in ("function-plain", "float"))


def plain(value: Any) -> Any:
    """A value as an error repeats it: short and of JSON's own kinds, text where it is not."""
    if value is None or isinstance(value, bool | int) or (isinstance(value, float) and math.isfinite(value)):
        return value
    return value[:LONGEST_QUOTE] if isinstance(value, str) else quote(value)


SENTENCES = {
    "missing": "is missing",
    "literal_error": "{given} is not allowed; give one of {expected}",
    "enum": "{given} is not allowed; give one of {expected}",
    "string_too_short": "may not be empty",
    "string_too_long": "{given} is too long; at most {max_length} characters are allowed",
    "too_short": "holds {actual_length}; at least {min_length} are needed",
    "too_long": "holds {actual_length}; at most {max_length} are allowed",
    "string_type": "{given} is not text",
    "bool_type": "{given} is neither yes nor no",
    "bool_parsing": "{given} is neither yes nor no",
    "float_type": "{given} is not a number",
    "float_parsing": "{given} is not a number",
    "int_type": "{given} is not a whole number",
    "int_parsing": "{given} is not a whole number",
    "int_from_float": "{given} is not a whole number",
    "finite_number": "{given} is not a number",
    "greater_than_equal": "{given} is not allowed; give {ge} or more",
    "less_than_equal": "{given} is not allowed; give {le} or less",
    "date_type": "{given} is not a date; write it as 2026-11-26",
    "date_parsing": "{given} is not a date; write it as 2026-11-26",
    "date_from_datetime_parsing": "{given} is not a date; write it as 2026-11-26",
    "list_type": "{given} is not a list",
    "tuple_type": "{given} is not a list",
    "dict_type": "{given} is not an object",
    "model_type": "{given} is not an object",
    "model_attributes_type": "{given} is not an object",
    "extra_forbidden": "is not known here",
}
"""Of pydantic's findings by their type; those of this project's own checks are sentences already."""


def sentence(detail: Mapping[str, Any]) -> str:
    """One of pydantic's findings as the project says it: what was given, and what is allowed."""
    context = {"given": quote(detail.get("input")), **(detail.get("ctx") or {})}
    if detail["type"] == "string_pattern_mismatch":
        return f"{context['given']} is not allowed; {PATTERNS.get(context['pattern'], 'it is written otherwise')}"
    return SENTENCES.get(detail["type"], str(detail["msg"]).replace("{", "{{").replace("}", "}}")).format(**context)
