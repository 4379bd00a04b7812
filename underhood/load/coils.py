"""Ways to wire the coils of equal drivers so that every coil takes the same share of the power.

Left out: mixed drivers, and arrangements whose coils share unequally.
"""

from __future__ import annotations

from dataclasses import dataclass

from underhood.errors import BadInput, nearest


@dataclass(frozen=True, slots=True)
class Arrangement:
    """One rectangular series-parallel arrangement: its name in words, its ohms, one coil's share of the watts."""

    words: str
    load_ohm: float
    coil_share: float


def arrangements(drivers: int, coils_per_driver: int, coil_ohm: float) -> list[Arrangement]:
    """Every arrangement of `drivers` equal drivers, highest load first (ohm, shares of 1).

    A driver's coils go in series or in parallel; the drivers go in p parallel strings of s in series, p·s = drivers.
    """
    found = []
    for coil_words, driver_ohm in _driver_options(coils_per_driver, coil_ohm):
        for in_series in (s for s in range(1, drivers + 1) if drivers % s == 0):
            strings = drivers // in_series
            words = [part for part in (coil_words, _driver_words(in_series, strings)) if part]
            found.append(
                Arrangement(
                    ", ".join(words) or "one coil",
                    driver_ohm * in_series / strings,
                    1 / (drivers * coils_per_driver),
                )
            )
    return sorted(found, key=lambda each: (-each.load_ohm, each.words))


def _driver_options(coils: int, coil_ohm: float) -> list[tuple[str, float]]:
    if coils == 1:
        return [("", coil_ohm)]
    return [("coils series", coils * coil_ohm), ("coils parallel", coil_ohm / coils)]


def _driver_words(in_series: int, strings: int) -> str:
    if in_series == 1:
        return "" if strings == 1 else "drivers parallel"
    return "drivers series" if strings == 1 else f"drivers in {strings} parallel strings of {in_series}"


def arrangement(drivers: int, coils_per_driver: int, coil_ohm: float, wiring: str | None) -> Arrangement:
    """The named arrangement; the highest load when none is named. Raises BadInput for an unknown name."""
    known = arrangements(drivers, coils_per_driver, coil_ohm)
    if wiring is None:
        return known[0]
    for each in known:
        if each.words == wiring.strip().lower():
            return each
    raise BadInput(f"{wiring!r} is not a way to wire these coils; "
                   f"{nearest(wiring, (each.words for each in known))}", "load.wiring")  # fmt: skip


def coils_in_series(coils_per_driver: int, wiring: str) -> int:
    """How many coils of one driver are in series under an arrangement."""
    return coils_per_driver if wiring.startswith("coils series") else 1
