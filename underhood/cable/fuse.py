"""The fuse that protects a cable: large enough for the current, small enough for the conductor.

Left out: a particular maker's curve. Above 80 A fuses are bolted in and follow their maker's curve; the blade limits
stand in for it and the answer says so.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from underhood.arrays import Floats
from underhood.reference import column, table

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

    def pick_a(self, largest: bool = False, wanted_a: float = 0.0) -> float | None:
        """The smallest standard value in the window, or the largest; not under what is wanted, where one is not."""
        if not self.fits or largest:
            return self.fits[-1] if self.fits else None
        return next((each for each in self.fits if each >= wanted_a), self.fits[0])


@lru_cache(maxsize=1)
def standard_values() -> Floats:
    """Standard fuse ratings, A (n,), rising."""
    return np.array(column("fuse_values", "rating_a"))


def kind_of(rating_a: float) -> str:
    """How a fuse of this rating is made.

    rating_a   up to 80 A it is a blade, above it is bolted in
    """
    return "blade" if rating_a <= LARGEST_BLADE_A else "bolt-in"


@lru_cache(maxsize=2)
def _curve(which: str) -> tuple[Floats, Floats]:
    rows = [row for row in table("fuse_curve_iso8820_3").rows if row[which]]
    shares, seconds = ([float(row[key]) for row in rows] for key in ("share", which))
    return np.log(shares), np.log(seconds)


def soonest_opening_s(share: float | Floats) -> Floats:
    """The soonest a fuse may open at a share of its rating; log-log between ISO 8820-3's points.

    Below the first point it carries on for good; beyond the last the last one holds.

    share   current over rating, any shape; seconds come back in it
    """
    shares, seconds = _curve("shortest_s")
    at = np.log(np.maximum(share, 1e-6))
    return np.where(at < shares[0], np.inf, np.exp(np.interp(at, shares, seconds)))


def latest_opening_s(share: float | Floats) -> Floats:
    """The latest it has to have opened; never has to below the lowest share with such a limit, 135 %.

    share   current over rating, any shape; seconds come back in it, infinite where it may hold for good (ISO 8820-3)
    """
    shares, seconds = _curve("longest_s")
    at = np.log(np.maximum(share, 1e-6))
    return np.where(at < shares[0] - 1e-12, np.inf, np.exp(np.interp(at, shares, seconds)))


def carrying(rating_a: float | Floats, peak_a: float | Floats, peak_s: float) -> NDArray[np.bool_]:
    """Whether fuses surely carry a peak for its seconds.

    rating_a   of the fuses, A
    peak_a     that has to pass, A; of one shape with the ratings
    peak_s     how long, s

    By the soonest that ISO 8820-3 lets a blade open; a particular fuse may carry more.
    """
    return np.asarray(soonest_opening_s(peak_a / np.asarray(rating_a)) >= peak_s)


def window(rms_a: float, peak_a: float, peak_s: float, ampacity_a: float) -> Window:
    """The standard fuses for a cable: at least RMS current / 0.8, at most the ampacity, carrying the peak.

    rms_a        over the programme, A
    peak_a       at its loudest, A, for `peak_s` seconds
    ampacity_a   of one run of the cable where it lies, A
    """
    least = rms_a / CONTINUOUS_SHARE
    values = standard_values()
    between = values[(least <= values) & (values <= ampacity_a)]
    fits = between[carrying(between, peak_a, peak_s)]
    why = "" if len(fits) else why_none(rms_a, peak_a, peak_s, ampacity_a)
    return Window(least, ampacity_a, tuple(fits.tolist()), why)


def why_none(rms_a: float, peak_a: float, peak_s: float, ampacity_a: float) -> str:
    """Why no standard fuse is in a cable's window, and what to do.

    rms_a, peak_a, peak_s, ampacity_a   as for `window`
    """
    least = rms_a / CONTINUOUS_SHARE
    if any(least <= rating <= ampacity_a for rating in column("fuse_values", "rating_a")):
        why = f"no standard fuse up to {ampacity_a:.0f} A carries {peak_a:.0f} A for {peak_s:g} s"
    else:
        why = f"no standard fuse between {least:.0f} A and the cable's {ampacity_a:.0f} A"
    return f"{why}: use a larger cable or two runs"


def how_long(soonest_s: float, latest_s: float) -> str:
    """When a fuse opens, in words.

    soonest_s, latest_s   as the curves give them, s; infinite where it holds
    """
    if math.isinf(soonest_s):
        return "carries it for good"
    if math.isinf(latest_s):
        return f"may open after {_time(soonest_s)}, may hold for hours"
    return f"opens after {_time(soonest_s)} to {_time(latest_s)}"


def _time(seconds: float) -> str:
    if seconds < 90:
        return f"{seconds:.2g} s"
    if seconds < 5400:
        return f"{seconds / 60:.0f} min"
    return f"{seconds / 3600:.0f} h"
