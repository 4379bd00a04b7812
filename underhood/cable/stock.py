"""What a shop has to choose from: sizes, metals, and what a metre of each costs and really measures.

Columns, one entry for each line, so that all candidates are ranked at once.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from underhood.arrays import Floats
from underhood.cable import ampacity, conductor, gauge
from underhood.document.job import Conductor, Wire
from underhood.document.quantity import Quantity
from underhood.document.workshop import StockLine
from underhood.errors import BadInput

CONDUCTORS: tuple[Conductor, ...] = ("copper", "cca15", "cca10", "aluminium")


@dataclass(frozen=True, eq=False)
class Stock:
    """Columns of equal length: names and metals, then mm², ohm/m at 20 °C, its change per K, kg/m, A, price a metre.

    `carries_a` is in the ampacity table's surroundings with the metal counted in. A missing price is NaN.
    """

    sizes: tuple[str, ...]
    metals: tuple[Conductor, ...]
    area_mm2: Floats
    ohm_per_m: Floats
    per_k: Floats
    kg_per_m: Floats
    carries_a: Floats
    price_per_m: Floats
    measured: NDArray[np.bool_]

    def cheapest_of(self, size: str, metal: Conductor) -> float | None:
        """Price a metre of a size, or None where it is not known."""
        prices = [
            self.price_per_m[i]
            for i, (name, of) in enumerate(zip(self.sizes, self.metals, strict=True))
            if (name, of) == (size, metal) and not math.isnan(self.price_per_m[i])
        ]
        return float(min(prices)) if prices else None


def usual() -> tuple[StockLine, ...]:
    """Every usual size in every metal, none with a price."""
    # Known to be allowed, and hundreds of them: made without being checked.
    return tuple(
        StockLine.model_construct(size=name, conductor=metal) for metal in CONDUCTORS for name in conductor.STOCK
    )


def of_shelf(shelf: tuple[StockLine, ...]) -> Stock:
    """What a workshop has; every usual size where its shelf is empty. Raises BadInput at a line of no known size.

    shelf   lines as the workshop's settings hold them
    """
    return _columns(tuple(line.model_dump_json() for line in shelf))


@lru_cache(maxsize=64)
def _columns(shelf: tuple[str, ...]) -> Stock:
    return of(checked([StockLine.model_validate_json(line) for line in shelf]) if shelf else usual())


def checked(lines: Sequence[StockLine]) -> tuple[StockLine, ...]:
    """The lines with their sizes as they are named here. Raises BadInput with the field of one that is no size.

    lines   of a workshop's list
    """
    named = []
    for i, line in enumerate(lines):
        try:
            found = conductor.size(line.size)
            ampacity.table_a(found.area_mm2)
        except BadInput as problem:
            raise BadInput(problem.text, f"shelf.{i}.size", value=line.size) from None
        named.append(line.model_copy(update={"size": found.name}))
    return tuple(named)


def of(lines: Sequence[StockLine]) -> Stock:
    """The columns of a list: by metal as in `CONDUCTORS`, then by area.

    lines   whose sizes are known, in any order
    """
    order = sorted(lines, key=lambda line: (CONDUCTORS.index(line.conductor), conductor.size(line.size).area_mm2))
    wires = [_wire(line) for line in order]
    real = [gauge.conducts(wire) for wire in wires]
    metals = [conductor.material(line.conductor) for line in order]
    return Stock(
        sizes=tuple(line.size for line in order),
        metals=tuple(line.conductor for line in order),
        area_mm2=np.array([each.area_mm2 for each in real]),
        ohm_per_m=np.array([each.ohm_per_m_20c for each in real]),
        per_k=np.array([metal.per_k for metal in metals]),
        kg_per_m=np.array([conductor.kg_per_m(line.size, line.conductor) for line in order]),
        carries_a=np.array(
            [each.table_a * ampacity.metal(line.conductor) for each, line in zip(real, order, strict=True)]
        ),
        price_per_m=np.array([math.nan if line.price_per_m is None else line.price_per_m for line in order]),
        measured=np.array([line.measured_ohm_per_m is not None for line in order], bool),
    )


def _wire(line: StockLine) -> Wire:
    measured = None if line.measured_ohm_per_m is None else Quantity(line.measured_ohm_per_m)
    return Wire.model_construct(size=line.size, conductor=line.conductor, measured_ohm_per_m=measured)
