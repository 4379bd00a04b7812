"""Ways to wire coils: of equal drivers so that every coil takes the same share, and of mixed ones with their shares.

Left out: arrangements of equal drivers whose coils share unequally; nobody wants them.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from underhood.errors import BadInput, nearest

Coils = Literal["single", "series", "parallel"]
UNEQUAL = 1.01
"""Ratio of shares from which one driver counts as taking more than another [P]."""
COPPER_SHARE = 0.8
"""Usual resistance of a coil over its nominal ohms, where none was measured (common practice)."""


@dataclass(frozen=True, slots=True)
class Arrangement:
    """One rectangular series-parallel arrangement: its name in words, its ohms, one coil's share of the watts.

    Each driver's coils go as `coils`; the drivers go in `strings` parallel strings of `in_series` each.
    """

    words: str
    load_ohm: float
    coil_share: float
    coils: Coils
    in_series: int
    strings: int

    @property
    def driver_volts_share(self) -> float:
        """Share of the whole's volts across one driver."""
        return 1 / self.in_series

    def of_driver(self, driver_ohm: float) -> float:
        """Ohms of the whole where one driver, its coils wired, has `driver_ohm`."""
        return driver_ohm * self.in_series / self.strings


def arrangements(drivers: int, coils_per_driver: int, coil_ohm: float) -> list[Arrangement]:
    """Every arrangement of `drivers` equal drivers, highest load first (ohm, shares of 1).

    A driver's coils go in series or in parallel; the drivers go in p parallel strings of s in series, p·s = drivers.

    drivers            how many, alike
    coils_per_driver   1 or 2, as a rule
    coil_ohm           of one coil, ohm
    """
    found = []
    ways: tuple[Coils, ...] = ("single",) if coils_per_driver == 1 else ("series", "parallel")
    for wired in ways:
        for in_series in (s for s in range(1, drivers + 1) if drivers % s == 0):
            found.append(_made(wired, in_series, drivers // in_series, coils_per_driver, coil_ohm))
    return sorted(found, key=lambda each: (-each.load_ohm, each.words))


def _made(wired: Coils, in_series: int, strings: int, coils: int, coil_ohm: float) -> Arrangement:
    words = ["" if wired == "single" else f"coils {wired}", _driver_words(in_series, strings)]
    return Arrangement(
        words=", ".join(part for part in words if part) or "one coil",
        load_ohm=coils_ohm(wired, coils, coil_ohm) * in_series / strings,
        coil_share=1 / (in_series * strings * coils),
        coils=wired,
        in_series=in_series,
        strings=strings,
    )


def coils_ohm(wired: Coils, coils: int, coil_ohm: float) -> float:
    """Ohms of one driver's coils together.

    wired      single, series or parallel
    coils      of one driver
    coil_ohm   of one coil, ohm
    """
    return {"single": coil_ohm, "series": coils * coil_ohm, "parallel": coil_ohm / coils}[wired]


def _driver_words(in_series: int, strings: int) -> str:
    if in_series == 1:
        return "" if strings == 1 else "drivers parallel"
    return "drivers series" if strings == 1 else f"drivers in {strings} parallel strings of {in_series}"


def arrangement(drivers: int, coils_per_driver: int, coil_ohm: float, wiring: str | None) -> Arrangement:
    """The named arrangement; the highest load when none is named. Raises BadInput for an unknown name.

    drivers, coils_per_driver, coil_ohm   as for `arrangements`
    wiring                                its words
    """
    known = arrangements(drivers, coils_per_driver, coil_ohm)
    if wiring is None:
        return known[0]
    for each in known:
        if each.words == wiring.strip().lower():
            return each
    raise BadInput(
        f"{wiring!r} is not a way to wire these coils; {nearest(wiring, (each.words for each in known))}", "load.wiring"
    )


@dataclass(frozen=True, slots=True)
class Mixed:
    """Unlike drivers joined all in series or all in parallel: load, shares of the watts, whether these differ."""

    words: str
    load_ohm: float
    shares: tuple[float, ...]
    unequal: bool


def mixed(driver_ohm: Sequence[float]) -> list[Mixed]:
    """Unlike drivers, each with its coils wired, in series and in parallel; shares by ohm's law.

    driver_ohm   of each, ohm; two or more
    """
    whole, conductance = sum(driver_ohm), sum(1 / ohm for ohm in driver_ohm)
    ways = {
        "drivers series": (whole, tuple(ohm / whole for ohm in driver_ohm)),
        "drivers parallel": (1 / conductance, tuple(1 / ohm / conductance for ohm in driver_ohm)),
    }
    return [Mixed(words, load, shares, max(shares) > UNEQUAL * min(shares)) for words, (load, shares) in ways.items()]
