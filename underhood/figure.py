"""A figure: a number that carries the sum it came from.

The numeric functions of the core work on plain floats; this is the thin layer above them. A figure's `sum` is an
arithmetic expression in the symbols of its inputs, so that the sum can be shown with the user's own numbers put into
it, and so that anyone (a test does) can add it up again.
"""

from __future__ import annotations

import math
import re
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any, Literal

Provenance = Literal["measured", "typed", "assumed", "table", "computed"]

FUNCTIONS: Mapping[str, Any] = {
    "sqrt": math.sqrt,
    "log10": math.log10,
    "min": min,
    "max": max,
    "exp": math.exp,
}


@dataclass(frozen=True, slots=True)
class Figure:
    """One number with unit, band and sum.

    symbol   what it is called inside another figure's sum, e.g. `V_amp`; letters, digits and underscores
    low/high the band, in the figure's own unit; None where there is none
    sum      expression in the symbols of `inputs`; empty for a figure that was given or fitted
    words    the same in words, or, for a given figure, what it rests on
    source   published table or standard, or the readings it was fitted to
    """

    symbol: str
    name: str
    value: float
    unit: str
    origin: Provenance = "computed"
    words: str = ""
    sum: str = ""
    inputs: tuple[Figure, ...] = ()
    source: str = ""
    low: float | None = None
    high: float | None = None

    @property
    def estimate(self) -> bool:
        """True when the figure, or anything it rests on, is assumed."""
        return self.origin == "assumed" or any(part.estimate for part in self.inputs)

    def evaluate(self) -> float:
        """The sum worked out again from the inputs' values; the value itself where there is no sum."""
        if not self.sum:
            return self.value
        names = {part.symbol: part.value for part in self.inputs}
        # The expression is written in this package, never by a user.
        return float(eval(self.sum, {"__builtins__": {}}, {**FUNCTIONS, **names}))  # noqa: S307

    def substituted(self) -> str:
        """The sum with the inputs' numbers in place of their symbols."""
        by_symbol = {part.symbol: part for part in self.inputs}

        def number(match: re.Match[str]) -> str:
            part = by_symbol.get(match.group())
            if part is None:
                return match.group()
            return f"({shown(part.value)})" if part.value < 0 else shown(part.value)

        return pretty(re.sub(r"[A-Za-z_]\w*", number, self.sum))

    def tree(self) -> dict[str, Any]:
        """The figure and all it rests on as plain data, for the interface and `--json`."""
        return {
            "symbol": pretty(self.symbol),
            "name": self.name,
            "value": self.value,
            "unit": self.unit,
            "origin": self.origin,
            "words": self.words,
            "sum": pretty(self.sum),
            "with_numbers": self.substituted(),
            "source": self.source,
            "low": self.low,
            "high": self.high,
            "estimate": self.estimate,
            "inputs": [part.tree() for part in self.inputs],
        }


def given(symbol: str, name: str, value: float, unit: str, origin: Provenance, words: str = "") -> Figure:
    """A figure that was entered or assumed, not worked out."""
    return Figure(symbol, name, value, unit, origin=origin, words=words)


def shown(value: float) -> str:
    """A number as it is printed inside a sum: four significant digits, no exponent between 1e-5 and 1e6."""
    if value == 0 or not math.isfinite(value):
        return "0" if value == 0 else str(value)
    digits = max(0, 3 - math.floor(math.log10(abs(value))))
    text = f"{value:.{digits}f}"
    return text.rstrip("0").rstrip(".") if "." in text else text


def percent(share: float) -> str:
    """A share in whole percent, with the space that the standard asks for (ISO 80000-1), unbroken."""
    return f"{100 * share:.0f}\u00a0%"


def pretty(expression: str) -> str:
    """Python's operators as an installer writes them."""
    replaced = expression.replace("**2", "²").replace("**", "^").replace("*", "·").replace("sqrt", "√")
    return replaced.replace(" - ", " − ")
