"""A workshop's own settings: how it names sizes and lengths, what it cuts, what is on its shelf and at what price."""

from __future__ import annotations

from functools import lru_cache
from typing import Annotated, Literal

from pydantic import Field

from underhood.cable import stock
from underhood.cable.stock import Stock, StockLine
from underhood.document.quantity import Number, StrictModel


class WorkshopSettings(StrictModel):
    """Settings of a workshop. An empty shelf means every usual size, without prices.

    `cut_share` and `cut_ends_m` are what a cut is longer than the way it takes: for bends, and for both its ends.
    """

    sizes: Literal["awg", "mm2"] = "awg"
    lengths: Literal["m", "ft"] = "m"
    cut_share: Annotated[float, Number("", 0, 0.5)] = 0.05
    cut_ends_m: Annotated[float, Number("m", 0, 2)] = 0.2
    currency: Annotated[str, Field(pattern=r"^[A-Z]{3}$")] = "EUR"
    shelf: tuple[StockLine, ...] = Field(default=(), max_length=200)

    @property
    def stock(self) -> Stock:
        """The shelf as columns."""
        return _stock(self.shelf)

    @property
    def metric(self) -> bool:
        """Whether sizes are named in mm² first."""
        return self.sizes == "mm2"


def _stock(shelf: tuple[StockLine, ...]) -> Stock:
    return _columns(tuple(line.model_dump_json() for line in shelf)) if shelf else stock.everything()


@lru_cache(maxsize=64)
def _columns(shelf: tuple[str, ...]) -> Stock:
    return stock.of([StockLine.model_validate_json(line) for line in shelf])
