"""A figure: a number that carries its derivation, so that the interface, a file and the command line show the same one.

The numeric functions of the core work on plain floats; this is the thin layer above them. A figure's `formula` is an
expression in the symbols of its inputs, so that it can be shown with the user's own numbers put into it, and so that
anyone (a test does) can work it out again.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, Literal

from pydantic import GetCoreSchemaHandler
from pydantic_core import CoreSchema, core_schema
from typing_extensions import TypedDict

from underhood import expression
from underhood.number_format import in_unit, shown

Provenance = Literal["measured", "typed", "assumed"]
"""Where a number of a document comes from."""
Rests = Provenance | Literal["table", "computed"]
"""Where a figure comes from: as a document's number, from a published table, or worked out."""


class FigureData(TypedDict):
    """A figure as plain data: what the API sends and `--json` prints. Named as in `Figure`."""

    symbol: str
    name: str
    value: float
    printed: str
    unit: str
    origin: Rests
    note: str
    formula: str
    substituted: str
    source: str
    low: float | None
    high: float | None
    estimate: bool
    inputs: list[FigureData]


@dataclass(frozen=True, slots=True)
class Figure:
    """One number with its unit, band and derivation.

    symbol   what it is called inside another figure's formula, e.g. `V_amp`; letters, digits and underscores
    low/high the band, in the figure's own unit; None where there is none
    formula  expression in the symbols of `inputs`; empty for a figure that was given or fitted
    note     the same in words, or, for a given figure, what it rests on
    source   published table or standard, or the readings it was fitted to
    """

    symbol: str
    name: str
    value: float
    unit: str
    origin: Rests = "computed"
    note: str = ""
    formula: str = ""
    inputs: tuple[Figure, ...] = ()
    source: str = ""
    low: float | None = None
    high: float | None = None

    @property
    def estimate(self) -> bool:
        """True when the figure, or anything it rests on, is assumed."""
        return self.origin == "assumed" or any(part.estimate for part in self.inputs)

    @property
    def printed(self) -> str:
        """The value as it is printed before its unit, no finer than its band."""
        half = 0.0 if self.low is None or self.high is None else abs(self.high - self.low) / 2
        return in_unit(self.value, self.unit, half)

    def evaluate(self) -> float:
        """The formula worked out again from the inputs' values; the value itself where there is no formula."""
        if not self.formula:
            return self.value
        return expression.evaluate(self.formula, {part.symbol: part.value for part in self.inputs})

    def substituted(self) -> str:
        """The formula with the inputs' numbers in place of their symbols."""
        numbers = {
            part.symbol: f"({shown(part.value)})" if part.value < 0 else shown(part.value) for part in self.inputs
        }
        return expression.substituted(self.formula, numbers)

    def to_dict(self) -> FigureData:
        """The figure and all it rests on as plain data."""
        return {
            "symbol": expression.pretty(self.symbol),
            "name": self.name,
            "value": self.value,
            "printed": self.printed,
            "unit": self.unit,
            "origin": self.origin,
            "note": self.note,
            "formula": expression.pretty(self.formula),
            "substituted": self.substituted(),
            "source": self.source,
            "low": self.low,
            "high": self.high,
            "estimate": self.estimate,
            "inputs": [part.to_dict() for part in self.inputs],
        }

    @classmethod
    def __get_pydantic_core_schema__(cls, source: Any, handler: GetCoreSchemaHandler) -> CoreSchema:
        """How a result that holds figures is sent: each as its plain data."""
        return core_schema.is_instance_schema(
            cls,
            serialization=core_schema.plain_serializer_function_ser_schema(
                cls.to_dict, return_schema=handler.generate_schema(FigureData)
            ),
        )


def given(symbol: str, name: str, value: float, unit: str, origin: Rests, note: str = "") -> Figure:
    """A figure that was entered or assumed, not worked out."""
    return Figure(symbol, name, value, unit, origin=origin, note=note)
