"""The fuse that protects a cable: large enough for the current, small enough for the conductor.

Left out: a particular maker's curve. Above 80 A fuses are bolted in and follow their maker's curve; the blade limits
stand in for it and the answer says so.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from underhood.reference import column

CONTINUOUS_SHARE = 0.8
"""A fuse is loaded continuously to four fifths of its rating at most (common practice)."""
LARGEST_BLADE_A = 80.0


@dataclass(frozen=True, slots=True)
class Window:
    """From the current to the ampacity, and the standard values inside; `why` when there is none."""

    least_a: float
    most_a: float
    fits: tuple[float, ...]
    why: str

    @property
    def pick_a(self) -> float | None:
        """The smallest standard value in the window."""
        return self.fits[0] if self.fits else None


def standard_values() -> tuple[float, ...]:
    """Standard fuse ratings, A, rising."""
    return column("fuse_values", "rating_a")


def shortest_opening_s(share: float) -> float:
    """The soonest a fuse may open at a share of its rating; log-log between ISO 8820-3's points.

    Below the first point it carries on for good; beyond the last the last one holds.
    """
    shares, times = column("fuse_curve_iso8820_3", "share"), column("fuse_curve_iso8820_3", "shortest_s")
    if share < shares[0]:
        return math.inf
    for i in range(1, len(shares)):
        if share <= shares[i]:
            along = math.log(share / shares[i - 1]) / math.log(shares[i] / shares[i - 1])
            return float(math.exp(math.log(times[i - 1]) * (1 - along) + math.log(times[i]) * along))
    return times[-1]


def carries(rating_a: float, peak_a: float, peak_s: float) -> bool:
    """Whether a fuse surely carries a peak for its seconds."""
    return shortest_opening_s(peak_a / rating_a) >= peak_s


def _first_to_carry(rising_a: list[float], peak_a: float, peak_s: float) -> int:
    """Index of the first fuse that carries a peak; all above it do too."""
    return next((i for i, a in enumerate(rising_a) if carries(a, peak_a, peak_s)), len(rising_a))


def window(rms_a: float, peak_a: float, peak_s: float, ampacity_a: float) -> Window:
    """The standard fuses for a cable: at least RMS current / 0.8, at most the ampacity, carrying the peak."""
    least = rms_a / CONTINUOUS_SHARE
    between = [a for a in standard_values() if least <= a <= ampacity_a]
    fits = tuple(between[_first_to_carry(between, peak_a, peak_s) :])
    if fits:
        return Window(least, ampacity_a, fits, "")
    if between:
        why = f"no standard fuse up to {ampacity_a:.0f} A carries {peak_a:.0f} A for {peak_s:g} s"
    else:
        why = f"no standard fuse between {least:.0f} A and the cable's {ampacity_a:.0f} A"
    return Window(least, ampacity_a, (), f"{why}: use a larger cable or two runs")
