"""Which amplifiers fit the space at hand, one or two of them, lying or standing.

Plain boxes, edges along the space's. Left out: plugs, cables and the air that its maker asks for; allow for them.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from itertools import permutations
from typing import Literal

Size = tuple[float, ...]
Way = Literal["lying", "standing"]
JOINED = ("side by side", "side by side", "stacked")


@dataclass(frozen=True, slots=True)
class Fits:
    """One way to place them: how many, lying or standing, and how two are put together."""

    count: int
    way: Way
    together: str

    @property
    def words(self) -> str:
        """As one would say it."""
        return self.way if self.count == 1 else f"two {self.way}, {self.together}"


def ways(size_mm: Size, space_mm: Size) -> list[Fits]:
    """All ways in which one, or two alike, fit; sizes as (length, width, height).

    size_mm    of one amplifier
    space_mm   of the place, mm
    """
    found = []
    for fit in _ways(size_mm, space_mm):
        if fit not in found:
            found.append(fit)
    return found


def _ways(size: Size, space: Size) -> Iterator[Fits]:
    thickness = min(size)
    for turned in dict.fromkeys(permutations(size)):
        way: Way = "lying" if turned[2] == thickness else "standing"
        if _inside(turned, space):
            yield Fits(1, way, "")
        for axis, together in enumerate(JOINED):
            doubled = tuple(2 * each if i == axis else each for i, each in enumerate(turned))
            if _inside(doubled, space):
                yield Fits(2, way, together)


def _inside(size: tuple[float, ...], space: Size) -> bool:
    return all(each <= room for each, room in zip(size, space, strict=True))
