"""A workshop's own settings: how it names sizes and lengths, what it cuts, what is on its shelf and at what price.

Left out: whether a size on the shelf is one (see `cable.stock.checked`).
"""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from underhood.document.job import Conductor
from underhood.document.quantity import Number, StrictModel


class StockLine(StrictModel):
    """A cable on the shelf: its size and conductor, what a metre costs, and what a metre was found to measure."""

    size: Annotated[str, Field(max_length=20)]
    conductor: Conductor = "copper"
    price_per_m: Annotated[float, Number("", 0, 10_000)] | None = None
    measured_ohm_per_m: Annotated[float, Number("ohm/m", 0.00002, 0.1)] | None = None


class WorkshopSettings(StrictModel):
    """Settings of a workshop. An empty shelf means every usual size, without prices.

    `cut_share` and `cut_ends_m` are what a cut is longer than the way it takes: for bends, and for both its ends.
    `tax_share` comes on top of every price of a quote, which holds for `quote_days`; `labour_per_hour` is an hour's
    price where the parts list has none.

    What a job begins with: `terminal_v` and `drop_v` to hold, and the schools `criterion` (which output counts) and
    `programme` (what is sized for). `load` says which watts stand first on a job sheet: into the box, into a resistor,
    or the mean of both. `fuse` is for the cable, or as the amplifier's own fuses where the cable allows it.
    `cable_margin` is what a cable must carry beyond the amps that flow, as a share.

    `dates` and `decimals` are how days and numbers are written, on the screen and on paper; either decimal sign is
    read. Files keep the point.
    """

    sizes: Literal["awg", "mm2"] = "awg"
    lengths: Literal["m", "ft"] = "m"
    cut_share: Annotated[float, Number("", 0, 0.5)] = 0.05
    cut_ends_m: Annotated[float, Number("m", 0, 2)] = 0.2
    currency: Annotated[str, Field(pattern=r"^[A-Z]{3}$")] = "EUR"
    tax_share: Annotated[float, Number("", 0, 0.5)] = 0.0
    quote_days: Annotated[int, Number("days", 1, 365)] = 30
    labour_per_hour: Annotated[float, Number("", 0, 10_000)] | None = None
    terminal_v: Annotated[float, Number("V", 9, 60)] = 12.5
    drop_v: Annotated[float, Number("V", 0.05, 5)] = 0.5
    criterion: Literal["thd1", "clip", "burst"] = "thd1"
    programme: Literal["tone", "burst", "everyday", "bass_heavy", "held_bass"] = "tone"
    load: Literal["box", "resistor", "mean"] = "box"
    fuse: Literal["cable", "amplifier"] = "cable"
    cable_margin: Annotated[float, Number("", 0, 1)] = 0.0
    paper: Literal["a4", "letter"] = "a4"
    dates: Literal["iso", "dmy", "mdy"] = "iso"
    decimals: Literal["point", "comma"] = "point"
    shelf: tuple[StockLine, ...] = Field(default=(), max_length=200)

    @property
    def metric(self) -> bool:
        """Whether sizes are named in mm² first."""
        return self.sizes == "mm2"
